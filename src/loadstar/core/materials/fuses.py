"""Fuses of the kinds that a workshop uses: ratings, colours, volts, what they break, how soon they open, how they are
held.

Opening bands are the standards'. Drops at rated current are typical values (unsure, +-10 % of blade fuses, more of the
others) and give the hot resistance, which is what is computed with. Check the current edition and the maker's curve.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import lru_cache
from itertools import pairwise
from typing import Literal, get_args

from .terminals import Family

SOURCE = "ISO 8820-3, type C blade fuse (check the current edition)"
HOLDER_CONTACT_OHM = 0.002  # two blades at 0.5-2 mohm each: the middle of the published range
BOLTED_CONTACT_OHM = 0.0002  # two lugs under their nuts (typical)
Points = tuple[tuple[float, float], ...]  # multiples of the rating against seconds


@dataclass(frozen=True)
class Fuse:
    """One rating: amps, colour in words ("": what is printed on it), drop at rated current in volts, and the contacts
    of its holder in ohm."""

    rating_a: float
    colour: str
    drop_at_rated_v: float
    contact_ohm: float = HOLDER_CONTACT_OHM

    @property
    def hot_ohm(self) -> float:
        """Resistance when warm from its rated current, holder contacts included."""
        return self.drop_at_rated_v / self.rating_a + self.contact_ohm


FUSES = (
    Fuse(1, "black", 0.176), Fuse(2, "grey", 0.141), Fuse(3, "violet", 0.137), Fuse(5, "tan", 0.128),
    Fuse(7.5, "brown", 0.116), Fuse(10, "red", 0.109), Fuse(15, "blue", 0.102), Fuse(20, "yellow", 0.098),
    Fuse(25, "natural", 0.092), Fuse(30, "green", 0.084), Fuse(35, "blue-green", 0.080), Fuse(40, "orange", 0.078),
)
RATINGS_A = tuple(f.rating_a for f in FUSES)  # of blade fuses

# -- how soon they open ----------------------------------------------------------------------------------------------

Curve = Literal["fuse", "slow fuse", "tube fuse", "line fuse"]
STEADY_MULTIPLE = 1.10  # of blade fuses: carried for 100 h without opening
RERATE_PER_K, RERATED_FROM_C = 0.0015, 25.0  # unsure (0.1-0.2 %/K)


@dataclass(frozen=True)
class Band:
    """Multiples of rated current against shortest and longest opening time, interpolated log-log; `steady` is carried
    for good, `overload` for minutes or an hour: from there on the standard says how long at the most."""

    fastest: Points
    slowest: Points
    steady: float
    source: str

    @property
    def overload(self) -> float:
        """The first multiple that has a longest time."""
        return self.slowest[0][0]


FASTEST = ((1.10, 360_000.0), (1.35, 0.75), (1.60, 0.25), (2.00, 0.15), (3.50, 0.04), (6.00, 0.02))
SLOWEST = ((1.35, 600.0), (1.60, 50.0), (2.00, 5.0), (3.50, 0.5), (6.00, 0.1))
BANDS: Mapping[str, Band] = {
    "fuse": Band(FASTEST, SLOWEST, STEADY_MULTIPLE, SOURCE),
    "slow fuse": Band(((1.10, 360_000.0), (1.35, 60.0), (2.00, 2.0), (3.50, 0.2), (6.00, 0.04)),
                      ((1.35, 1800.0), (2.00, 60.0), (3.50, 7.0), (6.00, 1.0)), 1.10,
                      "ISO 8820-3 type E, high current; of bolted fuses (ISO 8820-5) and box fuses (ISO 8820-4) the "
                      "same, assumed"),
    "tube fuse": Band(((1.10, 14_400.0), (1.35, 1.0), (2.00, 0.2), (3.50, 0.03), (6.00, 0.01)),
                      ((1.35, 3600.0), (2.00, 120.0), (3.50, 10.0), (6.00, 1.0)), 1.10,
                      "UL 248-14: 1.35 within an hour, 2.0 within two minutes; the rest typical, assumed"),
    "line fuse": Band(((1.13, 3600.0), (1.45, 5.0), (2.00, 0.5), (3.50, 0.05), (6.00, 0.01)),
                      ((1.45, 3600.0), (2.00, 120.0), (3.50, 5.0), (6.00, 0.3), (10.0, 0.05)), 1.13,
                      "IEC 60269-6, gPV: 1.13 carried for an hour, 1.45 opens within it; the rest typical, assumed"),
}
assert tuple(BANDS) == get_args(Curve)


# -- kinds -----------------------------------------------------------------------------------------------------------

Pattern = Literal["blade", "mini blade", "box", "bolted M5", "bolted M8", "tube", "cartridge"]


@dataclass(frozen=True)
class FuseKind:
    """One kind: what it is called, its ratings, the volts (DC) that it comes for, the amps that it breaks, its opening
    band, what its wires end in, and its standard."""

    words: str
    fuses: tuple[Fuse, ...]
    volts: tuple[int, ...]
    breaks_a: float
    curve: Curve
    family: Family
    source: str
    by_rating: Mapping[float, Fuse] = field(default_factory=dict)

    def __post_init__(self) -> None:
        object.__setattr__(self, "by_rating", {f.rating_a: f for f in self.fuses})

    @property
    def ratings_a(self) -> tuple[float, ...]:
        """Its ratings, smallest first."""
        return tuple(f.rating_a for f in self.fuses)

    @property
    def band(self) -> Band:
        """How soon it opens."""
        return BANDS[self.curve]


def _printed(ratings: tuple[float, ...], drop_v: float, contact_ohm: float) -> tuple[Fuse, ...]:
    """Ratings without a colour, that all drop about as much."""
    return tuple(Fuse(a, "", drop_v, contact_ohm) for a in ratings)


_COLOURS = {f.rating_a: f.colour for f in FUSES}
KINDS: Mapping[Pattern, FuseKind] = {
    "blade": FuseKind("blade fuse", FUSES, (32, 58, 80), 1000.0, "fuse", "fuse holder", SOURCE),
    "mini blade": FuseKind(
        "mini blade fuse", tuple(f for f in FUSES if 2 <= f.rating_a <= 30), (32, 58), 1000.0, "fuse", "blade 2.8",
        "ISO 8820-3, type F; drops as of type C"),
    "box": FuseKind(
        "box fuse", tuple(Fuse(a, c, 0.075) for a, c in (
            (20, "blue"), (30, "pink"), (40, "green"), (50, "red"), (60, "yellow"))), (32, 58), 1000.0, "slow fuse",
        "fuse holder", "ISO 8820-4, female contacts; drops typical"),
    "bolted M5": FuseKind(
        "bolted fuse M5", _printed((30, 40, 50, 60, 70, 80, 100, 125, 150, 175, 200), 0.085, BOLTED_CONTACT_OHM),
        (32, 58), 2000.0, "slow fuse", "ring M5", "ISO 8820-5, type SF30; drops typical"),
    "bolted M8": FuseKind(
        "bolted fuse M8", _printed((60, 80, 100, 125, 150, 175, 200, 225, 250, 300), 0.08, BOLTED_CONTACT_OHM),
        (32, 58, 80), 2000.0, "slow fuse", "ring M8", "ISO 8820-5, type SF51; drops typical"),
    "tube": FuseKind(
        "tube fuse 6.3 x 32 mm", _printed((1, 2, 3, 5, 7.5, 10, 15, 20, 25, 30), 0.13, 0.004), (32,), 1000.0,
        "tube fuse", "fuse holder", "UL 248-14 and IEC 60127; what it breaks and drops typical"),
    "cartridge": FuseKind(
        "cartridge fuse 10 x 38 mm", _printed((1, 2, 3, 4, 5, 6, 8, 10, 12, 15, 16, 20, 25, 30, 32), 0.16, 0.002),
        (1000,), 10_000.0, "line fuse", "ferrule", "IEC 60269-6, gPV; drops typical"),
}
assert tuple(KINDS) == get_args(Pattern)
EVERY_RATING_A = tuple(sorted({a for kind in KINDS.values() for a in kind.ratings_a}))
EVERY_VOLTS = tuple(sorted({v for kind in KINDS.values() for v in kind.volts}))
USUAL_V = 32  # of a machine with a 12 V battery; what is for more is said everywhere


def words(pattern: Pattern, rating_a: float, volts_v: int, *, colour: bool = False) -> str:
    """A fuse as it is bought: "blade fuse 10 A", "bolted fuse M5 100 A, 58 V"; with its colour, where that tells."""
    kind = KINDS[pattern]
    shade = kind.by_rating[rating_a].colour
    return (f"{kind.words} {rating_a:g} A" + (f", {volts_v} V" if volts_v != USUAL_V else "")
            + (f", {shade}" if colour and shade else ""))


def that_break(volts_v: float, amps: float = 0.0) -> list[tuple[Pattern, int]]:
    """Kinds with the least volts of each that break so many volts, where one of its ratings is for so many amps."""
    return [(pattern, least) for pattern, kind in KINDS.items() if kind.ratings_a[-1] >= amps
            and (least := next((v for v in kind.volts if v >= volts_v), 0))]


def fuse_for(volts_v: float, amps: float = 0.0, short_a: float = 0.0) -> tuple[Pattern, int]:
    """The first kind that breaks so many volts and so large a short, and comes for so many amps, with its volts. Where
    none does all of it: of those for the volts the one for most amps."""
    found = [one for one in that_break(volts_v, amps) if KINDS[one[0]].breaks_a >= short_a]
    return found[0] if found else max(that_break(volts_v), key=lambda one: KINDS[one[0]].ratings_a[-1])


# -- how long --------------------------------------------------------------------------------------------------------


def _time_s(points: Points, multiple: float) -> float:
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


def gates(points: Points, multiple: float) -> tuple[tuple[float, float], tuple[float, float] | None]:
    """The two gates of a band that a multiple lies between; the last one and None beyond it."""
    for low, high in pairwise(points):
        if multiple <= high[0]:
            return low, high
    return points[-1], None


def opening_times_s(current_a: float, rating_a: float, curve: Curve = "fuse") -> tuple[float, float]:
    """Shortest and longest time a conforming fuse takes to open; infinite where the standard gives no limit."""
    multiple, band = current_a / rating_a, BANDS[curve]
    return _time_s(band.fastest, multiple), _time_s(band.slowest, multiple)


def rerated_a(rating_a: float, ambient_c: float) -> float:
    """What a fuse of this rating carries at an ambient temperature: -0.15 %/K from 25 C (typical; unsure)."""
    return rating_a * (1 - RERATE_PER_K * (ambient_c - RERATED_FROM_C))


@lru_cache(maxsize=4096)
def inrush_limit_a2s(rating_a: float, duration_s: float, curve: Curve = "fuse") -> float:
    """Largest I2t an inrush of this duration may have: 0.3 of what opens the fastest fuse in that time, and never less
    than its rating for that time, which opens none."""
    band = BANDS[curve]
    low, high = band.fastest[0][0], 400.0
    for _ in range(80):
        middle = math.sqrt(low * high)
        low, high = (middle, high) if _time_s(band.fastest, middle) > duration_s else (low, middle)
    return max(0.3 * high**2, 1.0) * rating_a**2 * duration_s
