"""Switches with positions, flashers, starter control, shared leads, connectors and data lines: what is solved, what is
told, and what mends it."""

from typing import Any

import pytest
from builders import Bench, cure
from reference.simulator import assert_agrees, needs_ngspice

from loadstar.core.analysis import analyse
from loadstar.core.budget.packs import pack_budget
from loadstar.core.doc.machine import Machine
from loadstar.core.doc.survey import Beep, Continuity
from loadstar.core.edits import AddElement, AddWire, ChangeElement, CutWire, MoveEnd, RemoveElement, apply
from loadstar.core.errors import PlanError
from loadstar.core.figures.registry import working
from loadstar.core.figures.ways import into_a, spare_ways
from loadstar.core.figures.working import evaluate
from loadstar.core.parts.selector import Selector, read_positions
from loadstar.core.plan import document
from loadstar.core.plan.model import Plan
from loadstar.core.plan.stands import movers, turned
from loadstar.core.sizing.inrush import highest_inrush
from loadstar.core.survey.continuity import as_positions
from loadstar.draw.waterline import water

BEAM = {"category": "lamp", "behaviour": "filament", "at_v": 12, "window_low_v": 0}


def rules(plan: Plan) -> dict[str, str]:
    """The sentences of a plan's findings, by rule."""
    return {f.rule: f.sentence for f in analyse(plan).findings}


def head_lamp(positions: str = "off; dip: in+dip; main: in+main", **values: Any) -> tuple[Bench, str, str, str]:
    """A bench with a head lamp of two beams on a switch."""
    b = Bench()
    switch = b.add("selector", name="lamp switch", place=b.nose, feed=b.block, positions=positions, **values)
    dip = b.load(name="dip", amount=55, feed=switch, live="dip", **BEAM)
    main = b.load(name="main", amount=60, feed=switch, live="main", **BEAM)
    return b, switch, dip, main


# -- positions ---------------------------------------------------------------------------------------------------------

def test_positions_are_read_as_a_continuity_table_says_them():
    table = read_positions("Off; dip: in+dip, tail+park; MAIN: in+main")
    assert [p.name for p in table] == ["off", "dip", "main"]
    assert table[1].joined == (("in", "dip"), ("tail", "park"))


@pytest.mark.parametrize(("text", "says"), [
    ("on: in+out", "2 to 8 positions"), ("off; on", "joins anything"), ("off; on: in", "joins nothing"),
    ("off; on: in+out; on: in+x", "twice"), ("off; on: in+out, out+x", "joined twice"), ("off; on!: in+out", "name"),
    ("off; on: in+toolongname", "terminal"), ("; ".join(["off", *(f"p{n}: a+b{n}" for n in range(9))]), "2 to 8")])
def test_what_says_no_positions_is_told_beside_the_field(text, says):
    with pytest.raises(ValueError, match=says):
        read_positions(text)
    b = Bench()
    with pytest.raises(PlanError) as refused:
        b.add("selector", name="switch", place=b.box, positions=text)
    assert refused.value.faults[0].field == "positions"


def test_both_beams_are_never_on_together_where_a_contact_changes_over():
    b, _, dip, main = head_lamp()
    a = analyse(b.plan)
    for row in a.volts.rows:
        assert not (abs(row.current(dip)) > 1e-3 and abs(row.current(main)) > 1e-3), row.words
    assert a.states["idle"].current(main) > 4  # where most is on is looked at first
    assert a.volts.across_v(dip, "idle") > 11  # the other beam is looked at too
    assert not {"load.not-live", "lamp.both-on", "load.not-carried"} & set(rules(b.plan))


def test_the_wire_of_the_beam_that_is_usually_off_is_sized_for_it():
    b, switch, dip, _ = head_lamp()
    a = analyse(b.plan)
    wire = next(w.id for w in b.plan.wires if w.b == f"{dip}.pos")
    assert a.ratings.peak_a(wire) == pytest.approx(4.9, abs=0.2)
    assert a.ratings.through_contact(switch)[1] == pytest.approx(5.4, abs=0.2)
    assert working(a, f"step/{wire}/idle").value > 1


