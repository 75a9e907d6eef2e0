"""The heat model against textbook examples, published tables and independently made vectors."""

import numpy as np
import pytest

from loadstar.core.materials.conductors import BY_AREA
from loadstar.core.physics import bundle, heat, overload, surface
from loadstar.core.physics.overload import Insulated
from reference.vectors import calls


def test_incropera_example_9_4():
    """Incropera, ex. 9.4: a 0.1 m pipe at 165 C in 23 C air, emissivity 0.85, gives off 766 W/m (0.9 here: 5 % more
    radiation, 441 to 467 W/m)."""
    convection = float(surface.natural_h(0.1, 165, 23)) * np.pi * 0.1 * 142
    radiation = 0.85 * surface.SIGMA * np.pi * 0.1 * (438.15**4 - 296.15**4)
    assert convection + radiation == pytest.approx(766, rel=0.01)


@pytest.mark.parametrize(("args", "result"), calls("h_nat"))
def test_natural_convection(args, result):
    assert float(surface.natural_h(*args)) == pytest.approx(result, rel=1e-9)


@pytest.mark.parametrize(("args", "result"), calls("surface_loss"))
def test_surface_loss(args, result):
    diameter_m, skin, ambient = args
    assert float(surface.surface_loss_w_per_m(diameter_m * 1000, skin, ambient)) == pytest.approx(result, rel=1e-6)


@pytest.mark.parametrize(("args", "result"), calls("ampacity"))
def test_ampacity(args, result):
    assert float(heat.ampacity_a(*args)) == pytest.approx(result, rel=1e-6)


@pytest.mark.parametrize(("args", "result"), calls("ampacity_size"))
def test_ampacity_of_listed_sizes(args, result):
    area, conductor, ambient = args
    c = BY_AREA[area]
    assert float(heat.ampacity_a(c.r20_ohm_per_m, c.d_mm, c.od_mm("thin"), conductor, ambient)) == pytest.approx(
        result, rel=1e-6)


@pytest.mark.parametrize(("args", "result"), calls("wire_temp"))
def test_wire_temperature(args, result):
    assert float(heat.wire_temperature_c(*args)) == pytest.approx(result, abs=1e-4)


# DIN VDE 0298-4 (70 C, 30 C, single), A: the model is within 12 % (documented mean 0.96).
@pytest.mark.parametrize(("area", "table", "r20", "od"), [
    (0.75, 15, 26.0e-3, 2.4), (1.5, 24, 13.3e-3, 3.0), (2.5, 32, 7.98e-3, 3.6), (4.0, 42, 4.95e-3, 4.1),
    (6.0, 54, 3.30e-3, 4.8), (10.0, 73, 1.91e-3, 6.4)])
def test_ampacity_against_din_vde_0298_4(area, table, r20, od):
    mine = float(heat.ampacity_a(r20, 1.30 * area**0.5, od, 70, 30))
    assert mine == pytest.approx(table, rel=0.12)


def test_temperature_and_ampacity_are_inverse():
    c = BY_AREA[2.5]
    shape = (c.r20_ohm_per_m, c.d_mm, c.od_mm("thin"))
    amps = float(heat.ampacity_a(*shape, 90, 40))
    assert float(heat.wire_temperature_c(amps, *shape, 40)) == pytest.approx(90, abs=1e-3)


def test_a_hopeless_current_runs_away_and_none_leaves_it_at_ambient():
    c = BY_AREA[0.5]
    shape = (c.r20_ohm_per_m, c.d_mm, c.od_mm("thin"))
    assert np.isinf(heat.wire_temperature_c(400, *shape, 40))
    assert float(heat.wire_temperature_c(0, *shape, 40)) == 40


@pytest.mark.parametrize(("args", "result"), calls("bundle_temps"))
def test_bundle_temperatures(args, result):
    wires, ambient = args
    column = {k: np.array([[w[k] for w in wires]]) for k in ("r20", "d", "D", "I")}
    got, outer = bundle.bundle_temperatures_c(column["I"], column["r20"], column["d"], column["D"], np.array([ambient]))
    _, expected, _ = result
    assert outer[0] == pytest.approx(result[2], abs=1e-6)
    assert got[0] == pytest.approx(expected, abs=0.05)


