"""Supplies, judged: each wrong verdict that was found is gone, and its right neighbours are kept."""

import pytest
from builders import Bench
from judgement.plans import e_bike, rules_of, seen
from reference.simulator import assert_agrees, needs_ngspice

from loadstar.core.analysis import analyse
from loadstar.core.budget.packs import with_limit
from loadstar.core.edits import ChangeElement, apply
from loadstar.core.edits.builder import Builder
from loadstar.core.edits.survey import TakeReadings
from loadstar.core.figures.registry import working
from loadstar.core.physics.batch import LOW
from loadstar.demo import ferry_runner, tide_hauler


def charged(set_v, chemistry="agm", nominal_v=12, system_v=12):
    b = Bench()
    scale = nominal_v / 12
    b.machine(system_v=system_v)
    b.change(b.battery, chemistry=chemistry, nominal_v=nominal_v)
    b.change(b.plan.generator.id, set_v=set_v, rating_v=14.2 * scale)
    return b.plan


@pytest.mark.parametrize(("chemistry", "set_v", "severity"), [
    ("lfp", 14.6, None), ("lfp", 14.7, "caution"), ("lfp", 15.2, "stop"), ("lfp", 13.8, None), ("lfp", 13.7, "caution"),
    ("flooded", 14.8, None), ("flooded", 14.9, "caution"), ("flooded", 15.4, "stop"), ("agm", 14.7, None),
    ("agm", 14.8, "caution"),
    ("agm", 13.4, None), ("agm", 13.3, "caution"), ("flooded", 13.3, "caution"), ("agm", 14.4, None)])
def test_the_set_point_against_the_battery(chemistry, set_v, severity):
    found = seen(charged(set_v, chemistry), "supply.set-point")
    assert [f.severity for f in found] == ([severity] if severity else [])
    assert all(f"{set_v:g} V" in f.sentence for f in found)
    assert all("25 °C" in f.sentence for f in found if chemistry != "lfp")


def test_a_6_v_battery_s_band_is_half_of_it():
    assert not seen(charged(7.2, nominal_v=6, system_v=6), "supply.set-point")
    assert seen(charged(7.45, nominal_v=6, system_v=6), "supply.set-point")[0].severity == "caution"


def test_a_6_v_battery_on_a_12_v_machine_is_a_stop():
    finding, = seen(charged(14.2, nominal_v=6, system_v=12), "supply.set-point")
    assert finding.severity == "stop"
    assert "6 V battery on a 12 V machine" in finding.sentence


def six_volt():
    b = Bench(generator=False)
    b.machine(system_v=6, cranking_a=60)
    b.change(b.battery, nominal_v=6, internal_mohm=12)
    return b


def test_the_crank_limit_is_said_for_the_battery_it_is_for():
    b = six_volt()
    b.machine(cranking_a=200)
    assert "the limit is 4.8 V" in seen(b.plan, "budget.crank")[0].sentence
    assert "still leaves 4.8 V" in " ".join(i.what for i in working(analyse(six_volt().plan), "parked").inputs)


def test_a_6_v_battery_s_cranking_reading_is_judged_at_6_v():
    for volts, told in ((5.2, False), (4.4, True)):
        b = six_volt()
        plan = apply(b.plan,
            TakeReadings(readings=({"element": b.battery, "quantity": "V", "state": "cranking", "value": volts},)))
        found = [f for f in seen(plan, "survey.found") if "cranking" in f.sentence]
        assert bool(found) == told
        assert all("4.8 V is wanted" in f.sentence for f in found)


@pytest.mark.parametrize(("state", "volts", "told"), [
    ("key_off", 13.3, False), ("key_off", 12.9, True), ("raised", 14.2, False), ("raised", 13.4, True)])
def test_lithium_is_read_by_its_own_table(state, volts, told):
    b = Bench()
    b.change(b.battery, chemistry="lfp")
    plan = apply(b.plan,
                 TakeReadings(readings=({"element": b.battery, "quantity": "V", "state": state, "value": volts},)))
    assert bool(seen(plan, "survey.found")) == told
    assert not seen(plan, "survey.unlikely")


def test_a_controller_s_limit_under_sag():
    """14s4p at 40 %: 50.82 V behind 155 mohm; 2,500 W but 50 A at the most: 50 A at 43.07 V, and 42 V is passed below
    24 %."""
    volts, amps, watts = with_limit(50.82, 0.155, 2500, 50, 0)
    assert (volts, amps) == pytest.approx((43.07, 50.0), abs=0.005)
    assert watts == pytest.approx(50 * 43.07, rel=1e-3)
    b = Builder("sag")
    b.machine(system="pack", system_v=52, chassis="floating")
    place = b.add("place", name="tube")
    b.add("pack", name="pack", place=place, series=14, parallel=4, cell_mohm=40, extra_mohm=15, charge_frac=0.4,
          bms_continuous_a=50,
          bms_peak_a=60)
    b.add("drive", name="drive", place=place, full_w=2500, limit_a=50)
    a = analyse(b.plan)
    assert a.pack.full_power_a == pytest.approx(50, abs=0.01)
    assert a.pack.full_power_v == pytest.approx(43.07, abs=0.01)
    assert a.pack.cuts_out_frac == pytest.approx(0.24, abs=0.005)
    assert "pack.bms" not in rules_of(a)
    assert abs(a.states["full"].current("D1")) == pytest.approx(50, abs=1e-6)
    assert "gets 2154 W" in seen(a, "drive.limit")[0].sentence


