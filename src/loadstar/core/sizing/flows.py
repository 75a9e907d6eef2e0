"""The ways that faults take, and how much of each flows where."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..physics.network import System
from .branches import Branches

Array = NDArray[np.float64]
IntArray = NDArray[np.int64]
BoolArray = NDArray[np.bool_]
LEAST_SHARE = 0.02  # a wire that carries less than this of a fault is not judged for it
LEAST_A = 1e-3  # a fault that draws less is none


@dataclass(frozen=True)
class FaultCase:
    """What conducts and what feeds while a fault is looked at."""

    closed: BoolArray  # contacts and coils
    alone: str = ""  # the only source that feeds, "" when all do
    spare: bool = False  # only for wires that no other case has seen


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
    probes), and what each fault draws."""

    ohm: Array
    core: Array
    prospective_a: Array

    def shares(self, system: System, way: Ways, rows: IntArray) -> Array:
        """How much of a fault each resistor of `rows` carries by way of the core, by (row, pair of core probes)."""
        a, b = system.r[:, rows]
        drop = self.core[a] - self.core[b]
        return np.asarray(np.abs(drop[:, way.a] - drop[:, way.b]) / self.ohm[rows, None])
