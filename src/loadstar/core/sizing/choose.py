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
from ..materials.conductors import ALPHA20_PER_K, BY_AREA, INSULATIONS, STOCK_AREAS_MM2, Insulation, termination_ohm
from ..physics import heat
from ..plan.model import JUDGED_STATES, Converter, FusePart, LoadPart, Pack, Plan, Port, Starter, States, Way
from ..wiring.circuit import Topology, accessory_current_a
from ..wiring.states import Choices, Solved, StateResult, StateSolver
from ..wiring.supplies import pack_empty_v, pack_rested_v
from ..wiring.thermal import Thermal
from .faults import Faults, Guard, find_faults
from .protection import OVERLOAD_MULTIPLE, PRELOAD, Case, opens_in_time

Array = NDArray[np.float64]
MAX_ROUNDS = 9
FREE_ROUNDS = 4  # after these a size may only rise, so that the rounds end
DROP_SPARE_FRAC = 0.0005
PROTECTION_SPARE_K = 10.0
LEAST_A, LEAST_V = 1e-6, 0.5  # below these a load counts as not fed
WAY_STEPS_A = (1.0, 2.0, 3.0, 4.0, 5.0, 7.5, 10.0, 12.5, 15.0, 20.0, 25.0, 30.0)  # settings of a module's way


@dataclass(frozen=True)
class Sized:
    """The outcome: choices, the states solved with them, guards, and what neighbours add around each wire."""

    choices: Choices
    states: dict[States, StateResult]
    faults: Faults
    surround_c: dict[str, float]
    peak_a: dict[str, float]
    rounds: int
    warm_c: dict[str, float]


def drop_limit_frac(plan: Plan, load: LoadPart) -> float:
    """The house rule's share of the supply's voltage that a circuit of this kind of load may lose."""
    rules = plan.rules
    return {"lamp": rules.drop_lamp_frac, "heating": rules.drop_heating_frac, "motor": rules.drop_motor_frac,
            "electronics": rules.drop_electronics_frac,
            "tracker": rules.drop_electronics_frac}.get(load.category, rules.drop_other_frac)


def size(topology: Topology, thermal: Thermal) -> Sized:
    """Choose everything left to Loadstar and solve the plan with it."""
    plan = topology.plan
    area = {w.id: w.area_mm2 or max(plan.rules.least_area_mm2, STOCK_AREAS_MM2[0]) for w in plan.wires}
    rating = {p.id: p.rating_a or fuses.RATINGS_A[0] for p in plan.parts if isinstance(p, FusePart)}
    rating |= {p.id: p.limit_a or WAY_STEPS_A[0] for p in plan.parts if isinstance(p, Way)}
    free_wires = [w.id for w in plan.wires if w.area_mm2 is None]
    free_fuses = [p.id for p in plan.parts if (isinstance(p, FusePart) and p.rating_a is None)
                  or (isinstance(p, Way) and p.limit_a is None)]
    ambient = np.array([topology.geometry[w].hottest_ambient_c for w in thermal.wires])
    faults = _first_guess(topology, thermal, area, rating, free_wires, free_fuses, ambient)
    judged = dict(rating)
    solver = StateSolver(topology, thermal)
    drops = _Drops(topology, thermal)
    for rounds in range(1, MAX_ROUNDS + 1):
        choices = Choices(dict(area), dict(rating))
        solved = solver.solve(choices, rounds=1)
        peak = worst_currents(topology, solved.peaks())
        surround = _surroundings(thermal, solved, ambient)
        for fuse in free_fuses:
            rating[fuse] = max(rating[fuse], least_rating(topology, fuse, peak.get(fuse, 0.0)))
        if rating != judged:
            # Which fuse guards which wire hangs on ratings and ways; sizes only shift the fault currents a little.
            faults, judged = find_faults(topology, thermal, Choices(area, rating), ambient), dict(rating)
        for wire, least in least_areas(plan, topology, free_wires, peak, surround, faults, area).items():
            area[wire] = least if rounds <= FREE_ROUNDS else max(area[wire], least)
        drops.meet(solved, choices.area_mm2, area, set(free_wires))
        _starter_leads(topology, area, set(free_wires))
        if area == choices.area_mm2 and rating == choices.rating_a:
            break
    # Settled: once more with the wires' temperatures brought all the way.
    choices = Choices(dict(area), dict(rating))
    solved = solver.solve(choices)
    warm = np.minimum(np.max(solved.mean_c, axis=0, initial=20.0), heat.RUNAWAY_C) if len(thermal.wires) else ambient
    return Sized(choices, solved.results(), find_faults(topology, thermal, choices, ambient, warm),
                 _surroundings(thermal, solved, ambient), worst_currents(topology, solved.peaks()), rounds,
                 dict(zip(thermal.wires, warm.tolist(), strict=True)))


