"""Shares as per cent, and beside their limits."""

import pytest

from loadstar.core.amounts import apart, decimals_for, percent, suited


@pytest.mark.parametrize(("share", "decimals", "words"), [
    (0.75, 0, "75 %"), (0.0512, 1, "5.1 %"), (1.4949, 0, "149 %"), (0.0, 1, "0.0 %"), (0.004, 0, "0 %")])
def test_a_share_as_per_cent(share, decimals, words):
    assert percent(share, decimals) == words


@pytest.mark.parametrize(("share", "limit", "decimals", "words"), [
    (0.06, 0.05, 1, ("6.0 %", "5.0 %")), (0.0503, 0.05, 1, ("5.03 %", "5.00 %")),
    (0.7504, 0.75, 0, ("75.04 %", "75.00 %")),
    (0.05, 0.05, 1, ("5.0 %", "5.0 %")), (0.0500000001, 0.05, 1, ("5.000 %", "5.000 %"))])
def test_a_share_beside_its_limit_has_the_decimals_that_tell_them_apart(share, limit, decimals, words):
    """By hand; what three decimals do not tell apart is left at three."""
    assert apart(share, limit, decimals) == words


# Three figures where it is computed to a per cent, two where it is good to a tenth; as meters' ranges show volts.
@pytest.mark.parametrize(("unit", "decimals"), [
    ("V", {0.5: 2, 12.61: 2, -19.99: 2, 20.0: 1, -24.0: 1, 400.0: 1, 0: 0}),
    ("A", {0.12: 2, 0.994: 2, 0.995: 3, 1.0: 2, 9.99: 2, 10.0: 1, -99.0: 1, 100.0: 0, 999.0: 0, 1000.0: 0, 2500.0: 0}),
    ("mA", {1.0: 1, 9.0: 1, 10.0: 0, 99.0: 0, 0.5: 2}), ("s", {0.05: 3, 0.5: 2, 5.0: 1, 50.0: 0}),
    ("K", {9.99: 1, 10.0: 0, -12.0: 0, -3.0: 1}), ("mV", {7.26: 1, 243.4: 0}), ("mΩ", {9.0: 1, 11.0: 0}),
    ("°C", {65.4: 0, 0.5: 0}), ("°F", {150.3: 0}), ("rpm", {3036.9: 0}), ("×", {0.863: 2, 9.99: 2, 10.0: 1, -12.0: 1}),
    ("W", {0.5: 3, 5.0: 2, 55.0: 1, 340.0: 0, 1200.0: 0}), ("m", {0.35: 3, 1.2: 2, 12.0: 1})])
def test_as_many_digits_as_the_amount_is_good_for(unit, decimals):
    assert {value: decimals_for(value, unit) for value in decimals} == decimals


def test_small_currents_are_told_in_milliamperes():
    told = {0.0128: (12.8, "mA"), 0.0994: (99.4, "mA"), 0.0995: (0.0995, "A"), -0.02: (-20.0, "mA"), 0.0: (0.0, "A"),
            0.2: (0.2, "A"), -1.0: (-1.0, "A"), 2e-7: (2e-4, "mA"), 9e-8: (0.0, "A"), -1.2e-13: (0.0, "A")}
    for amps, (value, unit) in told.items():
        assert suited(amps, "A") == (pytest.approx(value), unit)
    assert suited(0.0128, "V") == (0.0128, "V") and suited(0.0128, "Ah") == (0.0128, "Ah")
