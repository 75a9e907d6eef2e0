"""A solenoid: its contact follows its coil, and what is judged of a coil and a contact is judged of it.

The figures are by hand (a divider of coil and wires; copper's 0.393 % a kelvin, IEC 60028) and by ngspice.
"""

from typing import Any

import pytest
from builders import Bench
from reference.simulator import assert_agrees, needs_ngspice

from loadstar.core.analysis import analyse
from loadstar.core.edits import AddElement, AddWire, MoveEnd, RemoveElement, apply
from loadstar.core.errors import PlanError


def built(live: str = "key", **values: Any) -> tuple[Bench, str, str]:
    """A 60 W lamp behind a solenoid whose coil hangs on a found wire: the bench, the solenoid, the lamp."""
    b = Bench()
    solenoid = b.add("solenoid", name="isolator", place=b.box, **values)
    lamp = b.load(name="lamp", amount=60, category="lamp")
    pin = {"key": b.key, "engine": b.engine}[live]
    b.change(pin, rated_a=10, fused_a=10)
    b.plan = apply(b.plan, MoveEnd(id=b.feed_wire(lamp), end="b", to=f"{solenoid}.a"))
    for start, end in (("b", f"{lamp}.pos"), ("plus", f"{pin}.pin"), ("minus", f"{b.battery}.neg")):
        b.plan = apply(b.plan, AddWire(a=end if start == "plus" else f"{solenoid}.{start}",
                                       b=f"{solenoid}.plus" if start == "plus" else end))
    return b, solenoid, lamp


def spoken_of(b: Bench, element: str) -> set[str]:
    """The rules that speak of an element."""
    return {f.rule for f in analyse(b.plan).findings if element in f.elements}


@needs_ngspice
def test_the_contact_follows_the_coil():
    b, solenoid, lamp = built(coil_ohm=12)
    a = analyse(b.plan)
    on, off = a.states["key_on"], a.states["parked"]
    assert on.closed[solenoid]
    assert not off.closed[solenoid]
    assert on.current(lamp) * on.solution.across_v(f"{lamp}.pos", f"{lamp}.neg") == pytest.approx(60)
    coil_v = on.solution.across_v(f"{solenoid}.plus", f"{solenoid}.minus")
    assert on.current(f"{solenoid}.coil") * 12 == pytest.approx(coil_v)
    assert 11 < coil_v < 12.5
    assert abs(off.current(lamp)) < 1e-12
    assert_agrees(a, "key_on")


def test_with_its_coil_on_the_engine_s_wire_it_is_open_with_the_key():
    b, solenoid, lamp = built("engine")
    a = analyse(b.plan)
    assert not a.states["key_on"].closed[solenoid]
    assert a.states["idle"].closed[solenoid]
    assert abs(a.states["key_on"].current(lamp)) < 1e-12


@pytest.mark.parametrize("pull_in_v, late", [(9.0, False), (10.0, True)])
def test_a_hot_coil_that_gets_too_little_is_told(pull_in_v, late):
    """At 85 C a coil needs 1.255 times its volts at 20 C: 11.3 V and 12.6 V; with the key on it gets about 12 V."""
    b, solenoid, _ = built(pull_in_v=pull_in_v)
    b.change(b.box, ambient_c=85)
    assert ("relay.pull-in" in spoken_of(b, solenoid)) == late


def test_of_two_weak_coils_in_a_row_the_second_is_told_what_it_gets_while_the_first_is_in():
    """Opened with the first one, it would be told 0 V; by hand it gets the battery's volts less a few milliohms."""
    b, first, _ = built(pull_in_v=10.0)
    second = b.add("solenoid", name="second", place=b.box, pull_in_v=10.0)
    b.change(b.box, ambient_c=85)
    for start, end in ((f"{first}.b", f"{second}.plus"), (f"{second}.minus", f"{b.battery}.neg")):
        b.plan = apply(b.plan, AddWire(a=start, b=end))
    a = analyse(b.plan)
    row, = (r for r in a.volts.rows if r.state == "key_on" and r.coil_v)
    assert set(row.coil_v) == {first, second}
    assert row.coil_v[first] > 11
    assert row.coil_v[second] == pytest.approx(row.coil_v[first], abs=0.5)
    assert spoken_of(b, second) >= {"relay.pull-in"}


@pytest.mark.parametrize("suppression, spike", [("none", True), ("diode", False), ("resistor", False)])
def test_a_bare_coil_s_spike_is_told(suppression, spike):
    b, solenoid, _ = built(suppression=suppression)
    assert ("relay.suppression" in spoken_of(b, solenoid)) == spike


@pytest.mark.parametrize("contact_a, over", [(4.0, True), (80.0, False), (None, False)])
def test_its_contact_carries_what_it_is_rated_for(contact_a, over):
    b, solenoid, _ = built(contact_a=contact_a)
    assert ("contact.rating" in spoken_of(b, solenoid)) == over
    if contact_a is None:
        assert analyse(b.plan).ratings.contact_a(solenoid) == 80


def test_it_cannot_need_more_to_hold_than_to_pull_in():
    with pytest.raises(PlanError, match="holds down to less"):
        apply(Bench().plan, AddElement(what="solenoid", values={"name": "S", "place": "P1", "hold_v": 9}))


def test_it_is_not_taken_out_from_between_its_wires():
    b, solenoid, _ = built()
    with pytest.raises(PlanError):
        apply(b.plan, RemoveElement(id=solenoid))


@pytest.mark.parametrize("live, switched_by, adrift", [("key", "engine", True), ("key", "key", False),
                                                        ("engine", "engine", False)])
def test_a_load_cut_off_at_both_sides_while_it_should_live_floats(live, switched_by, adrift):
    """Nothing is said of one that is cut off while it need not live."""
    b = Bench()
    lamp = b.lamp(live=live, returns="own wire")
    both = [b.add("solenoid", name=f"{side} side", place=b.box) for side in ("feed", "return")]
    pin = {"key": b.key, "engine": b.engine}[switched_by]
    b.change(pin, rated_a=10, fused_a=10)
    back = next(w for w in b.plan.wires if w.a == f"{lamp}.neg")
    edits = [MoveEnd(id=b.feed_wire(lamp), end="b", to=f"{both[0]}.a"), AddWire(a=f"{both[0]}.b", b=f"{lamp}.pos"),
             MoveEnd(id=back.id, end="b", to=f"{both[1]}.a"), AddWire(a=f"{both[1]}.b", b=back.b)]
    for solenoid in both:
        edits += [AddWire(a=f"{pin}.pin", b=f"{solenoid}.plus"), AddWire(a=f"{solenoid}.minus", b=f"{b.battery}.neg")]
    for edit in edits:
        b.plan = apply(b.plan, edit)
    assert ("network.floating" in spoken_of(b, lamp)) == adrift
