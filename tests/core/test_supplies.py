"""Packs, converters, total loss and references, against hand calculations and the closed forms they are made from."""

import math

import pytest
from builders import Bench

from loadstar.core.analysis import analyse
from loadstar.core.begin import Wish, begun
from loadstar.core.budget.packs import joining, pack_budget, pack_figures, sag_curves, share_a, under_power
from loadstar.core.budget.total_loss import least_charge
from loadstar.core.doc.states import LIVE_STATES, PACK_STATES
from loadstar.core.edits import AddElement, AddWire, ChangeElement, SetMachine, apply
from loadstar.core.edits.builder import Builder
from loadstar.core.errors import PlanError
from loadstar.core.figures.lamps import hardest_lamp, worst_when_one_fails
from loadstar.core.figures.registry import every, working
from loadstar.core.figures.working import evaluate
from loadstar.core.parts.pack import Pack
from loadstar.core.physics import battery as cell
from loadstar.core.physics.generator import Winding, half_wave_a, rectified_a
from loadstar.core.plan.model import Plan
from loadstar.core.wiring.references import references, two_references
from loadstar.core.wiring.topology import Topology
from loadstar.demo import PLANS, tide_hauler, tide_race
from loadstar.exchange.report import headline, report


def pack(**values) -> Pack:
    return Pack(**{"id": "PK1", "name": "pack", "place": "P1", "series": 13, **values})


@pytest.mark.parametrize(("series", "full", "empty"),
                         [(10, 42.0, 30.0), (13, 54.6, 39.0), (14, 58.8, 42.0), (20, 84.0, 60.0)])
def test_pack_volts_of_the_published_counts(series, full, empty):
    """4.20 and 3.00 V a cell (NMC): the table of physics.md."""
    assert pack(series=series).full_v == pytest.approx(full)
    assert pack(series=series).empty_v == pytest.approx(empty)


def test_pack_resistance_by_hand():
    # 13 in series, 5 in parallel at 35 mohm: 91 mohm, and 15 for protection and wiring.
    assert pack(parallel=5, cell_mohm=35, extra_mohm=15).ohm == pytest.approx(0.106)


@pytest.mark.parametrize("chemistry", ["nmc", "lfp"])
def test_charge_and_voltage_are_each_other_s_inverse(chemistry):
    for charge in (0.0, 0.13, 0.5, 0.77, 1.0):
        volts = cell.pack_v(charge, chemistry, 13)
        assert cell.pack_charge_frac(volts, chemistry, 13) == pytest.approx(charge, abs=1e-9)
    assert cell.pack_charge_frac(1.0, chemistry, 13) == 0
    assert cell.pack_charge_frac(100.0, chemistry, 13) == 1


def test_a_6_v_battery_is_half_of_a_12_v_one():
    assert cell.rested_v(0.7, "flooded", 6) == pytest.approx(cell.rested_v(0.7, "flooded", 12) / 2)


@pytest.mark.parametrize(("emf", "ohm", "watts", "volts"), [(12, 1, 30, 8.449490), (54.6, 0.1, 500, 53.668)])
def test_volts_under_power(emf, ohm, watts, volts):
    """12 V behind 1 ohm at 30 W is the published 8.449490 V; the other by the same closed form on a calculator."""
    found, amps = under_power(emf, ohm, watts)
    assert found == pytest.approx(volts, abs=1e-3)
    assert found * amps == pytest.approx(watts)


def test_power_that_a_source_cannot_give():
    assert math.isnan(under_power(12, 1, 37)[0])


@pytest.mark.parametrize(("volts", "ohms", "load", "way", "shares"), [
    ((54, 53), (.10, .15), 20, "parallel", (16.0, 4.0)), ((54, 50), (.10, .15), 20, "parallel", (28.0, -8.0)),
    ((54, 50), (.10, .15), 20, "diode", (20.0, 0.0)), ((54, 50), (.10, .15), 60, "diode", (52.0, 8.0))])
