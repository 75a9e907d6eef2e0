"""Which nodes of a network are joined in each state, and where each such group has its 0 V."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from .batch import LIMIT, ON, Conditions, Solution
from .graph import components
from .layout import Layout

Array = NDArray[Any]
IntArray = NDArray[np.int64]
BoolArray = NDArray[np.bool_]
Modes = NDArray[np.int8]


class Joined:
    """The groups of a system; the same stand of its elements is looked up, not looked for again."""

    def __init__(self, system: Layout) -> None:
        self.system = system
        self._grounds: dict[bytes, tuple[Array, int, IntArray]] = {}
        # The reference comes first, then a source's minus terminal, then whichever node was named first.
        rank = np.full(system.n, 2 * system.n) + np.arange(system.n)
        rank[system.k[1]] -= system.n
        rank[0] = 0
        self._rank = rank

    def groups(self, given: Conditions, diode_on: BoolArray, mode: Modes, soft: bool = True) -> tuple[int, IntArray]:
        """Connected groups of (state, node): number and label. `soft` counts loads and converter inputs as joining."""
        s, states = self.system, len(given.ohm)
        running = (mode == ON) | (mode == LIMIT)
        ties = [(s.r, np.isfinite(given.ohm)), (s.s, given.across != 0), (s.d, diode_on),
                # one at its limit holds no voltage, but its loads begin from it
                (s.co, mode == ON if soft else running)]
        if soft:
            ties += [(s.e, (given.value > 0) & ~(s.law.constant_current & (s.law.floor <= 0))),
                     (s.ci, running & (s.converter_law.idle_w > 0))]
        ends = []
        for pair, active in ties:
            row, element = np.nonzero(active)
            ends.append(pair[:, element] + row * s.n)
        return components(np.concatenate(ends, axis=1), states * s.n)

    def ground(self, given: Conditions, diode_on: BoolArray, mode: Modes,
               soft: bool = True) -> tuple[Array, Array, Array]:
        """Where each group of joined nodes is tied to its 0 V (1 S there); the volts of nodes and loads to start
        from. `soft` as in `groups`."""
        key = b"".join((bytes([soft]), np.isfinite(given.ohm).tobytes(), (given.across != 0).tobytes(),
                        (given.value > 0).tobytes(), diode_on.tobytes(), mode.tobytes()))
        if key not in self._grounds:
            self._grounds[key] = self._find(given, diode_on, mode, soft)
        ground, parts, part = self._grounds[key]
        s, states = self.system, len(given.ohm)
        # Loads start from the volts of a source that they are joined to by copper; without one from nothing.
        level = np.zeros(parts)
        volts = np.concatenate([np.where(given.across != 0, np.abs(given.drive), 0.0), np.zeros((states, s.d.shape[1])),
                                np.where((mode == ON) | (mode == LIMIT), s.converter_law.out_v, 0.0)], axis=1)
        at = s.k[0] + np.arange(states)[:, None] * s.n
        np.maximum.at(level, part[at.ravel()], volts.ravel())
        group = part.reshape(states, s.n)
        first = np.where(group[:, s.e[0]] == group[:, s.e[1]], level[group[:, s.e[0]]], 0.0)
        return ground, level[group], first

    def _find(self, given: Conditions, diode_on: BoolArray, mode: Modes, soft: bool) -> tuple[Array, int, IntArray]:
        """Where the groups have their 0 V; what copper joins: how many groups, and each node's."""
        s, states = self.system, len(given.ohm)
        count, label = self.groups(given, diode_on, mode, soft)
        order = np.tile(self._rank, states)
        best = np.full(count, order.max() + 1)
        np.minimum.at(best, label, order)
        ground = (order == best[label]).astype(float).reshape(states, s.n)
        return (ground, *self.groups(given, diode_on, mode, soft=False))


def islands(solution: Solution) -> tuple[tuple[str, ...], ...]:
    """Groups of two or more joined nodes of a state that have no connection to the reference."""
    batch, state = solution.batch, solution.state
    one = Conditions(*(x[state:state + 1] for x in vars(batch.given).values()))
    _, label = Joined(batch.system).groups(one, batch.diode_on[state:state + 1], batch.converter_mode[state:state + 1])
    groups: dict[int, list[str]] = {}
    for node, group in zip(batch.system.nodes, label.tolist(), strict=True):
        groups.setdefault(group, []).append(node)
    return tuple(tuple(g) for found, g in groups.items() if found != label[0] and len(g) > 1)
