"""How long does a wire stand a current that is too much for it?

Below a second by the copper's heat alone (IEC 60364-4-43); above by two nodes, the conductor with its share of the
insulation and the insulation's outside, in still air. Checked against radial solutions. Temperatures in C, currents in
A (rms), times in s.
"""

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..materials.conductors import ALPHA20_PER_K
from .heat import K_PVC, insulation_mk_per_w
from .surface import Cylinders, surface_loss_w_per_m

Array = NDArray[np.float64]
C_COPPER_J_PER_M3K = 3.45e6
C_PVC_J_PER_M3K = 1.7e6
C_XLPE_J_PER_M3K = 2.4e6
TIMES_S = np.geomspace(1e-2, 4000.0, 200)
LEAST_RISE_K = 1e-6
HOTTEST_C = 5000.0
WITHIN = np.concatenate([[0.0], np.geomspace(1e-4, 1.0, 60)])  # of a step of constant current
# of copper at 20 C (IEC 60028): what is guaranteed is this over the resistance per metre
IDEAL_OHM_MM2_PER_M = 17.2414e-3


def van_wormer(d_mm: ArrayLike, od_mm: ArrayLike) -> Array:
    """Share of the insulation's heat capacity that goes with the conductor (Van Wormer)."""
    ratio = np.asarray(od_mm, float) / np.asarray(d_mm, float)
    return np.asarray(1 / (2 * np.log(ratio)) - 1 / (ratio**2 - 1))


def adiabatic_k(start_c: ArrayLike, end_c: ArrayLike) -> Array:
    """IEC 60364-4-43 factor k of copper, A s^0.5/mm2: 226 sqrt(ln((234.5+Tf)/(234.5+Ti)))."""
    return np.asarray(226 * np.sqrt(np.log((234.5 + np.asarray(end_c, float)) / (234.5 + np.asarray(start_c, float)))))


def time_to_temperature_s(current_a: ArrayLike, area_mm2: ArrayLike, r20: ArrayLike, d_mm: ArrayLike,
                          od_mm: ArrayLike, end_c: ArrayLike, start_c: ArrayLike, ambient_c: ArrayLike,
                          k_w_per_mk: ArrayLike = K_PVC) -> Array:
    """Seconds until a constant current heats a single wire's conductor to `end_c`; infinite if it never does.

    Two nodes (conductor with its share of the insulation, outer insulation) stepped implicitly on a geometric time
    grid. Below 1 s the insulation takes up less than two nodes say, so the adiabatic time is used there (safe side).
    """
    i, s, r, d, od, end, start, ta, k = np.broadcast_arrays(*(np.asarray(x, float) for x in (
        current_a, area_mm2, r20, d_mm, od_mm, end_c, start_c, ambient_c, k_w_per_mk)))
    p = van_wormer(d, od)
    c_ins = np.pi / 4 * (od**2 - d**2) * 1e-6 * np.where(k > 0.25, C_XLPE_J_PER_M3K, C_PVC_J_PER_M3K)
    c_core, c_skin = s * 1e-6 * C_COPPER_J_PER_M3K + p * c_ins, (1 - p) * c_ins
    g = 1 / insulation_mk_per_w(d, od, k)
    core = np.array(start, float)
    # At rest before the fault the skin lies below the core by the drop over the insulation.
    loss0 = np.maximum(surface_loss_w_per_m(od, core, ta), 0)
    skin = np.maximum(core - loss0 / (g + loss0 / np.maximum(core - ta, 1e-9)), np.minimum(ta, core))
    outside = Cylinders(od, ta)
    made, slope = i**2 * r * (1 - ALPHA20_PER_K * 20), i**2 * r * ALPHA20_PER_K
    left, square = g - slope, g * g
    reached, waiting = np.full(np.shape(core), np.inf), np.ones(np.shape(core), bool)
    before = 0.0
    with np.errstate(divide="ignore", invalid="ignore"):
        for now in TIMES_S:
            dt = now - before
            rise = skin - ta
            h = np.where(rise > LEAST_RISE_K, outside.loss(np.maximum(rise, LEAST_RISE_K)) / rise, 0.0)
            # (C/dt)(x1-x0) = sources(x1): a 2x2 system, solved by hand for every element at once.
            in_core, in_skin = c_core / dt, c_skin / dt
            a11, a22 = in_core + left, in_skin + g + h
            b1, b2 = in_core * core + made, in_skin * skin + h * ta
            det = a11 * a22 - square
            fresh = np.where(det > 0, (b1 * a22 + g * b2) / det, np.inf)
            skin = np.where(det > 0, (a11 * b2 + g * b1) / det, skin)
            crossing = (fresh >= end) & waiting
            if crossing.any():
                share = np.where(np.isfinite(fresh), (end - core) / (fresh - core), 0.5)
                reached = np.where(crossing, before + dt * np.clip(share, 0, 1), reached)
                waiting &= ~crossing
                if not waiting.any():
                    break
            core = np.minimum(fresh, HOTTEST_C)
            before = now
    effective = IDEAL_OHM_MM2_PER_M / r
    with np.errstate(divide="ignore", invalid="ignore"):
        k_adiabatic = adiabatic_k(np.minimum(start, end - 1e-6), end)
        adiabatic = np.where(i > 0, (k_adiabatic * effective / np.maximum(i, 1e-9)) ** 2, np.inf)
    return np.where(reached < 1.0, np.minimum(adiabatic, reached), reached)


