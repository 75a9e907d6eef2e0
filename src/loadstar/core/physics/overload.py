"""How long does a wire stand a current that is too much for it?

Below a second by the copper's heat alone (IEC 60364-4-43); above by two nodes, the conductor with its share of the
insulation and the insulation's outside, in still air. Checked against radial solutions. Temperatures in C, currents in
A (rms), times in s.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..materials.conductors import ALPHA20_PER_K, IDEAL_OHM_MM2_PER_M
from .heat import K_PVC, insulation_mk_per_w, wire_temperature_c
from .surface import Cylinders, surface_loss_w_per_m

Array = NDArray[np.float64]
C_COPPER_J_PER_M3K = 3.45e6
C_PVC_J_PER_M3K = 1.7e6
C_XLPE_J_PER_M3K = 2.4e6
TIMES_S = np.geomspace(1e-2, 4000.0, 200)
LEAST_RISE_K = 1e-6
HOTTEST_C = 5000.0
STANDS_K = 1.0  # so far below its end at rest, a wire never comes there
WITHIN = np.concatenate([[0.0], np.geomspace(1e-4, 1.0, 60)])  # of a step of constant current


def van_wormer(d_mm: ArrayLike, od_mm: ArrayLike) -> Array:
    """Share of the insulation's heat capacity that goes with the conductor (Van Wormer)."""
    ratio = np.asarray(od_mm, float) / np.asarray(d_mm, float)
    return np.asarray(1 / (2 * np.log(ratio)) - 1 / (ratio**2 - 1))


def adiabatic_k(start_c: ArrayLike, end_c: ArrayLike) -> Array:
    """IEC 60364-4-43 factor k of copper, A s^0.5/mm2: 226 sqrt(ln((234.5+Tf)/(234.5+Ti)))."""
    return np.asarray(226 * np.sqrt(np.log((234.5 + np.asarray(end_c, float)) / (234.5 + np.asarray(start_c, float)))))


@dataclass(frozen=True)
class Insulated:
    """Single wires, for how they warm up: copper (mm2), guaranteed resistance at 20 C (ohm/m), diameters over the
    conductor and over the insulation (mm), the insulation's conductivity (W/(m.K)). Arrays or scalars that broadcast.
    """

    area_mm2: ArrayLike
    r20_ohm_per_m: ArrayLike
    d_mm: ArrayLike
    od_mm: ArrayLike
    k_w_per_mk: ArrayLike = K_PVC

    def columns(self, *more: ArrayLike) -> list[Array]:
        """Its five and some more as arrays of one shape."""
        every = (self.area_mm2, self.r20_ohm_per_m, self.d_mm, self.od_mm, self.k_w_per_mk, *more)
        return [np.array(a) for a in np.broadcast_arrays(*(np.asarray(x, float) for x in every))]


class _Nodes:
    """The two nodes of each of some wires: what they take up (J/(m.K)), what passes between them (W/(m.K)), what the
    outer gives off; and where they are before anything flows."""

    def __init__(self, area: Array, d: Array, od: Array, k: Array, ambient_c: Array) -> None:
        inner = van_wormer(d, od)
        cover = np.pi / 4 * (od**2 - d**2) * 1e-6 * np.where(k > 0.25, C_XLPE_J_PER_M3K, C_PVC_J_PER_M3K)
        self.core, self.skin = area * 1e-6 * C_COPPER_J_PER_M3K + inner * cover, (1 - inner) * cover
        self.between = 1 / insulation_mk_per_w(d, od, k)
        self.od, self.ambient_c, self.outside = od, ambient_c, Cylinders(od, ambient_c)

    def skin_at_rest_c(self, core_c: Array) -> Array:
        """At rest the skin lies below the core by the drop over the insulation."""
        lost = np.maximum(surface_loss_w_per_m(self.od, core_c, self.ambient_c), 0)
        below = lost / (self.between + lost / np.maximum(core_c - self.ambient_c, 1e-9))
        return np.asarray(np.maximum(core_c - below, np.minimum(self.ambient_c, core_c)))

    def loss_per_k(self, skin_c: Array) -> Array:
        """What the skin gives off, W/(m.K) of its rise."""
        rise = skin_c - self.ambient_c
        with np.errstate(divide="ignore", invalid="ignore"):
            loss = self.outside.loss(np.maximum(rise, LEAST_RISE_K)) / rise
            return np.asarray(np.where(rise > LEAST_RISE_K, loss, 0.0))


def time_to_temperature_s(current_a: ArrayLike, wires: Insulated, end_c: ArrayLike, start_c: ArrayLike,
                          ambient_c: ArrayLike) -> Array:
    """Seconds until a constant current heats a single wire's conductor to `end_c`; infinite if it never does.

    Two nodes (conductor with its share of the insulation, outer insulation) stepped implicitly on a geometric time
    grid. Below 1 s the insulation takes up less than two nodes say, so the adiabatic time is used there (safe side).
    """
    area, r20, d, od, k, i, end, start, ambient = wires.columns(current_a, end_c, start_c, ambient_c)
    reached = np.full(np.shape(i), np.inf)
    # Most never get there: what stands the current for good need not be stepped.
    comes = (start >= end) | ~(wire_temperature_c(i, r20, d, od, ambient, k) < end - STANDS_K)
    if comes.any():
        reached[comes] = _reached_s(_Nodes(*(v[comes] for v in (area, d, od, k, ambient))), (i**2 * r20)[comes],
                                    start[comes], end[comes])
    with np.errstate(divide="ignore", invalid="ignore"):
        k_adiabatic = adiabatic_k(np.minimum(start, end - 1e-6), end)
        effective = IDEAL_OHM_MM2_PER_M / r20
        adiabatic = np.where(i > 0, (k_adiabatic * effective / np.maximum(i, 1e-9)) ** 2, np.inf)
    return np.where(reached < 1.0, np.minimum(adiabatic, reached), reached)


