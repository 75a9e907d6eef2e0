"""How warm does a wire run?

Steady heat balance per metre of a wire in still air, alone or in a bundle, and the time an overload takes to heat it.
Natural convection after Churchill and Chu (1975) with air properties at film temperature, radiation with emissivity
0.9, conduction through the insulation; bundles as a homogenised cylinder of packed coated wires with the hottest at
the axis. Checked against published ampacity tables and circuit-independent finite-volume solutions: good to about
12 % in current for one wire, 6 % more for a bundle. Valid for 0.22-35 mm2 and conductor temperatures to 250 C.
All functions take and return numpy arrays (or scalars); temperatures in C, diameters in mm, currents in A (rms).
"""

from collections.abc import Callable

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..materials.conductors import ALPHA20_PER_K

Array = NDArray[np.float64]

SIGMA = 5.670374e-8
EMISSIVITY = 0.9
K_PVC = 0.20
K_GAP = 0.035  # air and radiation between the wires of a bundle, W/(m.K)
FIRST_GUESS_H = 18.0
LOSS_POWER = 1.2
SETTLED_K = 1e-5
TAPE_MM = 0.15
BUNDLE_FILL = 0.70
RUNAWAY_C = 1000.0
STEFAN_K = 273.15
LEAST_NEAR_K = 0.01
LEAST_RISE_LOG, RUNAWAY_LOG = float(np.log(1e-12)), float(np.log(RUNAWAY_C))
C_COPPER_J_PER_M3K = 3.45e6
C_PVC_J_PER_M3K = 1.7e6
C_XLPE_J_PER_M3K = 2.4e6


def surface_loss_w_per_m(od_mm: ArrayLike, surface_c: ArrayLike, ambient_c: ArrayLike) -> Array:
    """Heat that a horizontal cylinder gives off to still air, W per metre (convection and radiation)."""
    d_m = np.asarray(od_mm, float) / 1000
    ts, ta = np.asarray(surface_c, float), np.asarray(ambient_c, float)
    hot, cold = (ts + STEFAN_K) ** 2, (ta + STEFAN_K) ** 2
    radiated = EMISSIVITY * SIGMA * (hot * hot - cold * cold)
    return np.asarray(np.pi * d_m * (natural_h(d_m, ts, ta) * (ts - ta) + radiated))


def natural_h(d_m: ArrayLike, surface_c: ArrayLike, ambient_c: ArrayLike) -> Array:
    """Coefficient of natural convection of a horizontal cylinder, W/(m2.K) (Churchill and Chu 1975)."""
    d = np.asarray(d_m, float)
    ts, ta = np.asarray(surface_c, float), np.asarray(ambient_c, float)
    film = (ts + ta) / 2 + STEFAN_K
    over = film / 273.15
    ratio = over * np.sqrt(over)  # to the power 1.5; roots take a fraction of a power's time
    viscosity = 1.716e-5 * ratio * 383.55 / (film + 110.4)
    conductivity = 0.0241 * ratio * 467.15 / (film + 194)
    density = 101325 / (287.05 * film)
    nu, prandtl = viscosity / density, 1007 * viscosity / conductivity
    rayleigh = 9.80665 / film * np.maximum(ts - ta, 1e-9) * d**3 * prandtl / nu**2
    nusselt = (0.60 + 0.387 * np.cbrt(np.sqrt(rayleigh)) / (1 + (0.559 / prandtl) ** (9 / 16)) ** (8 / 27)) ** 2
    return np.asarray(nusselt * conductivity / d)


def insulation_mk_per_w(d_mm: ArrayLike, od_mm: ArrayLike, k_w_per_mk: ArrayLike = K_PVC) -> Array:
    """Thermal resistance of the insulation, K.m/W: ln(D/d) / (2 pi k)."""
    return np.asarray(np.log(np.asarray(od_mm, float) / np.asarray(d_mm, float)) / (2 * np.pi * np.asarray(k_w_per_mk)))


def resistance_at(r20: ArrayLike, temperature_c: ArrayLike) -> Array:
    """Copper resistance at a temperature from that at 20 C (IEC 60028)."""
    return np.asarray(np.asarray(r20, float) * (1 + ALPHA20_PER_K * (np.asarray(temperature_c, float) - 20)))


