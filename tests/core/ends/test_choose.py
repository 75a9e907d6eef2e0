"""What each wire ends in, from the part it goes to, its size, amps, heat, water and the house's ways."""

import pytest
from builders import Bench, cure

from loadstar.core.analysis import analyse
from loadstar.core.edits import AddWire, CutWire, PutPlug, SetWire, apply
from loadstar.core.figures.registry import NoFigure, working
from loadstar.core.figures.ways import feeding_side
from loadstar.core.figures.working import evaluate


def bench(**lamp: object) -> Bench:
    b = Bench()
    b.lamp(**{"amount": 10, **lamp})
    return b


def end_of(b: Bench, wire: str, side: str):
    return analyse(b.plan).ends.by_key[f"{wire}.{side}"]


def judged(b: Bench, rule: str, is_told: bool) -> None:
    a = analyse(b.plan)
    assert (rule in {f.rule for f in a.findings}) is is_told
    if is_told:
        edit = cure(next(f for f in a.findings if f.rule == rule), a)
        assert edit is not None
        assert rule not in {f.rule for f in analyse(apply(b.plan, edit)).findings}


def test_parts_say_what_their_wires_end_in():
    b = bench()
    family = {str(e.at): e.family for e in analyse(b.plan).ends.every}
    assert family[f"{b.battery}.pos"] == "ring M6" and family[f"{b.block}.in"] == "ring M5"
    relay = next(p.id for p in b.plan.parts if p.kind == "relay")
    assert family[f"{relay}.87"] == family[f"{relay}.85"] == "blade 6.3"
    assert family[f"{b.fuse_of('L1')}.b"] == "blade 6.3"  # plugged into the block
    main = next(p.id for p in b.plan.parts if p.kind == "fuse" and p.made_for == b.block)
    assert family[f"{main}.a"] == "fuse holder"
    assert family["L1.pos"] == "splice"


@pytest.mark.parametrize(("leads", "family"), [("splice", "splice"), ("bullet 3.9", "bullet 3.9"),
                                               ("sealed small", "sealed small")])
def test_leads_of_accessories_as_the_house_joins_them_and_one_may_differ(leads, family):
    b = bench()
    b.rules(leads=leads)
    assert end_of(b, b.feed_wire("L1"), "b").family == family
    b.change("L1", termination="blade 4.8")
    assert end_of(b, b.feed_wire("L1"), "b").family == "blade 4.8"


def test_every_other_terminal_of_the_family_says_why_not():
    b = bench()
    wire = b.feed_wire("L1")
    b.plan = apply(b.plan, SetWire(id=wire, values={"area_mm2": 2.5}))
    end = end_of(b, wire, "a")
    assert end.chosen.key == "blade 6.3 2.5"
    assert [(c.terminal.key, c.why_not) for c in end.candidates] == [
        ("blade 6.3 1.5", "takes up to 1.5 mm²"), ("blade 6.3 2.5", ""), ("blade 6.3 6", "")]
    assert end.pull_n == 230


def test_what_is_on_the_wire_first():
    b = bench()
    b.lamp(10, name="second")
    wire = b.feed_wire("L1")
    first = end_of(b, wire, "b").on_first
    assert first[0] == f"sleeve of {b.run}" and "shrink tube" in first[-1]
    b.rules(leads="bullet 3.9")
    assert "slip-on boot" in end_of(b, wire, "b").on_first
    b.change(b.nose, water="dry")
    assert "slip-on boot" not in end_of(b, wire, "b").on_first
    b.rules(leads="sealed small")
    assert any(one.startswith("seal for") for one in end_of(b, wire, "b").on_first)


def test_wires_of_a_splice_share_a_barrel_and_add_up():
    """By hand: 1.0 + 1.0 + 0.5 = 2.5 mm²."""
    b = bench()
    wire = b.feed_wire("L1")
    b.plan = apply(b.plan, CutWire(id=wire, place=b.nose, form="splice"))
    splice = b.plan.of_kind("junction")[-1].id
    spare = b.add("frame", name="branch", place=b.nose)
    b.plan = apply(b.plan, AddWire(a=f"{splice}.t", b=f"{spare}.t"))
    here = [w.id for w in b.plan.wires if splice in (w.a.part, w.b.part)]
    for one, size in zip(here, (1.0, 1.0, 0.5), strict=True):
        b.plan = apply(b.plan, SetWire(id=one, values={"area_mm2": size}))
    ends = [e for e in analyse(b.plan).ends.every if e.at.part == splice]
    assert {e.area_mm2 for e in ends} == {2.5} and {e.chosen.key for e in ends} == {"splice 2.5"}
    assert all(len(e.beside) == 2 for e in ends)


