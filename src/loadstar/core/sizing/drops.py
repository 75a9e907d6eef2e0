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
    """The drop of every circuit as arrays: which wires lie on which load's way."""

    def __init__(self, topology: Topology, thermal: Thermal) -> None:
        self.topology, self.plan = topology, topology.plan
        self.at = {w: i for i, w in enumerate(thermal.wires)}
        self.wires = list(self.at)
        self.lengths = thermal.length_m
        self.loads = topology.loads
        self.stock = list(STOCKS[self.plan.rules.sizes])
        self.last = len(self.stock) - 1
        self.limit = np.array([drop_limit_frac(self.plan, load) for load in self.loads])
        self.on = np.zeros((len(self.loads), len(thermal.wires)), bool)
        for i, load in enumerate(self.loads):
            path = topology.paths[load.id]
            self.on[i, [self.at[k.element] for k in (*path.feed, *path.back) if k.element in self.at]] = True
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
        lost, volts, state = self._lost(solved, rows)
        amps = solved.wire_a()[rows][state] * self.on
        warm = 1 + ALPHA20_PER_K * (np.minimum(solved.mean_c, surface.RUNAWAY_C)[rows][state] - 20)
        # share lost per ohm per metre at 20 C
        metre_v = amps * warm * self.lengths / np.maximum(volts, LEAST_V)[:, None]
        now, then = self._r20(area), self._r20(before)
        lost = lost + metre_v @ now - metre_v @ then
        goal = self.limit - DROP_SPARE_FRAC
        can = np.array([w in free for w in self.wires])
        hopeless = lost - metre_v @ np.where(can, now - np.minimum(self._table[:, -1], now), 0.0) > goal
        at = np.array([self.stock.index(area[w]) if w in free else self.last for w in self.wires])
        raised: dict[int, int] = {}
        every = np.arange(len(self.wires))
        for i in np.flatnonzero(lost > (self.limit + 1e-9 if settled else goal)).tolist():
            mine = self.on[i] & can
            while lost[i] > goal[i]:
                options = mine & (at < self.last)
                if hopeless[i]:
                    options &= metre_v[i] * self._saves[every, at] >= LEAST_GAIN * self.limit[i]
                if not options.any():
                    break
                w = int(np.argmax(np.where(options,
                                           in_nine_digits(metre_v[i] * self._per_mm2[every, at] / self.lengths), -1.0)))
                raised.setdefault(w, int(at[w]))
                lost = lost - metre_v[:, w] * self._saves[w, at[w]]
                at[w] += 1
        self._lower(at, raised, metre_v, lost - goal)
        for w in raised:
            area[self.wires[w]] = self.stock[at[w]]

    def _lower(self, at: NDArray[np.int64], raised: dict[int, int], metre_v: Array, over: Array) -> None:
        """Lower again what was raised further than needed; `over` is by how much each load loses more than its goal."""
        for w, floor in raised.items():
            while at[w] > floor:
                back = metre_v[:, w] * self._saves[w, at[w] - 1]
                if np.any((over + back > 0) & self.on[:, w] & (back > 0)):
                    break
                over = over + back
                at[w] -= 1

    def _lost(self, solved: Solved, rows: list[int]) -> tuple[Array, Array, NDArray[np.int64]]:
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