def test_only_one_beam_counts_in_the_account():
    b, _, dip, main = head_lamp()
    account = analyse(b.plan).ledgers["town"]
    items = {i.id: i for i in account.items}
    assert items[dip].waits
    assert not items[main].waits
    assert account.all_at_once_a == pytest.approx(sum(i.on_a for i in account.items) - items[dip].on_a)


def test_what_is_never_on_together_is_not_drawn_on_top_of_one_another():
    b, _, _, main = head_lamp()
    sea = water(analyse(b.plan))
    assert sea is not None
    assert [layer.id for layer in sea.layers if layer.id in ("L1", "L2")] == [main]
    # by hand: 100 W of the bench's own, and the larger beam
    assert sea.demand_w == pytest.approx(sum(i.average_w for i in sea.account.items if i.id != "L1"))
    assert sea.demand_w == pytest.approx(sea.account.demand_a * sea.account.at_v, rel=1e-6)


def test_the_range_of_a_pack_counts_the_larger_of_two_that_are_never_on_together():
    def on_a_pack(positions: str) -> float:
        b = Bench(generator=False, battery=False)
        b.machine(system="pack", system_v=48, chassis="floating", kind="cargo e-bike")
        b.add("pack", name="pack", place=b.box, series=13, parallel=6, bms_continuous_a=60, bms_peak_a=90)
        b.add("drive", name="drive", place=b.box, full_w=300)
        box = b.add("converter", name="box", place=b.box, window_low_v=36, window_high_v=60, rated_a=30)
        switch = b.add("selector", name="switch", place=b.nose, feed=box, positions=positions)
        for live, watts in (("dip", 12), ("main", 24)):
            b.add("load", name=live, category="lamp", amount=watts, at_v=12, feed=switch, live=live, place=b.nose,
                  behaviour="power")
        budget = pack_budget(b.plan)
        assert budget is not None
        return budget.accessories_w

    apart, both = on_a_pack("off; dip: in+dip; main: in+main"), on_a_pack("off; dip: in+dip; main: in+dip+main")
    assert apart == pytest.approx(both * 24 / 36)


def test_the_current_of_a_lamp_is_of_the_stand_that_its_volts_are_of():
    b, _, dip, _ = head_lamp("off; dip: in+dip; main: in+dip+main")
    a = analyse(b.plan)
    seen = {row.words: abs(row.current(dip)) for row in a.volts.turns("idle")}
    assert len({round(amps, 3) for amps in seen.values() if amps > 1}) == 2  # less where both pull the volts down
    shown = working(a, f"current/{dip}/idle")
    assert evaluate(shown.formula, shown.inputs) == pytest.approx(shown.value, rel=1e-6)
    assert shown.value == pytest.approx(min(amps for amps in seen.values() if amps > 1))


def test_where_a_switch_usually_stands_may_be_said_and_the_rest_is_looked_at_all_the_same():
    b, switch, dip, main = head_lamp(usual="dip")
    a = analyse(b.plan)
    assert a.states["idle"].current(dip) > 4
    assert a.states["idle"].current(main) == pytest.approx(0, abs=1e-6)
    assert a.volts.across_v(main, "idle") > 11
    with pytest.raises(PlanError):
        b.change(switch, usual="parking")


def test_at_rest_while_nobody_is_there():
    b = Bench()
    switch = b.add("selector", name="lamp switch", place=b.nose, feed=b.block, live="always",
                   positions="off; park: in+out")
    b.load(name="park", amount=5, feed=switch, live="park", **BEAM)
    a = analyse(b.plan)
    assert a.volts.across_v("L1", "parked") is None
    assert a.volts.across_v("L1", "key_on") > 11


@needs_ngspice
@pytest.mark.parametrize("state", ["key_on", "idle", "town", "cranking"])
def test_every_stand_of_the_switches_agrees_with_the_simulator(state):
    b, _, _, _ = head_lamp()
    button = b.add("selector", name="horn button", use="button", place=b.nose, feed=b.block,
                   positions="off; horn: in+out")
    b.load(name="horn", category="motor", behaviour="current", amount=45, feed=b.battery, live="horn")
    assert button
    a = analyse(b.plan)
    for turn in range(len(a.volts.turns(state))):
        assert_agrees(a, state, turn=turn)


