"""Connectors put in and taken out again, bus bars, figures as measured, converters that are shared: what is made, by
hand."""

import pytest
from builders import Bench

from loadstar.core.doc.wires import Wire
from loadstar.core.edits import AddElement, AddWire, ChangeElement, CutWire, RemoveElement, SetRules, SetWire, apply
from loadstar.core.edits.builder import Builder
from loadstar.core.edits.couplings import free_way
from loadstar.core.edits.recipes import BAR_MOST, make_bus_bar
from loadstar.core.edits.standing import set_figure
from loadstar.core.edits.stepped import put_converter, stepped_down
from loadstar.core.errors import PlanError


def ends(plan) -> set[frozenset[str]]:
    """What is joined to what by one wire."""
    return {frozenset((w.a, w.b)) for w in plan.wires}


# -- connectors ---


def two_led_through() -> tuple[Bench, str]:
    """Two lamps whose feeds go through one connector, the second from side b to side a."""
    b = Bench()
    lamps = [b.lamp(10), b.lamp(12)]
    b.plan = apply(b.plan, CutWire(id=b.feed_wire(lamps[0]), place=b.nose))
    connector = b.plan.of_kind("coupling")[-1].id
    b.plan = apply(b.plan, CutWire(id=b.feed_wire(lamps[1]), place=b.nose, into=connector))
    return b, connector


def test_the_first_free_way_is_the_one_that_no_wire_comes_to():
    b, connector = two_led_through()
    part = b.plan.part(connector)
    assert part.ways == 2 and free_way(b.plan, part) is None
    b.change(connector, ways=4)
    assert free_way(b.plan, b.plan.part(connector)) == 3
    half = b.plan.model_copy(update={"wires": tuple(w for w in b.plan.wires if w.b != f"{connector}.a1")})
    assert free_way(half, b.plan.part(connector)) == 3  # the other side of way 1 is taken still


def test_taken_out_every_wire_is_whole_again():
    b, connector = two_led_through()
    before = Bench()
    for watts in (10, 12):
        before.lamp(watts)
    out = apply(b.plan, RemoveElement(id=connector))
    assert ends(out) == ends(before.plan) and len(out.wires) == len(before.plan.wires)
    assert [p.id for p in out.parts] == [p.id for p in before.plan.parts]


@pytest.mark.parametrize("turn", [(False, False), (True, False), (False, True), (True, True)])
def test_also_where_wires_are_written_from_their_other_end(turn):
    b, connector = two_led_through()
    told = {f"{connector}.a1": turn[0], f"{connector}.b1": turn[1]}

    def turned(wire: Wire) -> Wire:
        wanted = any(told.get(end) for end in (wire.a, wire.b))
        return wire.model_copy(update={"a": wire.b, "b": wire.a}) if wanted else wire

    plan = b.plan.model_copy(update={"wires": tuple(turned(w) for w in b.plan.wires)})
    assert ends(apply(plan, RemoveElement(id=connector))) == ends(apply(b.plan, RemoveElement(id=connector)))


def test_a_contact_with_several_wires_is_not_taken_out():
    b, connector = two_led_through()
    plan = apply(b.plan, AddWire(a=f"{connector}.b1", b="BT1.neg"))
    with pytest.raises(PlanError, match="Several wires come to way 1"):
        apply(plan, RemoveElement(id=connector))


# -- bus bars ---


def posted(count: int) -> Bench:
    """So many lamps straight from the battery."""
    b = Bench(generator=False)
    for _ in range(count):
        b.lamp(5, feed=b.battery, live="always", reason_always="x")
    return b