def _surroundings(thermal: Thermal, solved: Solved, ambient: Array) -> dict[str, float]:
    """The warmest air around each wire over the states, with what its neighbours add."""
    warmest = np.fmax(ambient, np.max(solved.surround_c, axis=0)) if len(ambient) else ambient
    return dict(zip(thermal.wires, warmest.tolist(), strict=True))


def worst_currents(topology: Topology, peak: dict[str, float]) -> dict[str, float]:
    """The largest current of each element; what leads to a converter on a pack also at the pack's empty end."""
    packs = topology.plan.packs
    if not packs:
        return peak
    worst = dict(peak)
    for part in topology.plan.parts:
        if isinstance(part, Converter):
            given_a = peak.get(part.id, 0.0)
            low_v = max(part.window_low_v, min(pack_empty_v(p) for p in packs))
            rise = converter_input_a(part, given_a, low_v) - peak.get(f"{part.id}.in", 0.0)
            path = topology.converter_path(part.id)
            for link in (*path.feed, *path.back):
                worst[link.element] = worst.get(link.element, 0.0) + max(rise, 0.0)
            worst[f"{part.id}.in"] = max(worst.get(f"{part.id}.in", 0.0), peak.get(f"{part.id}.in", 0.0) + rise)
    return worst


def converter_input_a(converter: Converter, output_a: float, input_v: float) -> float:
    """What a converter draws from its input: output watts over efficiency and its idle draw, over the input volts."""
    return (converter.out_v * output_a / converter.efficiency_frac + converter.idle_w) / input_v


def _first_guess(topology: Topology, thermal: Thermal, area: dict[str, float], rating: dict[str, float],
                 free_wires: list[str], free_fuses: list[str], ambient: Array) -> Faults:
    """A start near the end: the loads' currents at 12 V added up along their ways, every wire alone.

    Without it the first solution has hopelessly thin wires, whose heat would make their neighbours too thick.
    """
    plan = topology.plan
    amps = dict.fromkeys((*area, *rating), 0.0)
    for load in topology.loads:
        path = topology.paths[load.id]
        volts = _root_v(topology, path.root.part)
        for link in (*path.feed, *path.back):
            amps[link.element] = amps.get(link.element, 0.0) + 0.95 * accessory_current_a(load, volts)
        if isinstance(converter := topology.parts[path.root.part], Converter):
            through = converter_input_a(converter, accessory_current_a(load, volts), _root_v(topology, topology.roots[0].part))
            into = topology.converter_path(converter.id)
            for link in (*into.feed, *into.back):
                amps[link.element] = amps.get(link.element, 0.0) + through
    for fuse in free_fuses:
        rating[fuse] = least_rating(topology, fuse, amps[fuse])
    surround = dict(zip(thermal.wires, ambient.tolist(), strict=True))
    faults = find_faults(topology, thermal, Choices(area, rating), ambient)
    area.update(least_areas(plan, topology, free_wires, amps, surround, faults))
    return faults


def _root_v(topology: Topology, root: str) -> float:
    part = topology.parts[root]
    if isinstance(part, Converter | Port):
        return part.out_v
    return pack_rested_v(part) if isinstance(part, Pack) else float(topology.plan.machine.system_v)


