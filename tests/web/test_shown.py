"""Pages, papers and files show what was read and agreed."""

from pathlib import Path

import pytest
from contracts.net import Net
from shown import MAKES, ON, crawled

from loadstar.web.plans import known


@pytest.mark.django_db
@pytest.mark.parametrize("name", MAKES)
def test_pages_papers_and_files_show_what_was_agreed(name, request, monkeypatch, time_machine):
    time_machine.move_to(ON)
    monkeypatch.setattr(known, "LOOK_S", 600.0)  # what is tried in turn is tried at once
    pages = dict(crawled(name))
    net = Net(Path(__file__).parent / f"shown_{name}.json.gz", tuple(pages), pages.__getitem__)
    if request.config.getoption("--write-shown"):
        net.write()
    agreed = net.kept()
    assert pages.keys() == agreed.keys() and len(pages) > 50
    assert [line for path in pages for line in net.differs(path, agreed)][:6] == []