def _bundle_factor(count: int, loaded: int) -> float:
    """Current share that keeps the hottest of a bundle at 90 C in 30 C, over that of one wire, by bisection."""
    c = BY_AREA[1.5]
    free = float(heat.ampacity_a(c.r20_ohm_per_m, c.d_mm, c.od_mm("thin"), 90, 30))
    low, high = 0.1, 1.3
    full = {k: np.full((1, count), v) for k, v in (("r", c.r20_ohm_per_m), ("d", c.d_mm), ("D", c.od_mm("thin")))}
    for _ in range(30):
        middle = (low + high) / 2
        amps = np.array([[middle * free if i < loaded else 0.0 for i in range(count)]])
        hot = bundle.bundle_temperatures_c(amps, full["r"], full["d"], full["D"], np.array([30.0]))[0].max()
        low, high = (middle, high) if hot < 90 else (low, middle)
    return low


@pytest.mark.parametrize(("args", "result"), calls("bundle_factor"))
def test_bundle_factor(args, result):
    loaded, count = args[0], args[1]
    assert _bundle_factor(count, loaded) == pytest.approx(result, abs=0.012)  # the model is stated to 6 %


# Twelve of twelve loaded: AS50881 (as in AC 43.13-1B chapter 11) gives 0.43.
def test_bundle_of_twelve_against_as50881():
    assert _bundle_factor(12, 12) == pytest.approx(0.43, abs=0.03)


@pytest.mark.parametrize(("multiple", "from_70", "from_30"), [(2, 61.7, 78.0), (3, 15.0, 21.7), (5, 4.4, 6.7)])
def test_time_to_160_c_against_the_radial_solution(multiple, from_70, from_30):
    """1.5 mm2 thin wall, PVC, 30 C air: two-node times of the tables (0-2 % of a 24-shell solution)."""
    c = BY_AREA[1.5]
    amps = multiple * 20.6
    for start, expected in ((70, from_70), (30, from_30)):
        wire = Insulated(1.5, c.r20_ohm_per_m, c.d_mm, c.od_mm("thin"))
        got = float(overload.time_to_temperature_s(amps, wire, 160, start, 30))
        assert got == pytest.approx(expected, rel=0.03)


@pytest.mark.parametrize(("args", "result"), calls("t_to_temp"))
def test_time_to_temperature(args, result):
    amps, area, r20, d, od, end, start = args
    got = float(overload.time_to_temperature_s(amps, Insulated(area, r20, d, od), end, start, 30))
    assert got == (float("inf") if result == "Infinity" else pytest.approx(result, rel=0.01))


@pytest.mark.parametrize(("args", "result"), calls("k_adiabatic"))
def test_adiabatic_constant_of_iec_60364(args, result):
    assert overload.adiabatic_k(*args) == pytest.approx(result, rel=2e-3)  # 226 is a rounded constant


@pytest.mark.parametrize(("args", "result"), calls("van_wormer"))
def test_van_wormer(args, result):
    assert float(overload.van_wormer(*args)) == pytest.approx(result)


def test_below_a_second_the_adiabatic_time_is_used():
    c = BY_AREA[0.75]
    amps = 400.0
    wire = Insulated(0.75, c.r20_ohm_per_m, c.d_mm, c.od_mm("thin"))
    got = float(overload.time_to_temperature_s(amps, wire, 160, 70, 30))
    effective = 17.2414e-3 / c.r20_ohm_per_m
    assert got == pytest.approx((overload.adiabatic_k(70, 160) * effective / amps) ** 2, rel=1e-6)


# -- steps of current one after the other ------------------------------------------------------------------------------

WIRE = BY_AREA[1.5]
ONE = Insulated(1.5, WIRE.r20_ohm_per_m, WIRE.d_mm, WIRE.od_mm("thin"))


def after_c(*steps: tuple[float, float], start_c: float = 40.0, air_c: float = 40.0) -> float:
    """The core after steps of (amps, seconds)."""
    amps, seconds = (np.array([[one] for one in row]) for row in zip(*steps, strict=True))
    return float(overload.temperatures_after_c(amps, seconds, ONE, np.array([start_c]), np.array([air_c]))[-1, 0])


@pytest.mark.parametrize("amps", [10, 20, 28])
def test_after_an_hour_a_wire_is_as_warm_as_it_gets(amps):
    """Against the balance at the surface, which knows nothing of time."""
    settled = heat.wire_temperature_c(amps, WIRE.r20_ohm_per_m, WIRE.d_mm, WIRE.od_mm("thin"), 40.0)
    assert after_c((amps, 3600)) == pytest.approx(float(settled), rel=5e-3)
    assert after_c((0, 3600), start_c=90.0) == pytest.approx(40, abs=0.5)