def wire_temperature_c(current_a: ArrayLike, r20_ohm_per_m: ArrayLike, d_mm: ArrayLike, od_mm: ArrayLike,
                       ambient_c: ArrayLike, k_w_per_mk: ArrayLike = K_PVC, near_c: Array | None = None) -> Array:
    """Steady conductor temperature of one wire in still air; infinite where it runs away.

    `near_c` is where to begin: an earlier solution with nearly the same currents. It saves steps and changes no answer.
    """
    i, r20, d, od, ta, k = np.broadcast_arrays(
        *(np.asarray(x, float) for x in (current_a, r20_ohm_per_m, d_mm, od_mm, ambient_c, k_w_per_mk)))
    r_ins = insulation_mk_per_w(d, od, k)
    cold = i**2 * resistance_at(r20, ta)
    rise = np.maximum(cold / (np.pi * od / 1000 * FIRST_GUESS_H), 1e-9)
    if near_c is not None:
        rise = np.where((near_c > ta + LEAST_NEAR_K) & (near_c < RUNAWAY_C) & (i > 0), near_c - ta, rise)

    def surplus(rise: Array) -> Array:
        loss = surface_loss_w_per_m(od, ta + rise, ta)
        return np.asarray(i**2 * resistance_at(r20, ta + rise + loss * r_ins) / np.maximum(loss, 1e-30))

    rise = _balanced(rise, surplus)
    core = ta + rise + surface_loss_w_per_m(od, ta + rise, ta) * r_ins
    return np.where(rise >= RUNAWAY_C - 1, np.inf, np.where(i == 0, ta, core))


def surface_rise_k(od_mm: ArrayLike, loss_w_per_m: ArrayLike, ambient_c: ArrayLike) -> Array:
    """How far above the air a cylinder's surface settles while giving off so many watts per metre."""
    od, wanted, ta = np.broadcast_arrays(*(np.asarray(x, float) for x in (od_mm, loss_w_per_m, ambient_c)))
    rise = np.maximum(wanted / (np.pi * od / 1000 * FIRST_GUESS_H), 1e-9)
    return _balanced(rise, lambda r: np.asarray(wanted / np.maximum(surface_loss_w_per_m(od, ta + r, ta), 1e-30)))


def _balanced(rise: Array, surplus: Callable[[Array], Array]) -> Array:
    """The rise at which heat made over heat lost (`surplus`) is 1, elementwise; at most RUNAWAY_C.

    Loss grows as about the 1.2th power of the rise: the first step goes by that, the next by the slope seen.
    """
    x = np.log(rise)
    slope = np.full(np.shape(rise), -LOSS_POWER)
    before_x = before_f = None
    for _ in range(80):
        f = np.log(np.maximum(surplus(rise), 1e-300))
        if before_x is not None and before_f is not None:
            moved = x - before_x
            seen = (f - before_f) / np.where(np.abs(moved) > 1e-13, moved, 1.0)
            slope = np.where(np.abs(moved) > 1e-13, np.clip(seen, -3.0, -0.4), slope)
        before_x, before_f = x, f
        x = np.clip(x - np.clip(f / slope, -4.0, 4.0), LEAST_RISE_LOG, RUNAWAY_LOG)
        fresh = np.exp(x)
        settled = np.max(np.abs(fresh - rise), initial=0.0) < SETTLED_K
        rise = fresh
        if settled:
            break
    return np.asarray(rise)


def ampacity_a(r20_ohm_per_m: ArrayLike, d_mm: ArrayLike, od_mm: ArrayLike, conductor_c: ArrayLike,
               ambient_c: ArrayLike, k_w_per_mk: ArrayLike = K_PVC) -> Array:
    """Current that brings one wire in still air to `conductor_c`; 0 where the air is no cooler than that."""
    r20, d, od, tc, ta, k = np.broadcast_arrays(
        *(np.asarray(x, float) for x in (r20_ohm_per_m, d_mm, od_mm, conductor_c, ambient_c, k_w_per_mk)))
    r_ins = insulation_mk_per_w(d, od, k)

    def surplus(ts: Array) -> Array:
        return np.asarray(surface_loss_w_per_m(od, ts, ta) * r_ins - (tc - ts))

    surface = _rising_root(surplus, ta, np.maximum(tc, ta))
    loss = np.maximum(surface_loss_w_per_m(od, surface, ta), 0)
    return np.where(tc > ta, np.sqrt(loss / resistance_at(r20, tc)), 0.0)


