"""What rules say, with its figures, against sums by hand; and severities on both sides."""

import re

import pytest
from builders import Bench
from judgement.limits import switched_box
from judgement.plans import seen

from loadstar.core.analysis import analyse
from loadstar.core.rules.second import first_a


def amps_in(sentence: str) -> float:
    """The first amps of a sentence."""
    return float(re.search(r"([\d.]+)\s*A\b", sentence)[1])


def test_what_is_said_never_to_be_on_together_is_summed():
    """60 and 40 W at 14.2 V are 7.0 A; with the key on and what the wires lose, at 11.5 V, 8.7 A."""
    b = Bench()
    one, other = b.load(name="vest", amount=60), b.load(name="grips", amount=40)
    b.change(one, never_with=(other,))
    a = analyse(b.plan)
    (note,) = seen(a, "belief.together")
    row = next(r for r in a.volts.rows if abs(r.current(one)) > 0.1 and abs(r.current(other)) > 0.1)
    assert amps_in(note.sentence) == pytest.approx(abs(row.current(one)) + abs(row.current(other)), abs=0.06)
    assert 7.0 < amps_in(note.sentence) < 9.0 and note.severity == "note"


@pytest.mark.parametrize(("switch", "severity"), [
    ({}, "note"), ({"contact_a": 10}, "caution"), ({"contact_a": 10, "breaks_v": 28}, "stop"),
    ({"contact_a": 10, "breaks_v": 54}, "stop"), ({"contact_a": 10, "breaks_v": 55}, None)])
def test_a_contact_on_a_pack_of_54_6_volts(switch, severity):
    """13 cells of 4.2 V. Left to Loadstar a note says which to take; chosen by hand it has to say what it breaks."""
    found = seen(switched_box(**switch), "contact.volts")
    assert [f.severity for f in found] == ([severity] if severity else [])
    assert all("54.6 V" in f.sentence for f in found)


def test_a_larger_drop_lets_less_into_a_second_battery_at_first():
    """Through a diode: the volts at its posts, less its drop and what its chemistry draws it down to, over its own
    resistance and what lies between. More of a drop lets less in."""
    taken = []
    for drop_mv in (300, 550):
        b = Bench()
        second = b.add("second_battery", name="camp battery", place=b.nose, capacity_ah=20, internal_mohm=10,
                       joined_by="diode")
        diode = b.plan.of_kind("charging_diode")[0].id
        b.change(diode, drop_mv=drop_mv)
        a = analyse(b.plan)
        taken.append(first_a(a, a.plan.part(second)))
    assert taken[0] > taken[1] > 0
    assert taken[0] / taken[1] < 3
