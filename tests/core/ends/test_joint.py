"""The leads of a place led through one connector: the same things are joined as before, by fewer wires."""

from collections import Counter

import pytest
from builders import Bench

from loadstar import demo
from loadstar.core.analysis import analyse
from loadstar.core.build.whole import work as work_on
from loadstar.core.edits import CutWire, MakeJoint, MoveEnd, RemoveElement, apply
from loadstar.core.ends.joints import joints
from loadstar.core.ends.pins import Contact, consolidate
from loadstar.core.errors import PlanError
from loadstar.core.leads import gather, led_through
from loadstar.core.order import order
from loadstar.core.wiring.references import Groups
from loadstar.core.wiring.topology import Topology


def joined_terminals(plan, parts):
    """The parts' terminals by what copper joins, switches and fuses shut."""
    groups = Groups(Topology(plan), None)
    found: dict[str, set[str]] = {}
    for part in parts:
        for end in plan.part(part).ends:
            found.setdefault(groups.of_terminal(plan.part(part).at(end)), set()).add(f"{part}.{end}")
    return sorted(map(sorted, found.values()))


CONTACT = Contact(40, 6, 0.0)


def one_plug(plan, place, figures=None):
    """Every lead that comes to a place through connectors there."""
    found = gather(figures or analyse(plan), place)
    for edit in led_through(found, joints(consolidate(found.leads, CONTACT, together=True), 0, together=True), CONTACT,
                            place, place):
        plan = apply(plan, edit)
    return found, plan


PLACES = [(make, n) for make in (demo.fit_out, demo.lights_and_horn, demo.tide_hauler) for n in range(4)]


@pytest.mark.parametrize(("make", "n"), PLACES, ids=[f"{make.__name__}-{n}" for make, n in PLACES])
def test_what_was_joined_is_joined_and_nothing_else(make, n):
    """Of every part of the plan, at several of its places."""
    plan = make()[0]
    first = analyse(plan)
    places = [p.id for p in plan.places if gather(first, p.id).leads]
    if n >= len(places):
        pytest.skip("it has fewer places with leads")
    found, after = one_plug(plan, places[n], figures=first)
    parts = [p.id for p in plan.parts]
    assert joined_terminals(after, parts) == joined_terminals(plan, parts)
    fresh = {p.id for p in after.parts if p.kind in ("coupling", "junction")} - set(plan.part_by_id)
    leads = [w for w in after.wires if {w.a.part, w.b.part} & fresh and plan.wire_by_id.get(w.id) is not None]
    assert {w.id for w in leads} == set(found.wires.values())
    for lead in leads:
        far = [end for end in (lead.a, lead.b) if end.part not in fresh]
        assert [after.part(end.part).place for end in far] == [places[n]]
        met = next(end for end in (lead.a, lead.b) if end.part in fresh)
        assert met.name.startswith("a") or met.name == "t"
    second = analyse(after)
    stops = [{f.rule for f in a.findings if f.severity == "stop"} for a in (first, second)]
    assert stops[1] <= stops[0]  # a lamp that is off, and whose ground the others lift, is not starved
    for load, state in [(p.id, state) for p in plan.loads for state in plan.lives_in(p)]:
        before, now = first.volts.across_v(load, state), second.volts.across_v(load, state)
        assert (before is None) == (now is None)
        if before is not None:
            assert now == pytest.approx(before, abs=0.5)


def two_lamps():
    b = Bench()
    b.lamp(amount=20, name="left lamp")
    b.lamp(amount=20, name="right lamp")
    return b


def test_returns_that_end_at_one_post_go_on_as_one_wire_which_stays_when_a_lamp_goes():
    b = two_lamps()
    _, after = one_plug(b.plan, b.nose)
    (joint,) = after.of_kind("coupling")
    on = [w for w in after.wires if f"{joint.id}.b" in f"{w.a} {w.b}"]
    assert len(on) == 3  # two feeds, one return
    shared = next(w for w in on if {w.a.part, w.b.part} == {joint.id, b.block} and w.made_for is None)
    less = apply(after, RemoveElement(id="L1"))
    assert shared.id in less.wire_by_id
    assert analyse(less).volts.across_v("L2", "key_on") > 11


