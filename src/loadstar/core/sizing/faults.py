"""Where a fault's current flows, and what sees it.

A fault is looked at for every wire (a touch to its source's negative at either end, and a short across every load) with the
loads removed. Where its current flows is the network's answer, so rings, shared returns and several supplies need no special
case. It is solved in each case with what conducts in it: a changeover at each of its positions, joined packs together and each
alone, an ideal diode only forwards, and contacts as they stand in a state wherever it matters which of them are closed at once.
What hangs on the rest by a single way (a branch) carries the whole current of every fault at its end and none of the others',
so that only the core that is left is solved. A converter stands as its output voltage behind the resistance that lets its limit
flow into a short; a generator on leads of its own as its short-circuit current.
"""

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..physics import battery as cell
from ..physics.elements import NetworkError
from ..physics.graph import components
from ..physics.network import System
from ..plan.model import Battery, Coil, Combiner, Converter, FusePart, Generator, Pack, Relay, Switch, Tap, Way
from ..wiring.circuit import Topology
from ..wiring.states import Choices
from ..wiring.supplies import battery_v, pack_full_v, pack_ohm, pack_rested_v, short_circuit_a
from ..wiring.thermal import Thermal
from .branches import Branches
from .openers import CONVERTER_SHORT_MULTIPLE, Guard, Kind, Opener

Array = NDArray[np.float64]
IntArray = NDArray[np.int64]
BoolArray = NDArray[np.bool_]
LEAST_SHARE = 0.02  # a wire that carries less than this of a fault is not judged for it
LEAST_A = 1e-3  # a fault that draws less is none
MOST_PATTERNS = 8
KINDS: tuple[Kind, ...] = ("fuse", "electronic", "limit")


@dataclass(frozen=True)
class Faults:
    """Fault currents of a plan, by wire.

    `guards` are what lies before a wire (None: nothing sees a touch of it), `behind` what lies behind one that nothing guards.
    `fault_a` is the largest anywhere on the wire, source strong and copper cold; `near_a` and `far_a` what a touch at its two
    ends draws with the source at the judged charge and the copper warm, less the arc's volts. `unknown` are wires whose touch
    only passes a factory fuse that nobody has found, and which (tap).
    """

    guards: dict[str, Guard | None]
    behind: dict[str, Guard | None]
    fault_a: dict[str, float]
    solved: bool
    near_a: dict[str, float]
    far_a: dict[str, float]
    unknown: dict[str, str]

    def judged_by(self, wire: str) -> Guard | None:
        """What decides how much a fault or an overload drives through a wire."""
        return self.guards.get(wire) or self.behind.get(wire)


@dataclass(frozen=True)
class FaultCase:
    """What conducts and what feeds while a fault is looked at."""

    closed: BoolArray  # contacts and coils
    alone: str = ""  # the only source that feeds, "" when all do
    spare: bool = False  # only for wires that no other case has seen