def test_two_packs_share_a_load(volts, ohms, load, way, shares):
    """The cases of physics.md, G."""
    (v1, v2), (r1, r2) = volts, ohms
    one, two = pack_figures(pack(rested_v=v1)), pack_figures(pack(id="PK2", rested_v=v2))
    one, two = (type(one)(**{**vars(f), "ohm": r}) for f, r in ((one, r1), (two, r2)))
    assert share_a(one, two, load, way) == pytest.approx(shares)


def test_equalising_current_of_the_published_pair():
    """58.8 against 50.4 V through 0.10 and 0.12 ohm: 38 A into the lower."""
    b = Builder("two")
    b.machine(system="pack", system_v=52)
    place = b.add("place", name="p")
    for volts, extra in ((58.8, 100), (50.4, 120)):
        b.add("pack", name="pack", place=place, series=14, parallel=1, cell_mohm=0.2, extra_mohm=extra - 2.8,
              rested_v=volts)
    found = joining(b.plan, 0.0)
    assert found.equalising_a == pytest.approx(38.2, abs=0.1)
    assert found.into == "PK2"


def test_range_falls_by_the_watts_and_grows_with_the_second_pack():
    plan = tide_hauler()[0]
    found = pack_budget(plan)
    assert found.range_first_km == pytest.approx(55 * 180 / (180 + found.accessories_w))
    energy = [p.energy_wh for p in found.packs]
    assert found.range_km == pytest.approx(found.range_first_km * sum(energy) / energy[0])
    # 12 W from the port at 90 %, 36 + 14 W behind 88 %.
    assert found.accessories_w == pytest.approx(12 / 0.9 + 50 / 0.88, rel=1e-6)


def test_another_pack_goes_by_its_energy_from_the_one_that_the_range_is_known_with():
    """60 km with a pack of 899 Wh are 48 km with one of 719 Wh (60 x 719 / 899); told anew they are known with that."""
    b = Builder("range", begun(Plan(), Wish("cargo e-bike", "48 v")))
    b.machine(range_km=61)
    whole = b.plan.packs[0]
    assert b.plan.machine.range_wh == round(whole.energy_wh)
    b.change(whole.id, cell_ah=0.8 * whole.cell_ah)
    found = pack_budget(b.plan)
    assert found.range_bare_km == pytest.approx(0.8 * 61, rel=2e-3)
    assert found.range_km < found.range_bare_km + 1e-9
    told = working(analyse(b.plan), "range")
    assert evaluate(told.formula, told.inputs) == pytest.approx(found.range_km)
    b.machine(range_km=45, range_wh=b.plan.machine.range_wh)  # as its form sends it
    assert pack_budget(b.plan).range_bare_km == pytest.approx(45, rel=2e-3)
    b.machine(range_km=50, range_wh=1000)
    assert pack_budget(b.plan).range_bare_km == pytest.approx(50 * b.plan.packs[0].energy_wh / 1000)


def test_sag_lies_below_rest_and_deepest_at_full_power():
    found = sag_curves(tide_hauler()[0])
    for (c, rest), (_, assist), (_, full) in zip(found["rested"], found["assist"], found["full"], strict=True):
        assert rest > assist > full, c


def test_a_pack_machine_has_its_own_states_and_report():
    analysis = analyse(tide_hauler()[0])
    assert tuple(analysis.states) == PACK_STATES
    told = report(analysis)
    assert told["pack"]["range_km"] == pytest.approx(analysis.pack.range_km)
    assert headline(analysis)["idle_margin_a"] is None
    assert headline(analysis)["pack_margin_a"] == pytest.approx(22 - analysis.pack.full_power_a)


def test_charging_holds_the_full_voltage_and_the_drive_rests():
    analysis = analyse(tide_hauler()[0])
    state = analysis.states["charging"]
    assert state.solution.across_v("PK1.pos", "PK1.neg") == pytest.approx(54.6, abs=0.02)
    assert abs(state.current("D1")) < 1e-9
    assert abs(analysis.states["full"].current("D1")) * analysis.states["full"].posts_v == pytest.approx(650, rel=1e-6)


