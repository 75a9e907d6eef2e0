"""What feeds, and what is fed: blocks on plugs, ways that switch themselves off, winding leads, splices, tool packs."""

import pytest
from builders import BEAM, Bench, cure, head_lamp, sentences

from loadstar.core.analysis import analyse
from loadstar.core.edits import AddElement, CutWire, RemoveElement, apply
from loadstar.core.errors import PlanError
from loadstar.core.figures.registry import working
from loadstar.core.figures.ways import into_a, spare_ways
from loadstar.core.plan import document
from loadstar.core.plan.stands import movers, turned
from loadstar.core.sizing.inrush import highest_inrush

# -- what feeds --------------------------------------------------------------------------------------------------------

def test_a_block_on_a_plug_lives_as_the_plug_and_grounds_where_it_is_told():
    b = Bench()
    block = b.add("block", name="small block", place=b.nose, feed=b.key, live="key", return_to=b.battery, ways=4)
    lamp = b.lamp(6, feed=block)
    with pytest.raises(PlanError) as refused:
        b.lamp(6, feed=block, live="always")
    assert "live with the key" in refused.value.faults[0].sentence
    assert any(w.a == f"{block}.ret" and w.b == f"{b.battery}.neg" for w in b.plan.wires)
    a = analyse(b.plan)
    assert a.volts.across_v(lamp, "parked") is None
    assert a.volts.across_v(lamp, "idle") > 12
    b.lamp(24, feed=block)
    assert "feed.plug-overloaded" not in sentences(b.plan)
    b.lamp(24, feed=block)
    assert "feed.plug-overloaded" in sentences(b.plan)  # rated 3 A


@pytest.mark.parametrize(("limits", "told"), [({}, False), ({"total_a": 6}, True), ({"way_most_a": 2}, True),
                                              ({"total_a": 12, "way_most_a": 6}, False)])
def test_a_block_has_limits_of_its_own(limits, told):
    b = Bench()
    b.change(b.block, **limits)
    b.lamp(50)
    b.lamp(50)
    assert ("feed.block-total" in sentences(b.plan)) == told


def test_returns_that_meet_half_way_go_on_as_one():
    b = Bench()
    middle = b.add("junction", name="middle", place=b.nose, form="star point")
    first, second = b.lamp(18, return_to=middle), b.lamp(18, return_to=middle)
    a = analyse(b.plan)
    trunk = next(w.id for w in b.plan.wires if w.a == f"{middle}.t")
    assert a.ratings.peak_a(trunk) == pytest.approx(a.ratings.peak_a(first) + a.ratings.peak_a(second), rel=1e-6)
    with pytest.raises(PlanError):
        b.change(first, return_to=second)


def test_a_way_that_goes_off_at_a_voltage_that_the_battery_has():
    b = Bench()
    module = b.add("module", name="module", place=b.box)
    b.load(name="radio", amount=20, feed=module)
    assert "feed.way-cut" not in sentences(b.plan)
    b.change("Y1", cut_below_v=12.8)
    assert "12.8 V" in sentences(b.plan)["feed.way-cut"]
    b.change("Y1", cut_below_v=11.5)
    assert "feed.way-cut" not in sentences(b.plan)


def test_a_soft_start_takes_the_inrush_away():
    b = Bench()
    module = b.add("module", name="module", place=b.box)
    b.load(name="lamp", category="lamp", amount=60, feed=module, inrush_a=60, inrush_ms=20)
    hard = analyse(b.plan)
    b.change("Y1", soft_start_ms=300)
    soft = analyse(b.plan)
    assert highest_inrush(hard.topology, "Y1").peak_a == 60
    assert highest_inrush(soft.topology, "Y1") is None


@pytest.mark.parametrize(("lead_m", "severity"), [(0.5, "advice"), (1.6, ""), (3.0, "note"), (None, "")])
def test_a_supplied_lead_is_long_enough_or_is_told(lead_m, severity):
    b = Bench()
    lamp = b.lamp(dimensions=None if lead_m is None else {"lead_m": lead_m})
    found = next((f for f in analyse(b.plan).findings if f.rule == "load.lead-short"), None)
    assert (found.severity if found else "") == severity
    assert lamp


def test_winding_leads_carry_their_share_of_the_dc():
    """18 A DC from three phases is 13.3 A rms in each lead: 0.74 of it."""
    b = Bench()
    b.change("G1", winding_at=b.nose, limit_a=18)
    a = analyse(b.plan)
    assert working(a, "winding_lead").value == pytest.approx(13.3, abs=0.05)
    assert "supply.winding-leads" not in sentences(b.plan)
    b.change("G1", winding_mm2=0.5)
    finding = next(f for f in analyse(b.plan).findings if f.rule == "supply.winding-leads")
    assert cure(finding, b.plan) is not None