# -- beside one another, one behind the other --------------------------------------------------------------------------

def brakes() -> tuple[Bench, str, str, str]:
    b = Bench()
    lever = b.add("selector", name="lever", use="brake switch", place=b.nose, feed=b.block,
                  positions="off; brake: in+out")
    pedal = b.add("selector", name="pedal", use="brake switch", place=b.box, beside=lever,
                  positions="off; brake: in+out")
    return b, lever, pedal, b.load(name="brake lamp", amount=21, feed=lever, live="brake", place=b.box, **BEAM)


def test_either_of_two_brake_switches_lights_the_lamp():
    b, _, _, lamp = brakes()
    a = analyse(b.plan)
    lit = {row.words: abs(row.current(lamp)) > 1 for row in a.volts.turns("idle")}
    assert lit == {"Idle": True, "Idle, lever at off": True, "Idle, pedal at off": True, "Idle, nothing pressed": False}
    assert a.volts.ridden("idle").words == "Idle, nothing pressed"
    assert b.part(lamp).minutes_per_hour == 6  # as is usual, where nobody says


def test_two_beside_one_another_have_the_same_terminals():
    b, lever, _, _ = brakes()
    with pytest.raises(PlanError) as refused:
        b.add("selector", name="other", place=b.box, beside=lever, positions="off; on: in+x")
    assert "same terminals" in refused.value.faults[0].sentence


def test_nothing_is_fed_in_a_circle():
    b, lever, pedal, _ = brakes()
    with pytest.raises(PlanError) as refused:
        b.change(lever, feed=pedal)
    assert "circle" in str(refused.value.faults)


def test_a_switch_that_feeds_something_is_not_taken_out():
    b, lever, pedal, lamp = brakes()
    with pytest.raises(PlanError):
        apply(b.plan, RemoveElement(id=lever))
    left = apply(apply(b.plan, RemoveElement(id=lamp)), RemoveElement(id=pedal))
    assert lever not in apply(left, RemoveElement(id=lever)).part_by_id


def test_a_switch_fed_anew_keeps_what_hangs_on_it():
    b, lever, _, lamp = brakes()
    before = {w.id: w for w in b.plan.wires}
    fuse = next(p.id for p in b.plan.parts if p.made_for == lever and p.kind == "fuse")
    b.change(lever, feed=b.key)
    assert next(w for w in b.plan.wires if w.b == f"{lamp}.pos") == before[b.feed_wire(lamp)]
    assert fuse in b.plan.part_by_id
    assert analyse(b.plan).volts.across_v(lamp, "idle") > 11


def test_a_load_lives_only_by_positions_that_its_switch_has():
    b, lever, _, _ = brakes()
    with pytest.raises(PlanError) as refused:
        b.load(name="horn", feed=lever, live="horn")
    assert "with the brake" in refused.value.faults[0].sentence


def test_what_lives_by_an_occasion_needs_something_that_tells_when():
    b = Bench()
    with pytest.raises(PlanError) as refused:
        b.load(name="horn", feed=b.block, live="horn")
    assert "or a switch for it" in refused.value.faults[0].sentence
    b.add("tap", name="horn wire", place=b.nose, live="horn", rated_a=5, fused_a=10)
    horn = b.load(name="horn", feed=b.block, live="horn", amount=30)
    a = analyse(b.plan)
    assert a.states["key_on"].current(horn) > 2
    assert a.volts.ridden("key_on").current(horn) == pytest.approx(0, abs=1e-6)


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
    assert "feed.plug-overloaded" not in rules(on_lamp_wires(6)[0].plan)
    assert "feed.plug-overloaded" in rules(on_lamp_wires(3)[0].plan)


def test_both_beams_on_one_wire_are_told():
    b = Bench()
    b.add("tap", name="dip wire", place=b.nose, live="dip", rated_a=8, fused_a=15)
    b.add("tap", name="main wire", place=b.nose, live="main", rated_a=8, fused_a=15)
    dip = b.load(name="dip", amount=55, feed="T3", live="dip", **BEAM)
    main = b.load(name="main", amount=60, feed="T4", live="main", **BEAM)
    assert "lamp.both-on" not in rules(b.plan)
    joined = apply(b.plan, AddWire(a=f"{dip}.pos", b=f"{main}.pos"))
    assert "on together" in rules(joined)["lamp.both-on"]


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
    said = rules(indicators(watts, way)[0].plan).get("flasher.load", "")
    assert (told in said) and bool(told) == bool(said)


