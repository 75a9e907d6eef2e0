"""Wire sizes and fuse ratings that are left to Loadstar.

Starting from the least allowed, each round solves every state, takes the smallest fuse that carries its load's
current with the house rule's share and inrush, and the smallest wire that stays cool at the real current, is
protected by its fuse with 10 K to spare, and keeps the drop of every circuit through it within its limit. Ratings only
rise, and after a few rounds sizes too, so the rounds end. What is fixed by hand is kept and judged, never changed.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..materials import fuses
from ..materials.conductors import ALPHA20_PER_K, BY_AREA, INSULATIONS, STOCK_AREAS_MM2, Insulation
from ..physics import heat
from ..plan.model import FusePart, LoadPart, Plan, States
from ..wiring.circuit import Topology, accessory_current_a
from ..wiring.states import Choices, StateResult, StateSolver, Thermal
from .protection import OVERLOAD_MULTIPLE, PRELOAD, Case, Faults, Guard, find_faults, opens_in_time

Array = NDArray[np.float64]
MAX_ROUNDS = 9
FREE_ROUNDS = 4  # after these a size may only rise, so that the rounds end
DROP_SPARE_FRAC = 0.0005
PROTECTION_SPARE_K = 10.0
JUDGED_STATES: tuple[States, ...] = ("key_on", "idle", "town", "cruise")


@dataclass(frozen=True)
class Sized:
    """The outcome: choices, the states solved with them, guards, and what neighbours add around each wire."""

    choices: Choices
    states: dict[States, StateResult]
    faults: Faults
    surround_c: dict[str, float]
    peak_a: dict[str, float]
    rounds: int


def drop_limit_frac(plan: Plan, load: LoadPart) -> float:
    """The house rule's share of the posts' voltage that a circuit may lose."""
    return plan.rules.drop_lamp_frac if load.category == "lamp" else plan.rules.drop_other_frac


def size(topology: Topology, thermal: Thermal) -> Sized:
    """Choose everything left to Loadstar and solve the plan with it."""
    plan = topology.plan
    area = {w.id: w.area_mm2 or max(plan.rules.least_area_mm2, STOCK_AREAS_MM2[0]) for w in plan.wires}
    rating = {p.id: p.rating_a or fuses.RATINGS_A[0] for p in plan.parts if isinstance(p, FusePart)}
    free_wires = [w.id for w in plan.wires if w.area_mm2 is None]
    free_fuses = [p.id for p in plan.parts if isinstance(p, FusePart) and p.rating_a is None]
    ambient = np.array([topology.geometry[w].hottest_ambient_c for w in thermal.wires])
    faults = _first_guess(topology, thermal, area, rating, free_wires, free_fuses, ambient)
    judged = dict(rating)
    solver = StateSolver(topology, thermal)
    for rounds in range(1, MAX_ROUNDS + 1):
        choices = Choices(dict(area), dict(rating))
        states = solver.solve(choices, rounds=1)
        peak = peak_currents(states)
        surround = _surroundings(thermal, states, ambient)
        for fuse in free_fuses:
            rating[fuse] = max(rating[fuse], least_rating(topology, fuse, peak.get(fuse, 0.0)))
        if rating != judged:
            # Which fuse guards which wire hangs on ratings and ways; sizes only shift the fault currents a little.
            faults, judged = find_faults(topology, thermal, Choices(area, rating), ambient), dict(rating)
        for wire, least in least_areas(plan, topology, free_wires, peak, surround, faults).items():
            area[wire] = least if rounds <= FREE_ROUNDS else max(area[wire], least)
        _meet_drop_limits(topology, states, choices.area_mm2, area, set(free_wires))
        if area == choices.area_mm2 and rating == choices.rating_a:
            break
    # Settled: once more with the wires' temperatures brought all the way.
    choices = Choices(dict(area), dict(rating))
    states = solver.solve(choices)
    return Sized(choices, states, find_faults(topology, thermal, choices, ambient),
                 _surroundings(thermal, states, ambient), peak_currents(states), rounds)


def _surroundings(thermal: Thermal, states: dict[States, StateResult], ambient: Array) -> dict[str, float]:
    """The warmest air around each wire over the states, with what its neighbours add."""
    return {w: max(float(ambient[i]), max((s.surround_c.get(w, 0.0) for s in states.values()), default=0.0))
            for i, w in enumerate(thermal.wires)}


def peak_currents(states: dict[States, StateResult]) -> dict[str, float]:
    """The largest current of each element (wires, fuses, contacts, plugs, loads) over all states."""
    peak: dict[str, float] = {}
    for result in states.values():
        for element, amps in (result.solution.current_a if result.solution else {}).items():
            peak[element] = max(peak.get(element, 0.0), abs(amps))
    return peak


def _first_guess(topology: Topology, thermal: Thermal, area: dict[str, float], rating: dict[str, float],
                 free_wires: list[str], free_fuses: list[str], ambient: Array) -> Faults:
    """A start near the end: the loads' currents at 12 V added up along their ways, every wire alone.

    Without it the first solution has hopelessly thin wires, whose heat would make their neighbours too thick.
    """
    plan = topology.plan
    amps = dict.fromkeys((*area, *rating), 0.0)
    for load in plan.loads:
        path = topology.paths[load.id]
        for link in (*path.feed, *path.back):
            amps[link.element] = amps.get(link.element, 0.0) + 0.95 * accessory_current_a(load, 12.0)
    for fuse in free_fuses:
        rating[fuse] = least_rating(topology, fuse, amps[fuse])
    surround = dict(zip(thermal.wires, ambient.tolist(), strict=True))
    faults = find_faults(topology, thermal, Choices(area, rating), ambient)
    area.update(least_areas(plan, topology, free_wires, amps, surround, faults))
    return faults


def least_rating(topology: Topology, fuse: str, peak_a: float) -> float:
    """The smallest rating that passes, or the largest there is."""
    for rating in fuses.RATINGS_A:
        if not rating_faults(topology, fuse, rating, peak_a):
            return rating
    return fuses.RATINGS_A[-1]


@dataclass(frozen=True)
class RatingFault:
    """Why a rating will not do: "share" or "inrush", with the figure and the limit."""

    why: str
    has: float
    limit: float


def rating_faults(topology: Topology, fuse: str, rating_a: float, peak_a: float) -> list[RatingFault]:
    """What speaks against a fuse rating at a continuous current: its share, and the inrush of its loads."""
    plan = topology.plan
    part = topology.parts[fuse]
    carries = fuses.rerated_a(rating_a, plan.place(part.place).ambient_c)
    found = []
    if peak_a > plan.rules.fuse_share_frac * carries:
        found.append(RatingFault("share", peak_a / carries, plan.rules.fuse_share_frac))
    for load in topology.loads_behind.get(fuse, ()):
        if load.inrush_a > 0 and load.inrush_ms > 0:
            has = load.inrush_a**2 * load.inrush_ms / 1000
            limit = fuses.inrush_limit_a2s(rating_a, load.inrush_ms / 1000)
            if has > limit:
                found.append(RatingFault("inrush", has, limit))
    return found


def case_of(plan: Plan, topology: Topology, wire: str, area_mm2: float, surround_c: float, guard: Guard) -> Case:
    """A wire, at a size, with the fuse that guards it, as the coordination test takes it."""
    w = topology.wires[wire]
    return Case(area_mm2, w.wall, w.insulation or plan.rules.insulation, surround_c, guard.rating_a, guard.share,
                guard.fault_a)


def insulation_of(plan: Plan, topology: Topology, wire: str) -> Insulation:
    """A wire's insulation class: its own, or the house rule's."""
    return INSULATIONS[topology.wires[wire].insulation or plan.rules.insulation]


def steady_c(plan: Plan, topology: Topology, wires: list[str], areas_mm2: list[float], current_a: Array,
             surround_c: dict[str, float]) -> Array:
    """Temperatures of wires at given sizes for currents (any number of rows, wires), neighbours included."""
    rows = [BY_AREA[a] for a in areas_mm2]
    return heat.wire_temperature_c(
        current_a, np.array([c.r20_ohm_per_m for c in rows]), np.array([c.d_mm for c in rows]),
        np.array([c.od_mm(topology.wires[w].wall) for c, w in zip(rows, wires, strict=True)]),
        np.array([surround_c[w] for w in wires]),
        np.array([insulation_of(plan, topology, w).k_w_per_mk for w in wires]))


def least_areas(plan: Plan, topology: Topology, wires: list[str], current_a: dict[str, float],
                surround_c: dict[str, float], faults: Faults) -> dict[str, float]:
    """For each wire the smallest stock size that stays cool and protected; the largest when none does.

    A thicker wire is never warmer at the same current, so the size is found by halving the range.
    """
    sizes = tuple(a for a in STOCK_AREAS_MM2 if a >= plan.rules.least_area_mm2)
    if not wires:
        return {}
    guards = [faults.guards.get(w) for w in wires]
    rated = np.array([g.rating_a * g.share if g else 0.0 for g in guards])
    use = np.array([current_a.get(w, 0.0) for w in wires])
    amps = np.stack([use, *(m * rated for m in (fuses.STEADY_MULTIPLE, OVERLOAD_MULTIPLE))])
    limit = np.array([insulation_of(plan, topology, w).continuous_c for w in wires])
    low, high = np.zeros(len(wires), int), np.full(len(wires), len(sizes) - 1)
    while np.any(low < high):
        middle = (low + high) // 2
        areas = [sizes[i] for i in middle]
        in_use, steady, overload = steady_c(plan, topology, wires, areas, amps, surround_c)
        cool = ((in_use <= limit - plan.rules.thermal_margin_k) & (steady <= limit - PROTECTION_SPARE_K)
                & (overload <= limit + 25))
        high = np.where(cool, middle, high)
        low = np.where(cool, low, np.minimum(middle + 1, high))
    found = dict(zip(wires, (sizes[i] for i in high.tolist()), strict=True))
    warm = steady_c(plan, topology, wires, list(found.values()), PRELOAD * rated, surround_c).tolist()
    for i, (wire, guard) in enumerate(zip(wires, guards, strict=True)):
        # The temperature at rest of the first size serves the next ones too: it errs to the safe side.
        while guard is not None and found[wire] < sizes[-1] and opens_in_time(
                case_of(plan, topology, wire, found[wire], surround_c[wire], guard), warm[i])[1] is not None:
            found[wire] = sizes[sizes.index(found[wire]) + 1]
    return found


def worst_drop(topology: Topology, states: dict[States, StateResult], load: LoadPart) -> tuple[States | None, float]:
    """The state with the largest share of the posts' voltage lost on the way to a load and back, and that share."""
    worst: tuple[States | None, float] = (None, 0.0)
    for state in JUDGED_STATES:
        result = states[state]
        lost = drop_frac(topology, result, load)
        if lost is not None and lost > worst[1]:
            worst = (state, lost)
    return worst


