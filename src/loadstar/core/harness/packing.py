"""The smallest circle that holds some wires, and where each lies in it.

Exact for up to three; for four to twelve the best of many seeded starts (within 0.1 % of the known packings of equal
circles). More are counted with 70 % fill. Hand-laid is looser than the best there is. For a picture `closest` looks
longer.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import minimize

from ..physics.bundle import BUNDLE_FILL

Array = NDArray[np.float64]
IntArray = NDArray[np.int64]
MOST_PACKED = 12
STARTS, POLISHED, SEED = 32, 2, 20260607
PRESSINGS, PUSHES = 50, 8
LAID_FACTOR = 1.03  # a hand does not find the best
WIDEST_FACTOR = 1.15  # of 70 % fill, that no packing of five and more is wider than
LAID_EXACT = 4  # up to so many wires only that counts: 70 % fill is up to 15 % low there


@dataclass(frozen=True)
class Packing:
    """Wires in their circle: its radius, and of each, in the order they were given, centre and radius (mm)."""

    radius_mm: float
    wires: tuple[tuple[float, float, float], ...]

    @property
    def diameter_mm(self) -> float:
        """Across."""
        return 2 * self.radius_mm


def in_given_order(diameters_mm: tuple[float, ...], pack: Callable[[tuple[float, ...]], Packing]) -> Packing:
    """What packs radii in falling order, for wires of these diameters in theirs; raises ValueError for none."""
    if not diameters_mm:
        raise ValueError("no wires to pack")
    order = sorted(range(len(diameters_mm)), key=lambda i: -diameters_mm[i])
    found = pack(tuple(round(diameters_mm[i], 4) / 2 for i in order))
    centres: list[tuple[float, float, float]] = [(0.0, 0.0, 0.0)] * len(order)
    for i, wire in zip(order, found.wires, strict=True):
        centres[i] = wire
    return Packing(found.radius_mm, tuple(centres))


def packed(diameters_mm: tuple[float, ...]) -> Packing:
    """The smallest circle for up to twelve wires of these diameters, mm; raises ValueError for none, or more."""
    if len(diameters_mm) > MOST_PACKED:
        raise ValueError(f"up to {MOST_PACKED} wires, not {len(diameters_mm)}")
    return in_given_order(diameters_mm, _packed)


def laid_mm(diameters_mm: tuple[float, ...]) -> float:
    """Diameter of wires as a hand lays them, mm; 0 for none, its own for one.

    6 of 2.1, 2 of 3.0 and 1 of 1.6 mm: the best there is 7.4 mm, laid 7.8.
    """
    if not diameters_mm:
        return 0.0
    if len(diameters_mm) == 1:
        return diameters_mm[0]
    filled = math.sqrt(sum(d * d for d in diameters_mm) / BUNDLE_FILL)
    best = packed(diameters_mm).diameter_mm if len(diameters_mm) <= MOST_PACKED else 0.0
    return LAID_FACTOR * best if len(diameters_mm) <= LAID_EXACT else max(LAID_FACTOR * best, filled)


def bounds_mm(diameters_mm: tuple[float, ...]) -> tuple[float, float]:
    """Between what `laid_mm` lies, without looking for the best packing: for what needs no more."""
    if len(diameters_mm) <= LAID_EXACT or len(diameters_mm) > MOST_PACKED:
        return laid_mm(diameters_mm), laid_mm(diameters_mm)
    filled = math.sqrt(sum(d * d for d in diameters_mm) / BUNDLE_FILL)
    return filled, WIDEST_FACTOR * filled


@lru_cache(maxsize=4096)
def _packed(radii: tuple[float, ...]) -> Packing:
    """Of radii in falling order."""
    return packed_exactly(radii) if len(radii) <= 3 else _searched(np.array(radii))


def packed_exactly(radii: tuple[float, ...]) -> Packing:
    """One to three, of radii in falling order."""
    return Packing(radii[0], ((0.0, 0.0, radii[0]),)) if len(radii) == 1 else _few(radii)


def _few(radii: tuple[float, ...]) -> Packing:
    """Two side by side; a third beside them where it fits into their circle, else all three touching it."""
    r1, r2 = radii[:2]
    outer = r1 + r2
    pair = ((-(outer - r1), 0.0, r1), (outer - r2, 0.0, r2))
    if len(radii) == 2:
        return Packing(outer, pair)
    r3 = radii[2]
    if r3 <= r1 * r2 * (r1 + r2) / (r1 * r1 + r1 * r2 + r2 * r2):
        x, y = _at((pair[0][0], 0.0), r1 + r3, outer - r3)
        return Packing(outer, (*pair, (x, y, r3)))
    k1, k2, k3 = (1 / r for r in radii)
    outer = -1 / (k1 + k2 + k3 - 2 * math.sqrt(k1 * k2 + k2 * k3 + k3 * k1))  # Descartes, the circle around
    first = (-(outer - r1), 0.0)
    second = _at(first, r1 + r2, outer - r2)
    third = _at(first, r1 + r3, outer - r3)
    return Packing(outer, ((*first, r1), (*second, r2), (third[0], -third[1], r3)))


def _at(first: tuple[float, float], from_first: float, from_middle: float) -> tuple[float, float]:
    """The point above the axis at these distances from a point on it (left of the middle) and from the middle."""
    x = (from_first**2 - from_middle**2 - first[0] ** 2) / (-2 * first[0])
    return x, math.sqrt(max(from_middle**2 - x * x, 0.0))


def _searched(radii: Array) -> Packing:
    """The best of many starts. All are pressed at once into a circle a little smaller than the best each has found, two
    that overlap moving apart by halves, and shaken less and less; the best few are polished."""
    rng, n = np.random.default_rng(SEED), len(radii)
    reach = math.sqrt(float((radii**2).sum()) / BUNDLE_FILL)
    where = rng.uniform(-reach, reach, (STARTS, n, 2)) * 0.8
    i, j = np.triu_indices(n, 1)
    gap, rows = radii[i] + radii[j], np.arange(len(i))
    pairs = np.zeros((len(i), n))
    pairs[rows, i], pairs[rows, j] = 1, -1
    best, kept, radius = np.full(STARTS, np.inf), where.copy(), np.full(STARTS, reach * 1.1)
    for turn in range(PRESSINGS):
        room = np.maximum(radius[:, None] - radii, 1e-9)
        for _ in range(PUSHES):
            between = where[:, i] - where[:, j]
            far = np.sqrt((between**2).sum(-1)) + 1e-12
            apart = between * (0.45 * np.maximum(gap - far, 0) / far)[..., None]
            where = where + np.einsum("spk,pn->snk", apart, pairs)
            out = np.sqrt((where**2).sum(-1)) + 1e-12
            where = where * np.minimum(1.0, room / out)[..., None]
        spread, size = _sizes(where, radii, i, j, gap)
        better = size < best
        kept[better], best = spread[better], np.minimum(best, size)
        calm = 1 - turn / PRESSINGS
        radius = best * (1 - 0.02 * calm - 0.0005)
        shaken = rng.random((STARTS, 1, 1)) < 0.6
        where = np.where(better[:, None, None], where, kept) + shaken * rng.normal(
            0, 0.25 * reach / math.sqrt(n) * calm**2, where.shape)
    polished = [_polished(kept[k], radii) for k in np.argsort(best)[:POLISHED]]
    return _made(min(polished, key=lambda one: _size(one, radii)), radii)


def _sizes(where: Array, radii: Array, i: IntArray, j: IntArray, gap: Array) -> tuple[Array, Array]:
    """Every start moved apart just so far that no two overlap, and the radius that holds it then."""
    far = np.sqrt(((where[:, i] - where[:, j]) ** 2).sum(-1)) + 1e-12
    spread = where * (gap / far).max(axis=1)[:, None, None]
    return spread, (np.sqrt((spread**2).sum(-1)) + radii).max(axis=1)


def _spread(where: Array, radii: Array) -> Array:
    """The same, moved apart just so far that no two overlap."""
    i, j = np.triu_indices(len(radii), 1)
    far = np.hypot(*(where[i] - where[j]).T)
    return where * max(float(np.max((radii[i] + radii[j]) / np.maximum(far, 1e-9))), 1e-9)


def _size(where: Array, radii: Array) -> float:
    """The radius around the origin that holds them, once they are moved apart."""
    return float(np.max(np.hypot(*_spread(where, radii).T) + radii))


def _polished(where: Array, radii: Array) -> Array:
    """A local optimum: the radius least, no two overlapping, all within."""
    n = len(radii)
    start = _spread(where, radii)
    i, j = np.triu_indices(n, 1)
    rows = np.arange(len(i))

    def apart(x: Array) -> Array:
        at = x[1:].reshape(n, 2)
        return np.asarray(((at[i] - at[j]) ** 2).sum(axis=1) - (radii[i] + radii[j]) ** 2)

    def apart_slope(x: Array) -> Array:
        at = x[1:].reshape(n, 2)
        slope = np.zeros((len(i), len(x)))
        for axis in (0, 1):
            step = 2 * (at[i, axis] - at[j, axis])
            slope[rows, 1 + 2 * i + axis], slope[rows, 1 + 2 * j + axis] = step, -step
        return slope

    def within(x: Array) -> Array:
        return np.asarray((x[0] - radii) ** 2 - (x[1:].reshape(n, 2) ** 2).sum(axis=1))

    def within_slope(x: Array) -> Array:
        at, slope = x[1:].reshape(n, 2), np.zeros((n, len(x)))
        slope[:, 0] = 2 * (x[0] - radii)
        for axis in (0, 1):
            slope[np.arange(n), 1 + 2 * np.arange(n) + axis] = -2 * at[:, axis]
        return slope

    least = np.zeros(1 + 2 * n)
    least[0] = 1.0
    found = minimize(lambda x: x[0], np.concatenate([[_size(start, radii)], start.ravel()]), jac=lambda x: least,
                     method="SLSQP", constraints=[{"type": "ineq", "fun": apart, "jac": apart_slope},
                                                  {"type": "ineq", "fun": within, "jac": within_slope}],
                     options={"maxiter": 200, "ftol": 1e-10})
    polished = np.asarray(found.x[1:].reshape(n, 2))
    return polished if _size(polished, radii) < _size(start, radii) else start


def _made(where: Array, radii: Array) -> Packing:
    at = _spread(where, radii)
    return Packing(_size(where, radii), tuple((float(x), float(y), float(r))
                                              for (x, y), r in zip(at, radii, strict=True)))
