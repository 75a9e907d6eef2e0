"""What sources drive in their states and into a fault, what loads draw and give, and what lies beside what: by hand."""

import math

import pytest
from builders import Bench

from loadstar.core.doc.machine import Machine
from loadstar.core.parts.inside import ABSENT
from loadstar.core.parts.registry import KINDS
from loadstar.core.parts.second import JOINED_V


def part(kind: str, **values):
    """A part of a kind, its id the kind's first."""
    return KINDS[kind].model_validate({"id": f"{KINDS[kind].PREFIX}1", "name": kind, "place": "P1", **values})


def drives(source, state="parked", empty=False, **machine) -> tuple[complex, float]:
    """Ohms behind volts in a state."""
    found = source.drives(state, Machine(**machine), empty=empty)
    assert found.across == 1.0
    return -found.series, found.drive


def into_a_fault(source, strong=True, alone=False, **machine) -> tuple[complex, float]:
    found = source.drives_fault(Machine(**machine), strong=strong, alone=alone)
    return (-found.series, found.drive) if found != ABSENT else (0, 0)


def test_a_battery_by_its_charge():
    """12 mohm full; at half charge 0.5 + 0.5/0.5 times as much, behind 12.32 V (AGM)."""
    half = part("battery", capacity_ah=12, internal_mohm=12, chemistry="agm", charge_frac=0.5)
    assert drives(half) == pytest.approx((0.018, 12.32))
    assert into_a_fault(half) == pytest.approx((0.012, 12.80))
    assert into_a_fault(half, strong=False) == pytest.approx((0.018, 12.32))
    six = part("battery", capacity_ah=12, internal_mohm=12, chemistry="flooded", charge_frac=1.0, nominal_v=6)
    assert drives(six) == pytest.approx((0.012, 6.365))


def test_a_pack_by_its_state():
    """13 cells of 40 mohm, five beside one another, and 20 mohm: 124 mohm; full 54.6 V, empty 39 V."""
    pack = part("pack", series=13, parallel=5, cell_mohm=40, extra_mohm=20, charge_frac=0.5)
    assert drives(pack, "assist") == pytest.approx((0.124, 13 * 3.68))
    assert drives(pack, "charging") == pytest.approx((0.124, 54.6))
    assert drives(pack, "full", empty=True) == pytest.approx((0.124, 39.0))
    assert into_a_fault(pack) == pytest.approx((0.124, 54.6))
    assert into_a_fault(pack, strong=False) == pytest.approx((0.124, 13 * 3.68))


def test_a_lighting_coil_by_its_speed():
    """7.5 mV and 1.4 mohm to each turn a minute: at 3,000 rpm 22.5 V behind 0.3 + 4.2j ohm; into a short its reactance
    counts at any speed, here at 1,000 rpm."""
    coil = part("coil", emf_mv_per_rpm=7.5, reactance_mohm_per_rpm=1.4, winding_ohm=0.3)
    ohm, volts = drives(coil, "town", town_rpm=3000)
    assert (ohm.real, ohm.imag, volts) == pytest.approx((0.3, 4.2, 22.5))
    assert drives(coil, "parked")[1] == 0
    assert into_a_fault(coil) == pytest.approx((1.4, 7.5))


def test_a_second_battery_takes_what_it_is_said_to_take():
    """While the engine runs it is half empty behind what flows when it is joined; else its own volts and ohms."""
    second = part("second_battery", capacity_ah=20, internal_mohm=10, chemistry="agm", charge_frac=1.0)
    ohm, volts = drives(second, "idle")
    assert volts == second.drawn_v and volts + ohm * second.joined_a == pytest.approx(JOINED_V)
    assert drives(second, "parked") == pytest.approx((second.ohm_at(1.0), 12.80))
    assert into_a_fault(second) == pytest.approx((0.010, 12.80))
    assert into_a_fault(second, strong=False) == pytest.approx((second.ohm_at(1.0), 12.80))


def test_a_generator_drives_a_fault_only_on_leads_of_its_own():
    made = part("generator", rating1_w=120, rating1_rpm=1300, rating2_w=340, rating2_rpm=5000, phase_ohm=0.28,
                set_v=14.2)
    assert made.drives("idle", Machine(), empty=False) == ABSENT
    assert into_a_fault(made) == (0, 0)
    ohm, volts = into_a_fault(made, alone=True)
    assert volts == 14.2 and volts / ohm == pytest.approx(made.short_a(Machine()))


@pytest.mark.parametrize(("behaviour", "watts", "effect"), [
    ("resistor", 40 * (12 / 13.5) ** 2, (12 / 13.5) ** 2), ("power", 40, None), ("current", 40 * 12 / 13.5, None),
    ("filament", None, None)])
def test_a_load_below_its_volts(behaviour, watts, effect):
    load = part("load", amount=40, at_v=13.5, feed="B1", behaviour=behaviour, category="lamp")
    if watts is not None:
        assert load.draws_a(12) * 12 == pytest.approx(watts)
        assert load.effect_frac(12) == (None if effect is None else pytest.approx(effect))
    else:  # a bulb takes less, and gives much less light: about the 0.55th and the 3.4th power of its volts
        assert 0.5 < math.log(load.draws_a(12) / load.draws_a(13.5)) / math.log(12 / 13.5) < 0.6
        assert 3 < math.log(load.effect_frac(12)) / math.log(12 / 13.5) < 3.8
    assert load.draws_a(13.5) == pytest.approx(40 / 13.5)


def test_behind_a_rectifier_of_its_own_it_sees_the_peak_less_two_diodes():
    with_it, without = (part("load", amount=5, feed="C1", rectified=r) for r in (True, False))
    assert with_it.sees_v(12, on_ac=True) == pytest.approx(12 * math.sqrt(2) - 1.4, abs=0.3)
    assert with_it.sees_v(12, on_ac=False) == without.sees_v(12, on_ac=True) == 12
    assert with_it.sees_v(0.1, on_ac=True) == 0


@pytest.mark.parametrize(("ways", "way", "beside"), [
    (2, 1, {2}), (3, 2, {1, 3}), (6, 1, {2, 4}), (6, 2, {1, 3, 5}), (6, 5, {4, 6, 2}), (6, 6, {5, 3}), (8, 5, {6, 1}),
    (5, 4, {5, 1}), (5, 3, {2})])
def test_ways_beside_one_another(ways, way, beside):
    """Up to so many in one row, more in two, numbered row by row; of five the last place of the second is empty."""
    coupling = part("coupling", ways=ways)
    if coupling.rows == 1:
        beside = {n for n in (way - 1, way + 1) if 1 <= n <= ways}
    assert coupling.beside(way) == beside


@pytest.mark.parametrize(("at", "fused"), [("box", False), ("nose", True)])
def test_a_bus_bar_elsewhere_has_a_fuse_where_its_lead_begins(at, fused):
    b = Bench()
    bar = b.add("junction", name="bar", place=getattr(b, at), form="bus bar", terminals=4)
    mains = [p for p in b.plan.of_kind("fuse") if p.made_for == bar]
    assert [p.place for p in mains] == ([b.box] if fused else [])
    to_bar = next(w for w in b.plan.wires if b.plan.part(bar).at("t") in (w.a, w.b))
    assert to_bar.a.part == (mains[0].id if fused else b.battery)
    star = b.add("junction", name="star", place=b.nose, form="star point", terminals=4)
    assert any({w.a, w.b} == {b.plan.part(star).at("t"), b.plan.part(b.battery).at("neg")} for w in b.plan.wires)
