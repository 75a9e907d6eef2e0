"""What a stretch of harness is covered with: the braided sleeve that fits, turns of tape, shrink tube; and how much
they keep its heat in.

Sizes and ranges are usual ones of such sleeves and tubes (no standard fixes them): see the supplier's.
"""

import math
from dataclasses import dataclass

SOURCE = "usual ranges of such sleeves, assumed; see the supplier's"
SLEEVE_ADDS_MM = 1.0
TAPE_WIDTH_MM, TAPE_OVERLAP, TAPE_THICK_MM = 19.0, 0.5, 0.25
# Heat through them, W/(m.K): a braid and fleece are mostly still air, a heat sleeve is glass fibre of 1.5 mm; assumed.
CONDUCTS: dict[str, float] = {"braided sleeve": 0.06, "loom tape": 0.06, "PVC tape": 0.17,
                             "original sleeve": 0.17, "heat sleeve": 0.05}
HEAT_SLEEVE = "heat sleeve"
ORIGINAL = "original sleeve"  # the machine's own, of soft plastic: cut to length and used again
SLEEVED = ("braided sleeve", ORIGINAL)  # what is slid on before the ends are closed
ORIGINAL_THICK_MM = 1.0  # usual
HEAT_SLEEVE_MM = 1.5
SHRINK_OVER, SHRINK_UNDER = 1.10, 0.90  # of the bundle: supplied at least, recovered at most
SHRINK_LOSS = 0.07  # of its length


@dataclass(frozen=True)
class Sleeve:
    """A braided sleeve by its nominal size, with the bundles it lies on, mm. `grams_m` is its own mass."""

    nominal_mm: int
    least_mm: float
    most_mm: float
    grams_m: float


SLEEVES = tuple(Sleeve(n, round(0.6 * n, 1), round(1.7 * n, 1), g) for n, g in (
    (3, 2.2), (5, 4.0), (8, 7.0), (10, 9.0), (13, 12.0), (16, 16.0), (20, 22.0), (25, 29.0), (32, 40.0)))


@dataclass(frozen=True)
class Shrink:
    """A shrink tube with lining by what it is supplied at and recovers to, mm."""

    supplied_mm: float
    recovered_mm: float


SHRINKS = tuple(Shrink(s, r) for s, r in ((3.2, 1.0), (4.8, 1.5), (6.4, 2.0), (9.5, 3.0), (12.7, 4.0), (19.0, 6.0),
                                          (24.0, 8.0), (39.0, 13.0)))


def sleeve_for(bundle_mm: float) -> Sleeve | None:
    """The smallest sleeve that lies on a bundle; None where none does."""
    return next((s for s in SLEEVES if s.least_mm <= bundle_mm <= s.most_mm), None)


def shrink_for(bundle_mm: float) -> Shrink | None:
    """The smallest tube for the cut end of a sleeve, or a joint, of this diameter; None where none does."""
    return next((t for t in SHRINKS if t.supplied_mm >= SHRINK_OVER * bundle_mm
                 and t.recovered_mm <= SHRINK_UNDER * bundle_mm), None)


def tape_m(length_m: float, bundle_mm: float) -> float:
    """Metres of 19 mm tape for a stretch at half overlap: turns times the way around."""
    turns_per_m = 1000 / (TAPE_WIDTH_MM * (1 - TAPE_OVERLAP))
    around_mm = math.pi * (bundle_mm + TAPE_THICK_MM)
    return length_m * turns_per_m * math.hypot(around_mm, TAPE_WIDTH_MM * (1 - TAPE_OVERLAP)) / 1000


def covered_mm(bundle_mm: float, covering: str) -> float:
    """Diameter with its covering."""
    return bundle_mm + 2 * thick_mm(covering)


def thick_mm(covering: str) -> float:
    """How thick a covering lies on one side; tape twice, as it overlaps by half."""
    thick = {"": 0.0, "braided sleeve": SLEEVE_ADDS_MM / 2, ORIGINAL: ORIGINAL_THICK_MM}
    return thick.get(covering, 2 * TAPE_THICK_MM)


def around(covering: str, *, heat_sleeve: bool) -> tuple[tuple[float, float], ...]:
    """What lies around a bundle from the inside, as the heat model takes it: mm, and W/(m.K)."""
    layers = [(thick_mm(covering), CONDUCTS[covering])] if covering else []
    return (*layers, (HEAT_SLEEVE_MM, CONDUCTS[HEAT_SLEEVE])) if heat_sleeve else tuple(layers)
