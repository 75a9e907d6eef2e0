"""Faults and protection, judged: each wrong verdict that was found is gone, and its right neighbours are kept."""

import math
from itertools import product

import numpy as np
import pytest
from builders import Bench, cure
from judgement.paths import PATHS
from judgement.plans import e_bike, grave, rules_of, seen

from loadstar.core.analysis import analyse
from loadstar.core.edits import (
    AddElement,
    AddWire,
    ChangeElement,
    MoveEnd,
    RemoveElement,
    RemoveWire,
    SetWire,
    apply,
)
from loadstar.core.figures.registry import NoFigure, working
from loadstar.core.figures.touches import stages, worst_course
from loadstar.core.physics import overload
from loadstar.core.physics.overload import Insulated
from loadstar.core.sizing.argument import adiabatic_s, damage_s
from loadstar.core.sizing.inrush import inrush_through
from loadstar.core.sizing.openers import Guard, Opener
from loadstar.core.wiring.conductor import ConductorAt


def moduled(watts=60, **values):
    b = Bench()
    module = b.add("module", name="module", place=b.box, way_most_a=30)
    load = b.load(feed=module, amount=watts, category="heating", **values)
    return b, load


@pytest.mark.parametrize("area", [0.75, 1.0, 1.5, 2.5])
@pytest.mark.parametrize("setting", [7.5, 10, 12.5])
def test_a_module_s_way_is_judged_at_the_current_that_can_flow(area, setting):
    """Steady heat decides; no stop for a fault current beyond what battery and wires can drive."""
    b, load = moduled(60)
    way = next(p.id for p in b.plan.parts if p.kind == "way")
    b.change(way, limit_a=setting)
    b.change(next(p.id for p in b.plan.parts if p.kind == "fuse" and p.name.startswith("module")), rating_a=30)
    b.wire(b.feed_wire(load), area_mm2=area, length_m=2.5)
    a = analyse(b.plan)
    wire = a.wires[b.feed_wire(load)]
    assert wire.guard.opener.kind == "electronic"
    for finding in seen(a, "wire.not-protected"):
        assert "may act too late" not in finding.sentence
    # The largest current: full battery, everything cold, by hand within 2 % (contacts and relay-less way included).
    assert wire.guard.fault_a < 12.8 / 0.012


def test_an_electronic_way_is_slow_near_its_limit_and_fast_at_a_short():
    way = Opener("Y1", "electronic", 10, 1.0)
    assert math.isinf(way.slowest_s(12))
    assert way.slowest_s(13.5) == pytest.approx(1.0)
    assert 0.005 < way.slowest_s(30) < 0.1
    assert way.slowest_s(200) == pytest.approx(0.001)
    times = [way.slowest_s(a) for a in np.geomspace(13.5, 2000, 40)]
    assert times == sorted(times, reverse=True)


def test_of_several_guards_in_series_the_fastest_counts():
    fuse, way = Opener("F1", "fuse", 10, 1.0), Opener("Y1", "electronic", 15, 1.0)
    both = Guard("W1", fuse, 300.0, helper=way)
    assert both.slowest_s(15) == fuse.slowest_s(15)  # the way does not act at its setting
    assert both.slowest_s(100) == way.slowest_s(100) < fuse.slowest_s(100)


def test_damage_is_never_said_later_than_the_thermal_model_has_it():
    """The kept curve against the model itself, and never under the adiabatic time of IEC 60364-4-43."""
    for area, air, start in product((0.5, 1.5, 6.0), (40, 85), (60, 95)):
        wire = ConductorAt(area, "thin", "B", False, 1.0)
        for amps in np.geomspace(20, 900, 13):
            kept = damage_s(wire, float(amps), air, max(start, air))
            exact = float(overload.time_to_temperature_s(amps, Insulated(
                area, wire.r20_ohm_per_m, wire.d_mm, wire.od_mm, 0.2), 150, max(start, air), air))
            assert kept <= exact * 1.04 or not 0.02 < exact < 3000  # the model's own grid runs from 10 ms to 4000 s
            assert kept >= exact * 0.85 or math.isinf(exact)
            assert kept >= adiabatic_s(wire, float(amps), max(start, air)) * 0.999


