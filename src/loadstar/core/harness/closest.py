"""Wires laid as closely as a longer search finds: for a picture, which shows each in its place and none in another.

Many layouts are tried at once. In each turn two wires of different thickness change places, or one is put elsewhere,
or all are shaken; then all are pushed apart, in a circle a little smaller than the layout's best. The best few are
tightened by linear programs about where they lie (a distance's tangent lies below it, so no step brings two into one
another). Equal wires come within 0.1 % of the best packings known up to 60; unequal ones within 2 % of what ten times
as long a search finds, in half a second to a few.
"""

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import linprog
from scipy.sparse import coo_array

from .packing import Array, IntArray, Packing, in_given_order, packed_exactly

SEED = 20260607
LAYOUTS, TURNS, PUSHES, TIGHTENED = 48, 80, 40, 6
FILL = 0.8  # of a circle, about the most that is reached: how large the first one is
SMALLER = 0.9985  # than its best is the circle that a layout is pressed into
SWAPPED, MOVED = 0.5, 0.8  # shares of the layouts, the one and both together; the rest are shaken
SAME = 1e-4  # layouts nearer in size than this are one
EVERY, OF = 15, 4  # so often the worst of so many parts starts again from the best one
STEPS, FIRST_STEP, LEAST_STEP, GAIN = 30, 0.15, 1e-5, 1e-6  # of the thinnest radius; of the circle


def closest(diameters_mm: tuple[float, ...]) -> Packing:
    """A circle for wires of these diameters, mm, that a long search finds no smaller; raises ValueError for none."""
    return in_given_order(diameters_mm, _closest)


@lru_cache(maxsize=256)
def _closest(radii: tuple[float, ...]) -> Packing:
    if len(radii) <= 3:
        return packed_exactly(radii)
    many = _Layouts(np.array(radii))
    for turn in range(TURNS):
        many.turn(1 - turn / TURNS)
        if turn % EVERY == EVERY - 1:
            many.thin_out()
    found = min((tightened(at, many.radii) for at in many.best_few()), key=lambda at: _size(at, many.radii))
    return Packing(_size(found, many.radii), tuple((float(x), float(y), float(r))
                                                   for (x, y), r in zip(found, many.radii, strict=True)))


class _Layouts:
    """Many layouts of the same wires: the best of each, as coordinates by layout and wire, and its circle's radius."""

    def __init__(self, radii: Array) -> None:
        self.radii, self.rng, n = radii, np.random.default_rng(SEED), len(radii)
        self.i, self.j = np.triu_indices(n, 1)
        self.gap = radii[self.i] + radii[self.j]
        rows = np.arange(len(self.i))
        self.pairs = np.zeros((len(self.i), n))
        self.pairs[rows, self.i], self.pairs[rows, self.j] = 1, -1
        self.differ = np.abs(radii[:, None] - radii) > 1e-9
        reach = math.sqrt(float((radii**2).sum()) / FILL)
        x, y = self.rng.uniform(-0.7, 0.7, (2, LAYOUTS, n)) * reach
        self.x, self.y, self.best = self._pressed(x, y, np.full(LAYOUTS, reach * 1.02), 3 * PUSHES)

    def turn(self, calm: float) -> None:
        """One change in each layout, kept where its circle becomes smaller. `calm`: how hard the shaken ones are."""
        x, y = self.x.copy(), self.y.copy()
        what = self.rng.random(LAYOUTS)
        unequal = bool(self.differ.any())
        self._swap(x, y, np.flatnonzero(what < SWAPPED) if unequal else np.zeros(0, int))
        self._move(x, y, np.flatnonzero((what >= SWAPPED) & (what < MOVED) if unequal else what < SWAPPED))
        shaken = np.flatnonzero(what >= (MOVED if unequal else SWAPPED))
        for along in (x, y):
            along[shaken] += self.rng.normal(0, 0.3 * self.radii.mean() * calm, (len(shaken), len(self.radii)))
        x, y, size = self._pressed(x, y, self.best * SMALLER, PUSHES)
        better = size < self.best
        self.x[better], self.y[better] = x[better], y[better]
        self.best = np.minimum(self.best, size)

    def _swap(self, x: Array, y: Array, rows: IntArray) -> None:
        """Two wires of different thickness change places."""
        a = self.rng.integers(len(self.radii), size=len(rows))
        share = (self.differ[a] + 1e-9).cumsum(1)
        b = (share / share[:, -1:] > self.rng.random((len(rows), 1))).argmax(1)
        for along in (x, y):
            along[rows, a], along[rows, b] = along[rows, b], along[rows, a]

    def _move(self, x: Array, y: Array, rows: IntArray) -> None:
        """One wire is put anywhere in the circle."""
        a = self.rng.integers(len(self.radii), size=len(rows))
        turned = self.rng.uniform(0, 2 * math.pi, len(rows))
        out = self.best[rows] * np.sqrt(self.rng.random(len(rows)))
        x[rows, a], y[rows, a] = out * np.cos(turned), out * np.sin(turned)

    def _pressed(self, x: Array, y: Array, radius: Array, pushes: int) -> tuple[Array, Array, Array]:
        """Pushed apart and into the circle; then spread just so far that no two overlap, with the radius that holds
        them."""
        room = np.maximum(radius[:, None] - self.radii, 1e-9)
        for _ in range(pushes):
            dx, dy = x[:, self.i] - x[:, self.j], y[:, self.i] - y[:, self.j]
            push = 0.45 * np.maximum(self.gap / (np.sqrt(dx * dx + dy * dy) + 1e-12) - 1, 0)
            x, y = x + (dx * push) @ self.pairs, y + (dy * push) @ self.pairs
            inward = np.minimum(1.0, room / (np.sqrt(x * x + y * y) + 1e-12))
            x, y = x * inward, y * inward
        far = np.hypot(x[:, self.i] - x[:, self.j], y[:, self.i] - y[:, self.j]) + 1e-12
        spread = (self.gap / far).max(1)[:, None]
        return x * spread, y * spread, (np.hypot(x * spread, y * spread) + self.radii).max(1)

    def thin_out(self) -> None:
        """The worst start again from the best."""
        order, part = np.argsort(self.best), LAYOUTS // OF
        for kept in (self.x, self.y, self.best):
            kept[order[-part:]] = kept[order[:part]]

    def best_few(self) -> list[Array]:
        """The best that differ."""
        found: list[Array] = []
        seen: list[float] = []
        for k in np.argsort(self.best):
            if all(abs(self.best[k] - size) > SAME * size for size in seen) and len(found) < TIGHTENED:
                seen.append(float(self.best[k]))
                found.append(np.stack([self.x[k], self.y[k]], 1))
        return found


