"""The machine's own lamp circuits, flashers, what lets a starter turn."""

from typing import Any

import pytest
from builders import BEAM, Bench, cure, sentences

from loadstar.core.analysis import analyse
from loadstar.core.edits import AddWire, ChangeElement, MoveEnd, apply
from loadstar.core.figures.registry import working

# -- the machine's own lamp circuits -----------------------------------------------------------------------------------

def on_lamp_wires(rated_a: float = 6) -> tuple[Bench, str, str]:
    b = Bench()
    taps = {live: b.add("tap", name=f"{live} wire", place=b.nose, live=live, rated_a=rated_a, fused_a=15)
            for live in ("left", "right")}
    left, right = (b.load(name=f"marker {live}", amount=50, feed=tap, live=live, **BEAM) for live, tap in taps.items())
    return b, left, right


def test_left_and_right_are_never_on_together():
    b, left, right = on_lamp_wires()
    a = analyse(b.plan)
    for row in a.volts.rows:
        assert not (abs(row.current(left)) > 1e-3 and abs(row.current(right)) > 1e-3)
    assert a.volts.across_v(left, "idle") > 10 and a.volts.across_v(right, "idle") > 10
    assert a.ledgers["idle"].demand_a == pytest.approx(  # lit half of two minutes in the hour
        next(i.average_a for i in a.ledgers["idle"].items if i.own) + 50 / 12 / 60, rel=0.25)


def test_a_lamp_circuit_carries_what_its_pin_is_rated_for():
    assert "feed.plug-overloaded" not in sentences(on_lamp_wires(6)[0].plan)
    assert "feed.plug-overloaded" in sentences(on_lamp_wires(3)[0].plan)


def test_both_beams_on_one_wire_are_told():
    b = Bench()
    b.add("tap", name="dip wire", place=b.nose, live="dip", rated_a=8, fused_a=15)
    b.add("tap", name="main wire", place=b.nose, live="main", rated_a=8, fused_a=15)
    dip = b.load(name="dip", amount=55, feed="T3", live="dip", **BEAM)
    main = b.load(name="main", amount=60, feed="T4", live="main", **BEAM)
    assert "lamp.both-on" not in sentences(b.plan)
    joined = apply(b.plan, AddWire(a=f"{dip}.pos", b=f"{main}.pos"))
    assert "on together" in sentences(joined)["lamp.both-on"]


# -- flashers ----------------------------------------------------------------------------------------------------------

def indicators(watts: float, way: str, made_for_w: float = 20, **lamp: Any) -> tuple[Bench, str]:
    b = Bench()
    flasher = b.add("flasher", name="flasher", place=b.box, feed=b.block, way=way, made_for_w=made_for_w)
    switch = b.add("selector", name="indicator switch", place=b.nose, feed=flasher,
                   positions="off; left: in+left; right: in+right")
    for live in ("left", "right"):
        for end, place in (("front", b.nose), ("rear", b.box)):
            b.load(name=f"{live} {end}", category="lamp", amount=watts, at_v=12, window_low_v=0, place=place,
                   feed=switch, live=live, **lamp)
    return b, flasher


@pytest.mark.parametrize(("watts", "way", "told"), [
    (10, "thermal", ""), (1.5, "thermal", "will not flash, or fast"), (15, "thermal", "flashes fast"),
    (1.5, "load sensing", "failed lamp"), (10, "load sensing", ""), (15, "load sensing", ""), (1.5, "fixed rate", "")])
def test_a_flasher_is_told_that_has_other_lamps_than_it_is_made_for(watts, way, told):
    said = sentences(indicators(watts, way)[0].plan).get("flasher.load", "")
    assert (told in said) and bool(told) == bool(said)


def test_led_lamps_on_a_thermal_flasher_are_mended_by_another_flasher_or_by_resistors():
    """2 x 21 ohm: 14 V / 21 ohm is 0.67 A, 9.3 W each while lit; here 17 W at 12 V on each side."""
    b, flasher = indicators(1.5, "thermal")
    a = analyse(b.plan)
    finding = next(f for f in a.findings if f.rule == "flasher.load")
    assert cure(finding, a) == ChangeElement(id=flasher, values={"way": "fixed rate"})
    for proposal in finding.proposals:
        assert "flasher.load" not in sentences(apply(b.plan, proposal.edit))
    resistors = apply(b.plan, finding.proposals[1].edit)
    assert [p.power_w for p in resistors.loads if "resistor" in p.name] == [17, 17]
    assert working(a, f"flasher/{flasher}").value == pytest.approx(3)


def test_what_flashes_is_on_half_of_its_minutes():
    load = indicators(10, "fixed rate")[0].plan.loads[0]
    assert load.minutes_per_hour == 2
    assert load.average_a(1.0) == pytest.approx(0.5 * 2 / 60)


# -- starter control ---------------------------------------------------------------------------------------------------

def starter(*, safety: bool) -> Bench:
    b = Bench()
    b.add("starter", name="starter", place=b.nose)
    lead = next(w for w in b.plan.wires if w.b == "ST1.pos")
    b.add("solenoid", name="solenoid", place=b.box, coil_ohm=4, pull_in_v=7, suppression="diode")
    b.plan = apply(b.plan, MoveEnd(id=lead.id, end="a", to="SD1.b"))
    b.plan = apply(b.plan, AddWire(a=f"{b.battery}.pos", b="SD1.a"))
    feed = b.block
    if safety:
        feed = b.add("selector", name="neutral switch", use="safety switch", place=b.box, feed=feed,
                     positions="neutral: in+out; in gear")
    button = b.add("selector", name="starter button", use="button", place=b.nose, feed=feed,
                   positions="off; start: in+out")
    b.plan = apply(b.plan, AddWire(a=f"{button}.out", b="SD1.plus"))
    b.plan = apply(b.plan, AddWire(a="SD1.minus", b=f"{b.battery}.neg"))
    return b


def test_the_solenoid_is_in_while_the_button_is_pressed_and_only_then():
    a = analyse(starter(safety=True).plan)
    assert a.states["cranking"].closed["SD1"]
    assert a.states["cranking"].current("ST1") == pytest.approx(110)
    assert not any(row.closed["SD1"] for row in a.volts.rows if row.state != "cranking")


def test_a_button_alone_before_the_solenoid_is_told():
    assert "start.no-safety" in sentences(starter(safety=False).plan)
    assert "start.no-safety" not in sentences(starter(safety=True).plan)
