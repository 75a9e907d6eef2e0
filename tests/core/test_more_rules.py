"""Rules about plugs, relays, contacts, modules, references, packs and lamps, each on both sides of its limit."""

import pytest
from builders import Bench
from judgement.plans import both_sides, rules_of, usual_e_bike

from loadstar.core.analysis import analyse
from loadstar.core.edits import AddWire, ChangeElement, MoveEnd, apply
from loadstar.core.edits.builder import Builder
from loadstar.core.errors import PlanError
from loadstar.core.rules import RULES
from loadstar.exchange.docs import DOCUMENTS


def bench(**tap):
    b = Bench()
    b.change(b.key, **tap)
    b.lamp()
    return b


def relay_of(b):
    return next(p.id for p in b.plan.parts if p.kind == "relay")


def on_relay(field):
    def make(value):
        b = bench()
        b.change(relay_of(b), **{field: value})
        return b.plan
    return make


def on_load(field, **more):
    def make(value):
        b = Bench()
        b.lamp(**{**more, field: value})
        return b.plan
    return make


def plugged(watts, **tap):
    b = Bench()
    b.change(b.key, **{"rated_a": 8, "fused_a": 20, **tap})
    b.load(feed=b.key, amount=watts)
    return b.plan


def moduled(total=40, most=15, watts=30, ways=6):
    b = Bench()
    module = b.add("module", name="module", place=b.box, total_a=total, way_most_a=most, ways=ways)
    b.load(feed=module, amount=watts)
    b.load(feed=module, amount=watts, live="engine")
    return b.plan


BATTERY_RULES = {
    "feed.trigger-overloaded": (lambda v: bench(rated_a=v).plan, 0.5, 0.1),
    "feed.plug-overloaded": (plugged, 90, 110),
    "feed.plug-fuse": (lambda v: plugged(70, fused_a=v), 10, 7),
    "feed.run-on": (lambda v: bench(off_delay_s=v).plan, 0, 20),
    "feed.module-total": (lambda v: moduled(total=v), 10, 3),
    "feed.module-way": (lambda v: moduled(most=v), 5, 1),
    "relay.pull-in": (on_relay("pull_in_v"), 8.0, 11.7),
    "relay.suppression": (on_relay("suppression"), "diode", "none"),
    "contact.rating": (on_relay("contact_a"), 5, 1),
    "contact.kind": (on_relay("contact_a"), 5, 2),
    "fuse.maker": (on_load("maker_fuse_a", amount=60), 15, 2),
    "return.school": (on_load("returns"), "own wire", "frame"),
    "load.always-live": (on_load("reason_always", live="always"), "alarm", ""),
}


@pytest.mark.parametrize("rule", BATTERY_RULES)
def test_on_a_battery(rule):
    make, inside, beyond = BATTERY_RULES[rule]
    both_sides(make, rule, inside, beyond)


def test_too_many_ways_of_a_module():
    assert "feed.module-total" in rules_of(moduled(ways=1))


def test_a_wire_of_the_abs_is_never_a_feed_nor_a_trigger():
    b = bench()
    b.change(b.key, never="ABS")
    assert "feed.never" in rules_of(b.plan)
    with pytest.raises(PlanError, match="ever fed"):
        b.load(feed=b.key)


def test_frame_joint_that_ages():
    def make(ageing):
        b = Bench()
        lamp = b.lamp(60, returns="frame")
        b.change(next(p.id for p in b.plan.parts if p.kind == "frame" and p.made_for == lamp), joint_mohm=5,
                 ageing=ageing)
        return b.plan
    both_sides(make, "return.frame-joint", 1, 40)


def test_departing_from_a_house_rule_wants_a_reason():
    b = Bench()
    b.rules(thermal_margin_k=20)
    assert "rules.no-reason" in rules_of(b.plan)
    b.rules(reasons={"thermal_margin_k": "hot country"})
    assert "rules.no-reason" not in rules_of(b.plan)


def test_a_chafed_wire_far_away_need_not_open_its_fuse():
    def make(length):
        b = Bench()
        lamp = b.lamp(amount=120)
        b.change(b.fuse_of(lamp), rating_a=20)
        b.wire(b.feed_wire(lamp), area_mm2=2.5, length_m=length)
        b.rules(chafe_arc_v=11.3)
        return b.plan
    assert "fuse.never-opens" in rules_of(make(9.5))
    near = make(0.3)
    b_rules = near.model_copy(update={"rules": near.rules.model_copy(update={"chafe_arc_v": 0})})
    assert "fuse.never-opens" not in rules_of(b_rules)


def test_kill_wires():
    b = Bench()
    kill, switch = b.add("kill", name="kill", place=b.nose), b.add("switch", name="stop", place=b.nose)
    point = b.add("frame", name="joint", place=b.nose)
    for a, z in ((f"{kill}.t", f"{switch}.a"), (f"{switch}.b", f"{point}.t")):
        b.plan = apply(b.plan, AddWire(a=a, b=z))
    assert not {"kill.fed", "kill.shared"} & rules_of(b.plan)
    lamp = b.lamp(returns="own wire")
    shared = apply(b.plan, AddWire(a=f"{lamp}.pos", b=f"{kill}.t"))
    assert "kill.fed" in rules_of(shared)


