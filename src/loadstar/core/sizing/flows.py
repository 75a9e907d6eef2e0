"""The ways that faults take, and how much of each flows where."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..physics.network import System
from .branches import Branches

Array = NDArray[np.float64]
IntArray = NDArray[np.int64]
BoolArray = NDArray[np.bool_]
LEAST_SHARE = 0.02  # of a fault; a wire that carries less than this, and a diode or tap that passes less, is left out
OPENER_SHARE = 1e-4  # of a fault; an opener that carries less is not in its way
LEAST_A = 1e-3  # a fault that draws less is none


@dataclass(frozen=True)
class FaultCase:
    """What conducts and what feeds while a fault is looked at."""

    closed: BoolArray  # contacts and coils
    alone: str = ""  # the only source that feeds, "" when all do
    spare: bool = False  # only for wires that no other case has seen
    opened: tuple[int, ...] = ()  # the openers that the fault has opened so far, by number, in their order

    def without(self, opener: int, row: int) -> "FaultCase":
        """The same after an opener, which is a resistor of the network, has opened too."""
        closed = self.closed.copy()
        closed[row] = False
        return replace(self, closed=closed, opened=(*self.opened, opener))


class Ways:
    """With these contacts closed: the branches, and every fault as a way through branches and a pair of core probes."""

    def __init__(self, system: System, closed: BoolArray, plus: IntArray, minus: IntArray) -> None:
        self.branches = Branches(system, closed)
        self.fault, self.edge = self.branches.ways(plus, minus)
        core = self.branches.core
        self.probes, inverse = np.unique(np.concatenate([core[plus], core[minus]]), return_inverse=True)
        pair, of = np.unique(np.stack([inverse[: len(plus)], inverse[len(plus):]]), axis=1, return_inverse=True)
        self.a, self.b = pair
        self.of = of.ravel()


@dataclass(frozen=True)
class Flows:
    """Where the current of every fault flows: every resistor's ohms, the core's transfer resistances (nodes, core
    probes), and of each fault the volts that drive it, the ohms of its loop, and what it draws when it is dead."""

    ohm: Array
    core: Array
    volts: Array
    loop_ohm: Array
    prospective_a: Array

    def shares(self, system: System, way: Ways, rows: IntArray) -> Array:
        """How much of a fault each resistor of `rows` carries by way of the core, by (row, pair of core probes)."""
        a, b = system.r[:, rows]
        drop = self.core[a] - self.core[b]
        return np.asarray(np.abs(drop[:, way.a] - drop[:, way.b]) / self.ohm[rows, None])

    def shares_of(self, system: System, way: Ways, fault: int, rows: IntArray) -> Array:
        """How much of one fault each resistor of `rows` carries: all of it where it lies in the fault's branches."""
        pair = way.of[fault]
        drop = self.core[:, way.a[pair]] - self.core[:, way.b[pair]]
        a, b = system.r[:, rows]
        share = np.abs(drop[a] - drop[b]) / self.ohm[rows]
        return np.where(np.isin(rows, way.edge[way.fault == fault]), 1.0, share)