def temperatures_after_c(current_a: Array, seconds: Array, area_mm2: ArrayLike, r20: ArrayLike, d_mm: ArrayLike,
                         od_mm: ArrayLike, start_c: ArrayLike, ambient_c: ArrayLike,
                         k_w_per_mk: ArrayLike = K_PVC) -> Array:
    """Conductor temperatures at the end of each of several steps of constant current.

    `current_a` and `seconds` are (steps, wires); a step without time changes nothing. While the whole has lasted less
    than a second the copper keeps all heat; after that the two nodes of `time_to_temperature_s` tell, stepped by the
    trapezoidal rule from the beginning.
    """
    s, r, d, od, start, ta, k = np.broadcast_arrays(*(np.asarray(x, float) for x in (
        area_mm2, r20, d_mm, od_mm, start_c, ambient_c, k_w_per_mk)), current_a[0])[:7]
    p = van_wormer(d, od)
    c_ins = np.pi / 4 * (od**2 - d**2) * 1e-6 * np.where(k > 0.25, C_XLPE_J_PER_M3K, C_PVC_J_PER_M3K)
    c_core, c_skin = s * 1e-6 * C_COPPER_J_PER_M3K + p * c_ins, (1 - p) * c_ins
    g = 1 / insulation_mk_per_w(d, od, k)
    outside = Cylinders(od, ta)

    def loss_per_k(skin: Array) -> Array:
        rise = skin - ta
        with np.errstate(divide="ignore", invalid="ignore"):
            return np.asarray(np.where(rise > LEAST_RISE_K, outside.loss(np.maximum(rise, LEAST_RISE_K)) / rise, 0.0))

    loss0 = np.maximum(surface_loss_w_per_m(od, start, ta), 0)
    core = np.array(start, float)
    skin = np.maximum(core - loss0 / (g + loss0 / np.maximum(core - ta, 1e-9)), np.minimum(ta, core))
    effective = IDEAL_OHM_MM2_PER_M / r
    elapsed, taken = np.zeros(np.shape(core)), np.zeros(np.shape(core))  # seconds, A2s
    ends = []
    for i, whole in zip(current_a, seconds, strict=True):
        made, slope = i**2 * r * (1 - ALPHA20_PER_K * 20), i**2 * r * ALPHA20_PER_K
        left = g - slope
        for share in np.diff(WITHIN):
            dt = np.maximum(whole * share, 1e-12)
            in_core, in_skin, out = c_core / dt, c_skin / dt, g + loss_per_k(skin)
            a11, a22 = in_core + left / 2, in_skin + out / 2
            b1 = (in_core - left / 2) * core + g / 2 * skin + made
            b2 = g / 2 * core + (in_skin - out / 2) * skin + (out - g) * ta
            det = a11 * a22 - g * g / 4
            core, skin = (np.clip((b1 * a22 + g / 2 * b2) / det, -273, HOTTEST_C),
                          np.clip((a11 * b2 + g / 2 * b1) / det, -273, HOTTEST_C))
        elapsed, taken = elapsed + whole, taken + i**2 * whole
        adiabatic = adiabatic_c(start, taken, effective)
        ends.append(np.where(elapsed < 1.0, np.minimum(adiabatic, HOTTEST_C), core))
    return np.array(ends)


def adiabatic_c(start_c: ArrayLike, taken_a2s: ArrayLike, effective_mm2: ArrayLike) -> Array:
    """Temperature of copper that keeps all the heat of so many A2s (IEC 60364-4-43, turned round)."""
    power = np.minimum(np.asarray(taken_a2s, float) / (226 * np.asarray(effective_mm2, float)) ** 2, 50.0)
    return np.asarray((234.5 + np.asarray(start_c, float)) * np.exp(power) - 234.5)
