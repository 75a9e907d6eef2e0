"""Which fuse sees a fault on a wire, and does it open before the wire is damaged?

A fault is looked at for every wire (a touch to its source's negative at either end, and a short across every load)
with the loads removed and every contact closed. Where the fault's current flows is the network's answer, so rings,
shared returns and several supplies need no special case. A converter stands as its output voltage behind the
resistance that lets its limit flow into a short. Coordination after the plan's rule: the conductor at 1.10 times the
rating stays within its class, at 1.35 times within class + 25 K, and from there to the prospective current the
slowest fuse opens before the conductor reaches class + 50 K from a preload of 0.8 times the rating.
"""

import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from ..materials import fuses
from ..materials.conductors import BY_AREA, INSULATIONS
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
OVERLOAD_MULTIPLE = 1.35
PRELOAD = 0.8  # of the rating, carried before the fault
CHUNK = 400  # faults looked at together
LEAST_SHARE = 0.02  # a wire that carries less than this of a fault is not judged for it
CONVERTER_SHORT_MULTIPLE = 1.3  # of its rating, what a converter gives into a short; assumed
ELECTRONIC_S = 0.5  # a module's way or a converter's limit acts within this, from 1.35 times its setting; assumed


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
        ohm, node, prospective = found.currents(ambient_c, strong=True)
        guards, fault = _guards(topology, choices, found, ohm, node, prospective)
        if warm_c is None:
            return Faults(guards, fault, True, {}, {})
        _, _, weak = found.currents(warm_c, strong=False)
    except NetworkError:
        names = [w.id for w in topology.plan.wires]
        return Faults(dict.fromkeys(names), dict.fromkeys(names, 0.0), False, {}, {})
    count = len(found.wires)
    ends = np.sort(weak[: 2 * count].reshape(2, count), axis=0)
    return Faults(guards, fault, True, dict(zip(found.wires, ends[1].tolist(), strict=True)),
                  dict(zip(found.wires, ends[0].tolist(), strict=True)))


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
        keep = np.array([not c.endswith(".coil") for c in self.contacts] + [True] * system.d.shape[1], bool)
        _, self.group = connected_components(  # what copper joins
            coo_array((np.ones(keep.sum(), np.int8), tuple(pairs[:, keep])), shape=(system.n, system.n)), directed=False)
        self.plus = np.array([at[e] for e in ends] + [at[a] for a, _ in shorts], int)
        self.minus = np.concatenate([self._negatives(self.plus[: len(ends)]), np.array([at[b] for _, b in shorts], int)])

    def _negatives(self, nodes: NDArray[np.int64]) -> NDArray[np.int64]:
        """For each node the negative of the supply whose positive it is joined to by copper."""
        at = self.system.index
        roots = [(self.group[at[r.positive]], at[r.negative]) for r in self.topology.roots]
        negative = dict(reversed(roots))
        return np.array([negative.get(self.group[i], roots[0][1]) for i in nodes.tolist()], int)

    def currents(self, wire_c: Array, *, strong: bool) -> tuple[Array, Array, Array]:
        """Resistors' ohms, transfer resistances (nodes, probes), and each fault's prospective current."""
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
        probes, inverse = np.unique(np.concatenate([self.plus, self.minus]), return_inverse=True)
        node, open_v = system.impedances(given, probes.tolist(), limits)
        self.a, self.b = a, b = inverse[: len(self.plus)], inverse[len(self.plus):]
        loop_ohm = node[self.plus, a] - node[self.plus, b] - node[self.minus, a] + node[self.minus, b]
        volts = np.abs(open_v[self.plus] - open_v[self.minus])
        if not strong:
            volts = np.maximum(volts - plan.rules.chafe_arc_v, 0.0)
        prospective = np.where(loop_ohm > 1e-6, volts / np.maximum(loop_ohm, 1e-6), 0.0)
        return given.ohm[0], node, prospective


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