def test_a_fault_does_not_flow_backwards_through_an_ideal_diode():
    plan = e_bike(second={"charge_frac": 0.6}, combiner={"way": "diode"}, converter={}, load={"amount": 40})
    a = analyse(plan)
    lead = next(w.id for w in plan.wires if "PK1.pos" in (w.a, w.b))
    # A touch of the first pack's own lead is fed by that pack alone: full pack over its resistance.
    pack_ohm = 13 / 5 * 0.035 + 0.015
    assert a.wires[lead].fault_a == pytest.approx(54.6 / pack_ohm, rel=0.12)
    assert not [f for f in a.findings if "inf" in f.sentence or "nan" in f.sentence]
    assert not {"wire.not-protected", "fuse.never-opens"} & rules_of(a)


@pytest.mark.parametrize("position", ["a", "b"])
def test_both_sides_of_a_changeover_are_never_closed_together(position):
    plan = e_bike(second={"rested_v": 42.0}, combiner={"way": "changeover", "position": position}, converter={},
                  load={"amount": 40})
    a = analyse(plan)
    for side, pack in (("a", "PK1"), ("b", "PK2")):
        joint = a.plan.of_kind("combiner")[0].id
        wire = next(w.id for w in plan.wires if w.b == f"{joint}.{side}")
        assert a.wires[wire].fault_a < 54.6 / (13 / 5 * 0.035 + 0.015) * 1.01, pack
    assert not {"wire.not-protected", "fuse.never-opens", "pack.joined"} & rules_of(a)


def test_contacts_that_never_close_together_are_not_one_thick_way():
    """Two switches, one for either state, side by side: each carries all of a fault, not half of it."""
    b = Bench(generator=False)
    lamp = b.lamp(30, feed=b.battery, live="always", reason_always="x")
    b.change(b.fuse_of(lamp), rating_a=10)
    feed = b.feed_wire(lamp)
    ends = []
    for states in (("parked",), ("key_on", "cranking", "idle", "town", "cruise")):
        switch = b.add("switch", name=f"switch {len(ends)}", place=b.nose, closed_in=states)
        ends.append(switch)
    b.plan = apply(b.plan, MoveEnd(id=feed, end="b", to=f"{ends[0]}.a"))
    b.plan = apply(b.plan, AddWire(a=f"{ends[0]}.a", b=f"{ends[1]}.a"))
    for end in ends:
        b.plan = apply(b.plan, AddWire(a=f"{end}.b", b=f"{lamp}.pos"))
    last = [w.id for w in b.plan.wires if w.b == f"{lamp}.pos"]
    assert [analyse(b.plan).wires[w].guard.share for w in last] == pytest.approx([1.0, 1.0], abs=0.01)


def shorted(b, a, z):
    return apply(b.plan, AddWire(a=a, b=z, values={"colour": "BK", "length_m": 0.3}))


def test_a_dead_short_across_the_battery_is_one_finding_that_says_where():
    b = Bench()
    b.lamp()
    plan = shorted(b, f"{b.battery}.pos", f"{b.battery}.neg")
    a = analyse(plan)
    finding, = seen(a, "network.short")
    wire = plan.wires[-1].id
    assert finding.severity == "stop"
    assert wire in finding.sentence
    assert "battery" in finding.sentence
    assert "nothing protects" in finding.sentence
    assert cure(finding, a) == RemoveWire(id=wire)
    assert [f.rule for f in a.findings if f.severity in ("stop", "caution")] == ["network.short"]
    assert not [f.sentence for f in a.findings if "inf" in f.sentence.split() or "nan" in f.sentence]
    assert all(r.solution is None for r in a.states.values())


def test_a_dead_short_across_a_load_behind_its_fuse():
    b = Bench()
    lamp, other = b.lamp(), b.lamp(name="other", feed=b.battery, live="always", reason_always="x")
    plan = shorted(b, f"{lamp}.pos", f"{lamp}.neg")
    a = analyse(plan)
    finding, = seen(a, "network.short")
    assert "opens at once" in finding.sentence
    assert "key on" in finding.sentence
    assert "parked" not in finding.sentence  # the relay is open then
    assert a.states["parked"].solution is not None
    assert a.volts.across_v(other, "parked") > 12
    assert "network.short" not in rules_of(apply(plan, cure(finding, a)))


def two_lamps(shape="rectangle", **more):
    b = Bench()
    for name in ("left", "right"):
        b.lamp(20, name=name, feed=b.block, inrush_a=45, inrush_ms=10, inrush_shape=shape, **more)
    return b


