"""What hangs on the rest of a network by a single way, and how a fault's current gets from there to the core."""

import numpy as np
from numpy.typing import NDArray

from ..physics.network import System

IntArray = NDArray[np.int64]
BoolArray = NDArray[np.bool_]


class Branches:
    """Of each node that hangs on the rest by a single way: its parent, the resistor to it, and where it meets the
    core."""

    def __init__(self, system: System, closed: BoolArray) -> None:
        a, b = system.r
        alive, n = closed.copy(), system.n
        fixed = np.zeros(n, bool)
        fixed[system.k.ravel()] = fixed[0] = True
        degree = np.bincount(a[alive], minlength=n) + np.bincount(b[alive], minlength=n)
        self.parent, self.via, self.core = np.full(n, -1), np.full(n, -1), np.arange(n)
        levels = []
        while True:
            leaf = (degree == 1) & ~fixed
            edges = np.flatnonzero(alive & (leaf[a] | leaf[b]))
            if not len(edges):
                break
            child = np.where(leaf[a[edges]], a[edges], b[edges])
            self.parent[child] = a[edges] + b[edges] - child
            self.via[child] = edges
            alive[edges] = False
            np.subtract.at(degree, a[edges], 1)
            np.subtract.at(degree, b[edges], 1)
            levels.append(child)
        for child in reversed(levels):
            self.core[child] = self.core[self.parent[child]]

    def ways(self, plus: IntArray, minus: IntArray) -> tuple[IntArray, IntArray]:
        """Every (fault, resistor) that the branches of a fault's two ends carry it through, up to where they meet."""
        fault, edge = [], []
        for nodes in (plus, minus):
            here, at = np.arange(len(nodes)), nodes
            while len(here):
                inside = self.via[at] >= 0
                here, at = here[inside], at[inside]
                fault.append(here)
                edge.append(self.via[at])
                at = self.parent[at]
        faults, edges = np.concatenate(fault), np.concatenate(edge)
        size = int(edges.max(initial=0)) + 1
        once, times = np.unique(faults * size + edges, return_counts=True)
        once = once[times == 1]  # a resistor in the ways of both ends carries nothing
        return once // size, once % size

    def in_core(self, closed: BoolArray) -> BoolArray:
        """Which closed resistors lie in the core."""
        inside = closed.copy()
        inside[self.via[self.via >= 0]] = False
        return inside