def _rising_root(f: Callable[[Array], Array], low: Array, high: Array) -> Array:
    """Root of a rising function by the Illinois variant of false position, elementwise."""
    a, b = np.array(low, float) + 1e-9, np.array(high, float)
    fa, fb = f(a), f(b)
    beyond = fb < 0
    side = np.zeros(np.shape(a))
    x = b.copy()
    for _ in range(60):
        with np.errstate(divide="ignore", invalid="ignore"):
            x = np.where(fb == fa, a, b - fb * (b - a) / (fb - fa))
        fx = f(x)
        if np.all((np.abs(fx) < 1e-8) | beyond | (b - a < 1e-8)):
            break
        upper = fx > 0
        fa = np.where(upper & (side == 1), fa / 2, np.where(upper, fa, fx))
        fb = np.where(~upper & (side == -1), fb / 2, np.where(upper, fx, fb))
        a, b = np.where(upper, a, x), np.where(upper, x, b)
        side = np.where(upper, 1, -1)
    return np.where(beyond, high, np.minimum(x, high))


def bundle_diameter_mm(od_mm: ArrayLike) -> float:
    """Diameter of hand-laid wires: sqrt(sum d^2 / 0.70); one wire is itself."""
    od = np.atleast_1d(np.asarray(od_mm, float))
    return float(od[0]) if od.size == 1 else float(np.sqrt((od**2).sum() / BUNDLE_FILL))


def bundle_temperatures_c(current_a: Array, r20: Array, d_mm: Array, od_mm: Array, ambient_c: Array,
                          k_w_per_mk: Array | float = K_PVC, near_c: Array | None = None) -> tuple[Array, Array]:
    """Steady temperatures of the wires of many bundles at once. `near_c` is an earlier solution to begin from.

    Arrays are (bundles, wires), padded with `od_mm` 0; `ambient_c` is (bundles,). The wires of each bundle are
    placed by heat per area, hottest at the axis. Returns conductor temperatures (bundles, wires), NaN in the
    padding, and outer diameters with tape (bundles,), mm. A bundle of one is a single wire in air.
    """
    there = od_mm > 0
    od, d = np.where(there, od_mm, 1.0), np.where(there, d_mm, 0.5)
    count = there.sum(axis=1)
    alone = count <= 1
    area = np.where(there, od**2 / 4 / BUNDLE_FILL, 0.0)  # in units of pi mm2: radius squared
    radius2 = area.sum(axis=1)
    tape = np.where(alone, 0.0, TAPE_MM)
    radius2 = np.where(alone, (np.where(there, od, 0).max(axis=1) / 2) ** 2, radius2)
    outer = np.where(count > 0, 2 * (np.sqrt(radius2) + tape), 1.0)
    k_ins = np.broadcast_to(np.asarray(k_w_per_mk, float), od.shape)
    k_wire = k_ins * (od**2 + d**2) / (od**2 - d**2)
    k_mean = np.where(there, k_wire * area, 0).sum(axis=1) / np.maximum(area.sum(axis=1), 1e-12)
    k_b = K_GAP * (k_mean * (1 + BUNDLE_FILL) + K_GAP * (1 - BUNDLE_FILL)) / (
        k_mean * (1 - BUNDLE_FILL) + K_GAP * (1 + BUNDLE_FILL))
    r_tape = np.where(alone, 0.0, np.log(outer / np.maximum(outer - 2 * tape, 1e-9)) / (2 * np.pi * K_PVC))
    r_ins = insulation_mk_per_w(d, od, k_ins)
    inside = (np.clip(count, 0, None) > 1)[:, None]
    ambient = ambient_c[:, None]
    temperature = np.where(there, ambient + 5.0, np.nan)
    if near_c is not None:
        temperature = np.where(there & (near_c < RUNAWAY_C), near_c, temperature)
    rows = np.arange(len(count))[:, None]
    # Placed by their heat when cold, in steps of 2 %: wires that are nearly alike keep their order from one solution
    # to the next.
    cold = np.log(np.maximum(current_a**2 * r20 / np.maximum(area, 1e-9), 1e-12))
    order = np.argsort(-np.where(there, np.round(cold / 0.02), -1e9), axis=1, kind="stable")
    for _ in range(40):
        heat = np.where(there, current_a**2 * resistance_at(r20, np.nan_to_num(temperature, nan=20.0)), 0.0)
        q, a = heat[rows, order], area[rows, order]
        upto, a1 = np.cumsum(q, axis=1), np.cumsum(a, axis=1)
        a0, q_in = a1 - a, upto - q
        total = upto[:, -1]
        surface = ambient_c + surface_rise_k(outer, total, ambient_c)
        with np.errstate(divide="ignore", invalid="ignore"):
            ring = ((q_in - q * a0 / np.maximum(a, 1e-12)) * 0.5 * np.log(np.where(a0 > 0, a1 / a0, 1.0)) + 0.5 * q)
        ring = np.where(a > 0, ring, 0.0) / (2 * np.pi * k_b)[:, None]
        # A wire has the temperature of its ring's inner edge: all that its own ring and those outside it add.
        # The wire at the axis is copper throughout, so its own ring adds nothing.
        ring[:, 0] = 0.0
        rise = np.cumsum(ring[:, ::-1], axis=1)[:, ::-1]
        placed = np.empty_like(rise)
        placed[rows, order] = rise
        fresh = surface[:, None] + (total * r_tape)[:, None] + np.where(inside, placed, 0.0) + heat * r_ins
        fresh = np.where(there, np.minimum(fresh, 5 * RUNAWAY_C), np.nan)
        change = np.nanmax(np.abs(fresh - temperature)) if there.any() else 0.0
        temperature = fresh
        if change < 1e-3:
            break
    return np.where(temperature >= RUNAWAY_C, np.inf, temperature), outer


