"""Does the fuse that guards a wire open before the wire is damaged?

Coordination after the plan's rule: the conductor at 1.10 times the rating stays within its class, at 1.35 times within
class + 25 K, and from there to the prospective current the slowest fuse opens before the conductor reaches class +
50 K from a preload of 0.8 times the rating.
"""

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ..materials import fuses
from ..materials.conductors import BY_AREA, INSULATIONS
from ..physics import heat
from .faults import Guard

OVERLOAD_MULTIPLE = 1.35
PRELOAD = 0.8  # of the rating, carried before the fault
ELECTRONIC_S = 0.5  # a module's way or a converter's limit acts within this, from 1.35 times its setting; assumed


@dataclass(frozen=True)
class Coordination:
    """How a wire fares behind its fuse. Temperatures in C at 1.10 and 1.35 times the rating (through the wire).

    `overloads` holds (current A, slowest opening s, time to damage s); `fails_from_a` the first current at which the
    fuse may be too slow, None when it never is. `limit_a` is the current that brings the wire to its class.
    """

    steady_c: float
    overload_c: float
    limit_a: float
    class_c: float
    overloads: tuple[tuple[float, float, float], ...]
    fails_from_a: float | None

    @property
    def protected(self) -> bool:
        """Whether all three tests hold."""
        return self.steady_c <= self.class_c and self.overload_c <= self.class_c + 25 and self.fails_from_a is None

    def strength(self, guard: Guard) -> float:
        """What the wire stands over what the fuse lets through steadily (1.10 times its rating)."""
        return self.limit_a / (fuses.STEADY_MULTIPLE * guard.rating_a * guard.share)


@dataclass(frozen=True)
class Case:
    """A wire of a size behind a fuse: what `coordinate` judges. `ambient_c` includes what neighbours add."""

    area_mm2: float
    wall: str
    insulation: str
    ambient_c: float
    rating_a: float
    share: float
    fault_a: float
    electronic: bool = False


def coordinate(cases: list[Case]) -> list[Coordination]:
    """Coordination of many wires with their fuses at once."""
    if not cases:
        return []
    conductors = [BY_AREA[c.area_mm2] for c in cases]
    covers = [INSULATIONS[c.insulation] for c in cases]
    r20, d = np.array([c.r20_ohm_per_m for c in conductors]), np.array([c.d_mm for c in conductors])
    od = np.array([c.od_mm(case.wall) for c, case in zip(conductors, cases, strict=True)])
    k, ambient = np.array([c.k_w_per_mk for c in covers]), np.array([c.ambient_c for c in cases])
    rated = np.array([c.rating_a * c.share for c in cases])
    multiples = np.array([fuses.STEADY_MULTIPLE, OVERLOAD_MULTIPLE, PRELOAD])[:, None]
    steady, overload, preload = heat.wire_temperature_c(multiples * rated, r20, d, od, ambient, k)
    limit = heat.ampacity_a(r20, d, od, np.array([c.continuous_c for c in covers]), ambient, k)
    found = []
    for i, (case, cover) in enumerate(zip(cases, covers, strict=True)):
        rows, fails = opens_in_time(case, float(preload[i]))
        found.append(Coordination(float(steady[i]), float(overload[i]), float(limit[i]), cover.continuous_c, rows,
                                  fails))
    return found


Overloads = tuple[tuple[float, float, float], ...]


def opens_in_time(case: Case, preload_c: float) -> tuple[Overloads, float | None]:
    """Openings against damage from 1.35 times the rating to the prospective current, and where they first cross.

    Temperatures are rounded up to 5 K and the prospective current up to a fifth of a decade, so that like wires
    share one computation: always to the safe side.
    """
    fault_a = 10 ** (math.ceil(5 * math.log10(max(case.fault_a, 1.0)) - 1e-9) / 5)
    hottest_start = round(INSULATIONS[case.insulation].overload_c) - 1
    return _overloads(case.area_mm2, case.wall, case.insulation, 5 * math.ceil(case.ambient_c / 5), case.rating_a,
                      round(case.share, 2), round(fault_a, 3),
                      min(5 * math.ceil(min(preload_c, 999.0) / 5), hottest_start), case.electronic)


@lru_cache(maxsize=20_000)
def _overloads(area_mm2: float, wall: str, insulation: str, ambient_c: int, rating_a: float, share: float,
               fault_a: float, preload_c: int, electronic: bool) -> tuple[Overloads, float | None]:
    conductor, cover = BY_AREA[area_mm2], INSULATIONS[insulation]
    most = max(fault_a / max(share, 1e-6) / rating_a, 1.36)
    multiples = np.array([*(m for m in (OVERLOAD_MULTIPLE, 1.6, 2.0, 2.7, 3.5, 6.0, 10.0) if m < most), most])
    current = multiples * rating_a * share
    wire_s = heat.time_to_temperature_s(
        current, area_mm2, conductor.r20_ohm_per_m, conductor.d_mm, conductor.od_mm(wall), cover.overload_c,
        max(preload_c, ambient_c), ambient_c, cover.k_w_per_mk)
    fuse_s = [ELECTRONIC_S if electronic else fuses.opening_times_s(m, 1.0)[1] for m in multiples.tolist()]
    rows = tuple(zip(current.tolist(), fuse_s, wire_s.tolist(), strict=True))
    return rows, next((amps for amps, fuse, wire in rows if fuse > wire), None)
