"""Of all faults that are looked at the worst for each wire, and what ends it.

A fault is a story: its first opener opens, and where its current goes on by another way it is looked at again without
that opener, until it is ended, or nothing is left that opens. What each stage lets through for hours and minutes judges
the wires of that stage; how warm all stages together make a wire is told by the courses of its worst fault.
"""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray

from ..wiring.conductor import Conductors, conductor
from ..wiring.results import Choices
from .best import Best, first_largest
from .courses import Leg, courses
from .currents import Bypass, Faults
from .flows import LEAST_A, LEAST_SHARE, FaultCase, Flows, Ways
from .loops import FUSED, KINDS, OVERLOADS, Ends, Loops
from .openers import Guard, Opener
from .places import FaultPlaces
from .story import Course

Array = NDArray[np.float64]
IntArray = NDArray[np.int64]
BoolArray = NDArray[np.bool_]
MOST_STAGES = 200  # of one case
Solve = Callable[[FaultCase], tuple[Ways, Flows]]


@dataclass
class _Stage:
    """The faults of a case, judged: what ends each, its amps (-1 where it is not looked at), whether nothing ends it
    here (`nothing`) or after all (`endless`), whether it has several stages, and how long its first opener lets it
    last."""

    case: FaultCase
    ends: Ends
    amps: Array
    nothing: BoolArray
    endless: BoolArray
    several: BoolArray
    seconds: Array