@pytest.mark.parametrize(("count", "terminals"), [(2, 8), (7, 8), (8, 9), (11, 12)])
def test_a_bar_has_a_place_for_each_that_moves_and_its_lead(count, terminals):
    b = posted(count)
    post = b.plan.part(b.battery).at("pos")
    on_it = [w.id for w in b.plan.wires if post in (w.a, w.b)]
    plan = make_bus_bar(b.plan, post, on_it[0])
    (bar,) = plan.of_kind("junction")
    assert (bar.form, bar.terminals, len(on_it)) == ("bus bar", terminals, count + 1)  # the block's too
    assert {w.id for w in plan.wires if bar.at("t") in (w.a, w.b)} >= set(on_it[1:])
    assert [w.id for w in plan.wires if post in (w.a, w.b) and w.id in on_it] == on_it[:1]


def test_a_bar_has_an_end():
    b = posted(BAR_MOST)
    post = b.plan.part(b.battery).at("pos")
    on_it = [w.id for w in b.plan.wires if post in (w.a, w.b)]
    assert len(on_it) == BAR_MOST + 1  # the block's too
    with pytest.raises(PlanError, match=f"{BAR_MOST} wires would move: a bus bar takes up to {BAR_MOST - 1}"):
        make_bus_bar(b.plan, post, on_it[0])
    with pytest.raises(PlanError, match="Nothing sits on"):
        make_bus_bar(b.plan, b.plan.part(b.block).at("in"), next(w.id for w in b.plan.wires
                                                                if b.plan.part(b.block).at("in") in (w.a, w.b)))


# -- figures as they are known ---


def test_a_figure_that_is_set_loses_only_its_own_mark():
    b = Bench()
    for field, value in (("capacity_ah", 12), ("internal_mohm", 12)):
        b.plan = set_figure(b.plan, b.battery, field, value, "typical")
    found = set_figure(b.plan, b.battery, "capacity_ah", 11.0, "found").part(b.battery)
    assert (found.capacity_ah, found.marks) == (11.0, {"capacity_ah": "found", "internal_mohm": "typical"})
    stated = set_figure(b.plan, b.battery, "capacity_ah", 11.0, None).part(b.battery)
    assert stated.marks == {"internal_mohm": "typical"}
    assert set_figure(b.plan, "machine", "cranking_a", 90, "found").machine.marks["cranking_a"] == "found"
    assert set_figure(b.plan, b.run, "length_m", 1.31, "found").runs[0].length_m == 1.31
    for element, field, words in ((b.battery, "chemistry", "has no figure chemistry"), ("F9", "x", "There is no F9")):
        with pytest.raises(PlanError, match=words):
            set_figure(b.plan, element, field, 1.0, None)


# -- what is made for 12 V on a pack ---


def bike() -> Builder:
    b = Builder("bike")
    b.machine(system="pack", system_v=48, chassis="floating", kind="cargo e-bike")
    place = b.add("place", name="tube", ambient_c=35)
    for series in (13, 10):
        b.add("pack", name=f"pack of {series}", place=place, series=series, parallel=4)
    return b


@pytest.mark.parametrize(("watts", "amps"), [(20, 3), (28.8, 3), (29, 6), (57.6, 6), (58, 10), (200, 30), (900, 30)])
def test_a_converter_has_a_quarter_to_spare_and_takes_the_pack_from_empty_to_full(watts, amps):
    """3 A at 12 V are 36 W, of which 28.8 W leave a quarter."""
    b = bike()
    box = put_converter(b, watts)
    made = b.plan.part(box)
    first = b.plan.packs[0]
    assert (made.rated_a, made.out_v, first.series) == (amps, 12, 13)
    assert made.window_low_v <= first.empty_v - 1 and made.window_high_v >= first.full_v + 5
    assert made.name == f"12 V converter, {amps} A"