def joined_behind_one(b, rating=10):
    """Both lamps behind the first one's fuse."""
    first, second = (p.id for p in b.plan.loads)
    fuse = b.fuse_of(first)
    b.plan = apply(b.plan, MoveEnd(id=b.feed_wire(second), end="a", to=f"{fuse}.b"))
    b.change(fuse, rating_a=rating)
    return fuse


def test_the_inrush_of_what_comes_on_together_is_summed():
    b = two_lamps()
    fuse = joined_behind_one(b)
    a = analyse(b.plan)
    # (45 + 45)^2 x 10 ms, by hand.
    assert inrush_through(a.topology, fuse, 10).a2s == pytest.approx(81.0)
    finding = next(f for f in seen(a, "fuse.inrush") if f.elements[0] == fuse)
    assert "left and right together" in finding.sentence
    single = Bench()
    lamp = single.lamp(20, inrush_a=45, inrush_ms=10)
    single.change(single.fuse_of(lamp), rating_a=10)
    assert "fuse.inrush" not in rules_of(single.plan)


def test_what_comes_on_by_itself_is_not_summed():
    b = two_lamps(live="always", reason_always="x")
    fuse = joined_behind_one(b)
    assert inrush_through(analyse(b.plan).topology, fuse, 10).a2s == pytest.approx(45**2 * 0.010)


@pytest.mark.parametrize(("ms", "told"), [(5, False), (6, True)])
def test_a_short_inrush_is_not_hidden_by_a_slow_one_with_more_to_it(ms, told):
    """A 10 A fuse bears 0.3 x 72 = 21.6 A2s of a short inrush and 10^2 x 0.4 = 40 A2s of one of 400 ms. The pump's 9^2
    x 0.4 = 32.4 it bears; the lamp's 65^2 x 0.005 = 21.1 too, its 65^2 x 0.006 = 25.4 not, though that is less than the
    pump's."""
    b = Bench()
    alone = {"live": "always", "reason_always": "x", "feed": b.battery}
    b.load(name="pump", category="motor", amount=10, inrush_a=9, inrush_ms=400, **alone)
    b.load(name="lamp", category="lamp", amount=10, inrush_a=65, inrush_ms=ms, **alone)
    fuse = joined_behind_one(b)
    said = [f.sentence for f in seen(b.plan, "fuse.inrush") if f.elements[0] == fuse]
    assert bool(said) == told
    assert all("Switching on lamp puts 25.4 A²s" in s for s in said)


@pytest.mark.parametrize(("shapes", "by_hand"), [
    (("rectangle", "rectangle"), 40**2 * .02 + 30**2 * .01 + 2 * 40 * 30 * .01),
    (("decay", "decay"), 40**2 * .02 / 2 + 30**2 * .01 / 2 + 2 * 40 * 30 / (1 / .02 + 1 / .01)),
    (("rectangle", "decay"), 40**2 * .02 + 30**2 * .01 / 2 + 2 * 40 * 30 * .01 * (1 - math.exp(-2))),
])
def test_inrush_that_decays_is_integrated(shapes, by_hand):
    """The integral of the squared sum, by hand and by a fine sum of steps."""
    b = Bench()
    for shape, peak, ms in zip(shapes, (40, 30), (20, 10), strict=True):
        b.lamp(10, feed=b.block, inrush_a=peak, inrush_ms=ms, inrush_shape=shape)
    main = next(p.id for p in b.plan.parts if p.kind == "fuse" and p.made_for == b.block)
    found = inrush_through(analyse(b.plan).topology, main, 15).a2s
    t = np.linspace(0, 0.4, 400_001)
    total = sum(peak * (np.exp(-t / ms * 1000) if shape == "decay" else (t < ms / 1000))
                for shape, peak, ms in zip(shapes, (40, 30), (20, 10), strict=True))
    assert found == pytest.approx(by_hand, rel=1e-9)
    assert found == pytest.approx(float(np.trapezoid(total**2, t)), rel=2e-3)