def _guards(topology: Topology, choices: Choices, fault: _Fault, ohm: Array, node: Array,
            prospective: Array) -> tuple[dict[str, Guard | None], dict[str, float]]:
    """For each wire the fuse that opens first in its worst fault. Faults are taken some hundreds at a time."""
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
    rating = np.array([ratings[name] for name in names])
    fed = _from_converters(topology, fault)
    wires, count = len(fault.wires), len(prospective)
    most, worst_name = np.full(wires, -1.0), np.zeros(wires, int)
    largest = np.zeros(wires)
    for start in range(0, count, CHUNK):
        part = slice(start, min(start + CHUNK, count))
        drop = node[:, fault.a[part]] - node[:, fault.b[part]]
        through = np.abs(drop[fault.system.r[0][fuse_rows]] - drop[fault.system.r[1][fuse_rows]]) / ohm[fuse_rows, None]
        always = np.ones((1 if isinstance(coil, Coil) else 0, through.shape[1]))
        through = np.concatenate([through, always, fed[:, part]])
        shares = np.abs(drop[fault.system.r[0][:wires]] - drop[fault.system.r[1][:wires]]) / ohm[:wires, None]
        with np.errstate(divide="ignore"):
            carried = np.where(through > LEAST_SHARE, rating[:, None] / np.maximum(through, 1e-9), np.inf)
        # Of the fuses in a fault's loop the one furthest above its rating opens first.
        here = np.arange(through.shape[1])
        first = np.argmin(carried, axis=0) if names else np.zeros(len(here), int)
        least = carried[first, here] if names else np.full(len(here), np.inf)
        seen = (shares > LEAST_SHARE) & (prospective[part] > 1e-3)
        # Amps in the wire at the fuse's rating; a fault that no fuse sees is infinite.
        limits = np.where(seen, np.where(np.isinf(least), np.inf, np.where(np.isinf(least), 0.0, least) * shares), -1.0)
        at = np.argmax(limits, axis=1)
        found = limits[np.arange(wires), at]
        better = found > most
        most = np.where(better, found, most)
        worst_name = np.where(better, first[at], worst_name)
        largest = np.maximum(largest, np.max(np.where(seen, prospective[part] * shares, 0.0), axis=1, initial=0.0))
    guards: dict[str, Guard | None] = dict.fromkeys(fault.wires)
    for i in np.flatnonzero((most > 0) & np.isfinite(most)).tolist():
        # Otherwise nothing is seen here, or some fault is seen by no fuse at all.
        name = names[int(worst_name[i])]
        guards[fault.wires[i]] = Guard(fault.wires[i], name, ratings[name], float(most[i]) / ratings[name], float(largest[i]),
                                       not isinstance(topology.parts[name], FusePart | Tap))
    return guards, dict(zip(fault.wires, largest.tolist(), strict=True))


def _from_converters(topology: Topology, fault: _Fault) -> Array:
    """1 where a fault is fed by a converter's output: it is joined to that by copper, and not to the main supply."""
    group, at = fault.group, fault.system.index
    main = group[at[topology.positive]]
    own = np.array([group[at[c.out_plus]] for c in fault.system.network.converters], int)[:, None]
    return np.asarray((group[fault.plus] == own) & (own != main), float)


def _ratings(topology: Topology, choices: Choices) -> dict[str, float]:
    parts = topology.plan.parts
    found = {p.id: choices.rating_a[p.id] for p in parts if isinstance(p, FusePart | Way)}
    found |= {p.id: p.fused_a for p in parts if isinstance(p, Tap) and p.fused_a is not None}
    return found


@dataclass(frozen=True)
class Coordination:
    """How a wire fares behind its fuse. Temperatures in C at 1.10 and 1.35 times the rating (through the wire).

    `overloads` holds (current A, slowest opening s, time to damage s); `fails_from_a` the first current at which the
    fuse may be too slow, None when it never is. `limit_a` is the current that brings the wire to its class.
    """

    steady_c: float
    overload_c: float
    limit_a: float
    class_c: float
    overloads: tuple[tuple[float, float, float], ...]
    fails_from_a: float | None

    @property
    def protected(self) -> bool:
        """Whether all three tests hold."""
        return self.steady_c <= self.class_c and self.overload_c <= self.class_c + 25 and self.fails_from_a is None

    def strength(self, guard: Guard) -> float:
        """What the wire stands over what the fuse lets through steadily (1.10 times its rating)."""
        return self.limit_a / (fuses.STEADY_MULTIPLE * guard.rating_a * guard.share)