class FaultFinder:
    """The places where a plan may be shorted, and the ways its faults take. Made once; sizes and ratings are given."""

    def __init__(self, topology: Topology, thermal: Thermal, system: System) -> None:
        self.topology, self.thermal, self.system = topology, thermal, system
        self.wires = thermal.wires
        self.contacts = [k.element for k in (*topology.links, *topology.coils)]
        self.coil = np.array([c.endswith(".coil") for c in self.contacts], bool)
        n, at = topology.node, system.index
        parts = topology.plan.parts
        shorts = [(n(f"{p.id}.pos"), n(f"{p.id}.neg")) for p in topology.loads]
        shorts += [(n(f"{p.id}.86"), n(f"{p.id}.85")) for p in parts if isinstance(p, Relay)]
        shorts += [(n(f"{p.id}.inp"), n(f"{p.id}.inn")) for p in parts if isinstance(p, Converter)]
        ends = [n(w.a) for w in topology.plan.wires] + [n(w.b) for w in topology.plan.wires]
        self.touches = len(ends)
        self.group = self.joined(~self.coil, np.ones(system.d.shape[1], bool))
        plus = np.array([at[e] for e in ends] + [at[a] for a, _ in shorts], int)
        minus = np.concatenate([self._negatives(plus[: len(ends)]), np.array([at[b] for _, b in shorts], int)])
        self.plus, self.minus = plus, minus
        self._ways: dict[bytes, Ways] = {}

    def joined(self, closed: BoolArray, diode_on: BoolArray) -> IntArray:
        """The group of every node that copper joins."""
        pairs = np.concatenate([self.system.r, self.system.d], axis=1)[:, np.concatenate([closed, diode_on])]
        return components(pairs, self.system.n)[1]

    def _negatives(self, nodes: IntArray) -> IntArray:
        """For each node the negative of the supply whose positive it is joined to by copper: of the pack before whose fuse it lies,
        else of the rail or converter that it hangs on."""
        at = self.system.index
        roots = [(self.group[at[r.positive]], at[r.negative]) for r in self.topology.roots]
        negative = dict(reversed(roots))
        bare = ~self.coil & np.array([not isinstance(self.topology.parts.get(c.split(".")[0]), FusePart | Combiner) for c in self.contacts], bool)
        zone = self.joined(bare, np.zeros(self.system.d.shape[1], bool))
        own = {zone[at[self.topology.node(f"{p.id}.pos")]]: at[self.topology.node(f"{p.id}.neg")] for p in self.topology.plan.packs}
        return np.array([own.get(zone[i], negative.get(self.group[i], roots[0][1])) for i in nodes.tolist()], int)

    # -- cases --------------------------------------------------------------------------------------------------

    def cases(self, patterns: list[BoolArray]) -> list[FaultCase]:
        """Every case that has to be looked at. `patterns` are the contacts' stands in the plan's states."""
        plan, base = self.topology.plan, ~self.coil
        combiner = next((p for p in plan.parts if isinstance(p, Combiner)), None)
        masks = [base]
        if combiner and combiner.way == "changeover":
            masks = [base & np.array([e != f"{combiner.id}.{off}" for e in self.contacts], bool) for off in "ba"]
        alone = [s.name for s in self.system.network.sources if isinstance(self.topology.parts[s.name], Battery | Pack)]
        generator = plan.generator
        on_leads = generator is not None and self.topology.ends(generator) != (self.topology.positive, self.topology.negative)
        found = []
        for mask in masks:
            for closed, spare in self._patterned(mask, patterns):
                found.append(FaultCase(closed, spare=spare))
                if len(alone) > 1:
                    found += [FaultCase(closed, one, spare) for one in alone]
                if on_leads and generator:
                    found.append(FaultCase(closed, generator.id, spare))
        return found

    def _patterned(self, mask: BoolArray, patterns: list[BoolArray]) -> list[tuple[BoolArray, bool]]:
        """The mask with every contact closed; or, where contacts lie in a ring, as they stand in each state."""
        core = self.way(mask).branches.in_core(mask)
        rows = np.array([i for i, e in enumerate(self.contacts) if core[i] and isinstance(
            self.topology.parts.get(e.split(".")[0]), Relay | Switch | Way | Tap) and not e.endswith((".gnd", ".coil"))], int)
        stands = {p[rows - len(self.wires)].tobytes(): p for p in patterns} if len(rows) else {}
        if len(stands) < 2 or len(rows) < 2:
            return [(mask, False)]
        found = []
        for pattern in list(stands.values())[:MOST_PATTERNS]:
            closed = mask.copy()
            closed[rows] &= pattern[rows - len(self.wires)]
            found.append((closed, False))
        return [*found, (mask, True)]

    def way(self, closed: BoolArray) -> "Ways":
        """The ways of all faults with these contacts closed."""
        key = closed.tobytes()
        if key not in self._ways:
            self._ways[key] = Ways(self.system, closed, self.plus, self.minus)
        return self._ways[key]

    # -- the answer ---------------------------------------------------------------------------------------------

    def find(self, choices: Choices, ambient_c: Array, patterns: list[BoolArray], warm_c: Array | None = None) -> Faults:
        """What guards every wire. Wires at `ambient_c` (cold copper: the largest current), and at `warm_c` for touches."""
        names = self.wires
        if not names:
            return Faults({}, {}, {}, True, {}, {}, {})
        worst = _Worst(self, choices)
        try:
            for case in self.cases(patterns):
                worst.take(case, self.way(case.closed), self.flows(case, choices, ambient_c, strong=True))
                if warm_c is not None:
                    worst.touch(case, self.flows(case, choices, warm_c, strong=False))
        except NetworkError:
            return Faults(dict.fromkeys(names), dict.fromkeys(names), dict.fromkeys(names, 0.0), False, {}, {}, {})
        return worst.faults()

    def flows(self, case: FaultCase, choices: Choices, wire_c: Array, *, strong: bool) -> "Flows":
        """Every fault's prospective current in a case, and what says where it flows."""
        topology, system, way = self.topology, self.system, self.way(case.closed)
        given = system.conditions()
        given.ohm[0, : len(self.wires)] = self.thermal.ohm(choices.area_mm2, wire_c)
        for row, element in enumerate(self.contacts):
            if isinstance(topology.parts.get(element), FusePart):
                given.ohm[0, row] = topology.contact_ohm(element, choices.rating_a)
        given.ohm[0, ~case.closed] = np.inf
        for j, source in enumerate(system.network.sources):
            feeds = case.alone in ("", source.name)
            given.across[0, j], given.series[0, j], given.drive[0, j] = self.source(source.name, strong, case) if feeds else (
                0.0, 1.0, 0.0)
        limits = np.array([c.out_v / (c.limit_a * CONVERTER_SHORT_MULTIPLE) for c in system.network.converters])
        diode_on = self.diodes(case)
        core, open_v = system.impedances(given, way.probes.tolist(), limits, diode_on)
        p, m = way.probes[way.a], way.probes[way.b]
        core_ohm = core[p, way.a] - core[p, way.b] - core[m, way.a] + core[m, way.b]
        branch_ohm = np.bincount(way.fault, given.ohm[0][way.edge], len(self.plus))
        loop_ohm = core_ohm[way.of] + branch_ohm
        volts = np.abs(open_v[p] - open_v[m])[way.of]
        if not strong:
            volts = np.maximum(volts - topology.plan.rules.chafe_arc_v, 0.0)
        amps = np.where(loop_ohm > 1e-6, volts / np.maximum(loop_ohm, 1e-6), 0.0)
        if system.d.shape[1] > 1 and not case.alone:
            # Unit current drawn at p and given back at m: an ideal diode lets it through forwards only.
            fall = core[:, way.a] - core[:, way.b]
            forwards = (fall[system.d[1]] - fall[system.d[0]]) / system.diode_ohm[:, None]
            amps = np.where((forwards < -LEAST_SHARE).any(axis=0)[way.of], 0.0, amps)
        return Flows(given.ohm[0], core, amps)

    def diodes(self, case: FaultCase) -> BoolArray:
        """Ideal diodes that conduct: those of the packs that feed."""
        packs = [p.id for p in self.topology.plan.packs]
        return np.array([case.alone in ("", packs["ab".index(d.name[-1])]) for d in self.system.network.diodes], bool)

    def source(self, name: str, strong: bool, case: FaultCase) -> tuple[float, float, float]:
        """A source's equation in a fault: full and at its stated resistance, or as it is judged."""
        part: Any = self.topology.parts[name]
        if isinstance(part, Battery):
            full = cell.rested_v(1.0, part.chemistry, part.nominal_v)
            ohm = part.internal_mohm / 1000
            return (1.0, -ohm, full) if strong else (1.0, -cell.internal_ohm(ohm, part.charge_frac), battery_v(part))
        if isinstance(part, Pack):
            return 1.0, -pack_ohm(part), pack_full_v(part) if strong else pack_rested_v(part)
        if isinstance(part, Coil):  # a short draws EMF over reactance, at any speed; here as at 1000 rpm
            return 1.0, -part.reactance_mohm_per_rpm, part.emf_mv_per_rpm
        if isinstance(part, Generator) and case.alone == name:
            return 1.0, -part.set_v / self.short_a(part), part.set_v
        return 0.0, 1.0, 0.0  # a generator that sits on the rail gives nothing that the battery does not

    def short_a(self, generator: Generator) -> float:
        """A generator's current into a short at cruising speed."""
        return max(short_circuit_a(generator, self.topology.plan.machine.cruise_rpm), 1e-3)


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
    """Where the current of every fault flows: every resistor's ohms, the core's transfer resistances (nodes, core probes), and what
    each fault draws."""

    ohm: Array
    core: Array
    prospective_a: Array

    def shares(self, system: System, way: Ways, rows: IntArray) -> Array:
        """How much of a fault each resistor of `rows` carries by way of the core, by (row, pair of core probes)."""
        a, b = system.r[:, rows]
        drop = self.core[a] - self.core[b]
        return np.asarray(np.abs(drop[:, way.a] - drop[:, way.b]) / self.ohm[rows, None])


