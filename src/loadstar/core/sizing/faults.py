"""Where a fault's current flows, and which fuse sees it.

A fault is looked at for every wire (a touch to its source's negative at either end, and a short across every load)
with the loads removed and every contact closed. Where its current flows is the network's answer, so rings, shared
returns and several supplies need no special case. What hangs on the rest by a single way (a branch) carries the whole
current of every fault at its end and none of the others', so that only the core that is left is solved. A converter stands as
its output voltage behind the resistance that lets its limit flow into a short.
"""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from ..physics import battery as cell
from ..physics import heat
from ..physics.elements import NetworkError
from ..physics.network import System
from ..plan.model import Battery, Coil, Converter, FusePart, Pack, Relay, Tap, Way
from ..wiring.circuit import Topology
from ..wiring.states import Choices
from ..wiring.supplies import battery_v, pack_full_v, pack_ohm, pack_rested_v
from ..wiring.thermal import Thermal

Array = NDArray[np.float64]
IntArray = NDArray[np.int64]
LEAST_SHARE = 0.02  # a wire that carries less than this of a fault is not judged for it
LEAST_A = 1e-3  # a fault that draws less is none
CONVERTER_SHORT_MULTIPLE = 1.3  # of its rating, what a converter gives into a short; assumed


@dataclass(frozen=True)
class Guard:
    """How one wire is guarded: the fuse, and the wire's current per ampere of fuse current in the worst fault.

    `electronic` is a module's way or a converter's own limit instead of a fuse.
    """

    wire: str
    fuse: str
    rating_a: float
    share: float
    fault_a: float
    electronic: bool = False


@dataclass(frozen=True)
class Faults:
    """Fault currents of a plan, by wire: the guard (None: nothing sees it), and the prospective current, A.

    `fault_a` is the largest anywhere on the wire, source strong and copper cold; `near_a` and `far_a` what a touch at
    its two ends draws with the source at the judged charge and the copper warm, less the arc's volts.
    """

    guards: dict[str, Guard | None]
    fault_a: dict[str, float]
    solved: bool
    near_a: dict[str, float]
    far_a: dict[str, float]


def find_faults(topology: Topology, thermal: Thermal, choices: Choices, ambient_c: Array,
                warm_c: Array | None = None) -> Faults:
    """Guards of every wire. Wires at `ambient_c` (cold copper: the largest current), and at `warm_c` for touches."""
    if not thermal.wires:
        return Faults({}, {}, True, {}, {})
    found = _Fault(topology, thermal, choices)
    try:
        guards, fault = _guards(topology, choices, found, found.flows(ambient_c, strong=True))
        if warm_c is None:
            return Faults(guards, fault, True, {}, {})
        weak = found.flows(warm_c, strong=False).prospective_a
    except NetworkError:
        names = [w.id for w in topology.plan.wires]
        return Faults(dict.fromkeys(names), dict.fromkeys(names, 0.0), False, {}, {})
    count = len(found.wires)
    ends = np.sort(weak[: 2 * count].reshape(2, count), axis=0)
    return Faults(guards, fault, True, dict(zip(found.wires, ends[1].tolist(), strict=True)),
                  dict(zip(found.wires, ends[0].tolist(), strict=True)))


class _Branches:
    """What hangs on the rest by a single way: each such node's parent, the resistor to it, and where it meets the core."""

    def __init__(self, system: System, closed: NDArray[np.bool_]) -> None:
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


@dataclass(frozen=True)
class _Flows:
    """Where the current of every fault flows: every resistor's ohms, the core's transfer resistances (nodes, core probes), and what
    each fault draws."""

    ohm: Array
    core: Array
    prospective_a: Array