@dataclass(frozen=True)
class _Near:
    """Pairs of wires that a step could bring together: which, which way from one to the other, mm between them."""

    a: IntArray
    b: IntArray
    way: Array
    between: Array


def tightened(at: Array, radii: Array) -> Array:
    """The same layout in the smallest circle that small steps lead to; no two overlap."""
    i, j = np.triu_indices(len(radii), 1)
    at = _spread(at, radii, i, j)
    step = FIRST_STEP * float(radii.min())
    for _ in range(STEPS):
        before = _size(at, radii)
        moved = _stepped(at, radii, _near(at, radii, i, j, 3 * step), step)
        tried = at if moved is None else _spread(moved, radii, i, j)
        gain = 1 - _size(tried, radii) / before
        if gain > GAIN / 10:
            at = tried
            if gain < GAIN:
                return at
        elif step < LEAST_STEP * radii.min():
            return at
        else:
            step /= 4
    return at


def _near(at: Array, radii: Array, i: IntArray, j: IntArray, reach: float) -> _Near:
    way = at[i] - at[j]
    far = np.hypot(*way.T)
    near = far < radii[i] + radii[j] + reach
    return _Near(i[near], j[near], way[near] / far[near, None], (far - radii[i] - radii[j])[near])


def _stepped(at: Array, radii: Array, near: _Near, step: float) -> Array | None:
    """Where a linear program moves them, each by `step` at most along either axis, the circle as small as can be."""
    n, m = len(radii), len(near.a)
    pair, wire = np.arange(m), np.arange(n)
    out = np.hypot(*at.T)
    outward = at / np.maximum(out, 1e-9)[:, None]
    rows = np.concatenate([pair, pair, pair, pair, m + wire, m + wire, m + wire])
    columns = np.concatenate([2 * near.a, 2 * near.a + 1, 2 * near.b, 2 * near.b + 1, 2 * wire, 2 * wire + 1,
                              np.full(n, 2 * n)])
    values = np.concatenate([-near.way[:, 0], -near.way[:, 1], near.way[:, 0], near.way[:, 1], outward[:, 0],
                             outward[:, 1], -np.ones(n)])
    least = np.zeros(2 * n + 1)
    least[-1] = 1
    found = linprog(least, A_ub=coo_array((values, (rows, columns)), shape=(m + n, 2 * n + 1)).tocsr(),
                    b_ub=np.concatenate([near.between, -(out + radii)]), method="highs",
                    bounds=[(-step, step)] * (2 * n) + [(0, None)])
    return None if found.x is None else at + found.x[:2 * n].reshape(n, 2)


def _spread(at: Array, radii: Array, i: IntArray, j: IntArray) -> Array:
    """Moved apart, or together, until the nearest two touch."""
    far = np.hypot(*(at[i] - at[j]).T)
    return at * float(np.max((radii[i] + radii[j]) / np.maximum(far, 1e-9)))


def _size(at: Array, radii: NDArray[np.float64]) -> float:
    """The radius about the origin that holds them."""
    return float(np.max(np.hypot(*at.T) + radii))