class Worst:
    """The worst that any case has for each wire."""

    def __init__(self, finder: FaultPlaces, choices: Choices, ambient_c: Array, solve: Solve) -> None:
        self.finder, self.solve = finder, solve
        self.loops = Loops(finder, choices)
        wires = len(finder.wires)
        plan, area = finder.topology.plan, choices.area_mm2
        metal = Conductors(conductor(plan, finder.topology.wires[w], area[w]) for w in finder.wires)
        self.stands_a = metal.allowed_a(metal.class_c, ambient_c) if wires else np.zeros(0)
        self.worst = Best(wires)
        self.unseen = np.zeros(wires, bool)
        self.largest, self.near, self.far = np.zeros(wires), np.zeros(wires), np.full(wires, np.inf)
        self.several, self.seen_a = np.zeros(wires), np.zeros(wires)  # seen_a: the hardest fault that something sees
        self.unknown: dict[int, str] = {}
        self._veiled: dict[int, str] = {}  # wires in faults elsewhere that pass a factory fuse nobody has found
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
            kind = self.loops.kind[which[weak]]
            ended = counts & (low > OVERLOADS[kind] * total[weak]) & np.isin(kind, FUSED)
            for opener in np.unique(which[weak][ended]).tolist():
                mine = ended & (which[weak] == opener)
                before = self._far_by.setdefault(opener, np.full(count, np.inf))
                before[mine] = np.minimum(before[mine], low[mine])
            limits = counts & (self.loops.kind[which[weak]] == KINDS.index("limit")) if len(self.loops.kind) else counts
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
        ends = self.loops.ends(way, flows, case, amps)
        if not case.opened:
            self._first = ends.total, ends.which
        nothing = np.isinf(ends.total) & ~ends.hidden & (amps > 0)
        if case.opened:  # what every wire stands for good is an end
            nothing &= amps > self.stands_a.min(initial=np.inf)
        goes_on, endless = self._follow(case, ends, amps)
        endless |= nothing
        stage = _Stage(case, ends, amps, nothing, endless, goes_on | bool(case.opened), self.loops.opens_s(ends, amps))
        fresh = self._judge_branches(stage, way) | self._judge_core(stage, way, flows)
        wires = len(self.finder.wires)
        for f in np.flatnonzero(ends.hidden[:self.finder.touches] & (amps[:self.finder.touches] > 0)).tolist():
            if not (case.spare and self.before[f % wires]):  # a touch of the wire itself
                self.unknown.setdefault(f % wires, ends.veil[f])
        self.seen |= fresh
        self._add_up(stage, way, flows, fresh)
        return endless

    def _follow(self, case: FaultCase, ends: Ends, amps: Array) -> tuple[BoolArray, BoolArray]:
        """What opens first opens, and what goes on is looked at again: which faults do, and which of them nothing
        ends."""
        goes_on, endless = np.zeros(len(amps), bool), np.zeros(len(amps), bool)
        for opener, mine in self.loops.next(ends, amps):
            goes_on |= mine
            self._stages += 1
            if self._stages > MOST_STAGES:
                self.unfollowed = True
                break
            endless |= self._stage(case.without(opener, int(self.loops.row[opener])), mine)
        return goes_on, endless

    def _judge_branches(self, stage: "_Stage", way: Ways) -> BoolArray:
        """Wires of branches: the whole of a fault behind them is in them. Which were judged."""
        there = way.edge < len(self.finder.wires)
        return self._judge(stage, way.edge[there], way.fault[there], np.ones(there.sum()))

    def _judge_core(self, stage: "_Stage", way: Ways, flows: Flows) -> BoolArray:
        """Wires of the core carry shares of faults. Of the faults of one pair of core probes those decide whose fuse
        opens last, that draw most, ended or not, and one that nothing sees. Which were judged."""
        core = np.setdiff1d(np.arange(len(self.finder.wires)), way.edge)
        core = core[stage.case.closed[core]]
        amps, endless = stage.amps, stage.endless
        ranks = (np.where(endless, -1.0, stage.ends.total), amps, np.where(endless, -1.0, amps),
                 np.where(stage.nothing, 1.0, 0.0))
        at = np.concatenate([first_largest(np.where(amps > 0, by, -2.0), way.of, len(way.a)) for by in ranks])
        shares = np.tile(flows.shares(self.finder.system, way, core), (1, len(ranks)))
        return self._judge(stage, np.repeat(core, len(at)), np.tile(at, len(core)), shares.ravel())

    def _judge(self, stage: "_Stage", wire: IntArray, at: IntArray, share: Array) -> BoolArray:
        """Of the faults `at` with their shares in the wires the worst: the one whose opener lets most through, the
        hardest. Which wires were judged; a spare case speaks for what no other has seen."""
        case, ends = stage.case, stage.ends
        there = (share > LEAST_SHARE) & (stage.amps[at] > 0)
        if case.spare:
            there &= ~self.before[wire]
        wire, at, share = wire[there], at[there], share[there]
        amps = stage.amps[at] * share
        fresh = np.zeros(len(self.finder.wires), bool)
        fresh[wire] = True
        np.maximum.at(self.largest, wire, amps)
        self._heats(wire, at, amps, stage.seconds[at], stage.several[at])
        for w, f in zip(wire[ends.hidden[at]].tolist(), at[ends.hidden[at]].tolist(), strict=True):
            self._veiled.setdefault(w, ends.veil[f])
        bare = stage.nothing[at]
        if case.opened:
            bare &= amps > self.stands_a[wire]
            self._goes_past(case, wire[bare], amps[bare])
        self.unseen[wire[bare]] = True
        told = np.isfinite(ends.total[at]) & ~(ends.hidden | stage.endless)[at]
        wire, at, share, amps = wire[told], at[told], share[told], amps[told]
        np.maximum.at(self.seen_a, wire, amps)
        other, helps = ends.helper(at)
        has = np.isfinite(other)
        self.worst.take(wire, ends.total[at] * share, ends.which[at], np.where(has, helps, -1),
                        np.where(has, np.where(has, other, 0.0) * share, 0.0))
        return fresh

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

    def _add_up(self, stage: "_Stage", way: Ways, flows: Flows, fresh: BoolArray) -> None:
        """Of wires that nothing guards: what all the openers next behind them carry together at their ratings. Faults
        of several stages are left out: which opener carries how much is told by their stages."""
        system, ends = self.finder.system, stage.ends
        bare = np.flatnonzero(self.unseen & fresh)
        if not len(bare) or not len(self.loops.names):
            return
        border = self._border(stage.case)
        amps = np.where(stage.endless | stage.several, -1.0, stage.amps)
        for w in bare.tolist():
            mine = way.fault[way.edge == w]
            share = np.ones(len(mine))
            if not len(mine):
                share = flows.shares(system, way, np.array([w]))[0][way.of]
                mine = np.flatnonzero(share > LEAST_SHARE)
                share = share[mine]
            good = (amps[mine] > 0) & np.isfinite(ends.total[mine])
            mine, share = mine[good], share[good]
            carried = np.zeros(len(self.loops.names))
            np.maximum.at(carried, ends.which[mine], ends.total[mine] * share)
            if np.count_nonzero(carried[border]) > 1:
                self.several[w] = max(self.several[w], float(carried[border].sum()))

    def _border(self, case: FaultCase) -> BoolArray:
        """Openers next behind what a case's sources feed without passing any."""
        system, row = self.finder.system, self.loops.row
        rows = np.where(row >= 0, row, 0)
        guards = (row >= 0) & case.closed[rows]
        loose = case.closed.copy()
        loose[row[guards]] = False
        zone = self.finder.joined(loose, self.finder.diodes(case))
        live = {int(zone[i]) for s, i in zip(system.network.sources, system.s[0].tolist(), strict=True)
                if case.alone in ("", s.name)}
        beside = zone[system.r[:, rows]]
        return np.asarray(guards & (beside[0] != beside[1]) & np.isin(beside, list(live)).any(axis=0))

    def legs(self, root: FaultCase, fault: int, wire: int) -> Callable[[tuple[int, ...]], Leg]:
        """Where a fault flows in a case once certain openers are open, as told for one wire."""
        @cache
        def leg(opened: tuple[int, ...]) -> Leg:
            case = root
            for opener in opened:
                case = case.without(opener, int(self.loops.row[opener]))
            way, flows = self.solve(case)
            rows = np.append(np.where(self.loops.row >= 0, self.loops.row, 0), wire)
            shares = np.where(case.closed[rows], flows.shares_of(self.finder.system, way, fault, rows), 0.0)
            there = np.where(self.loops.row >= 0, shares[:-1], 0.0)
            return Leg(float(flows.volts[fault]), float(flows.loop_ohm[fault]), float(shares[-1]), there)
        return leg

    def _courses(self) -> dict[str, tuple[Course, ...]]:
        """Of each wire that faults of several stages pass, the courses of the worst of them."""
        return {self.finder.wires[w]: courses(self.legs(self._told[self._in[w]], int(self._fault[w]), w),
                                              self.loops.openers)
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
            first, other = self.loops.openers[which], self.loops.openers[helps] if helps >= 0 else None
            opener = Opener(first.part, first.kind, first.rating_a, limit / first.rating_a)
            helper = Opener(other.part, other.kind, other.rating_a, help_limit / other.rating_a) if other else None
            if unseen[i] or i in self.unknown:
                behind[wire] = Guard(wire, opener, seen_a[i], before=False, helper=helper, several_a=several[i])
            else:
                guards[wire] = Guard(wire, opener, seen_a[i], helper=helper, courses=told.get(wire, ()))
        table = dict(zip(wires, self.largest.tolist(), strict=True))
        self.far = np.where(np.isinf(self.far), self._far_limited, self.far)
        for number, low in self._far_by.items():
            mine = self.loops.rating[number] >= self.loops.rating[self.worst.which]
            self.far[mine] = np.minimum(self.far[mine], low[mine])
        far = np.where(np.isinf(self.far), 0.0, self.far)
        unknown = {wires[i]: tap for i, tap in {**self._veiled, **self.unknown}.items()
                   if guards[wires[i]] is None and not self.unseen[i]}
        bypassed = {wires[w]: Bypass(tuple(self.loops.names[o] for o in case.opened), amps)
                    for w, (amps, case) in self._rest.items()}
        return Faults(guards, behind, table, True, dict(zip(wires, self.near.tolist(), strict=True)),
                      dict(zip(wires, far.tolist(), strict=True)), unknown, bypassed, told, self.unfollowed)
