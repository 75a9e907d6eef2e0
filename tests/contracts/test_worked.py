"""What edits do, what plans say of themselves, what is worked out for the bench and written into files: all of it is
what was read and agreed."""

import pytest
from contracts import changed, worked

NETS = {"worked": worked.NET, "changed": changed.NET}
EACH = [(net, name) for net, of in NETS.items() for name in of.names]


@pytest.fixture(scope="module")
def agreed() -> dict[str, dict[str, list[str]]]:
    return {name: net.kept() for name, net in NETS.items()}


@pytest.mark.parametrize(("net", "name"), EACH)
def test_it_is_what_was_agreed(net, name, agreed):
    assert NETS[net].differs(name, agreed[net])[:4] == []


def test_every_section_says_much(agreed):
    for lines in agreed.values():
        for section in {name.partition(" ")[0] for name in lines}:
            of_it = [line for name in lines if name.startswith(f"{section} ") for line in lines[name]]
            assert sum(map(len, of_it)) > 2_000, section
