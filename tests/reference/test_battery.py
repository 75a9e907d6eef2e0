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