class _Worst:
    """The worst that any case has for each wire."""

    def __init__(self, finder: FaultFinder, choices: Choices) -> None:
        self.finder, self.topology = finder, finder.topology
        self.openers = _openers(finder, choices)
        self.names = [o.part for o in self.openers]
        rows = {name: i for i, name in enumerate(finder.contacts)}
        self.row = np.array([rows.get(o.part, -1) for o in self.openers], int)
        self.rating = np.array([o.rating_a for o in self.openers])
        self.kind = np.array([KINDS.index(o.kind) for o in self.openers], int)
        self.unknown_row = {rows[p.id]: p.id for p in self.topology.taps_unknown if p.id in rows}
        wires = len(finder.wires)
        self.worst = _Best(wires)
        self.unseen = np.zeros(wires, bool)
        self.largest, self.near, self.far = np.zeros(wires), np.zeros(wires), np.full(wires, np.inf)
        self.several, self.seen_a = np.zeros(wires), np.zeros(wires)  # seen_a: the hardest fault that something sees
        self.unknown: dict[int, str] = {}
        self.seen = np.zeros(wires, bool)

    def touch(self, case: FaultCase, flows: Flows) -> None:
        """What a touch at either end of each wire draws: the least and the most of the cases in which it draws anything."""
        count = len(self.finder.wires)
        ends = flows.prospective_a[: 2 * count].reshape(2, count)
        low, high = ends.min(axis=0), ends.max(axis=0)
        fresh = np.isinf(self.far) if case.spare else np.ones(count, bool)
        self.near = np.where(fresh, np.maximum(self.near, high), self.near)
        self.far = np.where(fresh & (low > LEAST_A), np.minimum(self.far, low), self.far)

    def take(self, case: FaultCase, way: Ways, flows: Flows) -> None:
        """Judge every wire in a case."""
        least, first = self._opens_first(way, flows, case)
        total = np.min(least, axis=0, initial=np.inf)
        kind = np.argmin(least, axis=0) if len(least) else np.zeros(len(total), int)
        which = first[kind, np.arange(len(total))] if len(least) else np.zeros(len(total), int)
        amps = np.where(flows.prospective_a > LEAST_A, flows.prospective_a, -1.0)
        hidden = np.isinf(total) & self._passes_unknown(way, flows)
        wires = len(self.finder.wires)
        only = self.seen if case.spare else np.zeros(wires, bool)  # a spare case speaks for what no other has seen
        fresh = np.zeros(wires, bool)

        def judge(wire: IntArray, at: IntArray, share: Array) -> None:
            """Of the faults `at` with their shares in the wires the worst: the one whose opener lets most through, the hardest."""
            there = (share > LEAST_SHARE) & (amps[at] > 0) & ~only[wire]
            wire, at, share = wire[there], at[there], share[there]
            fresh[wire] = True
            np.maximum.at(self.largest, wire, amps[at] * share)
            told = ~hidden[at]
            wire, at, share = wire[told], at[told], share[told]
            self.unseen[wire[np.isinf(total[at])]] = True
            guarded = np.isfinite(total[at])
            wire, at, share = wire[guarded], at[guarded], share[guarded]
            np.maximum.at(self.seen_a, wire, amps[at] * share)
            other = np.where(kind[at] == 0, least[1, at], np.where(kind[at] == 1, least[0, at], np.inf))
            helps = np.where(kind[at] == 0, first[1, at], first[0, at])
            has = np.isfinite(other)
            self.worst.take(wire, total[at] * share, which[at], np.where(has, helps, -1), np.where(has, np.where(has, other, 0.0) * share, 0.0))

        in_branch = way.edge < wires
        judge(way.edge[in_branch], way.fault[in_branch], np.ones(in_branch.sum()))
        core = np.setdiff1d(np.arange(wires), way.edge)
        core = core[case.closed[core]]
        # Of the faults of one pair of core probes those decide whose fuse opens last, that draw most, seen or not, and one unseen.
        ranks = (np.where(np.isinf(total), -1.0, total), amps, np.where(np.isinf(total), -1.0, amps), np.where(np.isinf(total) & ~hidden, 1.0, 0.0))
        at = np.concatenate([_first_largest(np.where(amps > 0, by, -2.0), way.of, len(way.a)) for by in ranks])
        shares = np.tile(flows.shares(self.finder.system, way, core), (1, len(ranks)))
        judge(np.repeat(core, len(at)), np.tile(at, len(core)), shares.ravel())
        for f in np.flatnonzero(hidden[:self.finder.touches] & (amps[:self.finder.touches] > 0)).tolist():
            if not only[f % wires]:  # a touch of the wire itself
                self.unknown.setdefault(f % wires, self._veil[f])
        self.seen |= fresh
        self._add_up(case, way, flows, total, which, amps, fresh)

    def _add_up(self, case: FaultCase, way: Ways, flows: Flows, total: Array, which: IntArray, amps: Array, fresh: BoolArray) -> None:
        """Of wires that nothing guards: what all the openers next behind them carry together at their ratings."""
        system = self.finder.system
        bare = np.flatnonzero(self.unseen & fresh)
        if not len(bare) or not len(self.names):
            return
        rows = np.where(self.row >= 0, self.row, 0)
        guards = (self.row >= 0) & case.closed[rows]
        loose = case.closed.copy()
        loose[self.row[guards]] = False
        zone = self.finder.joined(loose, self.finder.diodes(case))
        live = {int(zone[i]) for s, i in zip(system.network.sources, system.s[0].tolist(), strict=True) if case.alone in ("", s.name)}
        ends = zone[system.r[:, rows]]
        border = guards & (ends[0] != ends[1]) & np.isin(ends, list(live)).any(axis=0)
        for w in bare.tolist():
            mine = way.fault[way.edge == w]
            share = np.ones(len(mine))
            if not len(mine):
                share = flows.shares(system, way, np.array([w]))[0][way.of]
                mine = np.flatnonzero(share > LEAST_SHARE)
                share = share[mine]
            good = (amps[mine] > 0) & np.isfinite(total[mine])
            mine, share = mine[good], share[good]
            carried = np.zeros(len(self.names))
            np.maximum.at(carried, which[mine], total[mine] * share)
            if np.count_nonzero(carried[border]) > 1:
                self.several[w] = max(self.several[w], float(carried[border].sum()))

    def _opens_first(self, way: Ways, flows: Flows, case: FaultCase) -> tuple[Array, IntArray]:
        """Of the openers of each kind in each fault's loop the one furthest above its rating: by (kind, fault) the amps of fault
        current at its rating, and which; infinite where none is in the loop."""
        faults = len(self.finder.plus)
        least, first = np.full((len(KINDS), faults), np.inf), np.zeros((len(KINDS), faults), int)
        through = self._through(way, flows, case)
        number = np.full(len(self.finder.contacts) + 1, -1)
        number[self.row[self.row >= 0]] = np.flatnonzero(self.row >= 0)
        own_at, own = way.fault, number[way.edge]
        for k in range(len(KINDS)):
            mine = np.flatnonzero(self.kind == k)
            if not len(mine):
                continue
            with np.errstate(divide="ignore"):
                carried = np.where(through[mine] > LEAST_SHARE, self.rating[mine, None] / np.maximum(through[mine], 1e-9), np.inf)
            best = np.argmin(carried, axis=0)
            least[k], first[k] = np.min(carried, axis=0)[way.of], mine[best][way.of]
            here = (own >= 0) & (self.kind[np.maximum(own, 0)] == k)
            at, fuse = own_at[here], own[here]
            order = np.lexsort((fuse, -self.rating[fuse]))  # the least rating is written last, and of alike ones the newest
            at, fuse = at[order], fuse[order]
            branch, named = np.full(faults, np.inf), np.zeros(faults, int)
            branch[at], named[at] = self.rating[fuse], fuse
            nearer = branch <= least[k] * (1 + 1e-9)  # of alike ones in series the one nearer to the fault is named
            least[k], first[k] = np.where(nearer, branch, least[k]), np.where(nearer, named, first[k])
        return least, first

    def _through(self, way: Ways, flows: Flows, case: FaultCase) -> Array:
        """Share of a fault that each opener carries by way of the core, by (opener, pair of core probes)."""
        found = np.zeros((len(self.names), len(way.a)))
        inside = (self.row >= 0) & case.closed[np.maximum(self.row, 0)]
        found[inside] = flows.shares(self.finder.system, way, self.row[inside])
        group, at = self.finder.group, self.finder.system.index
        main = group[at[self.topology.positive]]
        for i, (opener, name) in enumerate(zip(self.openers, self.names, strict=True)):
            if self.row[i] >= 0:
                continue
            part = self.topology.parts[name]
            if isinstance(part, Coil):
                found[i] = 1.0
            elif isinstance(part, Generator):
                found[i] = 1.0 if case.alone == name else 0.0
            elif opener.kind == "limit":  # a converter: it feeds what copper joins to it and not to the main supply
                own = group[at[self.topology.node(f"{name}.pos")]]
                found[i] = (group[way.probes[way.a]] == own) & (own != main)
        return found

    def _passes_unknown(self, way: Ways, flows: Flows) -> BoolArray:
        """Faults whose current passes a factory fuse that nobody has found; which one is kept by fault."""
        hidden = np.zeros(len(self.finder.plus), bool)
        self._veil: dict[int, str] = {}
        for row, tap in self.unknown_row.items():
            mine = np.zeros(len(hidden), bool)
            mine[way.fault[way.edge == row]] = True
            if np.isfinite(flows.ohm[row]):
                mine |= (flows.shares(self.finder.system, way, np.array([row]))[0] > LEAST_SHARE)[way.of]
            for f in np.flatnonzero(mine & ~hidden).tolist():
                self._veil[f] = tap
            hidden |= mine
        return hidden

    def faults(self) -> Faults:
        """What all cases together say."""
        wires = self.finder.wires
        guards: dict[str, Guard | None] = dict.fromkeys(wires)
        behind: dict[str, Guard | None] = dict.fromkeys(wires)
        for i, wire in enumerate(wires):
            made = self.worst.guard(i, wire, self.openers, float(self.seen_a[i]))
            if made is None:
                continue
            if self.unseen[i] or i in self.unknown:
                behind[wire] = replace(made, before=False, several_a=float(self.several[i]))
            else:
                guards[wire] = made
        table = dict(zip(wires, self.largest.tolist(), strict=True))
        far = np.where(np.isinf(self.far), 0.0, self.far)
        unknown = {wires[i]: tap for i, tap in self.unknown.items() if guards[wires[i]] is None and not self.unseen[i]}
        return Faults(guards, behind, table, True, dict(zip(wires, self.near.tolist(), strict=True)),
                      dict(zip(wires, far.tolist(), strict=True)), unknown)


