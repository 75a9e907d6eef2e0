"""What a document may hold: each thing that does not hang together on one side, its right neighbour on the other."""

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from loadstar import demo
from loadstar.core.doc.machine import Machine
from loadstar.core.doc.places import Place
from loadstar.core.doc.rules import HouseRules
from loadstar.core.doc.texts import one_line, some_lines
from loadstar.core.errors import PlanError
from loadstar.core.plan import document, integrity
from loadstar.core.plan.model import Plan

FORMAT = Path(__file__).resolve().parents[2] / "docs" / "format" / "plan.schema.json"
Change = Callable[[dict[str, Any]], Any]


def told(change: Change, make=demo.as_found) -> list[tuple[str, str, str]]:
    """What is said of a document after a change: element, field, sentence; [] where it is taken."""
    data = json.loads(document.to_json(make()[0]))
    change(data)
    try:
        document.from_data(data)
    except PlanError as error:
        return [(f.element, f.field, f.sentence) for f in error.faults]
    return []


def part(data: dict[str, Any], element: str) -> dict[str, Any]:
    """A part of a document."""
    return next(p for p in data["parts"] if p["id"] == element)


def test_the_format_is_as_published():
    """Every field with its bounds and what it is when nobody says."""
    assert json.loads(FORMAT.read_text()) == Plan.model_json_schema()


def reading(**values) -> Change:
    return lambda d: d["readings"][0].update(**values)


def machine(**values) -> Change:
    return lambda d: d["machine"].update(**values)


def of(element: str, **values) -> Change:
    return lambda d: part(d, element).update(**values)


def beep(**values) -> Change:
    return lambda d: d["tables"][0]["beeps"][0].update(**values)


def second(element: str, **values) -> Change:
    """The part once more, under another id."""
    def change(d):
        again = {**part(d, element), **values}
        again["id"] = element.rstrip("0123456789") + "90"
        d["counters"][element.rstrip("0123456789")] = 90
        d["parts"].append(again)
    return change


def with_pack(system: str) -> Change:
    """A pack beside the battery."""
    def change(d):
        d["machine"]["system"] = system
        d["parts"].append({"id": "PK1", "kind": "pack", "name": "pack", "place": "P1", "series": 13, "parallel": 4})
        d["counters"]["PK"] = 1
    return change


