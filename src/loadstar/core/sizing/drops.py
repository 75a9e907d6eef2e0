"""Voltage lost on the way to a load and back, and the wires that are raised until it keeps the house rule."""

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from ..doc.states import JUDGED_STATES
from ..materials.conductors import ALPHA20_PER_K, STOCKS
from ..parts.load import LoadPart
from ..parts.starter import Starter
from ..physics import surface
from ..plan.model import Plan
from ..wiring.conductor import conductor
from ..wiring.results import Solved, StateResult
from ..wiring.thermal import Thermal
from ..wiring.topology import Topology
from .digits import in_nine_digits

Array = NDArray[np.float64]
IntArray = NDArray[np.int64]
DROP_SPARE_FRAC = 0.0005
LEAST_GAIN = 0.02  # of the goal: a step that saves less, while the goal stays out of reach, is not taken
LEAST_A, LEAST_V = 1e-6, 0.5  # below these a load counts as not fed


def drop_limit_frac(plan: Plan, load: LoadPart) -> float:
    """The house rule's share of the supply's voltage that a circuit of this kind of load may lose."""
    rules = plan.rules
    return {"lamp": rules.drop_lamp_frac, "heating": rules.drop_heating_frac, "motor": rules.drop_motor_frac,
            "electronics": rules.drop_electronics_frac,
            "tracker": rules.drop_electronics_frac}.get(load.category, rules.drop_other_frac)


def drop_frac(topology: Topology, result: StateResult, load: LoadPart) -> float | None:
    """Share of its root's voltage (posts, or converter output) lost on the way to a load; None when it is not fed."""
    if result.solution is None or abs(result.current(load.id)) < LEAST_A or load.id in result.solution.on_floor:
        return None
    root = topology.paths[load.id].root
    across = abs(result.solution.across_v(topology.node(load.at("pos")), topology.node(load.at("neg"))))
    begins = abs(result.solution.across_v(root.positive, root.negative))
    return 1 - across / begins if across > LEAST_V else None


def meet_starter_drop(topology: Topology, area: dict[str, float], free: set[str]) -> None:
    """Give the starter's leads the least size, alike for all, at which cranking loses no more in them than the house
    rule allows."""
    leads = starter_leads(topology)
    mine = [w for w in leads if w in free]
    limit, before = topology.plan.rules.starter_drop_v, float("inf")
    least = min((area[w] for w in mine), default=0.0)  # a smaller size changes nothing
    for size in [s for s in STOCKS[topology.plan.rules.sizes] if s >= least] if mine else ():
        tried = {**area, **{w: max(size, area[w]) for w in mine}}
        lost = starter_drop_v(topology, tried, leads)
        if before - lost < LEAST_GAIN * limit and before < float("inf"):
            break  # nothing is gained any more: what is fixed by hand decides
        area.update({w: tried[w] for w in mine})
        before = lost
        if lost <= limit:
            break


def starter_leads(topology: Topology) -> tuple[str, ...]:
    """The wires between the battery and the starter, there and back; empty without a starter in the plan."""
    starter = topology.plan.one(Starter)
    if starter is None:
        return ()
    path = topology.way_to(starter.id, starter.at("pos"), starter.at("neg"))
    return tuple(k.element for k in (*path.feed, *path.back) if k.element in topology.wires)


def starter_drop_v(topology: Topology, area: dict[str, float], leads: tuple[str, ...]) -> float:
    """Volts lost in the starter's leads at the cranking current, copper as warm as the air around it."""
    amps = topology.plan.machine.cranking_a
    return sum(amps * conductor(topology.plan, topology.wires[w], area[w]).ohm(
        topology.geometry[w].length_m, topology.geometry[w].hottest_ambient_c) for w in leads)