def test_led_lamps_on_a_thermal_flasher_are_mended_by_another_flasher_or_by_resistors():
    """2 x 21 ohm: 14 V / 21 ohm is 0.67 A, 9.3 W each while lit; here 17 W at 12 V on each side."""
    b, flasher = indicators(1.5, "thermal")
    a = analyse(b.plan)
    finding = next(f for f in a.findings if f.rule == "flasher.load")
    assert cure(finding, a) == ChangeElement(id=flasher, values={"way": "fixed rate"})
    for proposal in finding.proposals:
        assert "flasher.load" not in rules(apply(b.plan, proposal.edit))
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
    assert "start.no-safety" in rules(starter(safety=False).plan)
    assert "start.no-safety" not in rules(starter(safety=True).plan)


# -- fuses, leads, connectors ------------------------------------------------------------------------------------------

@pytest.mark.parametrize(("category", "told"), [("motor", True), ("heating", True), ("lamp", False)])
def test_a_brake_lamp_on_a_fuse_with_something_that_may_blow_it(category, told):
    b, lever, _, _ = brakes()
    lead = b.add("lead", name="shared", place=b.nose, feed=b.block)
    b.change(lever, feed=lead)
    b.load(name="other", category=category, amount=20, feed=lead)
    assert ("brake.shared-fuse" in rules(b.plan)) == told


def outlet(amps: float, **values: Any) -> Bench:
    b = Bench()
    lead = b.add("lead", name="outlet", place=b.nose, **{"feed": b.block, "rated_a": 10, **values})
    b.load(name="whatever", category="other", behaviour="current", unit="A", amount=amps, feed=lead,
           live=values.get("live", "key"), reason_always="wanted")
    return b


def test_a_shared_lead_is_sized_for_all_that_is_put_there():
    b = outlet(4)
    b.load(name="second", category="other", behaviour="current", unit="A", amount=5, feed="LD1")
    a = analyse(b.plan)
    into = next(w.id for w in b.plan.wires if w.b == "LD1.in")
    assert a.ratings.peak_a(into) == pytest.approx(9, rel=1e-3)
    assert b.plan.fed_from(b.block) == b.plan.loads
    assert a.ratings.rating_a(next(p.id for p in b.plan.parts if p.made_for == "LD1" and p.kind == "fuse")) >= 9 / 0.75


def test_a_contact_that_carries_more_than_it_is_made_for():
    assert "connector.rating" not in rules(outlet(10).plan)
    assert "10 A" in rules(outlet(10.5).plan)["connector.rating"]


@pytest.mark.parametrize(("live", "covered", "told"), [("always", False, True), ("always", True, False),
                                                       ("key", False, False)])
def test_a_live_end_is_covered(live, covered, told):
    b = outlet(2, live=live, covered=covered)
    a = analyse(b.plan)
    finding = next((f for f in a.findings if f.rule == "lead.open-live"), None)
    assert bool(finding) == told
    if finding:
        assert cure(finding, a) is not None


def test_a_charging_lead_lets_a_charger_in_while_parked():
    b = Bench()
    b.add("lead", name="charging lead", place=b.nose, feed=b.battery, live="always", use="charging", covered=True,
          charger_a=4)
    a = analyse(b.plan)
    row = next(r for r in a.volts.turns("parked") if "charger" in r.words)
    assert -5.6 < row.battery_a < -3  # into the battery
    assert a.states["parked"].battery_a == pytest.approx(0, abs=1e-6)
    assert "lead.charging-dead" not in rules(b.plan)
    b.change("LD1", live="key")
    assert "lead.charging-dead" in rules(b.plan)