def test_what_has_enough_left_is_shared_and_else_another_is_made():
    b = bike()
    box = b.add("converter", name="box", place=b.plan.places[0].id, window_low_v=30, window_high_v=60, rated_a=5)
    pack = b.plan.packs[0].id
    assert stepped_down(b, pack, 48) == box  # 60 W with a quarter to spare
    assert stepped_down(b, box, 48) == box
    assert stepped_down(b, box, 49) != box
    b.add("load", name="cooler", amount=36, at_v=12, place=b.plan.places[0].id, feed=box, live="key", category="other")
    # 24 W are left of its 60, which serve 19.2; the new one of 6 A (made for 49 W) has all its 72
    assert [c.rated_a for c in b.plan.of_kind("converter")] == [5, 6]
    assert stepped_down(b, box, 19.2) == box
    assert b.plan.part(stepped_down(b, box, 20)).rated_a == 6
    assert stepped_down(Builder("x", Bench().plan), "BT1", 500) == "BT1"  # 12 V already


def test_two_beams_that_are_never_on_together_take_their_larger():
    b = bike()
    box = b.add("converter", name="box", place=b.plan.places[0].id, window_low_v=30, window_high_v=60, rated_a=5)
    switch = b.add("selector", name="beams", place=b.plan.places[0].id, feed=box,
                   positions="off; dip: in+dip; main: in+main")
    for live, watts in (("dip", 12), ("main", 24)):
        b.add("load", name=live, amount=watts, at_v=12, place=b.plan.places[0].id, feed=switch, live=live,
              category="lamp", window_low_v=0)
    assert stepped_down(b, box, 28.8) == box  # 60 W less 24 leave 36: a quarter over 28.8
    assert stepped_down(b, box, 28.9) != box


def test_house_rules_and_elements_that_are_none_are_refused():
    b = Bench()
    for edit, words in ((AddElement(what="load", values={"name": "x"}), "missing"),
                        (ChangeElement(id="L9", values={"name": "x"}), "There is no"),
                        (SetRules(values={"fuse_share_frac": 2}), "at most")):
        with pytest.raises(PlanError, match=words):
            apply(b.plan, edit)


@pytest.mark.parametrize("values", [{"id": "W99"}, {"a": "BT1.neg"}, {"b": "BT1.neg"}, {"way": ("R1",)},
                                    {"made_for": "L9"}, {"torque": 5}])
def test_what_a_wire_joins_and_its_way_are_set_by_edits_of_their_own(values):
    b = Bench()
    wire = b.feed_wire(b.lamp(10))
    with pytest.raises(PlanError, match="of a wire can be set"):
        apply(b.plan, SetWire(id=wire, values=values))
    assert apply(b.plan, SetWire(id=wire, values={"stripe": "WH"})).wire(wire).stripe == "WH"


@pytest.mark.parametrize("feed", ["L9", "G1", "F1"])
def test_what_feeds_nothing_is_refused_beside_the_field(feed):
    b = Bench()
    lamp = b.lamp(10)
    given = {"L9": lamp, "G1": b.plan.generator.id, "F1": next(p.id for p in b.plan.parts if p.kind == "fuse")}[feed]
    with pytest.raises(PlanError) as refused:
        apply(b.plan, ChangeElement(id=lamp, values={"feed": given}))
    assert [(f.element, f.field) for f in refused.value.faults] == [(lamp, "feed")]
    assert f"is fed from {given}, which is no battery, pack, block, plug or other feed" in str(refused.value)


@pytest.mark.parametrize(("system_v", "coil_ohm", "pull_in_v"), [
    (6, 22.5, 4), (12, 90, 8), (24, 360, 16), (72, 3240, 48)])
def test_a_relay_has_a_coil_for_the_machine_s_battery(system_v, coil_ohm, pull_in_v):
    """1.6 W at its volts, and two thirds of them pull it in, as of one for 12 V: ohms go by the square."""
    b = Bench()
    b.machine(system_v=system_v)
    lamp = b.lamp(10, feed=b.battery)
    (relay,) = (p for p in b.plan.of_kind("relay") if p.made_for == lamp)
    assert (relay.coil_ohm, relay.pull_in_v) == (coil_ohm, pytest.approx(pull_in_v))
