"""Of all faults that are looked at the worst for each wire, and what ends it.

A fault is a story: its first opener opens, and where its current goes on by another way it is looked at again without
that opener, until it is ended, or nothing is left that opens. What each stage lets through for hours and minutes judges
the wires of that stage; how warm all stages together make a wire is told by the courses of its worst fault.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from functools import cache

import numpy as np
from numpy.typing import NDArray

from ..wiring.conductor import Conductors, conductor
from ..wiring.results import Choices
from .courses import Leg, courses
from .digits import in_nine_digits
from .flows import LEAST_A, LEAST_SHARE, OPENER_SHARE, FaultCase, Flows, Ways
from .openers import OVERLOAD_MULTIPLE, Guard, Kind, Opener, slowest_times_s
from .places import FaultPlaces
from .story import Course

Array = NDArray[np.float64]
IntArray = NDArray[np.int64]
BoolArray = NDArray[np.bool_]
KINDS: tuple[Kind, ...] = ("fuse", "electronic", "limit")
OPENS: tuple[Kind, ...] = ("fuse", "electronic")
WHOLE = 1 - 1e-6  # an opener that carries this much of a fault ends it
LOOKED_AT = np.geomspace(0.02, 1.0, 10)  # of a dead fault's current: which of two kinds is the first there
LONGEST_S = 600.0
MOST_STAGES = 200  # of one case
Solve = Callable[[FaultCase], tuple[Ways, Flows]]


@dataclass(frozen=True)
class Bypass:
    """A fault that goes on through a wire after openers have opened, with nothing left that ends it: which, and the
    amps that go on in the wire."""

    opened: tuple[str, ...]
    rest_a: float


@dataclass(frozen=True)
class Faults:
    """Fault currents of a plan, by wire.

    `guards` are what lies before a wire (None: nothing sees a touch of it), `behind` what lies behind one that nothing
    guards. `fault_a` is the largest anywhere on the wire, source strong and copper cold; `near_a` and `far_a` what a
    touch at its two ends draws with the source at the judged charge and the copper warm, less the arc's volts.
    `unknown` are wires whose touch only passes a factory fuse that nobody has found, and which (tap). `bypassed` are
    wires in which a fault goes on after something has opened, with nothing left that ends it; `unfollowed` whether
    there were more stages than are looked at. Courses are those of each wire's worst fault of more than one stage.
    """

    guards: dict[str, Guard | None]
    behind: dict[str, Guard | None]
    fault_a: dict[str, float]
    solved: bool
    near_a: dict[str, float]
    far_a: dict[str, float]
    unknown: dict[str, str]
    bypassed: dict[str, Bypass] = field(default_factory=dict)
    courses: dict[str, tuple[Course, ...]] = field(default_factory=dict)
    unfollowed: bool = False

    def judged_by(self, wire: str) -> Guard | None:
        """What decides how much a fault or an overload drives through a wire."""
        return self.guards.get(wire) or self.behind.get(wire)


class Worst:
    """The worst that any case has for each wire."""

    def __init__(self, finder: FaultPlaces, choices: Choices, ambient_c: Array, solve: Solve) -> None:
        self.finder, self.topology, self.solve = finder, finder.topology, solve
        self.openers = openers(finder, choices)
        self.names = [o.part for o in self.openers]
        rows: dict[str, int] = {name: i for i, name in enumerate(finder.contacts)}
        self.row = np.array([rows.get(o.part, -1) for o in self.openers], int)
        self.rating = np.array([o.rating_a for o in self.openers])
        self.kind = np.array([KINDS.index(o.kind) for o in self.openers], int)
        self.unknown_row = {rows[p.id]: p.id for p in self.topology.taps_unknown if p.id in rows}
        wires = len(finder.wires)
        plan, area = self.topology.plan, choices.area_mm2
        metal = Conductors(conductor(plan, self.topology.wires[w], area[w]) for w in finder.wires)
        self.stands_a = metal.allowed_a(metal.class_c, ambient_c) if wires else np.zeros(0)
        self.worst = _Best(wires)
        self.unseen = np.zeros(wires, bool)
        self.largest, self.near, self.far = np.zeros(wires), np.zeros(wires), np.full(wires, np.inf)
        self.several, self.seen_a = np.zeros(wires), np.zeros(wires)  # seen_a: the hardest fault that something sees
        self.unknown: dict[int, str] = {}
        self._first: tuple[Array, IntArray] = np.zeros(0), np.zeros(0, int)  # what opens first at each fault
        self._far_limited = np.full(wires, np.inf)
        self._far_by: dict[int, Array] = {}  # what a store alone drives into a far touch, by the fuse that ends it
        self.seen, self.before = np.zeros(wires, bool), np.zeros(wires, bool)
        self._stages, self.unfollowed = 0, False
        self._told: list[FaultCase] = []  # cases with faults of several stages
        # of those faults the one that heats each wire most: how much, which, and in which case
        self._hottest, self._fault, self._in = np.zeros(wires), np.full(wires, -1), np.full(wires, -1)
        self._rest: dict[int, tuple[float, FaultCase]] = {}  # the most that goes on past what has opened, by wire

    def begin(self) -> None:
        """Before the cases of other contacts: what they speak for."""
        self.before = self.seen.copy()

    def touch(self, case: FaultCase, flows: Flows) -> None:
        """What a touch at either end of each wire draws: the least and the most of the cases in which it draws
        anything. What a store alone drives is kept by the fuse that ends it: a smaller one's is of no interest to the
        wire's own."""
        count = len(self.finder.wires)
        ends = flows.prospective_a[: 2 * count].reshape(2, count)
        low, high = ends.min(axis=0), ends.max(axis=0)
        fresh = np.isinf(self.far) if case.spare else np.ones(count, bool)
        self.near = np.where(fresh, np.maximum(self.near, high), self.near)
        counts = fresh & (low > LEAST_A)
        if case.alone:
            total, which = (found[: 2 * count].reshape(2, count) for found in self._first)
            weak = np.argmin(ends, axis=0), np.arange(count)
            ended = counts & (low > OVERLOAD_MULTIPLE * total[weak]) & (self.kind[which[weak]] == KINDS.index("fuse"))
            for opener in np.unique(which[weak][ended]).tolist():
                mine = ended & (which[weak] == opener)
                before = self._far_by.setdefault(opener, np.full(count, np.inf))
                before[mine] = np.minimum(before[mine], low[mine])
            limits = counts & (self.kind[which[weak]] == KINDS.index("limit")) if len(self.kind) else counts
            # What a limiter gives by itself opens nothing: it decides only where nothing else feeds the wire.
            self._far_limited = np.where(limits, np.minimum(self._far_limited, low), self._far_limited)
            counts &= ~ended & ~limits
        self.far = np.where(counts, np.minimum(self.far, low), self.far)

    def take(self, case: FaultCase) -> None:
        """Judge every wire in a case, and in what its faults make of it."""
        self._stages = 0
        self._told.append(case)
        self._stage(case, np.ones(len(self.finder.plus), bool))

    def _stage(self, case: FaultCase, here: BoolArray) -> BoolArray:
        """Judge every wire by these of its faults; which of them nothing ends."""
        way, flows = self.solve(case)
        amps = np.where(here & (flows.prospective_a > LEAST_A), flows.prospective_a, -1.0)
        least, first = self._openers_of(way, flows, case)
        self._drop_idle(least, first, amps)
        total = np.min(least, axis=0, initial=np.inf)
        kind = np.argmin(least, axis=0) if len(least) else np.zeros(len(total), int)
        which = first[kind, np.arange(len(total))] if len(least) else np.zeros(len(total), int)
        if not case.opened:
            self._first = total, which
        hidden = np.isinf(total) & self._passes_unknown(way, flows)
        nothing = np.isinf(total) & ~hidden & (amps > 0)
        if case.opened:  # what every wire stands for good is an end
            nothing &= amps > self.stands_a.min(initial=np.inf)
        goes_on = np.zeros(len(total), bool)
        endless: BoolArray = nothing.copy()
        for opener, mine in self._next(least, first, amps):
            goes_on |= mine
            self._stages += 1
            if self._stages > MOST_STAGES:
                self.unfollowed = True
                break
            endless |= self._stage(case.without(opener, int(self.row[opener])), mine)
        several = goes_on | bool(case.opened)
        wires = len(self.finder.wires)
        only = self.before if case.spare else np.zeros(wires, bool)  # a spare case speaks for what no other has seen
        fresh = np.zeros(wires, bool)
        seconds = self._opens_s(least, amps)

        def judge(wire: IntArray, at: IntArray, share: Array) -> None:
            """Of the faults `at` with their shares in the wires the worst: the one whose opener lets most through, the
            hardest."""
            there = (share > LEAST_SHARE) & (amps[at] > 0) & ~only[wire]
            wire, at, share = wire[there], at[there], share[there]
            fresh[wire] = True
            np.maximum.at(self.largest, wire, amps[at] * share)
            self._heats(wire, at, amps[at] * share, seconds[at], several[at])
            bare = nothing[at]
            if case.opened:
                bare &= amps[at] * share > self.stands_a[wire]
                self._goes_past(case, wire[bare], (amps[at] * share)[bare])
            self.unseen[wire[bare]] = True
            told = np.isfinite(total[at]) & ~(hidden | endless)[at]
            wire, at, share = wire[told], at[told], share[told]
            np.maximum.at(self.seen_a, wire, amps[at] * share)
            other = np.where(kind[at] == 0, least[1, at], np.where(kind[at] == 1, least[0, at], np.inf))
            helps = np.where(kind[at] == 0, first[1, at], first[0, at])
            has = np.isfinite(other)
            self.worst.take(wire, total[at] * share, which[at], np.where(has, helps, -1),
                            np.where(has, np.where(has, other, 0.0) * share, 0.0))

        in_branch = way.edge < wires
        judge(way.edge[in_branch], way.fault[in_branch], np.ones(in_branch.sum()))
        core = np.setdiff1d(np.arange(wires), way.edge)
        core = core[case.closed[core]]
        # Of the faults of one pair of core probes those decide whose fuse opens last, that draw most, ended or not, and
        # one that nothing sees.
        ranks = (np.where(endless, -1.0, total), amps, np.where(endless, -1.0, amps), np.where(nothing, 1.0, 0.0))
        at = np.concatenate([_first_largest(np.where(amps > 0, by, -2.0), way.of, len(way.a)) for by in ranks])
        shares = np.tile(flows.shares(self.finder.system, way, core), (1, len(ranks)))
        judge(np.repeat(core, len(at)), np.tile(at, len(core)), shares.ravel())
        for f in np.flatnonzero(hidden[:self.finder.touches] & (amps[:self.finder.touches] > 0)).tolist():
            if not only[f % wires]:  # a touch of the wire itself
                self.unknown.setdefault(f % wires, self._veil[f])
        self.seen |= fresh
        self._add_up(case, way, flows, total, which, np.where(endless | several, -1.0, amps), fresh)
        return endless

    def _drop_idle(self, least: Array, first: IntArray, amps: Array) -> None:
        """An opener that carries a part of a fault, and too little of it to open, ends nothing."""
        for k in range(len(OPENS) if self.names else 0):
            with np.errstate(invalid="ignore", divide="ignore"):
                part = np.where(np.isfinite(least[k]), self.rating[first[k]] / least[k], 1.0)
            least[k, (part < WHOLE) & (amps <= OVERLOAD_MULTIPLE * least[k])] = np.inf

    def _next(self, least: Array, first: IntArray, amps: Array) -> Iterator[tuple[int, BoolArray]]:
        """Openers that open first in some faults without ending them, each with those faults. Of one kind the same is
        the first at every current; of two kinds both are looked at where each is at some current."""
        for k in range(len(OPENS) if self.names else 0):
            other = least[1 - k]
            with np.errstate(invalid="ignore", divide="ignore"):
                part = np.where(np.isfinite(least[k]), self.rating[first[k]] / least[k], 1.0)
                goes_on = (amps > 0) & (part < WHOLE)
                if not goes_on.any():
                    continue
                at = amps * LOOKED_AT[:, None]
                own, others = slowest_times_s(OPENS[k], at / least[k]), slowest_times_s(OPENS[1 - k], at / other)
            goes_on &= (np.isfinite(own) & (own <= others)).any(axis=0)
            for opener in np.unique(first[k][goes_on]).tolist():
                yield opener, goes_on & (first[k] == opener)

    def _opens_s(self, least: Array, amps: Array) -> Array:
        """How long the first opener of each dead fault lets it last, at most LONGEST_S."""
        with np.errstate(invalid="ignore"):
            times = [slowest_times_s(kind, amps / by) for kind, by in zip(OPENS, least, strict=False)]
        return np.asarray(np.clip(np.min(times, axis=0), 0.0, LONGEST_S))

    def _heats(self, wire: IntArray, at: IntArray, amps: Array, seconds: Array, several: BoolArray) -> None:
        """Of faults of several stages the one that leaves most heat in each wire in one of them."""
        wire, at, left = wire[several], at[several], (amps**2 * seconds)[several]
        order = np.argsort(left, kind="stable")
        best = np.full(len(self._hottest), -1)
        best[wire[order]] = order
        w = np.flatnonzero(best >= 0)
        more = left[best[w]] > self._hottest[w] * (1 + 1e-9)
        w = w[more]
        self._hottest[w], self._fault[w], self._in[w] = left[best[w]], at[best[w]], len(self._told) - 1

    def _goes_past(self, case: FaultCase, wire: IntArray, amps: Array) -> None:
        """Keep what goes on in each wire past what has opened, where it is more than before."""
        for w, a in zip(wire.tolist(), amps.tolist(), strict=True):
            if w not in self._rest or a > self._rest[w][0] * (1 + 1e-9):
                self._rest[w] = (a, case)

    def _add_up(self, case: FaultCase, way: Ways, flows: Flows, total: Array, which: IntArray, amps: Array,
                fresh: BoolArray) -> None:
        """Of wires that nothing guards: what all the openers next behind them carry together at their ratings. Faults
        of several stages are left out: which opener carries how much is told by their stages."""
        system = self.finder.system
        bare = np.flatnonzero(self.unseen & fresh)
        if not len(bare) or not len(self.names):
            return
        rows = np.where(self.row >= 0, self.row, 0)
        guards = (self.row >= 0) & case.closed[rows]
        loose = case.closed.copy()
        loose[self.row[guards]] = False
        zone = self.finder.joined(loose, self.finder.diodes(case))
        live = {int(zone[i])
                for s, i in zip(system.network.sources, system.s[0].tolist(), strict=True)
                if case.alone in ("", s.name)}
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

    def _openers_of(self, way: Ways, flows: Flows, case: FaultCase) -> tuple[Array, IntArray]:
        """Of the openers of each kind in each fault's loop the one furthest above its rating: by (kind, fault) the amps
        of fault current at its rating, and which; infinite where none is in the loop."""
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
                carried = in_nine_digits(np.where(through[mine] > OPENER_SHARE,
                                                  self.rating[mine, None] / np.maximum(through[mine], 1e-9), np.inf))
            best = np.argmin(carried, axis=0)
            least[k], first[k] = np.min(carried, axis=0)[way.of], mine[best][way.of]
            here = (own >= 0) & (self.kind[np.maximum(own, 0)] == k)
            at, fuse = own_at[here], own[here]
            # the least rating is written last, and of alike ones the newest
            order = np.lexsort((fuse, -self.rating[fuse]))
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
        for i, name in enumerate(self.names):
            if self.row[i] >= 0:
                continue
            limit = self.finder.limits.get(name)
            if limit is None:  # a fuse that is on nobody's way
                continue
            if limit.reach == "behind":  # it feeds what copper joins to it and not to the main supply
                output = self.topology.inside[name].output
                assert output, name
                own = group[at[self.topology.node(output[0])]]
                found[i] = (group[way.probes[way.a]] == own) & (own != main)
            else:
                found[i] = 1.0 if limit.reach == "all" or case.alone == name else 0.0
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

    def legs(self, root: FaultCase, fault: int, wire: int) -> Callable[[tuple[int, ...]], Leg]:
        """Where a fault flows in a case once certain openers are open, as told for one wire."""
        @cache
        def leg(opened: tuple[int, ...]) -> Leg:
            case = root
            for opener in opened:
                case = case.without(opener, int(self.row[opener]))
            way, flows = self.solve(case)
            rows = np.append(np.where(self.row >= 0, self.row, 0), wire)
            shares = np.where(case.closed[rows], flows.shares_of(self.finder.system, way, fault, rows), 0.0)
            there = np.where(self.row >= 0, shares[:-1], 0.0)
            return Leg(float(flows.volts[fault]), float(flows.loop_ohm[fault]), float(shares[-1]), there)
        return leg

    def _courses(self) -> dict[str, tuple[Course, ...]]:
        """Of each wire that faults of several stages pass, the courses of the worst of them."""
        return {self.finder.wires[w]: courses(self.legs(self._told[self._in[w]], int(self._fault[w]), w), self.openers)
                for w in np.flatnonzero(self._fault >= 0).tolist()}

    def faults(self, tell: bool = False) -> Faults:
        """What all cases together say; with the courses of what has several stages, or without."""
        wires = self.finder.wires
        guards: dict[str, Guard | None] = dict.fromkeys(wires)
        behind: dict[str, Guard | None] = dict.fromkeys(wires)
        told = self._courses() if tell else {}
        unseen, seen_a, several = self.unseen.tolist(), self.seen_a.tolist(), self.several.tolist()
        for i, (wire, limit, which, helps, help_limit) in enumerate(zip(wires, *self.worst.columns(), strict=True)):
            if limit <= 0:  # no fault of it is seen
                continue
            first, other = self.openers[which], self.openers[helps] if helps >= 0 else None
            opener = Opener(first.part, first.kind, first.rating_a, limit / first.rating_a)
            helper = Opener(other.part, other.kind, other.rating_a, help_limit / other.rating_a) if other else None
            if unseen[i] or i in self.unknown:
                behind[wire] = Guard(wire, opener, seen_a[i], before=False, helper=helper, several_a=several[i])
            else:
                guards[wire] = Guard(wire, opener, seen_a[i], helper=helper, courses=told.get(wire, ()))
        table = dict(zip(wires, self.largest.tolist(), strict=True))
        self.far = np.where(np.isinf(self.far), self._far_limited, self.far)
        for number, low in self._far_by.items():
            mine = self.rating[number] >= self.rating[self.worst.which]
            self.far[mine] = np.minimum(self.far[mine], low[mine])
        far = np.where(np.isinf(self.far), 0.0, self.far)
        unknown = {wires[i]: tap for i, tap in self.unknown.items() if guards[wires[i]] is None and not self.unseen[i]}
        bypassed = {wires[w]: Bypass(tuple(self.names[o] for o in case.opened), amps)
                    for w, (amps, case) in self._rest.items()}
        return Faults(guards, behind, table, True, dict(zip(wires, self.near.tolist(), strict=True)),
                      dict(zip(wires, far.tolist(), strict=True)), unknown, bypassed, told, self.unfollowed)