def test_over_revving_is_a_state_where_its_speed_is_given():
    b = Bench()
    assert "rev" not in analyse(b.plan).states
    b.machine(rev_rpm=9000)
    a = analyse(b.plan)
    assert list(a.states)[-1] == "rev"
    assert a.states["rev"].rpm == 9000
    with pytest.raises(PlanError):
        b.machine(rev_rpm=4000)


def test_a_plan_with_all_of_it_is_read_as_it_was_written():
    b, _, _, _ = head_lamp()
    b.add("flasher", name="flasher", place=b.box, feed=b.block)
    b.lamp(dimensions={"mass_g": 120, "lead_m": 0.6}, stage="B")
    assert document.from_json(document.to_json(b.plan)) == b.plan


def test_looking_at_other_stands_is_bounded_by_what_there_is():
    b, switch, _, _ = head_lamp()
    assert [t.words for t in turned(b.plan, "idle")] == ["lamp switch at off", "lamp switch at dip"]
    assert not turned(b.plan, "cranking")
    assert {m.key for m in movers(b.plan, "idle")} == {switch}


def test_more_than_one_way_of_adding_is_refused_in_words():
    b = Bench()
    for values in ({"live": ["brake"]}, {"live": {"a": 1}}, {"live": None}):
        with pytest.raises(PlanError):
            apply(b.plan, AddElement(what="load", values={"name": "x", "amount": 5, "place": b.nose, "feed": b.block,
                                                          **values}))


@pytest.mark.parametrize(("minutes", "severity"), [(0, ""), (2, "note"), (60, "caution")])
def test_what_stays_on_after_the_key_takes_from_the_battery(minutes, severity):
    """27 W at the rested voltage of 12.6 V for an hour: 2.1 Ah of 12 Ah."""
    b = Bench()
    b.load(name="charger", amount=27, runs_on_min=minutes)
    found = next((f for f in analyse(b.plan).findings if f.rule == "load.runs-on"), None)
    assert (found.severity if found else "") == severity
    if minutes == 60:
        assert "2.1 Ah at every stop, 18 % of the battery" in found.sentence


@pytest.mark.parametrize(("moves", "returns", "told"), [("with the steering", "frame", True), ("still", "frame", False),
                                                        ("with the steering", "own wire", False)])
def test_a_return_through_the_steering_is_never_counted_on(moves, returns, told):
    b = Bench()
    b.change(b.nose, moves=moves)
    b.lamp(returns=returns)
    a = analyse(b.plan)
    finding = next((f for f in a.findings if f.rule == "return.steering"), None)
    assert bool(finding) == told
    if finding:
        assert cure(finding, a) is not None


def test_a_pressure_switch_moves_with_the_engine():
    b = Bench()
    b.add("selector", name="oil switch", use="pressure switch", place=b.box, feed=b.block,
          positions="still: in+out; running")
    lamp = b.load(name="oil lamp", amount=2, feed="SW1", live="switch", **BEAM)
    a = analyse(b.plan)
    assert a.volts.across_v(lamp, "key_on") > 11
    assert a.volts.across_v(lamp, "idle") is None


def test_a_splice_in_a_wire_lets_more_branch_off():
    b = Bench()
    lamp = b.lamp()
    plan = apply(b.plan, CutWire(id=b.feed_wire(lamp), place=b.nose, form="splice"))
    splice = plan.of_kind("junction")[0]
    assert splice.made_for == lamp
    whole_v = analyse(b.plan).volts.across_v(lamp, "idle")
    assert analyse(plan).volts.across_v(lamp, "idle") == pytest.approx(whole_v, abs=0.05)
    assert splice.id not in apply(plan, RemoveElement(id=lamp)).part_by_id


def test_a_tool_pack_feeds_a_small_machine_through_a_converter():
    """Five cells in series: 18 V to work with, 21 V full."""
    b = Bench(generator=False, battery=False)
    b.machine(system="pack", system_v=18, chassis="floating", kind="utility bike")
    pack = b.add("pack", name="tool pack", place=b.box, series=5, parallel=2, bms_continuous_a=20, bms_peak_a=40)
    assert b.plan.part(pack).full_v == 21
    b.add("converter", name="box", place=b.box, window_low_v=14, window_high_v=24, rated_a=5)
    lamp = b.add("load", name="lamp", category="lamp", amount=12, at_v=12, feed="CV1", place=b.nose)
    a = analyse(b.plan)
    assert a.volts.across_v(lamp, "on") == pytest.approx(12, abs=0.3)
    assert not {f.rule for f in a.findings if f.severity == "stop"}


def test_spare_ways_are_counted():
    b = Bench()
    b.lamp()
    assert spare_ways(b.plan, b.plan.part(b.block)) == 5
    plan = apply(b.plan, CutWire(id=b.feed_wire("L1"), place=b.box))
    assert spare_ways(plan, plan.part("CN1")) == 1
    assert spare_ways(plan, plan.part("L1")) is None
    assert into_a(analyse(plan), plan.part(b.block)) == pytest.approx(18 / 12.3, rel=0.05)