def test_a_connector_goes_into_any_wire_and_out_again():
    b = Bench()
    lamp = b.lamp()
    wire = b.feed_wire(lamp)
    b.wire(wire, length_m=1.4, area_mm2=1.5)
    cut = apply(b.plan, CutWire(id=wire, place=b.box))
    made = cut.of_kind("coupling")[0]
    pieces = [w for w in cut.wires if made.id in (w.a.part, w.b.part)]
    assert [w.area_mm2 for w in pieces] == [1.5, 1.5]
    assert [w.length_m for w in pieces] == [None, None]
    whole_v = analyse(b.plan).volts.across_v(lamp, "idle")
    assert analyse(cut).volts.across_v(lamp, "idle") == pytest.approx(whole_v, abs=0.05)
    back = next(w.id for w in cut.wires if w.a == f"{lamp}.neg")
    both = apply(cut, CutWire(id=back, into=made.id))
    with pytest.raises(PlanError):
        apply(both, CutWire(id=wire, into=made.id))  # two ways, both taken
    whole = apply(both, RemoveElement(id=made.id))
    assert [(w.id, w.a, w.b) for w in whole.wires] == [(w.id, w.a, w.b) for w in b.plan.wires]


def test_a_contact_in_the_harness_is_judged_by_its_rating():
    b = Bench()
    lamp = b.lamp(90)
    cut = apply(b.plan, CutWire(id=b.feed_wire(lamp), place=b.box))
    assert "connector.rating" not in rules(cut)
    assert "connector.rating" in rules(apply(cut, ChangeElement(id="CN1", values={"rated_a": 6})))


# -- data lines, barrels, beliefs --------------------------------------------------------------------------------------

def data(*wired: str) -> Plan:
    b = Bench()
    for name, place in (("pack", b.box), ("controller", b.nose)):
        b.add("device", name=name, place=place, lines="rx, tx")
    for end in wired:
        b.plan = apply(b.plan, AddWire(a=f"DV1.{end}", b=f"DV2.{end}"))
    return b.plan


def test_a_data_line_that_reaches_nobody_is_told():
    assert rules(data("rx"))["data.not-carried"] in ("Tx of pack reaches no other device.",
                                                     "Tx of controller reaches no other device.")
    assert "data.not-carried" not in rules(data("rx", "tx"))


def test_a_data_line_on_the_supply_is_a_stop():
    joined = apply(data("rx", "tx"), AddWire(a="DV1.rx", b="BT1.pos"))
    found = next(f for f in analyse(joined).findings if f.rule == "data.not-carried")
    assert (found.severity, "destroyed" in found.sentence) == ("stop", True)


@pytest.mark.parametrize(("barrel_mm2", "severity"), [(10, "stop"), (16, ""), (35, "caution"), (None, "")])
def test_three_wires_in_one_barrel_add_up(barrel_mm2, severity):
    """Three 4 mm2 fill 120 % of 10 mm2 and 75 % of 16 mm2."""
    b = Bench()
    barrel = b.add("junction", name="barrel", place=b.box, form="one barrel", barrel_mm2=barrel_mm2)
    for _ in range(3):
        b.plan = apply(b.plan, AddWire(a=f"{b.battery}.neg", b=f"{barrel}.t", values={"area_mm2": 4}))
    a = analyse(b.plan)
    found = next((f for f in a.findings if f.rule == "terminal.barrel"), None)
    assert (found.severity if found else "") == severity
    if severity == "stop":
        assert "120 %" in found.sentence
        assert cure(found, a) is not None


def test_what_is_only_said_never_to_be_on_together_counts_and_is_noted():
    b = Bench()
    one, other = b.load(name="vest", amount=60), b.load(name="grips", amount=40)
    before = analyse(b.plan)
    b.change(one, never_with=other)
    a = analyse(b.plan)
    assert a.ledgers == before.ledgers
    assert a.sized.peak_a == before.sized.peak_a
    assert "nothing keeps them apart" in rules(b.plan)["belief.together"]
    without = apply(b.plan, RemoveElement(id=other))
    assert without.part(one).never_with is None


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
    assert "feed.plug-overloaded" not in rules(b.plan)
    b.lamp(24, feed=block)
    assert "feed.plug-overloaded" in rules(b.plan)  # rated 3 A


