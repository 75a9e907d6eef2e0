"""The rules, each on both sides of its limit."""

import pytest
from builders import Bench, cure

from loadstar.core.analysis import analyse
from loadstar.core.edits import apply
from loadstar.core.rules import RULES


def found(b: Bench, rule: str):
    """Findings of one rule."""
    return [f for f in analyse(b.plan).findings if f.rule == rule]


def test_a_sound_plan_has_no_findings_but_the_budget_s():
    b = Bench()
    b.machine(idle_rpm=2500)
    b.lamp()
    assert [f.rule for f in analyse(b.plan).findings] == []


def strong_main_fuse(b: Bench) -> None:
    """So that the load's own fuse is the one that guards its wire."""
    b.change(next(p.id for p in b.plan.parts if p.kind == "fuse" and p.made_for == b.block), rating_a=30)


def test_the_smaller_of_two_fuses_in_a_row_guards():
    b = Bench()
    lamp = b.lamp()
    b.change(b.fuse_of(lamp), rating_a=15)
    guard = analyse(b.plan).wires[b.feed_wire(lamp)].guard
    assert guard.fuse != b.fuse_of(lamp)
    strong_main_fuse(b)
    assert analyse(b.plan).wires[b.feed_wire(lamp)].guard.fuse == b.fuse_of(lamp)


def test_wire_not_protected_and_its_cure():
    b = Bench()
    lamp = b.lamp()
    strong_main_fuse(b)
    wire = b.feed_wire(lamp)
    b.change(b.fuse_of(lamp), rating_a=15)
    assert found(b, "wire.not-protected") == []
    b.wire(wire, area_mm2=0.35)
    stop, = found(b, "wire.not-protected")
    assert stop.severity == "stop"
    assert stop.elements[0] == wire
    b.plan = apply(b.plan, cure(stop, b.plan))
    assert b.plan.wire(wire).area_mm2 is None
    assert found(b, "wire.not-protected") == []


def test_only_just_protected_is_said_of_a_hand_fixed_wire():
    b = Bench()
    b.change(b.nose, ambient_c=60)
    lamp = b.lamp()
    strong_main_fuse(b)
    b.change(b.fuse_of(lamp), rating_a=10)
    wire = b.feed_wire(lamp)
    severities = {}
    for area in (0.35, 0.5, 0.75, 1.0, 1.5):
        b.wire(wire, area_mm2=area)
        hit = [f.severity for f in found(b, "wire.not-protected") if f.elements[0] == wire]
        severities[area] = hit[0] if hit else ""
    assert severities[0.35] == "stop"
    assert severities[1.5] == ""
    assert list(severities.values()) == sorted(severities.values(), key=["stop", "caution", ""].index)


def test_wire_too_hot():
    b = Bench()
    b.change(b.nose, ambient_c=84)
    lamp = b.lamp(40)
    b.wire(b.feed_wire(lamp), area_mm2=0.5)
    hits = [f for f in found(b, "wire.too-hot") if b.feed_wire(lamp) in f.elements]
    assert hits
    b.change(b.nose, ambient_c=40)
    assert found(b, "wire.too-hot") == []


def test_unfused_length():
    b = Bench()
    wire = next(w.id for w in b.plan.wires if w.a == f"{b.battery}.pos")
    assert found(b, "wire.no-fuse") == []
    b.wire(wire, length_m=0.31)
    stop, = found(b, "wire.no-fuse")
    assert stop.severity == "stop"
    assert wire in stop.elements
    b.wire(wire, length_m=0.30)
    assert found(b, "wire.no-fuse") == []


def test_below_the_mechanical_minimum():
    b = Bench()
    wire = b.feed_wire(b.lamp(5))
    b.wire(wire, area_mm2=0.35)
    assert len(found(b, "wire.below-minimum")) == 1
    b.wire(wire, area_mm2=0.5)
    assert found(b, "wire.below-minimum") == []


@pytest.mark.parametrize(("rating", "severity"), [(7.5, None), (5, "caution"), (3, "stop")])
def test_fuse_share(rating, severity):
    # 50 W at about 12.3 V is 4.1 A: 55 % of 7.5 A, 83 % of 5 A, over 3 A.
    b = Bench(generator=False)
    lamp = b.lamp(50)
    b.change(b.fuse_of(lamp), rating_a=rating)
    hits = [f for f in found(b, "fuse.share") if b.fuse_of(lamp) in f.elements]
    assert ([f.severity for f in hits] or [None]) == [severity]


def test_fuse_left_to_loadstar_carries_its_share():
    b = Bench(generator=False)
    lamp = b.lamp(50)
    assert analyse(b.plan).ratings.rating_a(b.fuse_of(lamp)) == 7.5


def test_inrush():
    b = Bench()
    lamp = b.lamp(18, inrush_a=40, inrush_ms=20)
    # 32 A2s: more than 0.3 of what opens a 3 A or 10 A fuse in 20 ms; found by raising the rating.
    chosen = analyse(b.plan).ratings.rating_a(b.fuse_of(lamp))
    assert chosen > 3
    b.change(b.fuse_of(lamp), rating_a=3)
    assert [f for f in found(b, "fuse.inrush") if b.fuse_of(lamp) in f.elements]
    b.change(b.fuse_of(lamp), rating_a=chosen)
    assert not [f for f in found(b, "fuse.inrush") if b.fuse_of(lamp) in f.elements]