def test_a_contact_takes_one_wire_so_several_are_spliced_before_it_a_few_at_a_time():
    b = Bench()
    for n in range(6):
        b.lamp(amount=6, name=f"lamp {n}")
    _, after = one_plug(b.plan, b.nose)
    (joint,) = after.of_kind("coupling")
    at_contacts = Counter(end for w in after.wires for end in (w.a, w.b) if end.part == joint.id)
    assert set(at_contacts.values()) == {1}
    meet = Counter(end.part for w in after.wires for end in (w.a, w.b) if end.part in {
        j.id for j in after.of_kind("junction")})
    assert sorted(meet.values()) == [3, 4, 4]  # six returns: three and one, that and two and one, that and one and one
    assert joined_terminals(after, [p.id for p in b.plan.parts]) == joined_terminals(b.plan,
                                                                                     [p.id for p in b.plan.parts])
    assert not {"end.splices-close", "end.none"} & {f.rule for f in analyse(after).findings}


def test_a_told_way_is_kept_on_both_sides_of_it():
    b = two_lamps()
    between = b.add("place", name="headstock", x_mm=900, y_mm=600)
    for end in (b.box, b.nose):
        b.add("run", a=end, b=between, length_m=0.9)
    runs = [r.id for r in b.plan.runs]
    wire = b.feed_wire("L1")
    b.plan = b.plan.model_copy(update={"wires": tuple(
        w.model_copy(update={"way": tuple(runs[1:])}) if w.id == wire else w for w in b.plan.wires)})
    after = apply(b.plan, MakeJoint.model_validate({"of": b.nose, "place": between, "ways": 2,
                                                    "through": [[wire]]}))
    ways = sorted(w.way for w in after.wires if "CN1" in (w.a.part, w.b.part))
    assert ways == sorted((r,) for r in runs[1:])


@pytest.mark.parametrize(("change", "says"), [
    ({"place": "P99"}, "Choose the place"), ({"of": "P99"}, "Choose the place"), ({"ways": 1}, "2 ways are wanted"),
    ({"through": [["W99"]]}, "There is no wire W99"), ({"of": "box"}, "does not come to"),
    ({"through": [["lead"], ["lead"]]}, "one way only")])
def test_what_cannot_be_led_through_is_said_so(change, says):
    b = two_lamps()
    leads = [w.id for w in b.plan.wires if w.b in ("L1.pos", "L2.pos")]
    asked = {"of": b.nose, "place": b.nose, "ways": 4, "through": [[w] for w in leads], **change}
    asked["through"] = [[leads[0] if w == "lead" else w for w in way] for way in asked["through"]]
    if asked["of"] == "box":
        asked["of"] = b.add("place", name="lone")
    with pytest.raises(PlanError) as told:
        apply(b.plan, MakeJoint.model_validate(asked))
    assert says in str(told.value)


def test_wires_are_led_through_in_any_direction():
    """A wire keeps its direction, and its lead comes to side a whichever way round it was laid."""
    b = two_lamps()
    for first, second in ((True, False), (True, True)):
        flip = {w.id: f for w, f in zip([w for w in b.plan.wires if w.b in ("L1.pos", "L2.pos")], (first, second),
                                        strict=True)}
        plan = b.plan.model_copy(update={"wires": tuple(
            w.model_copy(update={"a": w.b, "b": w.a}) if flip.get(w.id) else w for w in b.plan.wires)})
        _, after = one_plug(plan, b.nose)
        assert joined_terminals(after, ["L1", "L2", "F1", "F2"]) == joined_terminals(plan, ["L1", "L2", "F1", "F2"])
        sides = {w.id: [e.name[0] for e in (w.a, w.b) if e.part == "CN1"] for w in after.wires}
        assert all(sides[w] == ["a"] for w in flip)