@dataclass(frozen=True)
class Case:
    """A wire of a size behind a fuse: what `coordinate` judges. `ambient_c` includes what neighbours add."""

    area_mm2: float
    wall: str
    insulation: str
    ambient_c: float
    rating_a: float
    share: float
    fault_a: float
    electronic: bool = False


def coordinate(cases: list[Case]) -> list[Coordination]:
    """Coordination of many wires with their fuses at once."""
    if not cases:
        return []
    conductors = [BY_AREA[c.area_mm2] for c in cases]
    covers = [INSULATIONS[c.insulation] for c in cases]
    r20, d = np.array([c.r20_ohm_per_m for c in conductors]), np.array([c.d_mm for c in conductors])
    od = np.array([c.od_mm(case.wall) for c, case in zip(conductors, cases, strict=True)])
    k, ambient = np.array([c.k_w_per_mk for c in covers]), np.array([c.ambient_c for c in cases])
    rated = np.array([c.rating_a * c.share for c in cases])
    multiples = np.array([fuses.STEADY_MULTIPLE, OVERLOAD_MULTIPLE, PRELOAD])[:, None]
    steady, overload, preload = heat.wire_temperature_c(multiples * rated, r20, d, od, ambient, k)
    limit = heat.ampacity_a(r20, d, od, np.array([c.continuous_c for c in covers]), ambient, k)
    found = []
    for i, (case, cover) in enumerate(zip(cases, covers, strict=True)):
        rows, fails = opens_in_time(case, float(preload[i]))
        found.append(Coordination(float(steady[i]), float(overload[i]), float(limit[i]), cover.continuous_c, rows,
                                  fails))
    return found


Overloads = tuple[tuple[float, float, float], ...]


def opens_in_time(case: Case, preload_c: float) -> tuple[Overloads, float | None]:
    """Openings against damage from 1.35 times the rating to the prospective current, and where they first cross.

    Temperatures are rounded up to 5 K and the prospective current up to a fifth of a decade, so that like wires
    share one computation: always to the safe side.
    """
    fault_a = 10 ** (math.ceil(5 * math.log10(max(case.fault_a, 1.0)) - 1e-9) / 5)
    hottest_start = round(INSULATIONS[case.insulation].overload_c) - 1
    return _overloads(case.area_mm2, case.wall, case.insulation, 5 * math.ceil(case.ambient_c / 5), case.rating_a,
                      round(case.share, 2), round(fault_a, 3),
                      min(5 * math.ceil(min(preload_c, 999.0) / 5), hottest_start), case.electronic)


@lru_cache(maxsize=20_000)
def _overloads(area_mm2: float, wall: str, insulation: str, ambient_c: int, rating_a: float, share: float,
               fault_a: float, preload_c: int, electronic: bool) -> tuple[Overloads, float | None]:
    conductor, cover = BY_AREA[area_mm2], INSULATIONS[insulation]
    most = max(fault_a / max(share, 1e-6) / rating_a, 1.36)
    multiples = np.array([*(m for m in (OVERLOAD_MULTIPLE, 1.6, 2.0, 2.7, 3.5, 6.0, 10.0) if m < most), most])
    current = multiples * rating_a * share
    wire_s = heat.time_to_temperature_s(
        current, area_mm2, conductor.r20_ohm_per_m, conductor.d_mm, conductor.od_mm(wall), cover.overload_c,
        max(preload_c, ambient_c), ambient_c, cover.k_w_per_mk)
    fuse_s = [ELECTRONIC_S if electronic else fuses.opening_times_s(m, 1.0)[1] for m in multiples.tolist()]
    rows = tuple(zip(current.tolist(), fuse_s, wire_s.tolist(), strict=True))
    return rows, next((amps for amps, fuse, wire in rows if fuse > wire), None)