class _Fault:
    """The network with every contact closed and no loads, and the places where it may be shorted."""

    def __init__(self, topology: Topology, thermal: Thermal, choices: Choices) -> None:
        self.topology, self.thermal, self.choices = topology, thermal, choices
        self.system = system = System(topology.elements)
        self.wires = thermal.wires
        self.contacts = [k.element for k in (*topology.links, *topology.coils)]
        n, at = topology.node, system.index
        parts = topology.plan.parts
        shorts = [(n(f"{p.id}.pos"), n(f"{p.id}.neg")) for p in topology.loads]
        shorts += [(n(f"{p.id}.86"), n(f"{p.id}.85")) for p in parts if isinstance(p, Relay)]
        shorts += [(n(f"{p.id}.inp"), n(f"{p.id}.inn")) for p in parts if isinstance(p, Converter)]
        ends = [n(w.a) for w in topology.plan.wires] + [n(w.b) for w in topology.plan.wires]
        pairs = np.concatenate([system.r, system.d], axis=1)
        closed = np.array([not c.endswith(".coil") for c in self.contacts], bool)
        keep = np.concatenate([closed, np.ones(system.d.shape[1], bool)])
        _, self.group = connected_components(  # what copper joins
            coo_array((np.ones(keep.sum(), np.int8), tuple(pairs[:, keep])), shape=(system.n, system.n)), directed=False)
        self.plus = np.array([at[e] for e in ends] + [at[a] for a, _ in shorts], int)
        self.minus = np.concatenate([self._negatives(self.plus[: len(ends)]), np.array([at[b] for _, b in shorts], int)])
        branches = _Branches(system, closed)
        self.fault, self.edge = branches.ways(self.plus, self.minus)
        probes, inverse = np.unique(np.concatenate([branches.core[self.plus], branches.core[self.minus]]), return_inverse=True)
        pair, self.of = np.unique(np.stack([inverse[: len(self.plus)], inverse[len(self.plus):]]), axis=1, return_inverse=True)
        self.of = self.of.ravel()
        self.probes, (self.a, self.b) = probes, pair

    def _negatives(self, nodes: IntArray) -> IntArray:
        """For each node the negative of the supply whose positive it is joined to by copper."""
        at = self.system.index
        roots = [(self.group[at[r.positive]], at[r.negative]) for r in self.topology.roots]
        negative = dict(reversed(roots))
        return np.array([negative.get(self.group[i], roots[0][1]) for i in nodes.tolist()], int)

    def flows(self, wire_c: Array, *, strong: bool) -> _Flows:
        """Every fault's prospective current, and what says where it flows."""
        topology, system, plan = self.topology, self.system, self.topology.plan
        given = system.conditions()
        r20, _, _ = self.thermal.sizes(self.choices.area_mm2)
        lengths = np.array([topology.geometry[w].length_m for w in self.wires])
        given.ohm[0, : len(lengths)] = heat.resistance_at(r20, wire_c) * lengths + self.thermal.ends_ohm(self.choices.area_mm2)
        for row, element in enumerate(self.contacts):
            if element.endswith(".coil"):
                given.ohm[0, row] = np.inf
            elif isinstance(topology.parts.get(element), FusePart):
                given.ohm[0, row] = topology.contact_ohm(element, self.choices.rating_a)
        for j, source in enumerate(system.network.sources):
            given.across[0, j], given.series[0, j], given.drive[0, j] = _source(topology.parts[source.name], strong)
        limits = np.array([c.out_v / (c.limit_a * CONVERTER_SHORT_MULTIPLE) for c in system.network.converters])
        core, open_v = system.impedances(given, self.probes.tolist(), limits)
        p, m = self.probes[self.a], self.probes[self.b]
        core_ohm = core[p, self.a] - core[p, self.b] - core[m, self.a] + core[m, self.b]
        branch_ohm = np.bincount(self.fault, given.ohm[0][self.edge], len(self.plus))
        loop_ohm = core_ohm[self.of] + branch_ohm
        volts = np.abs(open_v[p] - open_v[m])[self.of]
        if not strong:
            volts = np.maximum(volts - plan.rules.chafe_arc_v, 0.0)
        prospective = np.where(loop_ohm > 1e-6, volts / np.maximum(loop_ohm, 1e-6), 0.0)
        return _Flows(given.ohm[0], core, prospective)

    def core_shares(self, flows: _Flows, rows: IntArray) -> Array:
        """How much of a fault each resistor of `rows` carries by way of the core, by (row, pair of core probes)."""
        a, b = self.system.r[:, rows]
        drop = flows.core[a] - flows.core[b]
        return np.asarray(np.abs(drop[:, self.a] - drop[:, self.b]) / flows.ohm[rows, None])


def _source(part: Any, strong: bool) -> tuple[float, float, float]:
    """A source's equation in a fault: full and at its stated resistance, or as it is judged. A generator gives none."""
    if isinstance(part, Battery):
        full = cell.rested_v(1.0, part.chemistry, part.nominal_v)
        ohm = part.internal_mohm / 1000
        return (1.0, -ohm, full) if strong else (1.0, -cell.internal_ohm(ohm, part.charge_frac), battery_v(part))
    if isinstance(part, Pack):
        return 1.0, -pack_ohm(part), pack_full_v(part) if strong else pack_rested_v(part)
    if isinstance(part, Coil):  # a short draws EMF over reactance, at any speed; here as at 1000 rpm
        return 1.0, -part.reactance_mohm_per_rpm, part.emf_mv_per_rpm
    return 0.0, 1.0, 0.0