def starter(limit):
    b = Bench()
    b.machine(cranking_a=150)
    motor = b.add("starter", name="starter", place=b.nose)
    wire = next(w.id for w in b.plan.wires if f"{motor}.pos" in (w.a, w.b))
    b.wire(wire, area_mm2=6.0)
    b.rules(starter_drop_v=limit)
    return b.plan


def test_starter_leads():
    assert "starter.drop" in rules_of(starter(0.3))
    assert "starter.drop" not in rules_of(starter(3.0))
    assert "starter.leads" in rules_of(starter(3.0))


def test_starter_leads_left_to_loadstar_hold_the_rule():
    b = Bench()
    b.add("starter", name="starter", place=b.nose)
    assert "starter.drop" not in rules_of(b.plan)


def generator(**values):
    b = Bench()
    b.change(b.plan.generator.id, **values)
    b.lamp(returns="frame")
    return b.plan


@pytest.mark.parametrize(("rule", "inside", "beyond"), [
    ("reference.two-on-frame", {"tied": "floating"}, {"tied": "frame"}),
    ("supply.shunt", {"regulator": "series"}, {"regulator": "shunt"}),
    ("supply.half-wave", {"phases": 1}, {"phases": 1, "rectifier": "half", "tied": "frame"}),
    ("supply.half-tied", {"phases": 1, "rectifier": "half", "tied": "frame"}, {"phases": 1, "rectifier": "half"}),
])
def test_generators(rule, inside, beyond):
    both_sides(lambda v: generator(**v), rule, inside, beyond)


def test_a_frame_that_is_to_stay_free_of_dc():
    plan = generator()
    assert "reference.floats-and-touches" not in rules_of(plan)
    floating = plan.model_copy(update={"machine": plan.machine.model_copy(update={"chassis": "floating"})})
    point = next(p.id for p in plan.parts if p.kind == "frame")
    tied = apply(floating, AddWire(a=plan.battery.at("neg"), b=f"{point}.t"))
    assert "reference.floats-and-touches" in rules_of(tied)


def magneto(watts=24, at_v=6.0, behaviour="filament", **machine):
    b = Builder("magneto")
    b.machine(system="magneto", system_v=6, chassis="winding",
              **{"idle_rpm": 1500, "town_rpm": 3000, "cruise_rpm": 4000, **machine})
    place = b.add("place", name="engine")
    coil = b.add("coil", name="coil", place=place, emf_mv_per_rpm=7.8, reactance_mohm_per_rpm=1.38, winding_ohm=0.3)
    for name, amount in (("head", watts), ("tail", 5)):
        b.add("load", name=name, category="lamp", behaviour=behaviour, amount=amount, at_v=at_v, place=place, feed=coil,
              live="engine", returns="frame", window_high_v=100)
    return b.plan


@pytest.mark.parametrize(("rule", "inside", "beyond"), [
    ("lamp.over-volts", {"watts": 30}, {"watts": 15}), ("lamp.dim", {"watts": 24}, {"watts": 80}),
    ("lamp.higher-volts", {"at_v": 6}, {"at_v": 6.5}), ("lamp.not-filament", {}, {"behaviour": "power"}),
    ("lamp.takes-others", {"idle_rpm": 400, "town_rpm": 700}, {}),
])
def test_lamps_on_a_magneto(rule, inside, beyond):
    both_sides(lambda v: magneto(**v), rule, inside, beyond)


def test_a_switch_that_should_trigger_a_relay():
    def make(inrush):
        plan = usual_e_bike(converter={}, load={"inrush_a": inrush, "inrush_ms": 5})
        switch = plan.of_kind("switch")[0].id
        assert "contact.needs-relay" not in rules_of(plan)  # left to Loadstar it is large enough
        return apply(plan, ChangeElement(id=switch, values={"contact_a": 10}))
    both_sides(make, "contact.needs-relay", 50, 90)


def test_a_bus_bar_with_more_terminals_than_places():
    def make(places):
        b = Bench()
        bar = b.add("junction", name="bar", place=b.box, form="bus bar", terminals=places)
        b.load(feed=bar, live="always", reason_always="x")
        return b.plan
    both_sides(make, "feed.bus-bar", 2, 1)


def test_every_rule_has_its_page_and_there_are_enough_of_them():
    page = DOCUMENTS["docs/findings.md"]()
    assert len(RULES) >= 45
    for rule in RULES.values():
        assert f"`{rule.id}`" in page or rule.id in page
        assert rule.meaning.endswith(".")
        assert rule.cure
        assert rule.source


def test_a_load_with_its_wires_changed_over():
    b = Bench()
    lamp = b.lamp()
    feed, back = b.feed_wire(lamp), next(w.id for w in b.plan.wires if w.a == f"{lamp}.neg")
    assert "load.reversed" not in rules_of(b.plan)
    plan = apply(apply(b.plan, MoveEnd(id=feed, end="b", to=f"{lamp}.neg")),
                 MoveEnd(id=back, end="a", to=f"{lamp}.pos"))
    finding = next(f for f in analyse(plan).findings if f.rule == "load.reversed")
    assert finding.severity == "stop"