def least_rating(topology: Topology, fuse: str, peak_a: float) -> float:
    """The smallest rating (a module's way: setting) that passes, or the largest there is."""
    part = topology.parts[fuse]
    steps = WAY_STEPS_A if isinstance(part, Way) else fuses.RATINGS_A
    owner = topology.parts.get(part.made_for or "")
    if isinstance(owner, LoadPart) and owner.maker_fuse_a is not None and not rating_faults(
            topology, fuse, owner.maker_fuse_a, peak_a):
        return owner.maker_fuse_a  # as its maker asks, where that does not open needlessly
    for rating in steps:
        if not rating_faults(topology, fuse, rating, peak_a):
            return rating
    return steps[-1]


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
    found = []
    if isinstance(part, Way):  # it limits by electronics: no ageing, and inrush is let through by its soft start
        return [RatingFault("share", peak_a / rating_a, 1.0)] if peak_a > rating_a else []
    carries = fuses.rerated_a(rating_a, plan.ambient_at(part.place))
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
                guard.fault_a, guard.electronic)


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
                surround_c: dict[str, float], faults: Faults, before: dict[str, float] | None = None) -> dict[str, float]:
    """For each wire the smallest stock size that stays cool and protected; the largest when none does.

    A thicker wire is never warmer at the same current: where `before` (the sizes of the round before) fits and the
    next smaller does not, it is found; for the others the range is halved.
    """
    sizes = tuple(a for a in STOCK_AREAS_MM2 if a >= plan.rules.least_area_mm2)
    if not wires:
        return {}
    guards = [faults.guards.get(w) for w in wires]
    rated = np.array([g.rating_a * g.share if g else 0.0 for g in guards])
    use = np.array([current_a.get(w, 0.0) for w in wires])
    amps = np.stack([use, *(m * rated for m in (fuses.STEADY_MULTIPLE, OVERLOAD_MULTIPLE, PRELOAD))])
    limit = np.array([insulation_of(plan, topology, w).continuous_c for w in wires])
    warm = np.zeros(len(wires))

    def cool(at: NDArray[np.int64], which: NDArray[np.int64]) -> tuple[NDArray[np.bool_], Array]:
        """Whether the wires `which` stay cool at sizes `at`, and how warm their preload makes them."""
        in_use, steady, overload, preload = steady_c(
            plan, topology, [wires[i] for i in which.tolist()], [sizes[i] for i in at.tolist()], amps[:, which], surround_c)
        most = limit[which]
        return np.asarray((in_use <= most - plan.rules.thermal_margin_k) & (steady <= most - PROTECTION_SPARE_K)
                          & (overload <= most + 25)), preload

    low, high = np.zeros(len(wires), int), np.full(len(wires), len(sizes) - 1)
    every = np.arange(len(wires))
    if before is not None:
        guess = np.array([sizes.index(before[w]) if before[w] in sizes else 0 for w in wires])
        fits, preload = cool(np.concatenate([np.maximum(guess - 1, 0), guess]), np.concatenate([every, every]))
        smaller, same = fits[:len(wires)] & (guess > 0), fits[len(wires):]
        high = np.where(smaller, guess - 1, np.where(same, guess, high))
        low = np.where(smaller, 0, np.minimum(np.where(same, guess, guess + 1), high))
        warm = np.where(smaller, preload[:len(wires)], preload[len(wires):])
    while len(which := np.flatnonzero(low < high)):
        middle = (low[which] + high[which]) // 2
        fits, preload = cool(middle, which)
        high[which] = np.where(fits, middle, high[which])
        low[which] = np.where(fits, low[which], np.minimum(middle + 1, high[which]))
        warm[which] = np.where(fits, preload, warm[which])
    found = dict(zip(wires, (sizes[i] for i in high.tolist()), strict=True))
    for i, (wire, guard) in enumerate(zip(wires, guards, strict=True)):
        # The temperature at rest of the first size serves the next ones too: it errs to the safe side.
        while guard is not None and found[wire] < sizes[-1] and opens_in_time(
                case_of(plan, topology, wire, found[wire], surround_c[wire], guard), warm[i])[1] is not None:
            found[wire] = sizes[sizes.index(found[wire]) + 1]
    return found


def worst_drop(topology: Topology, states: dict[States, StateResult], load: LoadPart) -> tuple[States | None, float]:
    """The state with the largest share of its root's voltage lost on the way to a load and back, and that share."""
    worst: tuple[States | None, float] = (None, 0.0)
    for state, result in states.items():
        lost = drop_frac(topology, result, load) if state in JUDGED_STATES else None
        if lost is not None and lost > worst[1]:
            worst = (state, lost)
    return worst


def drop_frac(topology: Topology, result: StateResult, load: LoadPart) -> float | None:
    """Share of its root's voltage (posts, or converter output) lost on the way to a load; None when it is not fed."""
    if result.solution is None or abs(result.current(load.id)) < LEAST_A or load.id in result.solution.on_floor:
        return None
    root = topology.paths[load.id].root
    across = abs(result.solution.across_v(topology.node(f"{load.id}.pos"), topology.node(f"{load.id}.neg")))
    begins = abs(result.solution.across_v(root.positive, root.negative))
    return 1 - across / begins if across > LEAST_V else None


def _starter_leads(topology: Topology, area: dict[str, float], free: set[str]) -> None:
    """The least size, alike for all leads, at which cranking loses no more in them than the house rule allows."""
    leads = starter_leads(topology)
    mine = [w for w in leads if w in free]
    for size in STOCK_AREAS_MM2 if mine else ():
        for wire in mine:
            area[wire] = max(size, area[wire])
        if starter_drop_v(topology, area, leads) <= topology.plan.rules.starter_drop_v:
            break


def starter_leads(topology: Topology) -> tuple[str, ...]:
    """The wires between the battery and the starter, there and back; empty without a starter in the plan."""
    starter = next((p for p in topology.plan.parts if isinstance(p, Starter)), None)
    if starter is None:
        return ()
    path = topology.way_to(starter.id, f"{starter.id}.pos", f"{starter.id}.neg")
    return tuple(k.element for k in (*path.feed, *path.back) if k.element in topology.wires)