def test_a_controller_takes_no_more_than_its_limit():
    plan = apply(tide_hauler()[0], ChangeElement(id="D1", values={"limit_a": 8}))
    analysis = analyse(plan)
    assert abs(analysis.states["full"].current("D1")) == pytest.approx(8, rel=1e-6)
    assert abs(analysis.states["assist"].current("D1")) < 8


def test_the_diode_combiner_draws_from_the_higher_pack_first():
    state = analyse(tide_hauler()[0]).states["assist"]
    assert -state.current("PK1") > 3
    assert abs(state.current("PK2")) < 1e-9


def test_a_changeover_switch_draws_from_where_it_stands():
    joint = tide_hauler()[0].of_kind("combiner")[0].id
    for side, used, idle in (("a", "PK1", "PK2"), ("b", "PK2", "PK1")):
        plan = apply(tide_hauler()[0], ChangeElement(id=joint, values={"way": "changeover", "position": side}))
        state = analyse(plan).states["assist"]
        assert -state.current(used) > 3
        assert abs(state.current(idle)) < 1e-9


def test_ignition_that_needs_more_volts_ends_the_session_sooner():
    b = Bench(generator=False)
    battery = b.plan.battery
    shares = [least_charge(battery, 2.3, volts) for volts in (0.0, 11.5, 12.0, 12.5, 14.0)]
    assert shares == sorted(shares)
    assert (shares[0], shares[-1]) == (0.0, 1.0)


def test_half_wave_against_the_simulated_transient():
    """Coil of 40 V peak, 300 Hz, 0.3 ohm, 1 mH into 13.5 V: 9.72 A full-wave and 5.80 A half-wave in circuit
    simulation.

    Its diodes lose 0.85 V: with that the full-wave figure is met, and the half-wave one must be too.
    """
    ohm_per_rpm = 2 * math.pi * 300 * 1e-3 / 1000  # at 1000 "rpm"
    winding = Winding(0.04, ohm_per_rpm, 0.3, 1)
    assert rectified_a(winding, 1000, 13.5, 0.85, half=False) == pytest.approx(9.72, rel=0.01)
    assert rectified_a(winding, 1000, 13.5, 0.85, half=True) == pytest.approx(5.80, rel=0.01)


def test_half_wave_below_cut_in():
    assert half_wave_a(Winding(0.04, 0.0019, 0.3, 1), 300, 13.5) == 0.0


def test_a_field_current_is_taken_from_the_output():
    b = Bench()
    bare = analyse(b.plan).ledgers["cruise"].given_a
    b.change(b.plan.generator.id, regulator="field", field_a=2.5)
    ledgers = analyse(b.plan).ledgers
    # The plate's ratings are net of the field, so at 5000 rpm the same is given.
    assert ledgers["cruise"].given_a == pytest.approx(bare, rel=1e-3)


@pytest.mark.parametrize("make", PLANS, ids=lambda m: m.__name__)
def test_every_working_of_every_demonstration_gives_its_figure_again(make):
    analysis = analyse(make()[0])
    shown = 0
    for key, told in every(analysis):
        shown += 1
        assert evaluate(told.formula, told.inputs) == pytest.approx(told.value, rel=2e-3, abs=2e-3), key
    assert shown > 40


def test_references_name_every_supply_s_end_once():
    plan = tide_hauler()[0]
    analysis = analyse(plan)
    found = references(analysis.topology, "assist", analysis.states["assist"].closed)
    where = [t for r in found for t in r.terminals]
    assert len(where) == len(set(where))
    words = {r.words: r for r in found}
    assert "PK1.neg" in words["frame pack, negative"].terminals
    assert "L1.neg" in words["frame pack, negative"].terminals
    assert words["12 V box, output"].frame_words == "never touches the frame"
    assert "joined to no supply in this state" not in words