@pytest.mark.parametrize(("good", "bad", "element", "field", "words"), [
    # Readings: a 12 V machine shows 30 V at most, and what cannot have gone through the meter is asked about.
    (reading(value=30), reading(value=30.01), "RD1", "value", "30.01 V cannot be on a 12 V machine"),
    (reading(value=-30), reading(value=-30.01), "RD1", "value", "-30.01 V cannot be"),
    (reading(quantity="ohm", value=0), reading(quantity="ohm", value=-0.1), "RD1", "value", "the wire was live"),
    (reading(quantity="ohm", value=31), reading(quantity="ohm", value=-31), "RD1", "value", "the wire was live"),
    (reading(quantity="A", value=-600), reading(quantity="A", value=-601), "RD1", "value", "was it milliamps?"),
    (reading(quantity="A", value=600), reading(quantity="A", value=601), "RD1", "value", "601 A cannot"),
    (reading(quantity="s", value=7200), reading(quantity="s", value=7201), "RD1", "value", "0 to 7200 s"),
    (reading(quantity="s", value=0), reading(quantity="s", value=-1), "RD1", "value", "0 to 7200 s"),
    (reading(quantity="beep", value=1), reading(quantity="beep", value=2), "RD1", "value", "A beep is 1"),
    (reading(quantity="beep", value=0), reading(quantity="beep", value=0.5), "RD1", "value", "A beep is 1"),
    (reading(element="AP1"), reading(element="AP9"), "RD1", "element", "taken at AP9"),
    (reading(element="machine"), reading(element="W99"), "RD1", "element", "taken at W99"),
    # Continuity: terminals are counted from 0, and no test joins one to itself.
    (beep(b=2), beep(b=3), "CT1", "beeps", "a terminal or position that it has not"),
    (beep(position=1), beep(position=2), "CT1", "beeps", "a terminal or position"),
    (beep(a=0, b=1), beep(a=1, b=1), "CT1", "beeps", "a terminal or position"),
    # Pins.
    (lambda d: None, of("T3", way=5), "T3", "way", "accessory plug has 4 ways: there is no pin 5"),
    (lambda d: None, of("T4", way=1), "T4", "way", "Pin 1 of accessory plug is written down twice"),
    (lambda d: None, of("T3", plug="AP9"), "T3", "plug", "AP9, which is no connector"),
    (lambda d: None, of("T3", way=None), "T3", "plug", "has no number there"),
    (of("T12", phase=True), of("T3", phase=True), "T3", "phase", "only the phases between a generator"),
    # Speeds rise.
    (machine(idle_rpm=2999), machine(idle_rpm=3000), "", "town_rpm", "rising engine speeds"),
    (machine(town_rpm=4999), machine(town_rpm=5000), "", "town_rpm", "rising engine speeds"),
    (machine(rev_rpm=5001), machine(rev_rpm=5000), "", "rev_rpm", "over-revved above its cruising speed"),
    # One battery, two of some others, and nothing of a pack on a machine without.
    (lambda d: None, second("BT1"), "BT90", "kind", "A plan has one battery; this is a second."),
    (lambda d: None, second("G1"), "G90", "kind", "A plan has one generator; this is a second."),
    (lambda d: None, with_pack("battery"), "PK1", "kind", "pack belongs on a machine that runs from a pack"),
    (lambda d: None, with_pack("pack"), "BT1", "kind", "a battery or packs, not both"),
    # Places and runs.
    (lambda d: None, lambda d: d["plugs"][0].update(place="P99"), "AP1", "place", "no place of this plan"),
    (lambda d: None, of("B1", place="P99"), "B1", "place", "B1 (seat block) sits at P99"),
    (of("G1", winding_at="P1"), of("G1", winding_at="P99"), "G1", "winding_at", "P99 is no place of this plan."),
    # What was made for something.
    (of("F1", made_for="B1"), of("F1", made_for="B9"), "F1", "made_for", "F1 was made for B9, which does not exist"),
    (lambda d: None, lambda d: d["wires"][0].update(made_for="B9"), "W1", "made_for", "was made for B9"),
    (lambda d: None, lambda d: d["wires"][0].update(b=d["wires"][0]["a"]), "W1", "b", "the same terminal"),
    (lambda d: None, lambda d: d["wires"][0].update(a="B99.x"), "W1", "a", "a part that does not exist"),
    (lambda d: None, lambda d: d["wires"][0].update(a="B1.zz"), "W1", "a", "a terminal that does not exist"),
    (lambda d: None, lambda d: d["joins"][0].update(a="B1.zz"), "B1", "joins", "A join ends at B1.zz"),
])
def test_both_sides(good, bad, element, field, words):
    assert told(good) == []
    said = told(bad)
    assert any((e, f) == (element, field) and words in s for e, f, s in said), said


@pytest.mark.parametrize(("good", "bad", "element", "field", "words"), [
    (of("L1", feed="BT1"), of("L1", feed="F2"), "L1", "feed", "no battery, pack, block, plug or other feed"),
    (of("L1", feed="B1"), of("L1", feed="B9"), "L1", "feed", "There is no feed B9 in this plan"),
    (of("L1", return_to="BT1"), of("L1", return_to="L2"), "L1", "return_to", "no post, star point"),
    (of("L1", return_to=None), of("L1", return_to="B9"), "L1", "return_to", "returns to B9"),
    (of("L1", never_with=("L2",)), of("L1", never_with=("L1",)), "L1", "never_with", "L1 is no other accessory"),
    (of("L1", never_with=()), of("L1", never_with=("F1",)), "L1", "never_with", "F1 is no other accessory"),
])
def test_accessories_hang_on_feeds_and_return_to_posts(good, bad, element, field, words):
    assert told(good, demo.fit_out) == []
    said = told(bad, demo.fit_out)
    assert any((e, f) == (element, field) and words in s for e, f, s in said), said


def test_a_magneto_without_its_lamps_runs_far_up():
    def reading_of(value):
        return lambda d: d["readings"].append({"id": "RD1", "element": "machine", "quantity": "V", "state": "idle",
                                               "value": value}) or d["counters"].update(RD=1)
    nominal = demo.ferry_runner()[0].machine.system_v
    assert told(reading_of(8 * nominal), demo.ferry_runner) == []
    assert "cannot be on" in told(reading_of(8 * nominal + 0.1), demo.ferry_runner)[0][2]


@pytest.mark.parametrize(("what", "most"), [("parts", 3000), ("wires", 3000), ("places", 400), ("runs", 400),
                                            ("joins", 3000), ("plugs", 400), ("readings", 3000), ("tables", 400),
                                            ("removed", 400)])
