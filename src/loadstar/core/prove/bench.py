"""What a meter shows on a circuit with something wrong: a state's network solved once for every fault, all at once.

Begins from the solved state of the plan. A relay follows the voltage that a fault leaves it, a battery helps out where
the generator no longer reaches it. The meter's own resistance joins what it touches: between two islands without a way
from one to the other it shows nothing, whatever their potentials would be.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..figures.figures import Figures
from ..physics.batch import OFF, Batch, Conditions
from ..physics.elements import CONSTANT_CURRENT, CONSTANT_POWER, Resistor
from ..physics.network import System
from ..plan.model import Plan
from ..supply.base import Situation
from ..wiring.contacts import Contacts
from ..wiring.results import StateResult
from .fault import NONE, Fault, Ghost

Array = NDArray[Any]
METER_OHM = 10e6
OPEN_OHM = math.inf
TURNS = 8
TOLERANCE_A = 1e-6


@dataclass(frozen=True)
class Solved:
    """Every fault's state: potentials (faults, nodes), which island each node is on; NaN where a fault leaves no
    solution."""

    potential: Array
    island: Array


class Bench:
    """A plan's network with what some faults may join besides."""

    def __init__(self, figures: Figures, ghosts: Sequence[Ghost] = ()) -> None:
        self.figures, self.topology = figures, figures.topology
        made = tuple(Resistor(g.name, g.a, g.b, 1.0) for g in {g.name: g for g in ghosts}.values())
        own = self.topology.elements
        self.system = System(replace(own, resistors=(*own.resistors, *made)))
        self.column = {r.name: i for i, r in enumerate(self.system.network.resistors)}
        self._load = {e.name: i for i, e in enumerate(self.system.network.loads)}
        self._converter = {c.name: i for i, c in enumerate(self.system.network.converters)}
        self._source = {s.name: i for i, s in enumerate(self.system.network.sources)}
        self.plan: Plan = figures.plan

    def node(self, terminal: str) -> int:
        """The number of the node that a terminal is on."""
        return self.system.index[self.topology.node(terminal)]

    # -- powered ----------------------------------------------------------------------------------------------------

    def solve(self, row: StateResult, faults: Sequence[Fault]) -> Solved:
        """A state of the plan, which has a solution, with each of these faults."""
        assert row.solution is not None
        count, base = len(faults), row.solution.batch
        contacts = self._contacts(row, count)
        first, last = contacts.first, contacts.first + len(contacts.elements)
        shut = self._with_faults(self._shut(row, base, contacts), faults)
        given = self._given(base, row.solution.state, count)
        self._changed(given, faults)
        helped = self._charged(row, given, faults)
        for n, fault in enumerate(faults):
            for element, closed in fault.conducts.items():
                contacts.force(n, element, closed=closed)
        start = self._start(base, row.solution.state, count)
        stuck = [(n, contacts.parts.index(part), is_in)
                 for n, f in enumerate(faults) for part, is_in in f.stuck.items()]
        found, moving = start, np.arange(count)
        for _ in range(TURNS):
            for n, k, is_in in stuck:
                contacts.pulled[n, k] = is_in
            given.ohm = shut.copy()
            given.ohm[:, first:last][contacts.open()] = np.inf
            again = self.system.solve(_conditions(given, moving), _rows(found, moving), TOLERANCE_A)
            found = again if len(moving) == count else _put(found, moving, again)
            found.given = given
            flips = contacts.follow(found)
            for n, k, _is_in in stuck:
                flips[n, k] = False
            moving = np.flatnonzero(flips.any(axis=1) | self._help(row, given, found, helped))
            if not len(moving):
                break
        return Solved(found.potential, self.system.islands(found))

    def _contacts(self, row: StateResult, count: int) -> Contacts:
        one = Contacts(self.topology, self.system, (Situation(row.state, row.stands),))
        return one.repeated(count, np.array([row.closed.get(p, False) for p in one.parts], bool))

    def _shut(self, row: StateResult, base: Batch, contacts: Contacts) -> Array:
        """Ohms of everything with its contact closed; of what only a fault joins none at all."""
        assert row.solution is not None
        first = contacts.first
        ohm = np.full(len(self.system.network.resistors), np.inf)
        ohm[:first] = base.given.ohm[row.solution.state, :first]
        ohm[first:first + len(contacts.elements)] = [
            self.topology.contact_ohm(e, self.figures.ratings.rated) for e in contacts.elements]
        return ohm

    def _with_faults(self, ohm: Array, faults: Sequence[Fault]) -> Array:
        found = np.repeat(ohm[None, :], len(faults), axis=0)
        for n, fault in enumerate(faults):
            for element, more in fault.adds.items():
                found[n, self.column[element]] += more
            for element in fault.opens:
                found[n, self.column[element]] = np.inf
            for ghost, joined in fault.joins.items():
                found[n, self.column[ghost]] = joined
        return found

    def _given(self, base: Batch, state: int, count: int) -> Conditions:
        """A state's sources, loads and converters, for every fault."""
        of = base.given
        return Conditions(np.empty((count, 0)), *(np.repeat(v[state:state + 1], count, axis=0) for v in (
            of.across, of.series, of.drive, of.value, of.converter_on)))

    def _changed(self, given: Conditions, faults: Sequence[Fault]) -> None:
        resistive = self.system.law.resistive
        stores = [self._source[p.id] for p in self.topology.source.stores if p.id in self._source]
        for n, fault in enumerate(faults):
            for load in fault.dead:
                j = self._load[load]
                given.value[n, j] = np.inf if resistive[j] else 0.0
            for load, times in fault.draws.items():
                j = self._load[load]
                given.value[n, j] *= 1 / times if resistive[j] else times
            for converter in fault.off:
                given.converter_on[n, self._converter[converter]] = False
            if fault.emf_times != 1.0 or fault.ohm_times != 1.0:
                for j in stores:
                    if given.across[n, j]:
                        given.drive[n, j] *= fault.emf_times
                        given.series[n, j] *= fault.ohm_times

    def _charged(self, row: StateResult, given: Conditions, faults: Sequence[Fault]) -> Array:
        """What the generator's faults leave of it; for which of them the battery pays from the beginning."""
        generator, battery = self.plan.generator, self.plan.battery
        pays = np.zeros(len(faults), bool)
        if generator is None or battery is None or row.source != "regulated":
            return pays
        j = self._source[generator.id]
        for n, fault in enumerate(faults):
            pays[n] = not fault.held_times
            given.drive[n, j] *= fault.held_times
            if pays[n]:
                given.across[n, j], given.series[n, j], given.drive[n, j] = 0.0, 1.0, 0.0
                self._pay(row, given, n)
        return pays

    def _pay(self, row: StateResult, given: Conditions, rows: Any) -> None:
        """The battery drives, as it stands in this state."""
        battery = self.plan.battery
        assert battery is not None
        own, j = battery.drives(row.state, self.plan.machine, empty=False), self._source[battery.id]
        given.across[rows, j], given.series[rows, j], given.drive[rows, j] = own.across, own.series.real, own.drive

    def _start(self, base: Batch, state: int, count: int) -> Batch:
        """The plan's own solution to begin from, its nodes in this system's order."""
        at = [base.system.index[n] for n in self.system.nodes]

        def rows(values: Array) -> Array:
            return np.repeat(values[state:state + 1], count, axis=0)

        own = {name: rows(getattr(base, name)) for name in ("source", "diode", "converter_out", "converter_in", "load",
                                                           "diode_on", "converter_mode", "on_floor")}
        return Batch(self.system, base.given, rows(base.potential)[:, at], np.zeros((count, 0)),
                     residual_a=np.zeros(count), steps=0, failure=[None] * count, **own)

    def _help(self, row: StateResult, given: Conditions, found: Batch, helped: Array) -> Array:
        """Where the generator no longer holds the posts, the battery pays: for which faults that is new."""
        battery = self.plan.battery
        if battery is None or row.source != "regulated" or not self.topology.positive:
            return np.zeros(len(helped), bool)
        ends = [self.system.index[n] for n in (self.topology.positive, self.topology.negative)]
        posts = np.real(found.potential[:, ends[0]] - found.potential[:, ends[1]])
        low = ~helped & ~(posts >= battery.resting_v - 1e-6)
        if low.any():
            self._pay(row, given, low)
            helped |= low
        return low

    # -- unpowered --------------------------------------------------------------------------------------------------

    def ohms(self, faults: Sequence[Fault], pairs: Sequence[tuple[int, int]]) -> Array:
        """What an ohmmeter shows between pairs of nodes (faults, pairs), every source disconnected and everything at
        rest; infinite where nothing joins them. Lamps and heaters are cold; electronics show nothing that could be
        said."""
        row = next(r for r in self.figures.volts.rows if r.solution is not None)
        rest = _in_state(row, self.topology.source.states[0])
        count = len(faults)
        contacts = self._contacts(rest, count)
        contacts.pulled[:] = False
        first, last = contacts.first, contacts.first + len(contacts.elements)
        assert row.solution is not None
        ohm = self._with_faults(self._shut(row, row.solution.batch, contacts), faults)
        for n, fault in enumerate(faults):
            for element, closed in fault.conducts.items():
                contacts.force(n, element, closed=closed)
            for part, is_in in fault.stuck.items():
                contacts.pulled[n, contacts.parts.index(part)] = is_in
        ohm[:, first:last][contacts.open()] = np.inf
        slope = self._cold(faults)
        system, nd, nc = self.system, self.system.d.shape[1], self.system.co.shape[1]
        none = np.zeros((count, len(system.network.sources)))
        given = Conditions(ohm, none, none + 1.0, none, slope, np.zeros((count, nc), bool))
        on, mode = np.zeros((count, nd), bool), np.full((count, nc), OFF, np.int8)
        _, label = system.joined.groups(given, on, mode)
        island = label.reshape(count, system.n)
        ground = system.joined.ground(given, on, mode)[0]
        values = np.concatenate([1 / ohm, slope, ground, given.across, on.astype(float), np.zeros((count, nc)),
                                 given.series, np.ones((count, nd)), np.ones((count, nc)), np.zeros((count, 3 * nc))],
                                axis=1)
        right = np.zeros((count, system.size, len(pairs)))
        for k, (a, b) in enumerate(pairs):
            if a != b:
                right[:, a, k], right[:, b, k] = 1.0, -1.0
        v = system.matrix.solve(values, right)
        found = np.stack([v[:, a, k] - v[:, b, k] for k, (a, b) in enumerate(pairs)], axis=1)
        apart = np.stack([island[:, a] != island[:, b] for a, b in pairs], axis=1)
        return np.where(apart, OPEN_OHM, found)

    def cold_ohm(self, load: str) -> float:
        """Ohms of a load at rest; infinite where nothing can be said."""
        siemens = float(self._cold((NONE,))[0, self._load[load]])
        return 1 / siemens if siemens > 0 else OPEN_OHM

    def _cold(self, faults: Sequence[Fault]) -> Array:
        """Conductances of the loads, cold."""
        loads = self.system.network.loads
        value = np.array([e.value for e in loads])
        cold = self.system.law.floor_g(value)
        cold = np.where([e.kind in (CONSTANT_POWER, CONSTANT_CURRENT) for e in loads], 0.0, cold)
        found = np.repeat(cold[None, :], len(faults), axis=0)
        for n, fault in enumerate(faults):
            for load in fault.dead:
                found[n, self._load[load]] = 0.0
        return found