def test_a_drive_under_its_limit_takes_its_watts():
    volts, amps, watts = with_limit(54.6, 0.1, 500, 50, 0)
    assert watts == 500
    assert volts * amps == pytest.approx(500)


def changed_over(**converter):
    return e_bike(second={"rested_v": 44.0}, combiner={"way": "changeover", "position": "b"},
                  converter={"window_low_v": 42, **converter},
                  load={"amount": 60})


def test_a_converter_low_in_an_early_round_is_looked_at_again_with_the_final_wires():
    a = analyse(changed_over())
    assert a.states["assist"].solution.converter_modes["CV1"] in ("on", "limit")
    assert a.volts.across_v("L1", "assist") > 11
    assert "load.not-live" not in rules_of(a)


def test_a_converter_really_below_its_window_stays_off():
    a = analyse(changed_over(window_low_v=45))
    assert a.states["assist"].solution.converter_modes["CV1"] == "low"
    assert "load.not-live" in rules_of(a)


def test_a_converter_that_pulls_itself_under_its_window_is_said_to_hunt():
    """36.5 V behind 1.2 ohm: 36 V are there without it, and under 36 V with its 60 W drawn."""
    plan = e_bike(pack={"series": 10, "parallel": 1, "cell_mohm": 100, "extra_mohm": 200, "rested_v": 36.5},
                  converter={"window_low_v": 36, "rated_a": 8}, load={"amount": 60})
    a = analyse(plan)
    assert "CV1" in a.states["assist"].hunting
    finding = next(f for f in seen(a, "converter.unsteady"))
    assert finding.severity == "stop"
    assert "on and off" in finding.sentence
    batch = a.states["assist"].solution.batch
    assert batch.converter_mode[a.states["assist"].solution.state, 0] == LOW


def test_a_steady_converter_is_not_called_unsteady():
    assert "converter.unsteady" not in rules_of(e_bike(converter={}, load={"amount": 60}))


def made_for(at_v, behaviour, category="lamp", window=(0, 100)):
    b = Bench()
    b.load(name="thing", behaviour=behaviour, amount=30, at_v=at_v, category=category, window_low_v=window[0],
           window_high_v=window[1])
    return b.plan


@pytest.mark.parametrize(("at_v", "behaviour", "severity", "words"), [
    (24, "filament", "caution", "of its light"), (13.5, "filament", None, ""),
    (48, "resistor", "caution", "of its heat"),
    (20, "resistor", "advice", "of its heat"), (14, "resistor", None, "")])
def test_a_lamp_or_heater_for_another_voltage_is_told(at_v, behaviour, severity, words):
    found = seen(made_for(at_v, behaviour), "load.dim")
    assert [f.severity for f in found] == ([severity] if severity else [])
    assert all(words in f.sentence for f in found)


def test_electronics_for_another_voltage_go_by_their_window():
    assert seen(made_for(24, "power", "electronics", (10.5, 16)), "load.dim")
    assert not seen(made_for(24, "power", "electronics", (9, 32)), "load.dim")


@pytest.mark.parametrize(("enabled", "limit_w", "severities"), [
    (True, 17, []), (False, 17, ["caution"]), (False, 8, ["stop"]), (True, 8, ["stop"])])
def test_a_port_that_is_off_is_one_finding(enabled, limit_w, severities):
    plan = e_bike(drive={}, port={"enabled": enabled, "limit_w": limit_w}, load={"amount": 12})
    found = [f for f in analyse(plan).findings if f.severity in ("stop", "caution")]
    assert [f.severity for f in found] == severities
    assert all("software" in f.sentence for f in found if not enabled)


@needs_ngspice
@pytest.mark.parametrize("state", ["parked", "idle", "cruise"])
def test_a_magneto_s_netlist_is_whole_in_every_state(state):
    assert_agrees(analyse(ferry_runner()[0]), state, 1e-4)


@needs_ngspice
@pytest.mark.parametrize("asked_w", [40, 130])
def test_a_converter_holding_its_output_and_at_its_limit(asked_w):
    plan = e_bike(converter={"rated_a": 8}, load={"amount": asked_w, "behaviour": "resistor"})
    a = analyse(plan)
    assert a.states["assist"].solution.converter_modes["CV1"] == ("on" if asked_w == 40 else "limit")
    for state in ("on", "assist", "charging"):
        assert_agrees(a, state)


@needs_ngspice
@pytest.mark.parametrize("position", ["a", "b"])
def test_a_changeover_both_ways(position):
    plan = tide_hauler()[0]
    joint = plan.of_kind("combiner")[0].id
    a = analyse(apply(plan, ChangeElement(id=joint, values={"way": "changeover", "position": position})))
    for state in a.states:
        assert_agrees(a, state)


@needs_ngspice
def test_a_drive_at_its_current_limit():
    a = analyse(e_bike(drive={"full_w": 1200, "limit_a": 15}, converter={}, load={"amount": 30}))
    assert abs(a.states["full"].current("D1")) == pytest.approx(15)
    assert_agrees(a, "full")
