"""How warm does a wire run, alone in still air?

Heat made in the copper, conducted through the insulation, given off by the surface (surface.py). Checked against
published ampacity tables and circuit-independent finite-volume solutions: good to about 12 % in current for one wire.
Valid for 0.22-35 mm2 and conductor temperatures to 250 C. All functions take and return numpy arrays (or scalars);
temperatures in C, diameters in mm, currents in A (rms).
"""

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..materials.conductors import ALPHA20_PER_K
from .surface import LEAST_RISE_K, RUNAWAY_C, Cylinders, settled_rise_k

Array = NDArray[np.float64]
K_PVC = 0.20
NEAR_SURFACE = 0.9  # of the conductor's rise is usual at the surface: where its balance is looked for first


def insulation_mk_per_w(d_mm: ArrayLike, od_mm: ArrayLike, k_w_per_mk: ArrayLike = K_PVC) -> Array:
    """Thermal resistance of the insulation, K.m/W: ln(D/d) / (2 pi k)."""
    return np.asarray(np.log(np.asarray(od_mm, float) / np.asarray(d_mm, float)) / (2 * np.pi * np.asarray(k_w_per_mk)))


def resistance_at(r20: ArrayLike, temperature_c: ArrayLike) -> Array:
    """Copper resistance at a temperature from that at 20 C (IEC 60028)."""
    return np.asarray(np.asarray(r20, float) * (1 + ALPHA20_PER_K * (np.asarray(temperature_c, float) - 20)))


class WireHeat:
    """What wires make of their currents, each alone: `made` W per metre at the air's temperature and `more` for each
    kelvin of their surface above it. Heat grows with the conductor's temperature, which grows with the heat through the
    insulation."""

    def __init__(self, current_a: ArrayLike, r20_ohm_per_m: Array, r_ins: Array, ambient_c: Array) -> None:
        watts = np.asarray(current_a, float) ** 2 * r20_ohm_per_m
        self.ambient_c, self.r_ins = ambient_c, r_ins
        left = 1 - ALPHA20_PER_K * watts * r_ins
        self.lost = ~(left > 1e-6)  # the insulation alone would have it run away
        share = np.where(self.lost, 0.0, watts / np.where(self.lost, 1.0, left))
        self.made = share * (1 + ALPHA20_PER_K * (np.asarray(ambient_c) - 20))
        self.more = ALPHA20_PER_K * share

    def temperatures_c(self, rise_k: Array) -> Array:
        """Conductor temperatures with the surface so far above the air; infinite in a runaway."""
        core = self.ambient_c + rise_k + (self.made + self.more * rise_k) * self.r_ins
        return np.where((rise_k >= RUNAWAY_C - 1) | self.lost, np.inf, core)


def wire_temperature_c(current_a: ArrayLike, r20_ohm_per_m: ArrayLike, d_mm: ArrayLike, od_mm: ArrayLike,
                       ambient_c: ArrayLike, k_w_per_mk: ArrayLike = K_PVC) -> Array:
    """Steady conductor temperature of one wire in still air; infinite where it runs away."""
    heat = WireHeat(current_a, np.asarray(r20_ohm_per_m, float), insulation_mk_per_w(d_mm, od_mm, k_w_per_mk),
                    np.asarray(ambient_c, float))
    return heat.temperatures_c(settled_rise_k(od_mm, ambient_c, heat.made, heat.more))


def ampacity_a(r20_ohm_per_m: ArrayLike, d_mm: ArrayLike, od_mm: ArrayLike, conductor_c: ArrayLike,
               ambient_c: ArrayLike, k_w_per_mk: ArrayLike = K_PVC) -> Array:
    """Current that brings one wire in still air to `conductor_c`; 0 where the air is no cooler than that."""
    tc, ta = np.asarray(conductor_c, float), np.asarray(ambient_c, float)
    r_ins = insulation_mk_per_w(d_mm, od_mm, k_w_per_mk)
    # The insulation lets through (conductor - surface) / r_ins, which is the balance of the surface.
    over = np.maximum(tc - ta, 0.0)
    rise = settled_rise_k(od_mm, ta, over / r_ins, -1 / r_ins, NEAR_SURFACE * over)
    watts = np.maximum(tc - ta - rise, 0.0) / r_ins
    return np.asarray(np.where(tc > ta, np.sqrt(watts / resistance_at(r20_ohm_per_m, tc)), 0.0))


def carries(watts_per_m: ArrayLike, r_ins: ArrayLike, od_mm: ArrayLike, conductor_c: ArrayLike,
            ambient_c: ArrayLike) -> NDArray[np.bool_]:
    """Whether one wire in still air, of an insulation of so many K.m/W, stays at or below `conductor_c` with what it
    makes at that temperature: one look at the balance there. Heat made grows with less than the surface gives off, so
    that what the surface would give off then decides."""
    watts, ta = np.asarray(watts_per_m, float), np.asarray(ambient_c, float)
    over = np.asarray(conductor_c, float) - ta
    rise = over - watts * r_ins
    given_off = Cylinders(np.asarray(od_mm, float), ta).loss(np.maximum(rise, LEAST_RISE_K))
    return np.asarray((over >= 0) & ((watts <= 0) | ((rise > 0) & (given_off >= watts))))
