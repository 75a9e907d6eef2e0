"""The matrix of a network's equations in all states at once: which value goes where, and with which sign.

Modified nodal analysis: one row for each node (currents that leave it sum to zero) and one for each element with a
current of its own. Small networks are solved densely, every state as one matrix of a stack; large ones as one sparse
block-diagonal matrix.
"""

from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csc_array
from scipy.sparse.linalg import splu

Array = NDArray[Any]
DENSE_UP_TO = 140  # rows of a state's matrix


class Singular(ArithmeticError):
    """The equations of some state have no single solution."""


class Matrix:
    """The fixed pattern. `r`, `e`, `k`, `ci`, `co` are the ends of resistors, loads, elements with a current,
    converters' inputs and outputs, as node numbers in two rows each.

    The values of a state are, in this order: conductances of the resistors; slopes of the loads; a conductance to 0 V
    for each node; for each element with a current of its own how it weighs its voltage, and its current; the slopes of
    the converters' input current over their input volts, output current and output volts.
    """

    def __init__(self, nodes: int, r: Array, e: Array, k: Array, ci: Array, co: Array) -> None:
        self.nodes, self.size = nodes, nodes + k.shape[1]
        nr, nl, nk, nc = r.shape[1], e.shape[1], k.shape[1], ci.shape[1]
        g, load, ground, across, series, over_v, over_i, over_out, self.count = (
            int(x) for x in np.cumsum([0, nr, nl, nodes, nk, nk, nc, nc, nc]))
        rows, cols, which, sign = [], [], [], []

        def put(row: Array, col: Array, first: int, s: int) -> None:
            rows.append(row)
            cols.append(col)
            which.append(first + np.arange(len(row)))
            sign.append(np.full(len(row), float(s)))

        for (a, b), first in ((r, g), (e, load), (ci, over_v)):
            for at_row, at_col, s in ((a, a, 1), (b, b, 1), (a, b, -1), (b, a, -1)):
                put(at_row, at_col, first, s)
        put(np.arange(nodes), np.arange(nodes), ground, 1)
        own = nodes + np.arange(nk)
        put(own, k[0], across, 1)
        put(own, k[1], across, -1)
        put(own, own, series, 1)
        given = own[nk - nc:]
        put(ci[0], given, over_i, 1)
        put(ci[1], given, over_i, -1)
        for row, col, s in ((0, 0, 1), (1, 1, 1), (0, 1, -1), (1, 0, -1)):
            put(ci[row], co[col], over_out, s)
        self._row, self._col = np.concatenate(rows), np.concatenate(cols)
        self._which, self._sign = np.concatenate(which), np.concatenate(sign)
        # The current of an element leaves its first node and enters its second: the same in every state.
        self._fixed_row, self._fixed_col = np.concatenate([k[0], k[1]]), np.concatenate([own, own])
        self._fixed = np.concatenate([np.ones(nk), -np.ones(nk)])
        self._slots: dict[int, tuple[Array, Array, Array]] = {}

    def solve(self, values: Array, right: Array) -> Array:
        """Solve every state: values (states, count), right sides (states, size) or (states, size, sides). Raises
        Singular."""
        spread = self._spread(values)
        return self._dense(spread, right) if self.size <= DENSE_UP_TO else self._sparse(spread, right)

    def full(self, values: Array) -> Array:
        """The matrices themselves, (states, size, size)."""
        return self._full(self._spread(values))

    def _spread(self, values: Array) -> Array:
        return np.concatenate([self._sign * values[:, self._which],
                               np.broadcast_to(self._fixed, (len(values), len(self._fixed)))], axis=1)

    def _full(self, spread: Array) -> Array:
        states, square = len(spread), self.size * self.size
        at = np.concatenate([self._row, self._fixed_row]) * self.size + np.concatenate([self._col, self._fixed_col])
        slots = (at + np.arange(states)[:, None] * square).ravel()
        return _summed(slots, spread.ravel(), states * square).reshape(states, self.size, self.size)

    def _dense(self, spread: Array, right: Array) -> Array:
        full = self._full(spread)
        sides = right if right.ndim == 3 else right[:, :, None]
        try:
            found = np.linalg.solve(full, sides)
        except np.linalg.LinAlgError as error:
            raise Singular from error
        return np.asarray(found if right.ndim == 3 else found[:, :, 0])

    def _sparse(self, spread: Array, right: Array) -> Array:
        states = len(spread)
        slot, indices, indptr = self._stacked(states)
        data = _summed(slot, spread.ravel(), len(indices))
        shape = (states * self.size, states * self.size)
        try:
            factors = splu(csc_array((data, indices, indptr), shape=shape), permc_spec="MMD_AT_PLUS_A", relax=1)
        except RuntimeError as error:
            raise Singular from error
        return np.asarray(factors.solve(right.reshape(states * self.size, *right.shape[2:])).reshape(right.shape))

    def _stacked(self, states: int) -> tuple[Array, Array, Array]:
        """Where each value goes in the compressed columns of all states, and those columns' rows and starts."""
        if states not in self._slots:
            row, col = np.concatenate([self._row, self._fixed_row]), np.concatenate([self._col, self._fixed_col])
            place, slot = np.unique(col * self.size + row, return_inverse=True)
            indices, indptr = place % self.size, np.searchsorted(place, np.arange(self.size + 1) * self.size)
            step, stored = np.arange(states)[:, None], len(place)
            self._slots[states] = (
                (slot + step * stored).ravel(), (indices + step * self.size).ravel().astype(np.int32),
                np.append((indptr[:-1] + step * stored).ravel(), states * stored).astype(np.int32))
        return self._slots[states]


def _summed(slots: Array, values: Array, count: int) -> Array:
    """Values added up by slot; phasors by their two parts."""
    if np.iscomplexobj(values):
        return np.asarray(np.bincount(slots, values.real, count) + 1j * np.bincount(slots, values.imag, count))
    return np.asarray(np.bincount(slots, values, count))