@pytest.mark.parametrize("amps", [50, 65, 90])
def test_a_wire_is_there_when_it_is_said_to_be_there(amps):
    seconds = float(overload.time_to_temperature_s(amps, ONE, 150.0, 60.0, 40.0))
    assert seconds > 1
    assert after_c((amps, seconds), start_c=60.0) == pytest.approx(150, rel=0.04)


def test_a_step_cut_in_two_ends_where_the_whole_one_does():
    whole = after_c((60, 8.0))
    assert after_c((60, 3.0), (60, 5.0)) == pytest.approx(whole, rel=0.01)
    assert after_c((60, 8.0), (0, 0.0)) == pytest.approx(whole)
    assert after_c((60, 4.0), (20, 4.0)) < whole


def test_within_a_second_the_copper_keeps_it_all():
    """IEC 60364-4-43 with the copper that the resistance guarantees: 300 A for 0.05 s through 1.358 mm2."""
    copper = 17.2414e-3 / WIRE.r20_ohm_per_m
    by_hand = (234.5 + 40) * np.exp(300**2 * 0.05 / (226 * copper) ** 2) - 234.5
    assert after_c((300, 0.05)) == pytest.approx(by_hand)
    assert after_c((300, 0.02), (300, 0.03)) == pytest.approx(by_hand)
    assert after_c((1e6, 0.5)) == overload.HOTTEST_C


def test_a_wire_at_rest_has_its_skin_between_its_core_and_the_air():
    """What passes through the insulation is what the surface gives off."""
    nodes = overload._Nodes(*(np.array([one]) for one in (1.5, WIRE.d_mm, WIRE.od_mm("thin"), 0.2, 30.0)))
    skin = float(nodes.skin_at_rest_c(np.array([80.0]))[0])
    through = float(nodes.between[0]) * (80 - skin)
    assert 30 < skin < 80
    assert through == pytest.approx(float(surface.surface_loss_w_per_m(WIRE.od_mm("thin"), skin, 30.0)), rel=0.06)
    assert float(nodes.skin_at_rest_c(np.array([30.0]))[0]) == 30


def random_wires(count, seed):
    """Listed wires at random currents and airs, with those that carry nothing, and air as warm as the limit."""
    dice = np.random.default_rng(seed)
    rows = [BY_AREA[a] for a in dice.choice(sorted(BY_AREA), count)]
    r20, d, od, area = (np.array(column) for column in zip(
        *((c.r20_ohm_per_m, c.d_mm, c.od_mm("thin"), c.area_mm2) for c in rows), strict=True))
    air, limit = dice.uniform(-20, 90, count), dice.choice([70.0, 90.0, 105.0, 125.0], count)
    air[::50] = limit[::50]
    amps = np.where(dice.random(count) < 0.05, 0.0, area**0.6 * np.exp(dice.uniform(0, 5, count)))
    return amps, r20, d, od, area, limit, air


def test_one_look_at_the_balance_says_the_same_as_the_current_that_reaches_the_limit():
    """10,000 wires: what carries no more than its ampacity carries it."""
    amps, r20, d, od, _, limit, air = random_wires(10_000, 1)
    allowed = heat.ampacity_a(r20, d, od, limit, air)
    sure = (np.abs(amps - allowed) > 1e-6 * allowed) | (amps == 0)
    made = amps**2 * heat.resistance_at(r20, limit)
    carries = heat.carries(made, heat.insulation_mk_per_w(d, od), od, limit, air)
    assert sure.sum() > 9_900 and 1_000 < carries.sum() < 9_000
    assert np.array_equal(carries[sure], ((amps <= allowed) & (air <= limit))[sure])


def test_what_stands_a_current_for_good_is_what_never_gets_there_step_by_step():
    """10,000 wires, each stepped to the end of the grid."""
    amps, r20, d, od, area, limit, air = random_wires(10_000, 2)
    wire, end, start = Insulated(area, r20, d, od), limit + 50, np.minimum(air + 15, limit)
    found = overload.time_to_temperature_s(amps, wire, end, start, air)
    nodes = overload._Nodes(area, d, od, np.full(10_000, heat.K_PVC), air)
    stepped = overload._reached_s(nodes, amps**2 * r20, start, end)
    never = np.isinf(found)
    assert 1_000 < never.sum() < 9_000
    assert np.array_equal(never, np.isinf(stepped))
    later = found > 1.0
    assert np.array_equal(found[later], stepped[later])
