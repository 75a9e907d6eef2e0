"""A wire's damage curve and its fuse's band over current: the points of the coordination picture."""

import math
from dataclasses import dataclass

import numpy as np

from ..materials import fuses
from ..materials.conductors import BY_AREA, INSULATIONS
from ..physics import heat
from .faults import Guard
from .protection import ELECTRONIC_S, PRELOAD, Case

POINTS = 48
MOST_S, LEAST_S = 1000.0, 0.005
Curve = tuple[tuple[float, float], ...]


@dataclass(frozen=True)
class Curves:
    """Currents in the wire (A) against seconds: the fuse at its fastest and slowest, and when the wire is damaged.

    `fault_a` is the largest current a fault can drive here, `fails_from_a` where the slowest fuse comes too late.
    """

    fastest: Curve
    slowest: Curve
    damage: Curve
    rated_a: float
    fault_a: float
    touch_a: float
    fails_from_a: float | None


def curves(case: Case, guard: Guard, touch_a: float, fails_from_a: float | None) -> Curves:
    """The curves of a wire behind its guard, from just above the rating to past the prospective current."""
    rated = case.rating_a * case.share
    most = max(case.fault_a, rated * 6) * 1.3
    amps = np.geomspace(rated, most, POINTS)
    conductor, cover = BY_AREA[case.area_mm2], INSULATIONS[case.insulation]
    od = conductor.od_mm(case.wall)
    start = float(heat.wire_temperature_c(PRELOAD * rated, conductor.r20_ohm_per_m, conductor.d_mm, od, case.ambient_c,
                                          cover.k_w_per_mk))
    damage = heat.time_to_temperature_s(
        amps, case.area_mm2, conductor.r20_ohm_per_m, conductor.d_mm, od, cover.overload_c,
        min(start, cover.overload_c - 1), case.ambient_c, cover.k_w_per_mk)

    def band(side: int) -> Curve:
        if guard.electronic:
            return tuple((float(a), ELECTRONIC_S) for a in amps)
        times = [fuses.opening_times_s(float(a) / case.share, case.rating_a)[side] for a in amps]
        return tuple((float(a), t) for a, t in zip(amps, times, strict=True) if math.isfinite(t))

    return Curves(band(0), band(1), tuple((float(a), float(t)) for a, t in zip(amps, damage, strict=True) if math.isfinite(t)),
                  rated, case.fault_a, touch_a, fails_from_a)
