"""What a meter should show between two points, and within what: from the solved state, with the meter in the network.

The band is what every joint, wire and source may be off by, each by how much the reading hangs on it (one adjoint
solution for a pair of points, no matter how many joints), and twice the meter's own uncertainty.
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csc_array
from scipy.sparse.linalg import splu

from .. import limits
from ..figures.figures import Figures
from ..wiring.results import StateResult
from .bench import METER_OHM, Bench
from .fault import NONE

Array = NDArray[Any]
Quantity = Literal["V", "ohm", "A"]
JOINT_OFF, WIRE_OFF = 0.20, 0.05  # shares that a contact and a wire may be off by
# Shares that a source's volts may be off by, as its charge, warmth or speed are not known better; by the part's kind.
SOURCE_OFF = {"battery": 0.02, "second_battery": 0.02, "pack": 0.04, "generator": 0.015, "coil": 0.10}
METER_SIGMAS = 2.0
LEADS_OHM, OHM_OFF = 0.3, 0.25
STANDING_OFF_A, STANDING_OFF = 0.002, 0.10
NO_SHORT_OHM = 50.0  # electronics at rest show at least so much, rising; a short shows next to nothing
NEAR_TIMES = 2.0  # so many bands off is near still: measure again before anything is taken apart
OPEN_BEGINS_OHM = 1e6
DENSE_UP_TO = 400  # rows; beyond it each pair is solved for by itself
NOWHERE = -1  # of a terminal that nothing of the network comes to
SOURCE = "solved network with the meter's 10 MΩ; joints ±20 %, wires ±5 %, the meter 0.5 % and 30 mV"
Verdict = Literal["in", "near", "out"]


def meter_sigma_v(volts: float) -> float:
    """What a pocket meter's reading of so many volts may be off by, one standard deviation: its last digits, its half
    per cent, and how the probes sit."""
    return math.hypot(0.01 + 0.005 * abs(volts), 0.03)


@dataclass(frozen=True)
class Prediction:
    """What should be shown, and by how much a sound circuit's reading may differ. `at_least`: more is in order too;
    what is asked is that it is no less."""

    quantity: Quantity
    value: float
    spread: float
    at_least: bool = False

    @property
    def least(self) -> float:
        """The least that is in order, where more is too."""
        return NO_SHORT_OHM if math.isinf(self.value) else self.value - self.spread

    def verdict(self, reading: float) -> Verdict:
        """In order, near, or out."""
        if self.at_least:
            return "in" if reading >= self.least else "near" if reading >= self.least / NEAR_TIMES else "out"
        if math.isinf(self.value):
            return "in" if reading >= OPEN_BEGINS_OHM else "near" if reading >= OPEN_BEGINS_OHM / 10 else "out"
        off = abs(reading - self.value)
        return "in" if off <= self.spread else "near" if off <= NEAR_TIMES * self.spread else "out"


def _dense(matrix: Array) -> Callable[[int, int], Array]:
    """The adjoint of a small network: from its inverse, which is made once."""
    inverse = np.linalg.inv(matrix)
    return lambda a, b: np.asarray(inverse[a] - inverse[b])


def _sparse(matrix: Array) -> Callable[[int, int], Array]:
    """That of a large one: one solution with its factors for each pair."""
    factors = splu(csc_array(matrix))

    def adjoint(a: int, b: int) -> Array:
        right = np.zeros(len(matrix), matrix.dtype)
        right[a], right[b] = 1.0, -1.0
        return np.asarray(factors.solve(right, trans="T"))

    return adjoint


class Predictor:
    """Predictions for one plan."""

    def __init__(self, figures: Figures) -> None:
        self.figures, self.topology = figures, figures.topology
        self._solvers: dict[int, Callable[[int, int], Array]] = {}
        self._islands: dict[int, Array] = {}

    @cached_property
    def _unpowered(self) -> Bench:
        return Bench(self.figures)

    def volts(self, row: StateResult, red: str, black: str, posts_v: float | None = None) -> Prediction:
        """Volts between two terminals in a solved state (AC: rms). `posts_v`: as measured there in that state, which
        settles the sources."""
        assert row.solution is not None
        batch, state, system = row.solution.batch, row.solution.state, row.system
        a, b = (system.index.get(self.topology.node(t), NOWHERE) for t in (red, black))
        if NOWHERE in (a, b) or a == b or self._island(row)[a] != self._island(row)[b]:
            return Prediction("V", 0.0, METER_SIGMAS * meter_sigma_v(0.0))
        adjoint = self._adjoint(row, a, b)
        across = batch.potential[state, a] - batch.potential[state, b]
        loaded = across / (1 + (adjoint[a] - adjoint[b]) / METER_OHM)
        value = float(np.abs(loaded)) if np.iscomplexobj(batch.potential) else float(loaded)
        times = 1.0
        if posts_v is not None and row.posts_v > 0:
            times = posts_v / row.posts_v
        off = self._joints(row, adjoint) + (0.0 if posts_v is not None else self._sources(row, adjoint))
        return Prediction("V", value * times, off + METER_SIGMAS * meter_sigma_v(value * times))

    def _joints(self, row: StateResult, adjoint: Array) -> float:
        """What joints and wires may make of it: of each how far the reading moves, all the same way."""
        assert row.solution is not None
        batch, state, system = row.solution.batch, row.solution.state, row.system
        moves = (adjoint[system.r[0]] - adjoint[system.r[1]]) * batch.branch[state]  # for the whole of its resistance
        wires = len(self.topology.wires)
        share = np.full(len(moves), JOINT_OFF)
        share[:wires] = WIRE_OFF
        moves = np.where(np.isfinite(batch.given.ohm[state]), moves, 0.0)
        return float(np.sum(np.abs(moves) * share))

    def _sources(self, row: StateResult, adjoint: Array) -> float:
        assert row.solution is not None
        batch, state, system = row.solution.batch, row.solution.state, row.system
        found = 0.0
        for j, source in enumerate(system.network.sources):
            if batch.given.across[state, j]:
                share = SOURCE_OFF.get(self.topology.parts[source.name].kind, 0.0)
                found += float(abs(adjoint[system.n + j] * batch.given.drive[state, j])) * share
        return found

    def ohms(self, red: str, black: str) -> Prediction:
        """Ohms between two terminals with every source disconnected and everything at rest; infinite: nothing joins
        them."""
        return self.all_ohms(((red, black),))[0]

    def all_ohms(self, pairs: Sequence[tuple[str, str]]) -> list[Prediction]:
        """The same of several pairs: they are of one network."""
        if not pairs:
            return []
        bench = self._unpowered
        values = bench.ohms((NONE,), [(bench.node(red), bench.node(black)) for red, black in pairs])[0].tolist()
        return [Prediction("ohm", v, math.inf if math.isinf(v) else LEADS_OHM + OHM_OFF * v) for v in values]

    def standing(self, row: StateResult) -> Prediction:
        """Amps out of the supply with everything off."""
        value = abs(row.battery_a)
        return Prediction("A", value, STANDING_OFF_A + STANDING_OFF * value)

    # -- of a state, once -------------------------------------------------------------------------------------------

    def _adjoint(self, row: StateResult, a: int, b: int) -> Array:
        """How far the volts between two nodes move for an ampere into each node, or a volt in each source."""
        assert row.solution is not None
        limits.check()
        state = row.solution.state
        if state not in self._solvers:
            matrix = row.system.straightened(row.solution.batch, state)
            self._solvers[state] = _dense(matrix) if len(matrix) <= DENSE_UP_TO else _sparse(matrix)
        return self._solvers[state](a, b)

    def _island(self, row: StateResult) -> Array:
        assert row.solution is not None
        state = row.solution.state
        if state not in self._islands:
            self._islands[state] = row.system.islands(row.solution.batch)[state]
        return self._islands[state]