class _Best:
    """For each wire the fault whose opener lets most through it."""

    def __init__(self, wires: int) -> None:
        self.limit = np.full(wires, -1.0)
        self.which, self.helps = np.zeros(wires, int), np.full(wires, -1)
        self.help_share = np.zeros(wires)

    def take(self, wire: IntArray, limit: Array, which: IntArray, helps: IntArray, help_limit: Array) -> None:
        """Keep what is worse than before; of alike ones the first. Limits are amps in the wire at the opener's rating."""
        order = np.lexsort((-np.arange(len(wire)), limit))
        wire, limit, which, helps, help_limit = wire[order], limit[order], which[order], helps[order], help_limit[order]
        last = np.full(len(self.limit), -1)
        last[wire] = np.arange(len(wire))
        w = np.flatnonzero(last >= 0)
        at = last[w]
        worse = limit[at] > self.limit[w] * (1 + 1e-12)
        w, at = w[worse], at[worse]
        self.limit[w], self.which[w], self.helps[w] = limit[at], which[at], helps[at]
        self.help_share[w] = help_limit[at]

    def guard(self, i: int, wire: str, openers: list[Opener], fault_a: float) -> Guard | None:
        """The guard of wire i; None where no fault of it is seen."""
        if self.limit[i] <= 0:
            return None
        first = openers[int(self.which[i])]
        helper = None
        if self.helps[i] >= 0:
            other = openers[int(self.helps[i])]
            helper = replace(other, share=float(self.help_share[i]) / other.rating_a)
        return Guard(wire, replace(first, share=float(self.limit[i]) / first.rating_a), fault_a, helper=helper)