def test_inrush_passes_the_factory_fuse_too():
    def pump(peak):
        b = Bench()
        b.change(b.key, rated_a=12, fused_a=15)
        b.load(name="pump", category="motor", amount=60, feed=b.key, inrush_a=peak, inrush_ms=400)
        return b.plan
    finding = next(f for f in seen(pump(60), "fuse.inrush") if f.elements[0].startswith("T"))
    assert "15 A factory fuse before key wire" in finding.sentence
    assert not [f for f in seen(pump(15), "fuse.inrush") if f.elements[0].startswith("T")]


def branch(own, main, others=True):
    b = Bench()
    lamp = b.lamp(20)
    b.change(b.fuse_of(lamp), rating_a=own)
    if others:
        b.load(name="heated grips", amount=20, category="heating")
    b.change(next(p.id for p in b.plan.parts if p.kind == "fuse" and p.made_for == b.block), rating_a=main)
    return b.plan


@pytest.mark.parametrize(("own", "main", "severity"), [(15, 5, "caution"), (10, 10, "advice"), (7.5, 10, "")])
def test_a_branch_fuse_as_large_as_the_one_before_it_is_told_with_who_goes_dark(own, main, severity):
    found = seen(branch(own, main), "fuse.selective")
    assert [f.severity for f in found] == ([severity] if severity else [])
    assert all("heated grips" in f.sentence for f in found)


def test_a_fuse_before_a_single_load_need_not_be_larger():
    assert "fuse.selective" not in rules_of(branch(10, 10, others=False))


def test_main_fuses_left_to_loadstar_stay_above_their_branches():
    b = Bench()
    lamp = b.lamp(20)
    b.load(name="grips", amount=5, category="heating")
    b.change(b.fuse_of(lamp), rating_a=15)
    a = analyse(b.plan)
    assert a.ratings.rating_a(next(p.id for p in b.plan.parts if p.kind == "fuse" and p.made_for == b.block)) > 15
    assert "fuse.selective" not in rules_of(a)


def test_a_key_wire_joined_to_an_always_fed_load_is_back_fed():
    b = Bench()
    load = b.load(name="tracker", feed=b.battery, live="always", amount=5, reason_always="alarm")
    assert "feed.back-feed" not in rules_of(b.plan)
    plan = apply(b.plan, AddWire(a=f"{b.key}.pin", b=f"{load}.pos"))
    finding, = seen(plan, "feed.back-feed")
    assert finding.severity == "stop"
    assert "Key wire is dead in parked" in finding.sentence


def test_two_feeds_that_live_together_back_feed_nothing():
    b = Bench()
    other = b.add("tap", name="second key wire", place=b.box, live="key", rated_a=5, fused_a=5)
    load = b.load(feed=b.key, amount=10)
    plan = apply(b.plan, AddWire(a=f"{other}.pin", b=f"{load}.pos"))
    assert "feed.back-feed" not in rules_of(plan)


def test_a_switched_bus_that_another_feed_keeps_alive_wakes_its_loads():
    b = Bench()
    lamp = b.lamp(20, name="fog lamp")
    constant = b.load(name="clock", feed=b.block, live="always", amount=1, reason_always="clock")
    assert "feed.back-feed" not in rules_of(b.plan)
    plan = apply(b.plan, AddWire(a=f"{constant}.pos", b=f"{lamp}.pos"))
    finding = seen(plan, "feed.back-feed")[0]
    assert "fog lamp" in finding.sentence
    assert finding.severity == "caution"


def test_a_load_that_nothing_switches_is_told():
    b = Bench()
    lamp = b.lamp(20, feed=b.battery)
    relay = next(p.id for p in b.plan.parts if p.kind == "relay" and p.made_for == lamp)
    assert "load.lives-on" not in rules_of(b.plan)
    bridged = apply(b.plan, MoveEnd(id=b.feed_wire(lamp), end="a", to=f"{relay}.30"))
    assert "meant to live with the key" in seen(bridged, "load.lives-on")[0].sentence


@pytest.mark.parametrize(("body", "returns", "chassis", "told"), [
    ("on the frame", "own wire", "negative", True), ("on the frame", "frame", "negative", False),
    ("isolated", "own wire", "negative", False), ("on the frame", "own wire", "floating", False)])
def test_two_grounds(body, returns, chassis, told):
    b = Bench()
    b.machine(chassis=chassis)
    b.load(name="radio", body=body, returns=returns)
    found = seen(b.plan, "load.two-grounds")
    assert bool(found) == told
    assert all(f.severity == "advice" and cure(f, b.plan) for f in found)