def test_a_connector_takes_the_smallest_family_that_carries_all_its_wires():
    b = bench(amount=30)
    b.plan = apply(b.plan, CutWire(id=b.feed_wire("L1"), place=b.nose))
    coupling = b.plan.of_kind("coupling")[-1].id
    assert analyse(b.plan).ends.family(b.plan.part(coupling).at("a1")) == "sealed small"
    b.change("L1", amount=150)
    assert analyse(b.plan).ends.family(b.plan.part(coupling).at("a1")) in ("sealed 2.8", "sealed 6.3")
    b.change("L1", amount=30)
    b.change(coupling, ways=6)
    assert analyse(b.plan).ends.family(b.plan.part(coupling).at("a1")) == "sealed 1.5"


@pytest.mark.parametrize(("joints", "how", "pull"), [
    ("crimp only", "crimp it", 60), ("crimp then solder", "crimp it, then solder it", 60),
    ("solder splice", "solder it", None)])
def test_schools_of_joints(joints, how, pull):
    b = bench()
    b.rules(joints=joints)
    end = end_of(b, b.feed_wire("L1"), "b")
    assert (end.how, end.pull_n) == (how, pull)


@pytest.mark.parametrize("key", ["end_a", "pull"])
def test_figures_of_ends_have_workings_that_come_to_them(key):
    b = bench()
    b.change(b.nose, ambient_c=70)
    a = analyse(b.plan)
    for end in a.ends.every:
        found = working(a, f"{key}/{end.key}")
        assert evaluate(found.formula, found.inputs) == pytest.approx(found.value)
        assert found.value == pytest.approx(end.rated_a if key == "end_a" else end.pull_n)
    with pytest.raises(NoFigure):
        working(a, f"{key}/W99.a")


@pytest.mark.parametrize(("size", "is_told"), [(0.35, True), (0.5, False)])
def test_a_wire_too_thin_for_every_barrel(size, is_told):
    b = bench()
    b.wire(b.feed_wire("L1"), area_mm2=size)
    judged(b, "end.none", is_told)


def test_insulation_fatter_than_every_seal():
    b = bench()
    b.change("L1", termination="sealed small")
    wire = b.feed_wire("L1")
    b.wire(wire, area_mm2=1.0, wall="thick")
    assert "seal takes 1.5 to 2.4 mm, the wire is 2.6 mm" in next(
        f.sentence for f in analyse(b.plan).findings if f.rule == "end.none")
    judged(b, "end.none", True)
    b.wire(wire, area_mm2=0.75)
    judged(b, "end.none", False)


@pytest.mark.parametrize(("air", "is_told"), [(40, False), (95, True)])
def test_a_contact_too_weak_in_the_heat_where_it_is(air, is_told):
    """A sealed small pin with 1 mm² carries 7 A at 40 °C; at 95 °C sqrt(10/65) of it, 2.7 A. The lamp takes 4."""
    b = bench(amount=50)
    b.change("L1", termination="sealed small")
    b.change(b.nose, ambient_c=air)
    b.rules(insulation="C")
    for wire in (b.feed_wire("L1"), next(w.id for w in b.plan.wires if w.a == "L1.neg" or w.b == "L1.neg")):
        b.wire(wire, area_mm2=1.0)
    judged(b, "end.amps", is_told)


@pytest.mark.parametrize(("joints", "moves", "is_told"), [
    ("solder splice", "with the steering", True), ("solder splice", "still", False),
    ("crimp only", "with the steering", False), ("crimp then solder", "with the steering", True)])
def test_solder_where_it_moves(joints, moves, is_told):
    b = bench()
    b.rules(joints=joints)
    b.change(b.nose, moves=moves)
    judged(b, "end.solder-moves", is_told)


def two_connectors() -> Bench:
    b = bench()
    b.lamp(10, name="second")
    for load in ("L1", "L2"):
        b.plan = apply(b.plan, CutWire(id=b.feed_wire(load), place=b.nose))
    return b


@pytest.mark.parametrize(("change", "is_told"), [({}, True), ({"keying": "A"}, False), ({"ways": 3}, False)])
def test_connectors_that_can_be_swapped(change, is_told):
    b = two_connectors()
    b.change(b.plan.of_kind("coupling")[-1].id, **change)
    judged(b, "connector.alike", is_told)


@pytest.mark.parametrize(("stripe", "is_told"), [("", True), ("GN", False)])
def test_one_colour_twice_in_a_connector(stripe, is_told):
    b = bench()
    feed = b.feed_wire("L1")
    back = next(w.id for w in b.plan.wires if "L1.neg" in (w.a, w.b))
    b.plan = apply(b.plan, CutWire(id=feed, place=b.nose))
    b.plan = apply(b.plan, CutWire(id=back, into=b.plan.of_kind("coupling")[-1].id))
    for wire in b.plan.wires:
        if b.plan.of_kind("coupling")[-1].id in (wire.a.part, wire.b.part):
            mine = wire.made_for == "L1" and wire.id in (feed, b.feed_wire("L1"))
            b.wire(wire.id, colour="RD", stripe=stripe if mine else "")
    judged(b, "connector.colours", is_told)