def _first_largest(values: Array, group: IntArray, groups: int) -> IntArray:
    """In each group the index of its largest value, the first of alike ones."""
    order = np.lexsort((-np.arange(len(values)), values))
    found = np.zeros(groups, int)
    found[group[order]] = order
    return found


def _openers(finder: FaultFinder, choices: Choices) -> list[Opener]:
    """Everything that may end or limit a fault's current."""
    found = []
    for part in finder.topology.plan.parts:
        if isinstance(part, FusePart | Way):
            found.append(Opener(part.id, "fuse" if isinstance(part, FusePart) else "electronic", choices.rating_a[part.id], 1.0))
        elif isinstance(part, Tap) and part.fused_a is not None and not part.unfused:
            found.append(Opener(part.id, "fuse", part.fused_a, 1.0))
        elif isinstance(part, Generator):
            found.append(Opener(part.id, "limit", finder.short_a(part), 1.0))
        elif isinstance(part, Coil) and part is finder.topology.supply:  # its reactance lets no more through, however hard it is shorted
            found.append(Opener(part.id, "limit", part.emf_mv_per_rpm / part.reactance_mohm_per_rpm, 1.0))
    found += [Opener(c.name, "limit", c.limit_a * CONVERTER_SHORT_MULTIPLE, 1.0) for c in finder.system.network.converters]
    return found