@pytest.mark.parametrize(("limits", "told"), [({}, False), ({"total_a": 6}, True), ({"way_most_a": 2}, True),
                                              ({"total_a": 12, "way_most_a": 6}, False)])
def test_a_block_has_limits_of_its_own(limits, told):
    b = Bench()
    b.change(b.block, **limits)
    b.lamp(50)
    b.lamp(50)
    assert ("feed.block-total" in rules(b.plan)) == told


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
    assert "feed.way-cut" not in rules(b.plan)
    b.change("Y1", cut_below_v=12.8)
    assert "12.8 V" in rules(b.plan)["feed.way-cut"]
    b.change("Y1", cut_below_v=11.5)
    assert "feed.way-cut" not in rules(b.plan)


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
    assert "supply.winding-leads" not in rules(b.plan)
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


@pytest.mark.parametrize("table", [
    ("off, dip, main", {(1, 0, 1): True, (2, 0, 2): True}, "off; dip: feed+dip; main: feed+main"),
    ("dip, main", {(0, 0, 1): True, (1, 0, 2): True}, "dip: feed+dip; main: feed+main")])
def test_a_continuity_table_becomes_a_switch(table):
    positions, beeps, said = table
    names = tuple(positions.split(", "))
    every = tuple(Beep(position=at, a=a, b=b, beeps=beeps.get((at, a, b), False))
                  for at in range(len(names)) for a in range(3) for b in range(a + 1, 3))
    settled = Continuity(id="CT1", name="old switch", terminals=("feed", "dip", "main"), positions=names, beeps=every)
    assert as_positions(settled) == said
    assert as_positions(settled.model_copy(update={"beeps": every[1:]})) is None  # one pair untested
    assert as_positions(settled.model_copy(update={"terminals": ("feed", "feed ", "main")})) is None


def test_two_switches_one_behind_the_other_are_both_taken_to_be_on():
    b = Bench(generator=False, battery=False)
    b.machine(system="pack", system_v=48, chassis="floating", kind="cargo e-bike")
    pack = b.add("pack", name="pack", place=b.box, series=13)
    first = b.add("selector", name="first", place=b.nose, feed=pack, positions="off; on: in+out")
    box = b.add("converter", name="box", place=b.nose, feed=first, window_low_v=36, window_high_v=60, rated_a=5)
    second = b.add("selector", name="second", place=b.nose, feed=box, positions="off; dip: in+dip; main: in+main")
    lamp = b.add("load", name="dip", category="lamp", amount=12, at_v=12, feed=second, live="dip", place=b.nose)
    a = analyse(b.plan)
    assert a.states["on"].stands == {first: "on", second: "dip"}
    assert a.volts.across_v(lamp, "on") == pytest.approx(12, abs=0.3)


def test_hand_wired_switches_are_taken_to_stand_where_most_is_joined():
    b = Bench()
    for n in (1, 2):
        b.add("selector", name=f"switch {n}", place=b.nose, positions="off; on: in+out")
    lamp = b.lamp()
    feed = b.feed_wire(lamp)
    b.plan = apply(b.plan, MoveEnd(id=feed, end="b", to="SW1.in"))
    b.plan = apply(b.plan, AddWire(a="SW1.out", b="SW2.in"))
    b.plan = apply(b.plan, AddWire(a="SW2.out", b=f"{lamp}.pos"))
    a = analyse(b.plan)
    assert a.states["idle"].stands == {"SW1": "on", "SW2": "on"}
    assert a.volts.across_v(lamp, "idle") > 10


def test_what_a_position_joins_is_a_contact_each_from_the_common():
    """Three terminals are two contacts side by side, not one behind the other: the far lamp loses one contact's volts
    and its contact carries its own amps only."""
    switch = Selector(id="SW1", name="s", place="P1", positions="off; both: in+left+right")
    assert [(b.a.name, b.b.name) for b in switch.inside(Machine()).branches] == [("in", "left"), ("in", "right")]
    bridged = Selector(id="SW1", name="s", place="P1", positions="a: in+p, q+r; b: in+q, p+r")
    assert [(b.a.name, b.b.name) for b in bridged.inside(Machine()).branches] == [
        ("in", "p"), ("q", "r"), ("in", "q"), ("p", "r")]
