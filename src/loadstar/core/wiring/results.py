"""What a plan's situations come to: choices, each state by itself, all of them as arrays."""

import math
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..doc.states import States
from ..physics.batch import LOW, Batch, Solution
from ..physics.network import System
from ..plan.stands import Stands
from ..supply.base import Situation
from .topology import Topology

Array = NDArray[Any]


@dataclass(frozen=True)
class Choices:
    """What is decided: area of every wire (mm2) and rating of every fuse or way (A), and whether by hand."""

    area_mm2: dict[str, float]
    rating_a: dict[str, float]


@dataclass(frozen=True)
class StateResult:
    """One state, solved. `source` says how it is fed: "battery", "regulated" or "short" (battery helps out), "pack",
    or "coil".

    `available_a` is what the generator can give, `charging_a` what goes into the battery, `battery_a` what comes out.
    `short` is the way of a dead short, from a supply's positive to its negative. `coil_v` are the volts over the coils
    of closed relays that get less than their hot coil needs, with their contacts still open; `hunting` the converters
    that stay neither on nor off, `either` those that stay on once on and off once off. `stands` says where everything
    that is moved stands, `turned` that it is the state with its switches otherwise than they are taken to stand. By
    wire: `wire_c` where it is hottest, `wire_mean_c` over its length as the network was solved with, `ambient_c` the
    air around its hottest stretch, `surround_c` that plus what neighbours in the bundle add there.
    """

    state: States
    rpm: float
    source: str
    solution: Solution | None
    failure: str
    failed_elements: tuple[str, ...]
    closed: dict[str, bool]
    undecided: tuple[str, ...]
    posts_v: float
    available_a: float
    charging_a: float
    battery_a: float
    wire_c: dict[str, float]
    wire_mean_c: dict[str, float]
    surround_c: dict[str, float]
    ambient_c: dict[str, float]
    words: str = ""
    short: tuple[str, ...] = ()
    coil_v: dict[str, float] = field(default_factory=dict)
    hunting: tuple[str, ...] = ()
    either: tuple[str, ...] = ()
    stands: Stands = field(default_factory=dict)
    turned: bool = False
    is_ridden: bool = False

    @property
    def system(self) -> System:
        """The network that it was solved with."""
        assert self.solution is not None
        system = self.solution.batch.system
        assert isinstance(system, System)
        return system

    def current(self, element: str) -> float:
        """Current through an element, from its first to its second terminal; 0 when it is open."""
        return self.solution.current_a.get(element, 0.0) if self.solution else 0.0


@dataclass(frozen=True)
class Solved:
    """All states as arrays (state, element), with the temperatures that belong to them."""

    topology: Topology
    wires: tuple[str, ...]
    rows: tuple[Situation, ...]
    batch: Batch
    source: tuple[str, ...]
    available_a: Array
    closed: tuple[dict[str, bool], ...]
    undecided: tuple[tuple[str, ...], ...]
    hottest_c: Array
    mean_c: Array
    surround_c: Array
    ambient_c: Array
    charging_a: Array
    shorts: tuple[tuple[str, ...], ...]
    coil_v: tuple[dict[str, float], ...] = ()
    either: tuple[tuple[str, ...], ...] = ()

    @property
    def states(self) -> tuple[States, ...]:
        """The state of every row."""
        return tuple(row.state for row in self.rows)

    def wire_a(self) -> Array:
        """Currents of the wires (states, wires); 0 where a state has no solution."""
        return np.asarray(np.abs(np.nan_to_num(self.batch.branch[:, : len(self.wires)])))

    def peaks(self, short: bool = False) -> dict[str, float]:
        """The largest current of each element over all states but cranking, which lasts seconds; or (`short`) while
        cranking."""
        b = self.batch
        which = [i for i, s in enumerate(self.states) if (s == "cranking") == short]
        rows = np.concatenate([b.branch, b.source, b.load, b.diode, b.converter_out, b.converter_in], axis=1)[which]
        worst = np.max(np.abs(np.nan_to_num(rows)), axis=0, initial=0.0)
        return dict(zip(b.system.names, worst.tolist(), strict=True))

    def results(self) -> dict[States, StateResult]:
        """Each state of the plan by itself."""
        return {row.state: self._result(i) for i, row in enumerate(self.rows[:len(self.topology.source.states)])}

    def alternates(self) -> tuple[StateResult, ...]:
        """What was solved besides the plan's states."""
        return tuple(self._result(i) for i in range(len(self.topology.source.states), len(self.rows)))

    def _result(self, i: int) -> StateResult:
        plan, failure, row = self.topology.plan, self.batch.failure[i], self.rows[i]
        state, rpm = row.state, plan.machine.rpm(row.state)
        if failure is not None:
            return StateResult(state, rpm, self.source[i], None, str(failure), failure.elements, self.closed[i], (),
                               math.nan, 0.0, 0.0, 0.0, {}, {}, {}, {}, row.words, self.shorts[i],
                               stands=row.stands, turned=row.turned, is_ridden=row.is_ridden)

        def table(values: Array) -> dict[str, float]:
            return dict(zip(self.wires, values[i].tolist(), strict=True))

        solution = self.batch.solution(i)
        available, charging, paid = float(self.available_a[i]), 0.0, 0.0
        supply = [s.name for s in self.batch.system.network.sources]
        if self.source[i] == "regulated" and plan.battery and plan.generator:
            charging = float(self.charging_a[i])
        elif self.source[i] in ("battery", "short", "pack"):
            paid = -sum(float(self.batch.source[i, supply.index(store.id)]) for store in self.topology.source.stores)
        return StateResult(
            state, rpm, self.source[i], solution, "", (), self.closed[i], self.undecided[i],
            abs(complex(self.batch.potential[i, self.batch.system.index[self.topology.positive]])) if
            self.topology.positive else math.nan, available, charging, paid, table(self.hottest_c), table(self.mean_c),
            table(self.surround_c), table(self.ambient_c), row.words, (), self.coil_v[i] if self.coil_v else {},
            self._hunting(i), self.either[i] if self.either else (), row.stands, row.turned,
            row.is_ridden)

    def _hunting(self, i: int) -> tuple[str, ...]:
        """Converters that dropped out under their own draw, though without it their input is inside their window."""
        batch, law = self.batch, self.batch.system.converter_law
        vin = batch.potential[i, batch.system.ci[0]] - batch.potential[i, batch.system.ci[1]]
        return tuple(c.name for j, c in enumerate(batch.system.network.converters)
                     if batch.converter_mode[i, j] == LOW and np.real(vin[j]) >= law.low_v[j] - 1e-9)
