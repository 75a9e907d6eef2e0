"""A lighting coil and a half-wave rectifier: by hand, against the equation that they solve, and turn by turn."""

import math

import pytest

from loadstar.core.physics.coil import given_a
from loadstar.core.physics.generator import Winding, half_wave_a, output_a, rectified_a

COILS = [(8.0, 0.3, 1.5), (30.0, 0.3, 2.0), (16.0, 1.2, 0.4), (50.0, 0.8, 5.5)]


def test_by_hand():
    """8 V behind 0.3 ohm and 1.5 ohm, at 4 V: (4 + 0.3 I)^2 + (1.5 I)^2 = 64. In the short 8 / sqrt(2.34)."""
    assert given_a(8, 0.3, 1.5, 4)[0] == pytest.approx(4.045, abs=5e-4)
    assert given_a(8, 0.3, 1.5, 0)[0] == pytest.approx(8 / math.sqrt(2.34))
    assert given_a(8, 0.3, 1.5, 8)[0] == pytest.approx(0, abs=1e-9)


@pytest.mark.parametrize(("emf", "ohm", "reactance"), COILS)
@pytest.mark.parametrize("share", [0.0, 0.1, 0.4, 0.7, 0.95])
def test_what_it_gives_closes_the_triangle_of_volts(emf, ohm, reactance, share):
    volts = share * emf
    amps, slope = given_a(emf, ohm, reactance, volts)
    assert abs(complex(volts + ohm * amps, reactance * amps)) == pytest.approx(emf)
    less, more = (given_a(emf, ohm, reactance, volts + step)[0] for step in (-1e-5, 1e-5))
    assert slope == pytest.approx((more - less) / 2e-5, rel=1e-4)


def test_beyond_its_open_voltage_it_takes_what_the_line_through_its_end_says():
    end, slope = given_a(8, 0.3, 1.5, 8)
    beyond, same = given_a(8, 0.3, 1.5, 9)
    assert (beyond, same) == (pytest.approx(end + slope), slope) and slope < 0


def turned(k: float, x: float, ohm: float, rpm: float, volts: float) -> float:
    """One diode and one winding stepped through three turns of 200,000 steps; the mean of the last."""
    emf, steps = k * rpm, 200_000
    step, amps, total = 2 * math.pi / steps, 0.0, 0.0
    for n in range(3 * steps):
        angle = n * step
        amps = max(0.0, amps + (emf * math.sin(angle) - volts - ohm * amps) / (x * rpm) * step)
        total += amps if n >= 2 * steps else 0.0
    return total / steps


@pytest.mark.parametrize(("rpm", "volts"), [(1500, 7.5), (3000, 14.9), (6000, 14.9)])
def test_half_wave_against_stepping_through_the_turns(rpm, volts):
    winding = Winding(0.012, 0.0004, 0.6, 1)
    assert half_wave_a(winding, rpm, volts) == pytest.approx(turned(0.012, 0.0004, 0.6, rpm, volts), rel=2e-4)


def test_half_wave_gives_nothing_before_its_crest_reaches_the_battery():
    winding = Winding(0.012, 0.0004, 0.6, 1)
    assert half_wave_a(winding, 1000, 12.01) == half_wave_a(winding, 0, 12) == half_wave_a(winding, -5, 12) == 0
    assert half_wave_a(winding, 1000, 11.9) > 0


def test_one_diode_half_wave_two_in_series_else():
    winding, three = Winding(0.012, 0.0004, 0.6, 1), Winding(0.009, 0.0003, 0.3, 3)
    assert rectified_a(winding, 3000, 14.0, 0.9, half=True) == half_wave_a(winding, 3000, 14.9)
    assert rectified_a(winding, 3000, 14.0, 0.9, half=False) == output_a(winding, 3000, 15.8)
    assert rectified_a(three, 3000, 14.0, 0.9, half=True) == output_a(three, 3000, 15.8)