def van_wormer(d_mm: ArrayLike, od_mm: ArrayLike) -> Array:
    """Share of the insulation's heat capacity that goes with the conductor (Van Wormer)."""
    ratio = np.asarray(od_mm, float) / np.asarray(d_mm, float)
    return np.asarray(1 / (2 * np.log(ratio)) - 1 / (ratio**2 - 1))


def adiabatic_k(start_c: float, end_c: float) -> float:
    """IEC 60364-4-43 factor k of copper, A s^0.5/mm2: 226 sqrt(ln((234.5+Tf)/(234.5+Ti)))."""
    return float(226 * np.sqrt(np.log((234.5 + end_c) / (234.5 + start_c))))


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
    reached = np.full(np.shape(core), np.inf)
    times = np.geomspace(1e-2, 4000.0, 200)
    before = 0.0
    for now in times:
        dt = now - before
        h = np.maximum(surface_loss_w_per_m(od, skin, ta), 0) / np.maximum(skin - ta, 1e-6)
        slope = i**2 * r * ALPHA20_PER_K
        # (C/dt)(x1-x0) = sources(x1): a 2x2 system, solved by hand for every element at once.
        a11, a22 = c_core / dt + g - slope, c_skin / dt + g + h
        b1 = c_core / dt * core + i**2 * r * (1 - ALPHA20_PER_K * 20)
        b2 = c_skin / dt * skin + h * ta
        det = a11 * a22 - g * g
        fresh = np.where(det > 0, (b1 * a22 + g * b2) / det, np.inf)
        skin = np.where(det > 0, (a11 * b2 + g * b1) / det, skin)
        crossing = (fresh >= end) & ~np.isfinite(reached)
        with np.errstate(divide="ignore", invalid="ignore"):
            share = np.where(np.isfinite(fresh), (end - core) / (fresh - core), 0.5)
        reached = np.where(crossing, before + dt * np.clip(share, 0, 1), reached)
        core = np.minimum(fresh, 5000.0)
        before = now
        if np.all(np.isfinite(reached)):
            break
    effective = 17.2414e-3 / r
    with np.errstate(divide="ignore", invalid="ignore"):
        k_adiabatic = 226 * np.sqrt(np.log((234.5 + end) / (234.5 + np.minimum(start, end - 1e-6))))
        adiabatic = np.where(i > 0, (k_adiabatic * effective / np.maximum(i, 1e-9)) ** 2, np.inf)
    return np.where(reached < 1.0, np.minimum(adiabatic, reached), reached)
