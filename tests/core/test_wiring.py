"""Geometry, ways through the circuit, and the solved states."""

import itertools

import pytest
from builders import Bench

from loadstar.core.analysis import analyse
from loadstar.core.doc.states import ENGINE_STATES
from loadstar.core.wiring.geometry import geometries


def test_length_along_the_run_with_both_ends():
    b = Bench()
    wire = b.feed_wire(b.lamp())
    found = geometries(b.plan)[wire]
    # 1.2 m of run and 0.08 m at each end.
    assert found.length_m == pytest.approx(1.36)
    assert [s.run for s in found.segments] == [b.run]


def test_the_shortest_way_is_taken():
    b = Bench()
    middle = b.add("place", name="middle")
    b.add("run", a=b.box, b=middle, length_m=0.3)
    b.add("run", a=middle, b=b.nose, length_m=0.4)
    wire = b.feed_wire(b.lamp())
    found = geometries(b.plan)[wire]
    assert found.length_m == pytest.approx(0.86)
    assert len(found.segments) == 2


def test_within_a_place_the_house_rule_holds():
    b = Bench()
    wire = next(w for w in b.plan.wires if w.a == f"{b.battery}.pos")
    assert geometries(b.plan)[wire.id].length_m == pytest.approx(0.10 + 2 * 0.08)


def test_a_measured_length_wins():
    b = Bench()
    wire = b.feed_wire(b.lamp())
    b.wire(wire, length_m=2.5)
    found = geometries(b.plan)[wire]
    assert found.length_m == pytest.approx(2.5)
    assert sum(s.length_m for s in found.segments) == pytest.approx(2.5)


def test_without_a_run_the_way_is_unknown_and_said():
    b = Bench()
    far = b.add("place", name="far", x_mm=2500)
    lamp = b.lamp(place=far)
    found = geometries(b.plan)[b.feed_wire(lamp)]
    assert not found.way_known
    assert any(f.rule == "wire.no-way" for f in analyse(b.plan).findings)
    b.wire(b.feed_wire(lamp), length_m=2.0)
    assert geometries(b.plan)[b.feed_wire(lamp)].way_known


def test_the_run_is_as_warm_as_its_warmer_end_unless_said():
    b = Bench()
    b.change(b.nose, ambient_c=55)
    wire = b.feed_wire(b.lamp())
    assert geometries(b.plan)[wire].hottest_ambient_c == 55
    b.change(b.run, ambient_c=70)
    assert geometries(b.plan)[wire].hottest_ambient_c == 70


def test_the_way_goes_from_battery_to_load_and_back():
    b = Bench()
    lamp = b.lamp()
    path = analyse(b.plan).path(lamp)
    assert path.complete
    kinds = ["W" if k.element.startswith("W") else k.element[0] for k in path.feed]
    assert kinds == ["W", "F", "W", "W", "K", "W", "F", "W"]
    for side in (path.feed, path.back):
        for one, two in itertools.pairwise(side):
            assert one.b == two.a


@pytest.mark.parametrize(("live", "states"), [
    ("always", set(ENGINE_STATES)), ("key", set(ENGINE_STATES) - {"parked"}), ("engine", {"idle", "town", "cruise"})])
@pytest.mark.parametrize("feed", ["block", "battery"])
def test_a_load_lives_when_it_should(live, states, feed):
    b = Bench()
    lamp = b.lamp(live=live, feed=getattr(b, feed))
    a = analyse(b.plan)
    # Cranking pulls the battery down, but not below a relay's pull-in here.
    assert {s for s in ENGINE_STATES if a.volts.across_v(lamp, s) is not None} == states


def test_the_regulator_holds_its_set_point_when_it_can():
    b = Bench()
    b.lamp()
    a = analyse(b.plan)
    cruise = a.states["cruise"]
    assert cruise.source == "regulated"
    assert cruise.posts_v == pytest.approx(14.2)
    assert cruise.charging_a > 0


def test_when_the_generator_is_short_the_battery_pays():
    b = Bench()
    b.lamp(90, live="engine")
    idle = analyse(b.plan).states["idle"]
    assert idle.source == "short"
    assert idle.battery_a > 0
    assert idle.posts_v < 12.8


def test_cranking_pulls_the_posts_down_by_the_battery_s_resistance():
    b = Bench(generator=False)
    a = analyse(b.plan)
    # 80 %: 12.616 V rested (AGM); 110 A through 12 mohm x (0.5 + 0.5/0.8) = 13.5 mohm takes 1.485 V.
    assert a.states["cranking"].posts_v == pytest.approx(12.616 - 110 * 0.0135, abs=2e-3)


def test_a_relay_that_the_trigger_cannot_pull_in_leaves_its_load_dead():
    b = Bench()
    lamp = b.lamp()
    relay = next(p for p in b.plan.parts if p.kind == "relay")
    b.change(relay.id, pull_in_v=12.0)
    b.change(b.key, source_mohm=5000)
    b.change(relay.id, coil_ohm=10)
    a = analyse(b.plan)
    assert a.volts.across_v(lamp, "key_on") is None
    assert any(f.rule == "load.not-live" and lamp in f.elements for f in a.findings)


def test_wires_warm_up_and_cost_more():
    b = Bench()
    lamp = b.lamp(60)
    a = analyse(b.plan)
    wire = b.feed_wire(lamp)
    idle = a.states["key_on"]
    assert idle.wire_c[wire] > 40.5
    assert idle.ambient_c[wire] == pytest.approx(40)


def test_without_a_battery_there_is_a_note_and_no_figure():
    b = Bench(battery=False, generator=False)
    a = analyse(b.plan)
    assert a.states == {}
    assert [f.rule for f in a.findings] == ["supply.no-battery"]


def test_same_plan_same_analysis():
    b = Bench()
    b.lamp()
    one, two = analyse(b.plan), analyse(b.plan)
    assert one.findings == two.findings
    assert one.wires == two.wires
    assert one.states["idle"].solution.potential_v == two.states["idle"].solution.potential_v


def test_a_place_in_a_zone_is_as_warm_as_the_house_rule_says():
    b = Bench()
    wire = b.feed_wire(b.lamp())
    b.change(b.nose, zone="near the engine", ambient_c=25)
    assert geometries(b.plan)[wire].hottest_ambient_c == 80
    b.rules(ambient_engine_c=95, reasons={"ambient_engine_c": "air-cooled and close"})
    assert geometries(b.plan)[wire].hottest_ambient_c == 95
    b.change(b.nose, zone="")
    assert geometries(b.plan)[wire].hottest_ambient_c == 40  # the warmer end is the box


def test_tinned_wire_loses_a_little_more():
    b = Bench()
    lamp = b.lamp(50)
    for w in b.plan.wires:
        b.wire(w.id, area_mm2=1.5)
    bare = analyse(b.plan).volts.drop_frac(b.part(lamp), "idle")
    b.rules(tinned=True)
    assert bare < analyse(b.plan).volts.drop_frac(b.part(lamp), "idle") < bare * 1.04