_BY_ROW = ("potential", "branch", "source", "diode", "converter_out", "converter_in", "load", "diode_on",
           "converter_mode", "on_floor", "residual_a")


def _conditions(given: Conditions, rows: Array) -> Conditions:
    return Conditions(*(v[rows] for v in vars(given).values()))


def _rows(batch: Batch, rows: Array) -> Batch:
    """Some rows of a batch, to begin from."""
    return replace(batch, failure=[batch.failure[n] for n in rows],
                   **{name: getattr(batch, name)[rows] for name in _BY_ROW})


def _put(batch: Batch, rows: Array, fresh: Batch) -> Batch:
    """A batch with some of its rows solved anew."""
    failure = list(batch.failure)
    for n, why in zip(rows.tolist(), fresh.failure, strict=True):
        failure[n] = why
    merged = {name: getattr(batch, name).copy() for name in _BY_ROW}
    for name, values in merged.items():
        values[rows] = getattr(fresh, name)
    return replace(batch, failure=failure, **merged)


def _in_state(row: StateResult, state: Any) -> StateResult:
    """A row as it stands in another state, only to say which contacts conduct then."""
    return replace(row, state=state, closed={})


def volts(solved: Solved, red: int, black: int) -> Array:
    """What a voltmeter shows between two nodes, by fault; of AC its rms amount. Nothing between two islands."""
    across = solved.potential[:, red] - solved.potential[:, black]
    shown = np.abs(across) if np.iscomplexobj(across) else across
    return np.where(solved.island[:, red] != solved.island[:, black], 0.0, shown)