def _guards(topology: Topology, choices: Choices, fault: _Fault, flows: _Flows) -> tuple[dict[str, Guard | None], dict[str, float]]:
    """For each wire the fuse that opens first in its worst fault, and the largest fault current on it."""
    rows = {name: i for i, name in enumerate(fault.contacts)}
    ratings = _ratings(topology, choices)
    names = [name for name in ratings if name in rows]
    fuse_rows = np.array([rows[name] for name in names], int)
    coil = topology.supply
    if isinstance(coil, Coil):  # its reactance lets no more through, however hard it is shorted
        names.append(coil.id)
        ratings[coil.id] = coil.emf_mv_per_rpm / coil.reactance_mohm_per_rpm
    names += [c.name for c in fault.system.network.converters]
    ratings |= {c.name: c.limit_a for c in fault.system.network.converters}
    rating, wires = np.array([ratings[name] for name in names]), len(fault.wires)
    always = np.ones((1 if isinstance(coil, Coil) else 0, len(fault.a)))
    through = np.concatenate([fault.core_shares(flows, fuse_rows), always, _from_converters(topology, fault)])
    least, first = _opens_first(fault, fuse_rows, rating, through)
    amps = np.where(flows.prospective_a > LEAST_A, flows.prospective_a, -1.0)
    most, worst, largest = np.full(wires, -1.0), np.zeros(wires, int), np.zeros(wires)

    def judge(wire: IntArray, at: IntArray, share: Array) -> None:
        """Amps in each wire at the rating of the fuse of fault `at`: the largest, and of alike ones the first, stays."""
        seen = (share > LEAST_SHARE) & (amps[at] > 0)
        wire, at, share = wire[seen], at[seen], share[seen]
        limit = np.where(np.isinf(least[at]), np.inf, least[at] * share)  # a fault that no fuse sees is infinite
        order = np.lexsort((-at, limit))
        most[wire[order]], worst[wire[order]] = limit[order], first[at[order]]
        np.maximum.at(largest, wire, amps[at] * share)

    in_branch = fault.edge < wires
    judge(fault.edge[in_branch], fault.fault[in_branch], np.ones(in_branch.sum()))
    core = np.setdiff1d(np.arange(wires), fault.edge)
    # Of the faults of one pair of core probes the one whose fuse opens last decides, and the one that draws most.
    lasts, hardest = (_first_largest(np.where(amps > 0, by, -1.0), fault.of, len(fault.a)) for by in (least, amps))
    at = np.concatenate([lasts, hardest])
    shares = np.tile(fault.core_shares(flows, core), (1, 2))
    judge(np.repeat(core, len(at)), np.tile(at, len(core)), shares.ravel())
    guards: dict[str, Guard | None] = dict.fromkeys(fault.wires)
    for i in np.flatnonzero((most > 0) & np.isfinite(most)).tolist():
        # Otherwise nothing is seen here, or some fault is seen by no fuse at all.
        name = names[int(worst[i])]
        guards[fault.wires[i]] = Guard(fault.wires[i], name, ratings[name], float(most[i]) / ratings[name], float(largest[i]),
                                       not isinstance(topology.parts[name], FusePart | Tap))
    return guards, dict(zip(fault.wires, largest.tolist(), strict=True))


def _opens_first(fault: _Fault, fuse_rows: IntArray, rating: Array, through: Array) -> tuple[Array, IntArray]:
    """Of the fuses in each fault's loop the one furthest above its rating: amps of fault current at its rating, and which.

    `through` is each fuse's share of a fault by way of the core; infinite where no fuse is in the loop.
    """
    with np.errstate(divide="ignore"):
        carried = np.where(through > LEAST_SHARE, rating[:, None] / np.maximum(through, 1e-9), np.inf)
    if not len(rating):
        return np.full(len(fault.plus), np.inf), np.zeros(len(fault.plus), int)
    best = np.argmin(carried, axis=0)
    least, first = np.min(carried, axis=0)[fault.of], best[fault.of]
    number = np.full(int(max(fault.edge.max(initial=0), fuse_rows.max(initial=0))) + 1, -1)
    number[fuse_rows] = np.arange(len(fuse_rows))
    in_branch = number[fault.edge] >= 0
    at, fuse = fault.fault[in_branch], number[fault.edge[in_branch]]
    order = np.lexsort((fuse, -rating[fuse]))  # the least rating is written last, and of alike ones the newest
    at, fuse = at[order], fuse[order]
    own = np.full(len(fault.plus), np.inf)
    which = np.zeros(len(fault.plus), int)
    own[at], which[at] = rating[fuse], fuse
    nearer = own <= least * (1 + 1e-9)  # of alike ones in series the one nearer to the fault is named
    return np.where(nearer, own, least), np.where(nearer, which, first)


def _first_largest(values: Array, group: IntArray, groups: int) -> IntArray:
    """In each group the index of its largest value, the first of alike ones."""
    order = np.lexsort((-np.arange(len(values)), values))
    found = np.zeros(groups, int)
    found[group[order]] = order
    return found


def _from_converters(topology: Topology, fault: _Fault) -> Array:
    """1 where faults of a pair of core probes are fed by a converter's output: they are joined to that by copper, and not to the main supply."""
    group, at = fault.group, fault.system.index
    main = group[at[topology.positive]]
    own = np.array([group[at[c.out_plus]] for c in fault.system.network.converters], int)[:, None]
    return np.asarray((group[fault.probes[fault.a]] == own) & (own != main), float)


def _ratings(topology: Topology, choices: Choices) -> dict[str, float]:
    parts = topology.plan.parts
    found = {p.id: choices.rating_a[p.id] for p in parts if isinstance(p, FusePart | Way)}
    found |= {p.id: p.fused_a for p in parts if isinstance(p, Tap) and p.fused_a is not None}
    return found
