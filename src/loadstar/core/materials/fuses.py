"""Blade fuses after ISO 8820-3, type C ("standard", medium): ratings, colours, opening band, resistance.

Cold resistances are typical values (unsure, +-10 %); the drop at rated current gives the hot resistance, which is
what is computed with. Check the current edition and the maker's curve.
"""

import math
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise

SOURCE = "ISO 8820-3, type C blade fuse (check the current edition)"
MAX_VOLTAGE_V = 32.0
BREAKING_CAPACITY_A = 1000.0
HOLDER_CONTACT_OHM = 0.002  # two blades at 0.5-2 mohm each: the middle of the published range


@dataclass(frozen=True)
class Fuse:
    """One rating: amps, ISO 8820-3 colour in words, drop at rated current in volts."""

    rating_a: float
    colour: str
    drop_at_rated_v: float

    @property
    def hot_ohm(self) -> float:
        """Resistance when warm from its rated current, holder contacts included."""
        return self.drop_at_rated_v / self.rating_a + HOLDER_CONTACT_OHM


FUSES = (
    Fuse(1, "black", 0.176), Fuse(2, "grey", 0.141), Fuse(3, "violet", 0.137), Fuse(5, "tan", 0.128),
    Fuse(7.5, "brown", 0.116), Fuse(10, "red", 0.109), Fuse(15, "blue", 0.102), Fuse(20, "yellow", 0.098),
    Fuse(25, "natural", 0.092), Fuse(30, "green", 0.084), Fuse(35, "blue-green", 0.080), Fuse(40, "orange", 0.078),
)
BY_RATING = {f.rating_a: f for f in FUSES}
RATINGS_A = tuple(f.rating_a for f in FUSES)

# Multiples of rated current against shortest and longest opening time, seconds; interpolated log-log.
FASTEST = ((1.10, 360_000.0), (1.35, 0.75), (1.60, 0.25), (2.00, 0.15), (3.50, 0.04), (6.00, 0.02))
SLOWEST = ((1.35, 600.0), (1.60, 50.0), (2.00, 5.0), (3.50, 0.5), (6.00, 0.1))
STEADY_MULTIPLE = 1.10  # carried for 100 h without opening
RERATE_PER_K = 0.0015  # above 25 C; unsure (0.1-0.2 %/K)


def _time_s(points: tuple[tuple[float, float], ...], multiple: float) -> float:
    if multiple < points[0][0] * (1 - 1e-12):
        return math.inf
    last_m, last_t = points[-1]
    if multiple >= last_m:
        return last_t * (last_m / multiple) ** 2  # I2t held constant beyond the last gate: an assumption
    for (m0, t0), (m1, t1) in pairwise(points):
        if multiple <= m1:
            share = math.log(max(multiple / m0, 1.0)) / math.log(m1 / m0)
            return math.exp(math.log(t0) + share * math.log(t1 / t0))
    raise AssertionError("unreachable: the last gate was tested above")


def gates(points: tuple[tuple[float, float], ...], multiple: float) -> tuple[tuple[float, float],
                                                                             tuple[float, float] | None]:
    """The two gates of a band that a multiple lies between; the last one and None beyond it."""
    for low, high in pairwise(points):
        if multiple <= high[0]:
            return low, high
    return points[-1], None


def opening_times_s(current_a: float, rating_a: float) -> tuple[float, float]:
    """Shortest and longest time a conforming fuse takes to open; infinite where the standard gives no limit."""
    multiple = current_a / rating_a
    return _time_s(FASTEST, multiple), _time_s(SLOWEST, multiple)


def rerated_a(rating_a: float, ambient_c: float) -> float:
    """What a fuse of this rating carries at an ambient temperature: -0.15 %/K from 25 C (typical; unsure)."""
    return rating_a * (1 - RERATE_PER_K * (ambient_c - 25))


@lru_cache(maxsize=4096)
def inrush_limit_a2s(rating_a: float, duration_s: float) -> float:
    """Largest I2t an inrush of this duration may have: 0.3 of what opens the fastest fuse in that time, and never less
    than its rating for that time, which opens none."""
    low, high = 1.10, 400.0
    for _ in range(80):
        middle = math.sqrt(low * high)
        low, high = (middle, high) if _time_s(FASTEST, middle) > duration_s else (low, middle)
    return max(0.3 * high**2, 1.0) * rating_a**2 * duration_s