def _reached_s(nodes: _Nodes, heat_20_w_per_m: Array, start_c: Array, end_c: Array) -> Array:
    """When the cores reach `end_c`, heated by so much at 20 C, stepped over TIMES_S; infinite where they do not."""
    core, skin = start_c, nodes.skin_at_rest_c(start_c)
    g, ambient = nodes.between, nodes.ambient_c
    made, slope = heat_20_w_per_m * (1 - ALPHA20_PER_K * 20), heat_20_w_per_m * ALPHA20_PER_K
    left, square = g - slope, g * g
    reached, waiting = np.full(np.shape(core), np.inf), np.ones(np.shape(core), bool)
    before = 0.0
    with np.errstate(divide="ignore", invalid="ignore"):
        for now in TIMES_S:
            dt = now - before
            h = nodes.loss_per_k(skin)
            # (C/dt)(x1-x0) = sources(x1): a 2x2 system, solved by hand for every element at once.
            in_core, in_skin = nodes.core / dt, nodes.skin / dt
            a11, a22 = in_core + left, in_skin + g + h
            b1, b2 = in_core * core + made, in_skin * skin + h * ambient
            det = a11 * a22 - square
            fresh = np.where(det > 0, (b1 * a22 + g * b2) / det, np.inf)
            skin = np.where(det > 0, (a11 * b2 + g * b1) / det, skin)
            crossing = (fresh >= end_c) & waiting
            if crossing.any():
                share = np.where(np.isfinite(fresh), (end_c - core) / (fresh - core), 0.5)
                reached = np.where(crossing, before + dt * np.clip(share, 0, 1), reached)
                waiting &= ~crossing
                if not waiting.any():
                    break
            core = np.minimum(fresh, HOTTEST_C)
            before = now
    return np.asarray(reached)


def temperatures_after_c(current_a: Array, seconds: Array, wires: Insulated, start_c: ArrayLike,
                         ambient_c: ArrayLike) -> Array:
    """Conductor temperatures at the end of each of several steps of constant current.

    `current_a` and `seconds` are (steps, wires); a step without time changes nothing. While the whole has lasted less
    than a second the copper keeps all heat; after that the two nodes of `time_to_temperature_s` tell, stepped by the
    trapezoidal rule from the beginning.
    """
    area, r20, d, od, k, start, ambient = wires.columns(start_c, ambient_c, current_a[0])[:7]
    nodes = _Nodes(area, d, od, k, ambient)
    core, skin = start, nodes.skin_at_rest_c(start)
    elapsed, taken = np.zeros(np.shape(core)), np.zeros(np.shape(core))  # seconds, A2s
    ends = []
    for i, whole in zip(current_a, seconds, strict=True):
        core, skin = _stepped_c(nodes, i**2 * r20, whole, core, skin)
        elapsed, taken = elapsed + whole, taken + i**2 * whole
        adiabatic = adiabatic_c(start, taken, IDEAL_OHM_MM2_PER_M / r20)
        ends.append(np.where(elapsed < 1.0, np.minimum(adiabatic, HOTTEST_C), core))
    return np.array(ends)


def _stepped_c(nodes: _Nodes, heat_20_w_per_m: Array, whole_s: Array, core: Array, skin: Array) -> tuple[Array, Array]:
    """Core and skin after a step of constant current, by the trapezoidal rule."""
    g, ambient = nodes.between, nodes.ambient_c
    made, slope = heat_20_w_per_m * (1 - ALPHA20_PER_K * 20), heat_20_w_per_m * ALPHA20_PER_K
    left = g - slope
    for share in np.diff(WITHIN):
        dt = np.maximum(whole_s * share, 1e-12)
        in_core, in_skin, out = nodes.core / dt, nodes.skin / dt, g + nodes.loss_per_k(skin)
        a11, a22 = in_core + left / 2, in_skin + out / 2
        b1 = (in_core - left / 2) * core + g / 2 * skin + made
        b2 = g / 2 * core + (in_skin - out / 2) * skin + (out - g) * ambient
        det = a11 * a22 - g * g / 4
        core, skin = (np.clip((b1 * a22 + g / 2 * b2) / det, -273, HOTTEST_C),
                      np.clip((a11 * b2 + g / 2 * b1) / det, -273, HOTTEST_C))
    return core, skin


def adiabatic_c(start_c: ArrayLike, taken_a2s: ArrayLike, effective_mm2: ArrayLike) -> Array:
    """Temperature of copper that keeps all the heat of so many A2s (IEC 60364-4-43, turned round)."""
    power = np.minimum(np.asarray(taken_a2s, float) / (226 * np.asarray(effective_mm2, float)) ** 2, 50.0)
    return np.asarray((234.5 + np.asarray(start_c, float)) * np.exp(power) - 234.5)