def test_an_unknown_factory_fuse_is_a_caution_and_blames_no_return():
    b = Bench()
    b.lamp(20)
    back = next(w.id for w in b.plan.wires if w.a == f"{b.block}.ret")
    b.wire(back, length_m=0.6)
    b.change(b.key, fused_a=None)
    finding, = seen(b.plan, "feed.unknown-fuse")
    assert finding.severity == "caution"
    assert "find it" in finding.sentence
    assert "wire.no-fuse" not in rules_of(b.plan)
    b.change(b.key, fused_a=5)
    assert not {"feed.unknown-fuse", "wire.no-fuse"} & rules_of(b.plan)


def test_a_plug_found_without_a_fuse_is_unprotected():
    b = Bench()
    load = b.load(feed=b.key, amount=10)
    b.change(b.key, fused_a=None, unfused=True)
    wire = next(w.id for w in b.plan.wires if w.a == f"{b.key}.pin")
    assert analyse(b.plan).wires[wire].guard is None
    b.wire(wire, length_m=0.5)
    assert wire in {f.elements[0] for f in seen(b.plan, "wire.no-fuse")}
    assert analyse(b.plan).wires[b.feed_wire(load)].guard.fuse == b.fuse_of(load)


@pytest.mark.parametrize(("amps", "severity", "words"), [
    (7.4, None, ""), (9.9, "caution", ""), (10.3, "caution", "It ages"), (11.4, "stop", "It opens in use")])
def test_a_fuse_from_100_to_110_percent_ages_and_does_not_open(amps, severity, words):
    b = Bench(generator=False)
    for place in (b.box, b.nose):
        b.change(place, ambient_c=25)
    load = b.load(feed=b.battery, live="always", reason_always="x", behaviour="current", unit="A", amount=amps,
                  category="heating")
    b.change(b.fuse_of(load), rating_a=10)
    found = seen(b.plan, "fuse.share")
    assert [f.severity for f in found] == ([severity] if severity else [])
    assert all(words in f.sentence for f in found)
    assert not [f for f in found if "opens in use" in f.sentence and severity != "stop"]


def sagging(coil_ohm, hold_v=None, source_mohm=2000):
    """A relay whose own load hangs on the same weak wire as its trigger."""
    b = Bench(generator=False)
    weak = b.add("tap", name="weak wire", place=b.box, live="key", rated_a=20, fused_a=20, source_mohm=source_mohm)
    relay = b.add("relay", name="relay", place=b.box, coil_ohm=coil_ohm, pull_in_v=8, hold_v=hold_v)
    load = b.load(feed=b.key, behaviour="resistor", amount=48, at_v=12, category="other", window_low_v=1)
    for a, z in ((f"{weak}.pin", f"{relay}.86"), (f"{relay}.85", f"{b.battery}.neg"), (f"{weak}.pin", f"{relay}.30")):
        b.plan = apply(b.plan, AddWire(a=a, b=z))
    b.plan = apply(b.plan, MoveEnd(id=b.feed_wire(load), end="a", to=f"{relay}.87"))
    return b.plan, relay


def test_a_relay_holds_below_its_pull_in_voltage():
    """12.2 V open; 48 W at 12 V is 3 ohm behind 2 ohm: 7.2 V at the coil once closed. It pulled in at over 8 V, and
    holds."""
    plan, relay = sagging(200)
    a = analyse(plan)
    assert a.states["key_on"].closed[relay]
    assert not a.states["key_on"].undecided
    assert "relay.undecided" not in rules_of(a)


def test_a_relay_that_lets_go_under_its_own_load_chatters():
    plan, relay = sagging(200, hold_v=7.9)
    assert relay in analyse(plan).states["key_on"].undecided
    assert "chatter" in seen(plan, "relay.undecided")[0].sentence


def test_a_relay_that_never_reaches_its_pull_in_voltage_stays_open():
    plan, relay = sagging(30, source_mohm=5000)
    plan = apply(plan, ChangeElement(id=relay, values={"pull_in_v": 11.5, "hold_v": 2.0}))
    assert not analyse(plan).states["key_on"].closed[relay]


