"""Forms answer, and leave on record, what was read and agreed."""

import secrets
from pathlib import Path

import pytest
from contracts.net import Net
from sent import PARTS, sent
from shown import ON

from loadstar.web.plans import known

pytestmark = pytest.mark.django_db


@pytest.mark.parametrize("part", PARTS)
def test_forms_answer_and_leave_what_was_agreed(part, request, monkeypatch, settings, time_machine):
    settings.COMPUTE_S = 600.0  # on a busy machine, too
    time_machine.move_to(ON)
    monkeypatch.setattr(known, "LOOK_S", 600.0)  # what is tried in turn is tried at once
    monkeypatch.setattr(secrets, "randbelow", lambda below: 7 % below)  # what the trainer draws
    came = sent(part)
    net = Net(Path(__file__).parent / f"sent_{part.replace(' ', '_')}.json.gz", tuple(came), came.__getitem__)
    if request.config.getoption("--write-sent"):
        net.write()
    agreed = net.kept()
    assert came.keys() == agreed.keys() and came
    assert [line for form in came for line in net.differs(form, agreed)][:6] == []