def drop_frac(topology: Topology, result: StateResult, load: LoadPart) -> float | None:
    """Share of the posts' voltage lost between the posts and a load in a state; None when it is not fed."""
    if result.solution is None or abs(result.current(load.id)) < 1e-6 or load.id in result.solution.on_floor:
        return None
    across = result.solution.across_v(topology.node(f"{load.id}.pos"), topology.node(f"{load.id}.neg"))
    return 1 - across / result.posts_v if across > 0.5 else None


def _meet_drop_limits(topology: Topology, states: dict[States, StateResult], solved: dict[str, float],
                      area: dict[str, float], free: set[str]) -> None:
    """Raise free wires on the ways of loads that lose too much: each time the one that saves most per gram.

    Estimated from the currents solved with the sizes `solved`; the next round solves again. A last pass lowers again what was not needed.
    """
    plan = topology.plan
    raised: dict[str, float] = {}
    ways: dict[str, tuple[States, float, list[str]]] = {}
    for load in plan.loads:
        state, lost = worst_drop(topology, states, load)
        if state is None:
            continue
        path = topology.paths[load.id]
        ways[load.id] = (state, lost, [k.element for k in (*path.feed, *path.back) if k.element in area])

    def saved_frac(way: tuple[States, float, list[str]], sizes: dict[str, float]) -> float:
        result = states[way[0]]
        return sum(abs(result.current(w)) * (_ohm(topology, result, w, solved[w]) - _ohm(topology, result, w, sizes[w]))
                   for w in way[2]) / result.posts_v

    for load in plan.loads:
        if load.id not in ways:
            continue
        way = ways[load.id]
        limit = drop_limit_frac(plan, load) - DROP_SPARE_FRAC
        while way[1] - saved_frac(way, area) > limit:
            options = [(w, STOCK_AREAS_MM2[STOCK_AREAS_MM2.index(area[w]) + 1]) for w in way[2]
                       if w in free and area[w] in STOCK_AREAS_MM2[:-1]]
            if not options:
                break
            wire, larger = max(options, key=lambda o: _gain(topology, states[way[0]], o[0], area[o[0]], o[1]))
            raised.setdefault(wire, area[wire])
            area[wire] = larger
    for wire, floor in raised.items():
        while area[wire] > floor:
            smaller = STOCK_AREAS_MM2[STOCK_AREAS_MM2.index(area[wire]) - 1]
            trial = {**area, wire: smaller}
            if any(way[1] - saved_frac(way, trial) > drop_limit_frac(plan, load) - DROP_SPARE_FRAC
                   for load in plan.loads if load.id in ways and wire in (way := ways[load.id])[2]):
                break
            area[wire] = smaller


def _ohm(topology: Topology, result: StateResult, wire: str, area_mm2: float) -> float:
    warm = result.wire_mean_c.get(wire, 60.0)
    per_m = BY_AREA[area_mm2].r20_ohm_per_m * (1 + ALPHA20_PER_K * (warm - 20))
    return per_m * topology.geometry[wire].length_m


def _gain(topology: Topology, result: StateResult, wire: str, now: float, larger: float) -> float:
    """Volts saved per mm2.m of copper added."""
    volts = abs(result.current(wire)) * (_ohm(topology, result, wire, now) - _ohm(topology, result, wire, larger))
    return volts / ((larger - now) * topology.geometry[wire].length_m)