def test_how_much_is_taken(what, most):
    """Counted by the check itself: a document so large is refused before it is read."""
    class Many(tuple):
        def __len__(self) -> int:
            return self[0]
    plan = Plan()
    assert integrity._sizes(plan.model_copy(update={what: Many((most,))})) == []
    (fault,) = integrity._sizes(plan.model_copy(update={what: Many((most + 1,))}))
    assert (fault.field, fault.sentence) == (
        what, f"The plan has {most + 1:,} {what}; Loadstar takes up to {most:,}.")


def test_an_id_is_used_once_and_lies_below_its_counter():
    assert ("F1", "id", "The id F1 is used twice.") in told(of("B1", id="F1"))
    assert told(lambda d: d["counters"].update(W=3)) == []
    assert ("W3", "id", "W3 is beyond its counter: the document lost count.") in told(
        lambda d: d["counters"].update(W=2))


# -- what switches hang on and work beside -----------------------------------------------------------------------------


def switched(**of_second) -> Change:
    """Two brake switches beside each other, on the block."""
    def change(d):
        place = d["places"][0]["id"]
        values = {"kind": "selector", "name": "lever", "place": place, "feed": "B1",
                  "positions": "off; on: in+brake"}
        d["parts"] += [{"id": "SW1", **values}, {**values, "id": "SW2", "name": "pedal", **of_second}]
        d["counters"]["SW"] = 2
    return change


@pytest.mark.parametrize(("good", "bad", "field", "words"), [
    ({"feed": "B1"}, {"feed": "F1"}, "feed", "pedal is fed from F1, which is no battery"),
    ({"feed": "SW1"}, {"feed": "SW2"}, "feed", "fed in a circle, by way of pedal"),
    ({"feed": None, "beside": "SW1"}, {"feed": None, "beside": "B1"}, "beside", "works beside B1, which is no switch"),
    ({"feed": None, "beside": "SW1"}, {"feed": None, "beside": "SW9"}, "beside", "works beside SW9"),
])
def test_switches(good, bad, field, words):
    assert told(switched(**good)) == []
    said = told(switched(**bad))
    assert any(f == field and words in s for _, f, s in said), said


# -- texts, places, machines, house rules ------------------------------------------------------------------------------


def test_what_cannot_be_seen_becomes_a_space():
    assert one_line("two\nlines\t here") == "two lines  here"
    assert some_lines("two\nlines\there") == "two\nlines\there"
    for unseen in ("\x00", "\x0b", "\x1f", "\x7f", "\x9f", "\u2028", "\u202e", "\u2066", "\ufeff", "\ufdd0",
                   "\ufdef", "\ufffe", "\uffff", "\U0001fffe", "\U0010ffff"):
        assert one_line(f"a{unseen}b") == some_lines(f"a{unseen}b") == "a b", ascii(unseen)
    for seen in ("\x7e", "\xa0", "\u2027", "\u202f", "\ufdcf", "\ufdf0", "\ufffd", "\U0001fffd", "Ω", "芦"):
        assert one_line(f"a{seen}b") == f"a{seen}b", ascii(seen)
    assert one_line(12) == 12


def test_a_room_is_three_measures():
    def room(text):
        return Place(id="P1", name="box", room=text).room_mm
    assert room("60 x 40,5 x 30") == (30, 40.5, 60)
    assert room("60 x 40") == room("60 x 40 x 30 x 20") == room("") == ()


def test_speeds_of_the_states():
    there = Machine(idle_rpm=1100, town_rpm=2800, cruise_rpm=5200)
    assert [there.rpm(s) for s in ("parked", "key_on", "cranking", "idle", "town", "cruise", "rev")] == [
        0, 0, 0, 1100, 2800, 5200, 0]
    assert (there.fastest, there.with_rev(("idle",))) == ("cruise", ("idle",))
    revved = there.model_copy(update={"rev_rpm": 9000})
    assert (revved.fastest, revved.rpm("rev"), revved.with_rev(("idle",))) == ("rev", 9000, ("idle", "rev"))


def test_house_rules_by_run_and_by_volts():
    rules = HouseRules(covering="loom tape", crank_limit_v=9.6)
    assert [rules.covered_with(c) for c in ("", "bare", "PVC tape")] == ["loom tape", "", "PVC tape"]
    assert rules.crank_limit_at(6) == pytest.approx(4.8)


def test_a_mark_is_of_a_figure_that_is_there():
    there = Machine(marks={"cranking_a": "typical"})
    assert (there.standing_of("cranking_a"), there.standing_of("idle_rpm")) == ("typical", "stated")
    with pytest.raises(ValueError, match="names a figure that is not there: torque"):
        Machine(marks={"torque": "found"})