def test_a_switch_parts_what_it_opens():
    plan = tide_hauler()[0]
    analysis = analyse(plan)
    on = {r.words: r for r in references(analysis.topology, "assist", {})}
    off = {r.words: r for r in references(analysis.topology, "parked", {})}
    load = plan.loads[1].id
    assert f"{load}.pos" in on["12 V box, output"].terminals
    assert f"{load}.pos" not in off["12 V box, output"].terminals


def test_an_isolated_converter_has_a_negative_of_its_own():
    plan = apply(tide_hauler()[0], ChangeElement(id="CV1", values={"isolated": True}))
    analysis = analyse(plan)
    words = {r.words: r for r in references(analysis.topology, "assist", {})}
    assert "CV1.neg" in words["12 V box, output negative"].terminals
    assert "CV1.neg" not in words["frame pack, negative"].terminals
    assert not [f for f in analysis.findings if f.rule == "network.floating"]
    before = analyse(tide_hauler()[0]).volts.across_v("L2", "assist")
    assert analysis.volts.across_v("L2", "assist") == pytest.approx(before, rel=1e-6)


def test_which_joint_brings_dc_negative_to_the_frame():
    b = Bench()
    b.plan = apply(b.plan, SetMachine(values={"chassis": "winding"}))
    b.change(b.plan.generator.id, phases=1, tied="frame")
    assert two_references(Topology(b.plan)) is None
    point = b.add("frame", name="seat bolt", place=b.nose)
    b.plan = apply(b.plan, AddWire(a=f"{b.battery}.neg", b=f"{point}.t"))
    generator, meeting = two_references(Topology(b.plan))
    assert generator.id == b.plan.generator.id
    assert meeting.words == (f"seat bolt ({point})",)


def test_live_states_of_packs_and_engines_do_not_mix():
    assert "assist" in LIVE_STATES["key"]
    assert "parked" not in LIVE_STATES["engine"]
    assert "charging" in LIVE_STATES["always"]
    assert "charging" not in LIVE_STATES["key"]


@pytest.mark.parametrize(("what", "values", "words"), [
    ("pack", {"name": "p", "series": 13}, "set the machine's system"),
    ("combiner", {"name": "c"}, "takes two of them"),
    ("converter", {"name": "c", "window_low_v": 40, "window_high_v": 60, "rated_a": -1}, "more than 0"),
    ("coil", {"name": "c", "emf_mv_per_rpm": 7, "reactance_mohm_per_rpm": 1}, "missing"),
])
def test_what_does_not_fit_is_refused_in_words(what, values, words):
    b = Bench()
    with pytest.raises(PlanError, match=words):
        apply(b.plan, AddElement(what=what, values={"place": b.box, **values}))


def test_the_lamp_that_is_hardest_on_another_when_it_fails():
    """No other failure leaves a lamp with more of its volts at town speed: every pair looked at."""
    a = analyse(tide_race()[0])
    rpm, lamps = a.plan.machine.town_rpm, [p for p in a.plan.loads if p.id in a.lamps.lamps]
    assert len(lamps) > 1
    gone, other, volts = worst_when_one_fails(a)
    assert gone is not other and volts == a.lamps.at_failed(gone.id, other.id, rpm)
    for one in lamps:
        for left in lamps:
            if one is not left:
                assert a.lamps.at_failed(one.id, left.id, rpm) / left.at_v <= volts / other.at_v + 1e-12


def test_the_lamp_that_is_furthest_over_its_volts():
    """At the highest speed, by its own volts: a 12 V lamp beside 6 V ones would not be it."""
    a = analyse(tide_race()[0])
    rpm = a.plan.machine.rpm(a.plan.machine.fastest)
    lamp, volts = hardest_lamp(a)
    assert volts == a.lamps.at(lamp.id, rpm)
    assert volts / lamp.at_v == max(a.lamps.at(p.id, rpm) / p.at_v for p in a.plan.loads if p.id in a.lamps.lamps)