class Drops:
    """The drop of every circuit as arrays: which wires lie on which load's way, as pairs in the order of the loads."""

    def __init__(self, topology: Topology, thermal: Thermal) -> None:
        self.topology, self.plan = topology, topology.plan
        self.at = {w: i for i, w in enumerate(thermal.wires)}
        self.wires = list(self.at)
        self.lengths = thermal.length_m
        self.loads = topology.loads
        self.stock = list(STOCKS[self.plan.rules.sizes])
        self.last = len(self.stock) - 1
        self.limit = np.array([drop_limit_frac(self.plan, load) for load in self.loads])
        on = [sorted({self.at[k.element] for k in topology.paths[load.id].links if k.element in self.at})
              for load in self.loads]
        self._first = np.cumsum([0, *(len(wires) for wires in on)]).tolist()
        self._load = np.array([i for i, wires in enumerate(on) for _ in wires], int)
        self._wire = np.array([w for wires in on for w in wires], int)
        self._in_turn = np.argsort(self._wire, kind="stable")  # the same pairs by wire
        self._through = np.searchsorted(self._wire[self._in_turn], np.arange(len(self.wires) + 1)).tolist()
        # Ohms per metre at 20 C of every wire at every stock size, and at the size that it has now where that is none.
        ladders: dict[tuple[str, str | None], list[float]] = {}
        for wire in topology.wires.values():
            if (wire.wall, wire.insulation) not in ladders:
                ladders[wire.wall,
                        wire.insulation] = [conductor(self.plan, wire, a).r20_ohm_per_m for a in self.stock]
        self._table = np.array([ladders[w.wall, w.insulation] for w in map(topology.wires.__getitem__, self.wires)]
                               ).reshape(len(self.wires), len(self.stock))
        sizes = np.array(self.stock)
        # What the next size saves per ampere and metre, for each square millimetre more; nothing beyond the largest.
        self._saves = np.append(self._table[:, :-1] - self._table[:, 1:], np.zeros((len(self.wires), 1)), axis=1)
        self._per_mm2 = self._saves / np.append(np.diff(sizes), 1.0)

    def _r20(self, area: Mapping[str, float]) -> Array:
        """Ohms per metre of every wire at its size, 20 C."""
        return np.array([self._table[i, self.stock.index(area[w])] if area[w] in self.stock else conductor(
            self.plan, self.topology.wires[w], area[w]).r20_ohm_per_m for i, w in enumerate(self.wires)])

    def meet(self, solved: Solved, before: dict[str, float], area: dict[str, float], free: set[str], *,
             settled: bool = False) -> None:
        """Raise free wires on the ways of loads that lose too much: each time the one that saves most per gram.

        Estimated from the currents solved with the sizes `before`; the next round solves again. A last pass lowers
        again what was not needed. A `settled` solution is only mended where it misses the rule itself. Where no size
        reaches the goal, steps are taken while they save something worth having.
        """
        rows = [i for i, s in enumerate(solved.states) if s in JUDGED_STATES]
        if not self.loads or not rows or not self.at:
            return
        load, wire = self._load, self._wire
        lost, volts, state = self._lost(solved, rows)
        row = np.array(rows)[state[load]]
        warm = 1 + ALPHA20_PER_K * (np.minimum(solved.mean_c[row, wire], surface.RUNAWAY_C) - 20)
        # share lost per ohm per metre at 20 C
        metre_v = solved.wire_a()[row, wire] * warm * self.lengths[wire] / np.maximum(volts, LEAST_V)[load]
        lost = lost + self._by_load(metre_v * (self._r20(area) - self._r20(before))[wire])
        self._raise(lost, metre_v, area, free, self.limit + 1e-9 if settled else self.limit - DROP_SPARE_FRAC)

    def _raise(self, lost: Array, metre_v: Array, area: dict[str, float], free: set[str], most: Array) -> None:
        """Raise what saves most per gram, for every load that loses more than `most`, until it keeps its goal."""
        load, wire = self._load, self._wire
        goal, now = self.limit - DROP_SPARE_FRAC, self._r20(area)
        can = np.array([w in free for w in self.wires])
        could = np.where(can, now - np.minimum(self._table[:, -1], now), 0.0)
        hopeless = lost - self._by_load(metre_v * could[wire]) > goal
        at = np.array([self.stock.index(area[w]) if w in free else self.last for w in self.wires])
        raised: dict[int, int] = {}
        for i in np.flatnonzero(lost > most).tolist():
            here = slice(self._first[i], self._first[i + 1])
            mine, own_v = wire[here], metre_v[here]
            while lost[i] > goal[i]:
                options = can[mine] & (at[mine] < self.last)
                if hopeless[i]:
                    options &= own_v * self._saves[mine, at[mine]] >= LEAST_GAIN * self.limit[i]
                if not options.any():
                    break
                gains = in_nine_digits(own_v * self._per_mm2[mine, at[mine]] / self.lengths[mine])
                w = int(mine[np.argmax(np.where(options, gains, -1.0))])
                raised.setdefault(w, int(at[w]))
                through = self._pairs_of(w)
                lost[load[through]] -= metre_v[through] * self._saves[w, at[w]]
                at[w] += 1
        self._lower(at, raised, metre_v, lost - goal)
        for w in raised:
            area[self.wires[w]] = self.stock[at[w]]

    def _lower(self, at: IntArray, raised: dict[int, int], metre_v: Array, over: Array) -> None:
        """Lower again what was raised further than needed; `over` is by how much each load loses more than its goal."""
        for w, floor in raised.items():
            through = self._pairs_of(w)
            behind = self._load[through]
            while at[w] > floor:
                back = metre_v[through] * self._saves[w, at[w] - 1]
                if np.any((over[behind] + back > 0) & (back > 0)):
                    break
                over[behind] += back
                at[w] -= 1

    def _by_load(self, shares: Array) -> Array:
        """What the pairs have, summed by load."""
        return np.asarray(np.bincount(self._load, shares, len(self.loads)), float)

    def _pairs_of(self, wire: int) -> IntArray:
        """The pairs that a wire is in."""
        return np.asarray(self._in_turn[self._through[wire]:self._through[wire + 1]])

    def _lost(self, solved: Solved, rows: list[int]) -> tuple[Array, Array, IntArray]:
        """Per load the largest share lost of those rows (-1 where it is never fed), the volts it begins with, and in
        which row."""
        batch, at = solved.batch, solved.batch.system.index
        node = self.topology.node
        pos, neg = (np.array([at[node(load.at(end))] for load in self.loads]) for end in ("pos", "neg"))
        roots = [self.topology.paths[load.id].root for load in self.loads]
        top, foot = np.array([at[r.positive] for r in roots]), np.array([at[r.negative] for r in roots])
        v = batch.potential[rows]
        across, begins = np.abs(v[:, pos] - v[:, neg]), np.abs(v[:, top] - v[:, foot])
        names = {load.name: j for j, load in enumerate(batch.system.network.loads)}
        mine = [names[load.id] for load in self.loads]
        fed = (np.abs(batch.load[rows][:, mine]) > LEAST_A) & ~batch.on_floor[rows][:, mine] & (across > LEAST_V)
        with np.errstate(invalid="ignore", divide="ignore"):
            lost = np.where(fed, 1 - across / begins, -1.0)
        state = np.argmax(lost, axis=0)
        every = np.arange(len(self.loads))
        return lost[state, every], begins[state, every], state