def test_voltage_window():
    b = Bench()
    lamp = b.lamp(window_low_v=12.2)
    low = found(b, "load.outside-window")
    assert low and low[0].severity == "stop"
    b.change(lamp, window_low_v=9)
    assert found(b, "load.outside-window") == []
    b.change(lamp, window_high_v=13)
    assert "accepts up to 13 V" in found(b, "load.outside-window")[0].sentence


def test_drop_over_the_house_rule_and_its_cure():
    b = Bench(generator=False)
    lamp = b.lamp(60)
    assert found(b, "load.drop") == []
    wire = b.feed_wire(lamp)
    b.wire(wire, area_mm2=0.5, length_m=4)
    b.change(b.fuse_of(lamp), rating_a=7.5)
    hit, = found(b, "load.drop")
    b.plan = apply(b.plan, cure(hit, b.plan))
    assert found(b, "load.drop") == []


def test_a_load_that_cannot_be_carried_shows_no_voltage():
    b = Bench(generator=False)
    lamp = b.lamp(200, category="motor")
    wire = b.feed_wire(lamp)
    b.wire(wire, area_mm2=0.35, length_m=9.5)
    hit, = found(b, "load.not-carried")
    assert hit.severity == "stop"
    assert "collapses" in hit.sentence
    assert " V" not in hit.sentence


def test_always_live_wants_a_reason():
    b = Bench()
    load = b.load(live="always", amount=1)
    assert len(found(b, "load.always-live")) == 1
    b.change(load, reason_always="alarm")
    assert found(b, "load.always-live") == []


def test_electronics_that_restart_at_every_start():
    b = Bench()
    b.load(category="electronics", window_low_v=11.5)
    assert [f.severity for f in found(b, "load.drops-out")] == ["advice"]
    b.machine(cranking_a=5)
    assert found(b, "load.drops-out") == []


def test_budget_short_and_never():
    b = Bench()
    assert [f.working for f in found(b, "budget.short")] == []
    b.lamp(120, live="engine")
    assert "margin/idle" in [f.working for f in found(b, "budget.short")]
    assert found(b, "budget.never") == []
    b.lamp(300, live="engine")
    assert len(found(b, "budget.never")) == 1


def test_parked():
    b = Bench()
    load = b.load(live="always", amount=1, reason_always="x")
    hit, = found(b, "budget.parked")
    assert "thing is live then" in hit.sentence
    b.change(load, minutes_per_hour=0.5)
    assert found(b, "budget.parked") == []


def test_cranking():
    b = Bench()
    b.machine(cranking_a=350)
    assert [f.severity for f in found(b, "budget.crank")] == ["stop"]
    b.machine(cranking_a=100)
    b.change(b.battery, charge_frac=0.2)
    assert [f.severity for f in found(b, "budget.crank")] == ["caution"]
    b.change(b.battery, charge_frac=0.9)
    assert found(b, "budget.crank") == []


@pytest.mark.parametrize(("watts", "severity"), [(30, None), (40, "caution"), (60, "stop")])
def test_plug_over_its_rating(watts, severity):
    # Rated 3 A: 30 W is 2.5 A, 40 W 3.4 A, 60 W 5.3 A.
    b = Bench(generator=False)
    b.load(feed=b.key, amount=watts)
    hits = found(b, "feed.plug-overloaded")
    assert ([f.severity for f in hits] or [None]) == [severity]


def test_two_users_of_a_plug_are_judged_together():
    b = Bench(generator=False)
    b.load(feed=b.key, amount=20)
    assert found(b, "feed.plug-overloaded") == []
    b.load(feed=b.key, amount=20)
    assert len(found(b, "feed.plug-overloaded")) == 1


def test_ways_of_a_block():
    b = Bench()
    b.change(b.block, ways=2)
    b.lamp()
    b.lamp()
    assert found(b, "feed.ways") == []
    b.lamp()
    assert "3 are used" in found(b, "feed.ways")[0].sentence


def test_rings_on_a_post():
    b = Bench()
    for _ in range(3):
        b.load(feed=b.battery, live="always", amount=1, reason_always="x")
    assert found(b, "feed.stud") == []
    b.load(feed=b.battery, live="always", amount=1, reason_always="x")
    assert {f.severity for f in found(b, "feed.stud")} == {"caution"}


def test_contact_rating():
    b = Bench()
    b.lamp(60)
    relay = next(p.id for p in b.plan.parts if p.kind == "relay")
    assert found(b, "contact.rating") == []
    b.change(relay, contact_a=4)
    assert found(b, "contact.rating")[0].elements == (relay,)


def test_generator_ratings_that_fit_no_machine():
    b = Bench()
    generator = b.plan.generator
    b.change(generator.id, rating1_w=1, rating1_rpm=4900, rating2_w=340)
    hit, = found(b, "supply.generator")
    assert generator.id in hit.elements
    assert analyse(b.plan).states["idle"].source == "battery"


def test_every_rule_is_documented_and_findings_name_known_rules():
    for rule in RULES.values():
        assert len(rule.meaning) > 20
        assert rule.cure
        assert rule.source
    b = Bench()
    b.lamp(200)
    assert {f.rule for f in analyse(b.plan).findings} <= set(RULES)


def test_gravest_first():
    b = Bench()
    lamp = b.lamp(70)
    b.wire(b.feed_wire(lamp), area_mm2=0.22)
    order = [f.severity for f in analyse(b.plan).findings]
    assert order == sorted(order, key=["stop", "caution", "advice", "note"].index)
    assert order[0] == "stop"