@pytest.mark.parametrize(("tabs", "is_told"), [("", False), ("a", True), ("b", False)])
def test_tabs_are_not_on_the_live_side(tabs, is_told):
    """The feed's wire is cut: its beginning comes to side a."""
    b = bench()
    b.plan = apply(b.plan, CutWire(id=b.feed_wire("L1"), place=b.nose))
    coupling = b.plan.of_kind("coupling")[-1]
    assert feeding_side(analyse(b.plan), coupling) == "a"
    b.change(coupling.id, tabs=tabs)
    judged(b, "connector.live-tabs", is_told)


@pytest.mark.parametrize(("branches", "is_told"), [(2, False), (3, True)])
def test_up_to_four_wires_in_a_splice(branches, is_told):
    b = bench()
    b.plan = apply(b.plan, CutWire(id=b.feed_wire("L1"), place=b.nose, form="splice"))
    splice = b.plan.of_kind("junction")[-1].id
    for n in range(branches):
        spare = b.add("frame", name=f"branch {n}", place=b.nose)
        b.plan = apply(b.plan, AddWire(a=f"{splice}.t", b=f"{spare}.t"))
    judged(b, "end.splices-close", is_told)


def test_what_is_too_thick_for_a_relay_s_blades_wants_one_with_studs():
    b = bench()
    b.wire(b.feed_wire("L1"), area_mm2=1.0)
    relay = next(p.id for p in b.plan.parts if p.kind == "relay")
    for wire in [w.id for w in b.plan.wires if f"{relay}.30" in (w.a, w.b)]:
        b.wire(wire, area_mm2=10)
    a = analyse(b.plan)
    found = next(f for f in a.findings if f.rule == "end.none" and relay in f.elements)
    assert [p.label for p in found.proposals] == [
        f"Let Loadstar choose {found.elements[0]}", "Take a relay with M6 studs"]
    studs = apply(b.plan, found.proposals[1].edit)
    assert not any(f.rule == "end.none" and relay in f.elements for f in analyse(studs).findings)


def test_a_holder_s_terminal_carries_more_with_thicker_wire():
    """A fuse holder's terminal: 15 A with 1.0 mm², 20 A with 2.5; a lamp of 225 W takes 17 to 18 A."""
    b = bench(amount=225, feed="BT1", live="always", reason_always="for the test")
    b.wire(b.feed_wire("L1"), area_mm2=1.0)
    a = analyse(b.plan)
    told = [f for f in a.findings if f.rule == "end.amps"]
    assert told and any(p.label.startswith("Take 2") for f in told for p in f.proposals)


@pytest.mark.parametrize(("colours", "severity"), [
    (("RD", "BK"), None), (("RD", "RD"), "caution"), (("RD", ""), "advice"), (("", ""), None)])
def test_a_new_part_s_wires_are_matched_one_to_one(colours, severity):
    b = bench()
    b.plan = apply(b.plan, PutPlug(values={"name": "old plug", "place": b.nose, "ways": 3}, pins=tuple(
        {"way": n, "function": "other", "new_colour": colour} for n, colour in enumerate(colours, 1))))
    found = [f for f in analyse(b.plan).findings if f.rule == "connector.unmatched"]
    assert [f.severity for f in found] == [severity] * bool(severity)


def test_phases_of_a_generator_may_have_one_colour_and_pins_without_use_none():
    b = bench()
    b.plan = apply(b.plan, PutPlug(values={"name": "old plug", "place": b.nose, "ways": 4, "use": "generator"}, pins=(
        *({"way": n, "function": "other", "new_colour": "YE", "phase": True} for n in (1, 2, 3)),
        {"way": 4, "function": "unused"})))
    assert "connector.unmatched" not in {f.rule for f in analyse(b.plan).findings}


@pytest.mark.parametrize(("joints", "how", "tubes_mm"), [
    ("crimp only", {"crimp the core, then the insulation lightly", "crimp it"}, {43.0, 27.0}),
    ("crimp then solder", {"crimp the core, then the insulation lightly, then solder it", "crimp it, then solder it"},
     {43.0, 27.0})])
def test_how_ends_are_closed_and_how_long_their_tubes_are_cut(joints, how, tubes_mm):
    """Over a splice 40 mm, over a barrel 25 mm, and 7 % that the tube loses: 43.0 and 26.9 mm."""
    b = Bench()
    b.lamp(10)
    b.rules(joints=joints)
    found = [e for e in analyse(b.plan).ends.every if e.chosen and e.chosen.stages]
    assert {e.how for e in found} <= how and len({e.how for e in found}) > 1
    for end in found:
        assert end.how.startswith("crimp the core") == (end.chosen.stages == 2)
        assert not end.soldered
    assert {round(e.shrink_mm) for e in found if e.shrink} <= tubes_mm
    assert all(e.shrink_mm * (1 - 0.07) == pytest.approx(40 if e.family == "splice" else 25)
               for e in found if e.shrink)
