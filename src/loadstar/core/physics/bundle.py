"""How warm do wires run that lie together?

A bundle is a homogenised cylinder of packed coated wires, placed by heat per area with the hottest at the axis. Every
wire's temperature is the surface's plus what the heat inside lifts it, which is linear in that heat; and heat is linear
in temperature. So all that is inside is solved first, as heat per unit at the air's temperature, and what is left is
one balance at the surface. Agrees with finite-volume solutions to about 6 % in current beyond what one wire does.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..materials.conductors import ALPHA20_PER_K
from .heat import K_PVC, insulation_mk_per_w
from .surface import RUNAWAY_C, settled_rise_k

Array = NDArray[np.float64]
K_GAP = 0.035  # air and radiation between the wires of a bundle, W/(m.K)
TAPE_MM = 0.15
Layers = Sequence[tuple[float, float]]  # what lies around a bundle, from the inside: how thick, mm, and its W/(m.K)
TAPED: Layers = ((TAPE_MM, K_PVC),)
BUNDLE_FILL = 0.70
INSIDE_SETTLED = 1e-13  # of the largest
MOST_ROUNDS = 80


class Bundles:
    """The geometry of some bundles: arrays (bundles, wires), padded with `od_mm` 0; `covers` what lies around each
    (None: tape). A bundle of one is a single wire in air."""

    def __init__(self, r20: Array, d_mm: Array, od_mm: Array, k_w_per_mk: Array | float = K_PVC,
                 covers: Sequence[Layers] | None = None) -> None:
        self.there = od_mm > 0
        self.r20 = np.where(self.there, r20, 0.0)
        od, d = np.where(self.there, od_mm, 1.0), np.where(self.there, d_mm, 0.5)
        count = self.there.sum(axis=1)
        alone = count <= 1
        self.area = np.where(self.there, od**2 / 4 / BUNDLE_FILL, 0.0)  # in units of pi mm2: radius squared
        radius2 = np.where(alone, (np.where(self.there, od, 0).max(axis=1) / 2) ** 2, self.area.sum(axis=1))
        outer, self._r_cover = _covered(np.sqrt(radius2), covers or [TAPED] * len(count), alone)
        self.outer_mm = np.where(count > 0, 2 * outer, 1.0)
        k_ins = np.broadcast_to(np.asarray(k_w_per_mk, float), od.shape)
        k_wire = k_ins * (od**2 + d**2) / (od**2 - d**2)
        k_mean = np.where(self.there, k_wire * self.area, 0).sum(axis=1) / np.maximum(self.area.sum(axis=1), 1e-12)
        k_b = K_GAP * (k_mean * (1 + BUNDLE_FILL) + K_GAP * (1 - BUNDLE_FILL)) / (
            k_mean * (1 - BUNDLE_FILL) + K_GAP * (1 + BUNDLE_FILL))
        self._r_ring = np.where(alone, 0.0, 1 / (2 * np.pi * k_b))[:, None]
        self._r_ins = insulation_mk_per_w(d, od, k_ins)
        self._rows = np.arange(len(count))[:, None]

    def balance(self, current_a: Array, ambient_c: Array) -> "BundleHeat":
        """What the bundles make of their currents (bundles, wires), or of rows of such, in air of these temperatures
        (by bundle)."""
        watts = current_a**2 * self.r20  # per metre, at 20 C
        # Placed by their heat when cold, in steps of 2 %: wires that are nearly alike keep their order from one
        # solution to the next.
        cold = np.log(np.maximum(watts / np.maximum(self.area, 1e-9), 1e-12))
        order = np.argsort(-np.where(self.there, np.round(cold / 0.02), -1e9), axis=-1, kind="stable")
        area, w, r_ins = self.area[self._rows, order], np.take_along_axis(watts, order, -1), self._r_ins[self._rows,
                                                                                                         order]
        a1 = np.cumsum(area, axis=-1)
        a0 = a1 - area
        half_log = 0.5 * np.log(np.where(a0 > 0, a1 / np.where(a0 > 0, a0, 1.0), 1.0)) * self._r_ring
        mine = np.where(area > 0, 0.5 * self._r_ring - half_log * a0 / np.maximum(area, 1e-12), 0.0)
        # The wire at the axis is copper throughout, so its own ring adds nothing.
        half_log[..., 0] = mine[..., 0] = 0.0

        def lifts(q: Array) -> Array:
            """Kelvin above the surface of every wire: its insulation, its own ring and those outside it, the cover."""
            upto = np.cumsum(q, axis=-1)
            ring = (upto - q) * half_log + q * mine
            outside = np.cumsum(ring[..., ::-1], axis=-1)[..., ::-1]
            return np.asarray(outside + upto[..., -1:] * self._r_cover + q * r_ins)

        heat, warmer = w, lifts(w)
        for _ in range(MOST_ROUNDS):
            fresh = w * (1 + ALPHA20_PER_K * warmer)
            moved = np.max(np.abs(fresh - heat), initial=0.0)
            heat, warmer = fresh, lifts(fresh)
            largest = np.max(heat, initial=1e-12)
            if moved < INSIDE_SETTLED * largest or not largest < 1e9:
                break
        lost = ~(np.max(heat, axis=-1, initial=0.0) < 1e6)  # no temperature at which the copper inside could balance
        placed = np.empty_like(warmer)
        np.put_along_axis(placed, order, warmer, -1)
        cold_share = 1 + ALPHA20_PER_K * (ambient_c - 20)
        total = np.where(lost, 0.0, heat.sum(axis=-1))
        return BundleHeat(self, ambient_c, cold_share * total, ALPHA20_PER_K * total, placed, cold_share, lost)


def _covered(radius_mm: Array, covers: Sequence[Layers], alone: Array) -> tuple[Array, Array]:
    """Radius with all that lies around (bundles,), and what that adds in K.m/W (bundles, 1); nothing around one alone,
    which a thin cover rather cools."""
    outer, added = radius_mm.copy(), np.zeros((len(radius_mm), 1))
    for i, layers in enumerate(covers):
        for thick_mm, k in () if alone[i] else layers:
            within = max(outer[i], 1e-9)
            outer[i] += thick_mm
            added[i] += np.log(outer[i] / within) / (2 * np.pi * k)
    return outer, added


@dataclass(frozen=True)
class BundleHeat:
    """What bundles give off: `made` W per metre at the air's temperature and `more` for each kelvin of the surface
    above it."""

    bundles: Bundles
    ambient_c: Array
    made: Array
    more: Array
    lift_k: Array
    cold_share: Array
    lost: NDArray[np.bool_]

    def temperatures_c(self, rise_k: Array) -> Array:
        """Conductor temperatures (bundles, wires) with the surface so far above the air; NaN in the padding, infinite
        in a runaway."""
        surface = (self.ambient_c + rise_k)[..., None]
        found = surface + (self.cold_share + ALPHA20_PER_K * rise_k)[..., None] * self.lift_k
        away = (rise_k >= RUNAWAY_C - 1) | self.lost
        found = np.where(away[..., None] | (found >= RUNAWAY_C), np.inf, found)
        return np.where(self.bundles.there, found, np.nan)


def bundle_temperatures_c(current_a: Array, r20: Array, d_mm: Array, od_mm: Array, ambient_c: Array,
                          k_w_per_mk: Array | float = K_PVC) -> tuple[Array, Array]:
    """Steady temperatures of the wires of many bundles at once.

    Arrays are (bundles, wires), padded with `od_mm` 0; `ambient_c` is (bundles,). Returns conductor temperatures
    (bundles, wires), NaN in the padding, and outer diameters with tape (bundles,), mm.
    """
    bundles = Bundles(r20, d_mm, od_mm, k_w_per_mk)
    heat = bundles.balance(current_a, ambient_c)
    return heat.temperatures_c(settled_rise_k(bundles.outer_mm, ambient_c, heat.made, heat.more)), bundles.outer_mm