class _Best:
    """For each wire the fault whose opener lets most through it."""

    def __init__(self, wires: int) -> None:
        self.limit = np.full(wires, -1.0)
        self.which, self.helps = np.zeros(wires, int), np.full(wires, -1)
        self.help_share = np.zeros(wires)

    def take(self, wire: IntArray, limit: Array, which: IntArray, helps: IntArray, help_limit: Array) -> None:
        """Keep what is worse than before; of alike ones the first. Limits are amps in the wire at the opener's
        rating."""
        order = np.lexsort((-np.arange(len(wire)), in_nine_digits(limit)))
        wire, limit, which, helps, help_limit = wire[order], limit[order], which[order], helps[order], help_limit[order]
        last = np.full(len(self.limit), -1)
        last[wire] = np.arange(len(wire))
        w = np.flatnonzero(last >= 0)
        at = last[w]
        worse = limit[at] > self.limit[w] * (1 + 1e-9)
        w, at = w[worse], at[worse]
        self.limit[w], self.which[w], self.helps[w] = limit[at], which[at], helps[at]
        self.help_share[w] = help_limit[at]

    def columns(self) -> tuple[list[float], list[int], list[int], list[float]]:
        """For each wire the amps that its opener lets through at its rating (0 or less: none), which opener, which
        helps it and how."""
        return self.limit.tolist(), self.which.tolist(), self.helps.tolist(), self.help_share.tolist()


def _first_largest(values: Array, group: IntArray, groups: int) -> IntArray:
    """In each group the index of its largest value, the first of alike ones."""
    order = np.lexsort((-np.arange(len(values)), in_nine_digits(values)))
    found = np.zeros(groups, int)
    found[group[order]] = order
    return found


def openers(places: FaultPlaces, choices: Choices) -> list[Opener]:
    """Everything that may end or limit a fault's current: what makes a supply of its own last."""
    found = []
    for part in places.topology.parts.values():
        if (protects := part.protection) is not None:
            rating = choices.rating_a[part.id] if protects.chosen else protects.stated_a
            assert rating is not None
            found.append(Opener(part.id, protects.kind, rating, 1.0))
    found += [Opener(part, "limit", limit.most_a, 1.0)
              for part, limit in places.limits.items() if limit.reach != "behind"]
    return found + [Opener(part, "limit", limit.most_a, 1.0)
                    for part, limit in places.limits.items() if limit.reach == "behind"]