def test_what_the_key_has_closed_holds_while_the_starter_turns():
    """11.1 V at the coil while cranking: under its pull-in voltage of 11.6 V, far over what it holds at."""
    b = Bench()
    b.machine(cranking_a=60)
    b.lamp(40, feed=b.battery)
    relay = next(p.id for p in b.plan.parts if p.kind == "relay")
    b.change(relay, pull_in_v=11.6)
    a = analyse(b.plan)
    assert a.states["cranking"].solution.across_v(a.topology.node(f"{relay}.86"), a.topology.node(f"{relay}.85")) < 11.9
    assert a.states["cranking"].closed[relay]
    b.machine(cranking_a=550)
    b.change(b.battery, internal_mohm=18)
    assert not analyse(b.plan).states["cranking"].closed[relay]


def test_good_plans_of_every_feed_are_clear():
    for feed in ("block", "battery", "key", "module"):
        b = Bench()
        b.machine(idle_rpm=2500)
        chosen = b.add("module", name="module", place=b.box) if feed == "module" else getattr(b, feed)
        b.lamp(18, feed=chosen)
        assert grave(b.plan) == [], feed


def test_a_hand_fixed_plan_that_an_electrician_would_wire_is_clear():
    """15 A main, 7.5 A branches, 2.5 mm2 to the block, 1 mm2 to lamps, 1.5 mm2 to the grips."""
    b = Bench()
    b.machine(idle_rpm=2500)
    main = next(p.id for p in b.plan.parts if p.kind == "fuse" and p.made_for == b.block)
    b.change(main, rating_a=15)
    for wire in [w.id for w in b.plan.wires if w.made_for == b.block]:
        b.wire(wire, area_mm2=2.5)
    for watts, area in ((18, 1.0), (18, 1.0), (40, 1.5)):
        load = b.lamp(watts, category="lamp" if watts < 40 else "heating")
        b.change(b.fuse_of(load), rating_a=7.5)
        for wire in [w.id for w in b.plan.wires if w.made_for == load]:
            b.wire(wire, area_mm2=area)
    assert grave(b.plan) == []


def test_removing_a_main_fuse_is_still_a_stop():
    b = Bench()
    b.lamp()
    main = next(p.id for p in b.plan.parts if p.kind == "fuse" and p.made_for == b.block)
    b.change(b.block, place=b.nose)
    assert "wire.no-fuse" not in rules_of(b.plan)
    bridged = apply(b.plan, RemoveElement(id=main))
    assert "wire.no-fuse" in rules_of(bridged)


def test_parallel_fuses_add_up_on_the_wire_behind_them():
    b = Bench(generator=False)
    load = b.lamp(60, feed=b.battery, live="always", reason_always="x")
    fuse = b.fuse_of(load)
    b.change(fuse, rating_a=10)
    second = apply(b.plan,
                   AddElement(what="fuse", values={"name": "second", "place": b.box, "rating_a": 10}, alone=True))
    added = second.parts[-1].id
    stub = next(w for w in second.wires if w.b == f"{fuse}.a")
    plan = apply(apply(second, AddWire(a=stub.a, b=f"{added}.a")), AddWire(a=f"{added}.b", b=f"{fuse}.b"))
    plan = apply(plan, SetWire(id=b.feed_wire(load), values={"area_mm2": 0.75}))
    wire = analyse(plan).wires[b.feed_wire(load)]
    # The two share a fault nearly alike: about twice 10 A may flow before either opens.
    assert wire.guard.share * wire.guard.rating_a == pytest.approx(20, rel=0.25)
    assert not wire.coordination.protected


def test_the_working_of_a_fault_of_several_stages_tells_each_of_them():
    """15 A beside 30 A: times of ISO 8820-3's slowest fuses at what each carries, by hand from the gates."""
    a = analyse(PATHS["a pump behind 15 A and 30 A"].make())
    told = working(a, "course/W5")
    first, second = told.inputs
    assert told.value == pytest.approx(first.value + second.value)
    assert first.what.startswith("15 A in W5, until pump fuse (F2) opened")
    assert second.what.startswith("42 A in W5, until second fuse (F3) opened")
    assert 135 < second.value < 600  # 1.4 times 30 A: between the gates of 1.35 and 2 times
    one, two = stages(worst_course(a.wires["W5"]))
    assert (one.seconds, two.seconds) == (first.value, second.value)
    assert two.after_s == pytest.approx(told.value)
    assert one.after_s < two.after_s
    with pytest.raises(NoFigure):
        working(a, "course/W1")
