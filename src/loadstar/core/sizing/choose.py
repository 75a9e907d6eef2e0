"""Wire sizes and fuse ratings that are left to Loadstar.

Starting from the least allowed, each round solves every situation, takes the smallest fuse that carries its current
with the house rule's share and inrush and stays above what it has to be selective to, and the smallest wire that stands
its duty (argument.py) and keeps the drop of every circuit through it within its limit. Ratings only rise, and after a
few rounds sizes too, so the rounds end. The settled solution is judged once more, and what still misses a rule that a
larger size keeps is raised. What is fixed by hand is kept and judged, never changed.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from .. import limits
from ..doc.states import States
from ..parts.converter import Converter
from ..parts.pack import Pack
from ..physics import surface
from ..wiring.results import Choices, Solved, StateResult
from ..wiring.states import StateSolver
from ..wiring.thermal import Thermal
from ..wiring.topology import Topology
from .areas import Areas, stock_areas
from .contacts import contact_ratings
from .currents import Faults
from .drops import Drops, meet_starter_drop
from .faults import FaultFinder
from .openers import Guard
from .ratings import least_rating, selective_above_a

Array = NDArray[np.float64]
MAX_ROUNDS = 9
FREE_ROUNDS = 4  # after these a size may only rise, so that the rounds end
LAST_ROUNDS = 6


@dataclass(frozen=True)
class Sized:
    """The outcome: choices, the states solved with them, what was solved besides, guards, and what neighbours add
    around each wire."""

    choices: Choices
    states: dict[States, StateResult]
    alternates: tuple[StateResult, ...]
    faults: Faults
    surround_c: dict[str, float]
    peak_a: dict[str, float]
    short_a: dict[str, float]  # while the starter turns
    rounds: int
    warm_c: dict[str, float]
    contact_a: dict[str, float]

    def guard(self, wire: str) -> Guard | None:
        """What decides how much a fault or an overload drives through a wire, and what it carries besides."""
        return with_others(self.faults.judged_by(wire), self.peak_a)


def with_others(guard: Guard | None, peak_a: Mapping[str, float]) -> Guard | None:
    """A guard with the current that its wire carries besides in use, past the opener."""
    if guard is None or guard.opener.kind == "limit":
        return guard
    others = peak_a.get(guard.wire, 0.0) - peak_a.get(guard.fuse, 0.0) * guard.share
    return guard if others < 0.01 else replace(guard, others_a=others)


def size(topology: Topology, thermal: Thermal) -> Sized:
    """Choose everything left to Loadstar and solve the plan with it."""
    return _Sizing(topology, thermal).run()


class _Sizing:
    """One plan being sized."""

    def __init__(self, topology: Topology, thermal: Thermal) -> None:
        self.topology, self.thermal, self.plan = topology, thermal, topology.plan
        plan = self.plan
        supplied = {w.id: own for w in plan.wires if (own := topology.supplied_mm2(w))}
        self.area = {w.id: w.area_mm2 or supplied.get(w.id) or stock_areas(plan.rules)[0] for w in plan.wires}
        chosen = {p.id: protects for p in plan.parts if (protects := p.protection) and protects.chosen}
        self.rating = {part: protects.stated_a or protects.steps_a[0] for part, protects in chosen.items()}
        self.free = [w.id for w in plan.wires if w.area_mm2 is None and w.id not in supplied]
        free = [part for part, protects in chosen.items() if protects.stated_a is None]
        # Those furthest from the source first: what lies before them has to be larger.
        self.free_fuses = sorted(free, key=lambda f: (len(topology.protected_behind.get(f, ())), f))
        self.ambient = np.array([topology.geometry[w].hottest_ambient_c for w in thermal.wires])
        self.solver = StateSolver(topology, thermal)
        self.finder = FaultFinder(topology, thermal, self.solver.system)
        self.areas, self.drops = Areas(topology, self.free), Drops(topology, thermal)

    def run(self) -> Sized:
        """The rounds; where everything is fixed there is nothing to look for, only to judge."""
        rounds = self._look() if self.free or self.free_fuses else 0
        return self._judge(rounds)

    def _look(self) -> int:
        """The rounds that look for sizes and ratings; how many it took."""
        faults = self._first_guess()
        judged = dict(self.rating)
        rounds = 0
        for rounds in range(1, MAX_ROUNDS + 1):
            limits.check()
            choices = self._choices()
            solved = self.solver.solve(choices, rough=True)
            peak, surround = worst_currents(self.topology, solved.peaks()), self._surroundings(solved)
            short = solved.peaks(short=True)
            self._rate(peak, short)
            if self.rating != judged:
                # Which fuse guards which wire hangs on ratings and ways; sizes only shift the fault currents a little.
                faults, judged = self.finder.find(self._choices(), self.ambient,
                                                  self.solver.patterns()), dict(self.rating)
            for wire, least in self._least(peak, short, surround, faults).items():
                self.area[wire] = least if rounds <= FREE_ROUNDS else max(self.area[wire], least)
            self.drops.meet(solved, choices.area_mm2, self.area, set(self.free))
            meet_starter_drop(self.topology, self.area, set(self.free))
            if self._choices() == choices:
                break
        return rounds

    def _judge(self, rounds: int) -> Sized:
        """What was settled on, solved to the end, and raised where a rule is missed that a larger size keeps."""
        for _ in range(LAST_ROUNDS):
            choices = self._choices()
            solved = self.solver.solve(choices)
            peak, surround = worst_currents(self.topology, solved.peaks()), self._surroundings(solved)
            short = solved.peaks(short=True)
            warm = np.minimum(np.max(solved.mean_c, axis=0, initial=20.0),
                              surface.RUNAWAY_C) if len(self.thermal.wires) else self.ambient
            faults = self.finder.find(choices, self.ambient, self.solver.patterns(), warm)
            self._rate(peak, short)
            for wire, least in self._least(peak, short, surround, faults).items():
                self.area[wire] = max(self.area[wire], least)
            self.drops.meet(solved, choices.area_mm2, self.area, set(self.free), settled=True)
            if self._choices() == choices:
                break
        return Sized(choices, solved.results(), solved.alternates(), faults, surround, peak, short, rounds,
                     dict(zip(self.thermal.wires, warm.tolist(), strict=True)),
                     contact_ratings(self.topology, peak, short))

    def _choices(self) -> Choices:
        return Choices(dict(self.area), dict(self.rating))

    def _rate(self, peak: dict[str, float], short: Mapping[str, float]) -> None:
        """Raise what has to be raised, from the ends of the circuits to the source."""
        for fuse in self.free_fuses:
            above = selective_above_a(self.topology, fuse, self.rating)
            self.rating[fuse] = max(self.rating[fuse], least_rating(
                self.topology, fuse, peak.get(fuse, 0.0), above, short.get(fuse, 0.0)))

    def _least(self, peak: dict[str, float], short: Mapping[str, float], surround: dict[str, float],
               faults: Faults) -> dict[str, float]:
        return self.areas.least(peak, surround, {w: with_others(faults.judged_by(w), peak) for w in self.free},
                                self.area, short)

    def _surroundings(self, solved: Solved) -> dict[str, float]:
        """The warmest air around each wire over the rows, with what its neighbours add."""
        warmest = np.fmax(self.ambient, np.max(solved.surround_c, axis=0)) if len(self.ambient) else self.ambient
        return dict(zip(self.thermal.wires, warmest.tolist(), strict=True))

    def _first_guess(self) -> Faults:
        """A start near the end: the loads' currents at 12 V added up along their ways, every wire alone.

        Without it the first solution has hopelessly thin wires, whose heat would make their neighbours too thick.
        """
        topology = self.topology
        amps = dict.fromkeys((*self.area, *self.rating), 0.0)
        for load in topology.loads:
            path = topology.paths[load.id]
            volts = _root_v(topology, path.root.part)
            for link in path.links:
                amps[link.element] = amps.get(link.element, 0.0) + 0.95 * load.draws_a(volts)
            if converter := topology.plan.is_one(path.root.part, Converter):
                through = converter.input_a(load.draws_a(volts), _root_v(topology, topology.roots[0].part))
                into = topology.converter_path(converter.id)
                for link in into.links:
                    amps[link.element] = amps.get(link.element, 0.0) + through
        self._rate(amps, {})
        surround = dict(zip(self.thermal.wires, self.ambient.tolist(), strict=True))
        faults = self.finder.find(self._choices(), self.ambient, self.solver.patterns())
        self.area.update(self.areas.least(amps, surround,
                                          {w: with_others(faults.judged_by(w), amps) for w in self.free}))
        return faults


def worst_currents(topology: Topology, peak: dict[str, float]) -> dict[str, float]:
    """The largest current of each element, or what somebody said of it; what leads to a converter on a pack also where
    its window or the pack ends."""
    packs = topology.plan.packs
    told = {w.id: w.carries_a for w in topology.plan.wires if w.carries_a}
    worst = {**peak, **{w: max(peak.get(w, 0.0), amps) for w, amps in told.items()}}
    if not packs:
        return worst
    for part in topology.plan.of(Converter):
        into = part.element("in")
        low_v = max(part.window_low_v, min(p.empty_v for p in packs))
        rise = max(part.input_a(peak.get(part.id, 0.0), low_v) - peak.get(into, 0.0), 0.0)
        for element in {k.element for k in topology.converter_path(part.id).links} | topology.pack_leads:
            worst[element] = worst.get(element, 0.0) + rise
        worst[into] = peak.get(into, 0.0) + rise
    return worst


def _root_v(topology: Topology, root: str) -> float:
    plan = topology.plan
    made = plan.second_supply(root)
    if made is not None:
        return made.out_v
    pack = plan.is_one(root, Pack)
    return pack.resting_v if pack else float(plan.machine.system_v)