def starter_drop_v(topology: Topology, area: dict[str, float], leads: tuple[str, ...]) -> float:
    """Volts lost in the starter's leads at the cranking current, copper as warm as the air around it."""
    rules, amps = topology.plan.rules, topology.plan.machine.cranking_a
    return sum(lead_drop_v(amps, area[w], topology.geometry[w].length_m, topology.geometry[w].hottest_ambient_c)
               + 2 * amps * termination_ohm(rules.contact_mohm, area[w]) for w in leads)


def lead_drop_v(amps: float, area_mm2: float, length_m: float, warm_c: float) -> float:
    """Volts lost along one wire at a temperature, its ends not counted."""
    return amps * BY_AREA[area_mm2].r20_ohm_per_m * (1 + ALPHA20_PER_K * (warm_c - 20)) * length_m


class _Drops:
    """The drop of every circuit as arrays: which wires lie on which load's way."""

    def __init__(self, topology: Topology, thermal: Thermal) -> None:
        self.topology, self.plan = topology, topology.plan
        self.at = {w: i for i, w in enumerate(thermal.wires)}
        self.lengths = np.array([topology.geometry[w].length_m for w in thermal.wires])
        self.loads = topology.loads
        self.limit = np.array([drop_limit_frac(self.plan, load) for load in self.loads]) - DROP_SPARE_FRAC
        self.on = np.zeros((len(self.loads), len(thermal.wires)), bool)
        for i, load in enumerate(self.loads):
            path = topology.paths[load.id]
            self.on[i, [self.at[k.element] for k in (*path.feed, *path.back) if k.element in self.at]] = True

    def meet(self, solved: Solved, before: dict[str, float], area: dict[str, float], free: set[str]) -> None:
        """Raise free wires on the ways of loads that lose too much: each time the one that saves most per gram.

        Estimated from the currents solved with the sizes `before`; the next round solves again. A last pass lowers
        again what was not needed.
        """
        rows = [i for i, s in enumerate(solved.states) if s in JUDGED_STATES]
        if not self.loads or not rows or not self.at:
            return
        batch, at = solved.batch, solved.batch.system.index
        node = self.topology.node
        pos, neg = (np.array([at[node(f"{load.id}.{end}")] for load in self.loads]) for end in ("pos", "neg"))
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
        lost, volts = lost[state, every], begins[state, every]
        amps = solved.wire_a()[rows][state] * self.on
        warm = 1 + ALPHA20_PER_K * (np.minimum(solved.mean_c, heat.RUNAWAY_C)[rows][state] - 20)
        metre_v = amps * warm * self.lengths / np.maximum(volts, LEAST_V)[:, None]  # share lost per ohm per metre at 20 C
        r20 = {a: BY_AREA[a].r20_ohm_per_m for a in (*STOCK_AREAS_MM2, *before.values())}
        now = np.array([r20[area[w]] for w in self.at])
        lost = lost + metre_v @ now - metre_v @ np.array([r20[before[w]] for w in self.at])
        wires = list(self.at)
        raised: dict[int, float] = {}
        can = np.array([w in free for w in wires])
        for i in every[lost > self.limit]:
            while lost[i] > self.limit[i]:
                options = [w for w in np.flatnonzero(self.on[i] & can).tolist() if area[wires[w]] < STOCK_AREAS_MM2[-1]]
                if not options:
                    break
                w = max(options, key=lambda w: metre_v[i, w] * self._gain(area[wires[w]], r20) / self.lengths[w])
                raised.setdefault(w, area[wires[w]])
                lost -= self._change(area, wires[w], w, 1, metre_v, r20)
        for w, floor in raised.items():
            while area[wires[w]] > floor:
                change = self._change(area, wires[w], w, -1, metre_v, r20)
                if np.any((lost - change > self.limit) & self.on[:, w] & (change < 0)):
                    self._change(area, wires[w], w, 1, metre_v, r20)
                    break
                lost -= change

    @staticmethod
    def _gain(area_mm2: float, r20: dict[float, float]) -> float:
        larger = STOCK_AREAS_MM2[STOCK_AREAS_MM2.index(area_mm2) + 1]
        return (r20[area_mm2] - r20[larger]) / (larger - area_mm2)

    @staticmethod
    def _change(area: dict[str, float], wire: str, w: int, steps: int, metre_v: Array, r20: dict[float, float]) -> Array:
        """Make a wire the next size up or down; what every load's lost share falls by."""
        before = area[wire]
        area[wire] = STOCK_AREAS_MM2[STOCK_AREAS_MM2.index(before) + steps]
        return np.asarray(metre_v[:, w] * (r20[before] - r20[area[wire]]))
