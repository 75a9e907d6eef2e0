"""The battery model against published values and hand calculations."""

import math

import pytest

from loadstar.core.physics import battery as cell
from reference.vectors import calls


@pytest.mark.parametrize(("charge", "volts"), [(1.0, 12.73), (0.75, 12.5), (0.5, 12.25), (0.25, 12.0), (0.0, 11.8)])
def test_rested_voltage(charge, volts):
    assert cell.rested_v(charge) == pytest.approx(volts)
    assert cell.rested_v(charge, "agm") == pytest.approx(volts + 0.07)


@pytest.mark.parametrize(("args", "result"), calls("lead_soc"))
def test_charge_at_a_voltage(args, result):
    assert cell.charge_frac_at(*args) * 100 == pytest.approx(result)


@pytest.mark.parametrize(("args", "result"), calls("peukert_h"))
def test_peukert(args, result):
    capacity, rate, amps, k = args
    assert cell.peukert_h(capacity, rate, amps, k) == pytest.approx(result)


@pytest.mark.parametrize(("amps", "k", "hours"), [(5, 1.2, 1.80), (12, 1.2, 0.63), (5, 1.05, 2.23)])
def test_peukert_table(amps, k, hours):
    assert cell.peukert_h(12, 10, amps, k) == pytest.approx(hours, abs=0.006)


def test_never_more_than_the_rated_capacity():
    # 25 mA from 12 Ah is 20 days, not the 43 of the power law.
    assert cell.peukert_h(12, 10, 0.025, 1.2) / 24 == pytest.approx(20.0)
    assert cell.peukert_h(12, 10, 0, 1.2) == math.inf


def test_cranking_by_hand():
    # Full, flooded: 12.73 - 100 x 0.014 = 11.33 V. Half: 12.25 - 100 x 0.014 (0.5 + 0.5/0.5) = 10.15 V.
    assert cell.cranking_v(0.014, 1.0, 100) == pytest.approx(11.33)
    assert cell.cranking_v(0.014, 0.5, 100) == pytest.approx(10.15)


def test_least_charge_is_where_cranking_meets_the_limit():
    least = cell.least_charge_to_crank(0.014, 120, 9.6)
    assert cell.cranking_v(0.014, least, 120) == pytest.approx(9.6, abs=1e-6)
    assert cell.least_charge_to_crank(0.05, 120, 9.6) == math.inf


def test_parked_by_hand():
    # 6 Ah to a draw of 20 mA and 2 % of 12 Ah a month (0.3285 mA): 295.1 h.
    assert cell.parked_h(6, 0.020, 12, 0.02) == pytest.approx(6 / (0.020 + 0.24 / 730.5))


@pytest.mark.parametrize(("chemistry", "charge", "volts"), [
    ("nmc", 0.0, 3.00), ("nmc", 0.5, 3.68), ("nmc", 1.0, 4.20), ("nmc", 0.25, 3.56), ("lfp", 0.0, 2.50),
    ("lfp", 0.2, 3.22), ("lfp", 0.5, 3.285), ("lfp", 1.0, 3.65)])
def test_a_pack_is_its_cells_in_series(chemistry, charge, volts):
    assert cell.pack_v(charge, chemistry, 13) == pytest.approx(13 * volts)
    assert cell.pack_charge_frac(13 * volts, chemistry, 13) == pytest.approx(charge)
    (c0, v0), (c1, v1) = cell.pack_charge_between(13 * volts, chemistry, 13)
    assert c0 <= charge <= c1 and v0 <= 13 * volts + 1e-9 and 13 * volts <= v1 + 1e-9
    assert v0 == pytest.approx(cell.pack_v(c0, chemistry, 13)) and v1 == pytest.approx(cell.pack_v(c1, chemistry, 13))


@pytest.mark.parametrize("chemistry", ["flooded", "agm", "lfp"])
@pytest.mark.parametrize("nominal", [6, 12])
def test_volts_and_charge_are_each_other_s_inverse(chemistry, nominal):
    """A 6 V battery is half of a 12 V one; a 12 V LiFePO4 battery is four cells."""
    for charge in (0.0, 0.13, 0.3, 0.62, 0.9, 1.0):
        volts = cell.rested_v(charge, chemistry, nominal)
        assert volts == pytest.approx(cell.rested_v(charge, chemistry, 12) * nominal / 12)
        assert cell.charge_frac_at(volts, chemistry, nominal) == pytest.approx(charge)
        (c0, _), (c1, _) = cell.charge_between(volts, chemistry, nominal)
        assert c0 - 1e-9 <= charge <= c1 + 1e-9
    assert cell.rested_v(1.0, "lfp", 12) == pytest.approx(4 * 3.65)
    assert cell.charge_frac_at(0.0, chemistry, nominal) == 0
    assert cell.charge_frac_at(99.0, chemistry, nominal) == 1
    assert cell.rested_v(1.2, chemistry, nominal) == cell.rested_v(1.0, chemistry, nominal)
    assert cell.rested_v(-0.1, chemistry, nominal) == cell.rested_v(0.0, chemistry, nominal)


def test_resistance_grows_as_charge_falls():
    """Half of it fixed, half inversely proportional to the charge; below 2 % it grows no more."""
    assert cell.internal_ohm(0.01, 1.0) == pytest.approx(0.01)
    assert cell.internal_ohm(0.01, 0.25) == pytest.approx(0.025)
    assert cell.internal_ohm(0.01, 0.001) == cell.internal_ohm(0.01, 0.02) == pytest.approx(0.255)


def test_a_battery_of_6_volts_cranks_to_its_own_limit():
    least = cell.least_charge_to_crank(0.010, 80, 4.8, "agm", 6)
    assert 0 < least < 1
    assert cell.cranking_v(0.010, least, 80, "agm", 6) == pytest.approx(4.8, abs=1e-6)
    assert cell.cranking_v(0.010, 1.0, 80, "agm", 6) == pytest.approx(6.40 - 0.8)


def test_parked_without_any_loss_is_for_ever():
    assert cell.parked_h(6, 0, 12, 0) == math.inf
    assert cell.parked_h(6, 0, 12, 0.06) == pytest.approx(6 / (0.72 / 730.5))