def test_the_demonstration_s_many_small_plugs_are_one_and_the_throttle_has_a_ground_of_its_own():
    """By hand: the horn's 1.7 A through the 52 mΩ that the returns share lifts the throttle by 89 mV; it bears 17."""
    plan = demo.one_plug()[0]
    joint = plan.of_kind("coupling")[-1]
    leads = {w.id: w for w in plan.wires for end in (w.a, w.b) if end.part == joint.id and end.name.startswith("a")}
    assert (joint.ways, len(leads)) == (16, 14)
    a = analyse(plan)
    throttle = next(p for p in plan.loads if p.name == "Throttle")
    assert any(throttle.at("neg") in (w.a, w.b) for w in leads.values())
    assert not [f for f in a.findings if f.severity in ("stop", "caution")]
    barrel = next(j for j in plan.of_kind("junction") if j.form == "one barrel")
    ends = [e for e in a.ends.every if e.at.part == barrel.id]
    assert len(ends) == 3 and {e.area_mm2 for e in ends} == {sum(a.wires[e.wire].area_mm2 for e in ends)}


def test_leads_are_named_by_their_nets_behind_their_regulators():
    """Grounds that copper joins are one net, whatever regulator their feeds come from."""
    plan = demo.one_plug()[0]
    bars = next(p.id for p in plan.places if p.name == "handlebar")
    leads = {lead.name: lead for lead in gather(analyse(plan), bars).leads}
    assert {leads[n].net for n in ("Horn neg", "Throttle neg", "Display neg")} == {"ground"}
    assert leads["Throttle neg"].regulator == "" and leads["Throttle pos"].regulator == "controller's 5 V"
    assert (leads["Throttle pos"].net, leads["Horn pos"].net) == ("controller's 5 V +", "controller's 12 V +")
    assert leads["display rx"].net == "display rx" and leads["display rx"].volts is None
    assert leads["Horn pos"].volts == pytest.approx(12, abs=0.3) and leads["Throttle pos"].volts == pytest.approx(5)
    assert leads["left brake cut-off a"].apart


def two_on_a_contact(termination=""):
    b = two_lamps()
    b.plan = apply(b.plan, CutWire(id=b.feed_wire("L1"), place=b.nose))
    connector = b.plan.of_kind("coupling")[-1]
    if termination:
        b.change(connector.id, termination=termination)
    far = next(w for w in b.plan.wires if w.b == "L2.pos")
    lead = next(w.b for w in b.plan.wires if w.b == f"{connector.id}.a1")
    b.plan = apply(b.plan, MoveEnd(id=far.id, end="b", to=str(lead)))
    return b, connector.id


def test_a_seal_takes_one_wire_and_the_cure_splices_them_before_it():
    b, connector = two_on_a_contact()
    (told,) = [f for f in analyse(b.plan).findings if f.rule == "end.none"]
    assert "2 wires of" in told.sentence and "its seal takes one wire" in told.sentence
    cured = apply(b.plan, told.proposals[0].edit)
    assert not [f for f in analyse(cured).findings if f.rule == "end.none"]
    assert Counter(end for w in cured.wires for end in (w.a, w.b))[f"{connector}.a1"] == 1
    parts = [p.id for p in b.plan.parts]
    assert joined_terminals(cured, parts) == joined_terminals(b.plan, parts)


def test_an_open_barrel_takes_two_that_are_crimped_together_inserted_and_ordered_as_one():
    b, connector = two_on_a_contact("blade 6.3")
    a = analyse(b.plan)
    assert not [f for f in a.findings if f.rule == "end.none"]
    ends = [e for e in a.ends.every if e.at == f"{connector}.a1"]
    assert len(ends) == 2 and ends[0].area_mm2 == sum(a.wires[e.wire].area_mm2 for e in ends)
    work = work_on(a)
    about = {o.kind: o for o in work.operations.values() if f"{connector}.a1" in o.key}
    assert "into one barrel" in about["splice"].words
    name = b.plan.part(connector).name
    pushed = [o for o in work.operations.values() if o.kind == "insert" and f"of {name}" in o.words]
    assert len(pushed) == 2  # one from each side
    assert any(about["splice"].key in work.before[o.key] for o in pushed)
    second = next(w for w in b.plan.wires if f"{connector}.a1" in (w.a, w.b) and "L2.pos" not in (w.a, w.b))
    side = "a" if second.a.part == connector else "b"
    apart = apply(b.plan, MoveEnd(id=second.id, end=side, to=f"{connector}.a2"))
    shared, each = (sum(i.need for i in order(x).items if i.group == "Terminals" and "6.3" in i.what)
                    for x in (a, analyse(apart)))
    assert shared == each - 1
