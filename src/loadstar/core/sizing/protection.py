"""Which fuse sees a fault on a wire, and does it open before the wire is damaged?

A fault is looked at for every wire (a touch to battery negative at its far end, and a short across every load) with
the loads removed and every contact closed. Where the fault's current flows is the network's answer, so rings and
shared returns need no special case. Coordination after the plan's rule: the conductor at 1.10 times the rating stays
within its class, at 1.35 times within class + 25 K, and from there to the prospective current the slowest fuse opens
before the conductor reaches class + 50 K from a preload of 0.8 times the rating.
"""

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ..materials import fuses
from ..materials.conductors import BY_AREA, INSULATIONS
from ..physics import battery as cell
from ..physics import heat
from ..physics.network import Network, NetworkError, Resistor, Source, impedances, solve
from ..plan.model import FusePart, Tap
from ..wiring.circuit import Topology
from ..wiring.states import Choices, Thermal

Array = NDArray[np.float64]
OVERLOAD_MULTIPLE = 1.35
PRELOAD = 0.8  # of the rating, carried before the fault
LEAST_SHARE = 0.02  # a wire that carries less than this of a fault is not judged for it


@dataclass(frozen=True)
class Guard:
    """How one wire is guarded: the fuse, and the wire's current per ampere of fuse current in the worst fault."""

    wire: str
    fuse: str
    rating_a: float
    share: float
    fault_a: float


@dataclass(frozen=True)
class Faults:
    """Fault currents of a plan: by wire the guard (None: no fuse sees it) and the largest prospective current."""

    guards: dict[str, Guard | None]
    fault_a: dict[str, float]
    solved: bool


def find_faults(topology: Topology, thermal: Thermal, choices: Choices, ambient_c: Array) -> Faults:
    """Guards of every wire. Wires at `ambient_c` (cold copper: the largest prospective current)."""
    plan, battery = topology.plan, topology.plan.battery
    assert battery is not None
    r20, _, _ = thermal.sizes(choices.area_mm2)
    lengths = np.array([topology.geometry[w].length_m for w in thermal.wires])
    ohm = heat.resistance_at(r20, ambient_c) * lengths + 2 * plan.rules.contact_mohm / 1000
    wire_ohm = dict(zip(thermal.wires, ohm.tolist(), strict=True))
    closed = {p.id: True for p in plan.parts if p.kind == "relay"}
    # "cruise": every contact that ever closes is closed, whatever drives it. A coil is a load like any other.
    copper = tuple(
        Resistor(k.element, k.a, k.b, wire_ohm.get(k.element) or topology.contact_ohm(k.element, choices.rating_a))
        for k in topology.conducting("cruise", closed) if not k.element.endswith(".coil"))
    source_v = cell.rested_v(1.0, battery.chemistry)
    source = Source(battery.id, topology.positive, topology.negative, source_v, battery.internal_mohm / 1000)
    if not thermal.wires or not copper:
        return Faults({}, {}, True)
    wires = plan.wires
    ends = [(topology.node(w.a), topology.node(w.b)) for w in wires]
    shorts = [(topology.node(f"{p.id}.pos"), topology.node(f"{p.id}.neg")) for p in plan.loads]
    shorts += [(topology.node(f"{p.id}.86"), topology.node(f"{p.id}.85")) for p in plan.parts if p.kind == "relay"]
    known = {n for r in copper for n in (r.a, r.b)} | {topology.positive, topology.negative}
    probes = tuple(dict.fromkeys(n for pair in (*ends, *shorts) for n in pair if n in known))
    try:
        bare = Network(topology.negative, copper, (source,))
        z, open_circuit = impedances(bare, probes), solve(bare)
    except NetworkError:
        return Faults({w.id: None for w in wires}, {w.id: 0.0 for w in wires}, False)
    # Columns: a touch to negative at each end of each wire, then a short across each load.
    pairs = [(a, None) for a, _ in ends] + [(b, None) for _, b in ends] + [(a, b) for a, b in shorts]
    plus_at = np.array([z.probes.get(a, -1) for a, _ in pairs])
    minus_at = np.array([z.probes.get(b, -1) if b is not None else -1 for _, b in pairs])

    def columns(table: Array) -> Array:
        padded = np.concatenate([table, np.zeros((table.shape[0], 1))], axis=1)
        return np.asarray(padded[:, plus_at] - padded[:, minus_at])

    branch, node = columns(z.branch), columns(z.node_ohm)
    rows_plus = np.array([z.nodes.get(a, 0) for a, _ in pairs])
    rows_minus = np.array([z.nodes[b] if b is not None and b in z.nodes else z.nodes[topology.negative]
                           for _, b in pairs])
    loop_ohm = node[rows_plus, np.arange(len(pairs))] - node[rows_minus, np.arange(len(pairs))]
    open_v = np.array([open_circuit.potential_v.get(a, 0.0) - (open_circuit.potential_v.get(b, 0.0) if b else 0.0)
                       for a, b in pairs])
    prospective = np.where(loop_ohm > 1e-6, np.abs(open_v) / np.maximum(loop_ohm, 1e-6), 0.0)
    return _guards(topology, choices, z.resistors, np.abs(branch), prospective)


def _guards(topology: Topology, choices: Choices, rows: dict[str, int], branch: Array, prospective: Array) -> Faults:
    ratings = _ratings(topology, choices)
    names = [name for name in ratings if name in rows]
    fuse_rows = np.array([rows[name] for name in names], int)
    rating = np.array([ratings[name] for name in names])
    with np.errstate(divide="ignore"):
        through = branch[fuse_rows]
        carried = np.where(through > LEAST_SHARE, rating[:, None] / np.maximum(through, 1e-9), np.inf)
    # Of the fuses in a fault's loop the one furthest above its rating opens first.
    first = np.argmin(carried, axis=0) if names else np.zeros(branch.shape[1], int)
    least = carried[first, np.arange(branch.shape[1])] if names else np.full(branch.shape[1], np.inf)
    shares = branch[[rows[w.id] for w in topology.plan.wires]]
    seen = (shares > LEAST_SHARE) & (prospective > 1e-3)
    # Amps in the wire at the fuse's rating; a fault that no fuse sees is infinite.
    limits = np.where(seen, np.where(np.isinf(least), np.inf, np.where(np.isinf(least), 0.0, least) * shares), -1.0)
    worst, faults = np.argmax(limits, axis=1), np.max(np.where(seen, prospective * shares, 0.0), axis=1)
    guards: dict[str, Guard | None] = {}
    for i, wire in enumerate(topology.plan.wires):
        limit = float(limits[i, worst[i]])
        guards[wire.id] = None
        if 0 < limit < np.inf:  # otherwise nothing is seen here, or some fault is seen by no fuse at all
            name = names[int(first[worst[i]])]
            guards[wire.id] = Guard(wire.id, name, ratings[name], limit / ratings[name], float(faults[i]))
    fault = {w.id: float(faults[i]) for i, w in enumerate(topology.plan.wires)}
    return Faults(guards, fault, True)


def _ratings(topology: Topology, choices: Choices) -> dict[str, float]:
    found = {p.id: choices.rating_a[p.id] for p in topology.plan.parts if isinstance(p, FusePart)}
    found |= {p.id: p.fused_a for p in topology.plan.parts if isinstance(p, Tap) and p.fused_a is not None}
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
                      min(5 * math.ceil(min(preload_c, 999.0) / 5), hottest_start))


@lru_cache(maxsize=20_000)
def _overloads(area_mm2: float, wall: str, insulation: str, ambient_c: int, rating_a: float, share: float,
               fault_a: float, preload_c: int) -> tuple[Overloads, float | None]:
    conductor, cover = BY_AREA[area_mm2], INSULATIONS[insulation]
    most = max(fault_a / max(share, 1e-6) / rating_a, 1.36)
    multiples = np.array([*(m for m in (OVERLOAD_MULTIPLE, 1.6, 2.0, 2.7, 3.5, 6.0, 10.0) if m < most), most])
    current = multiples * rating_a * share
    wire_s = heat.time_to_temperature_s(
        current, area_mm2, conductor.r20_ohm_per_m, conductor.d_mm, conductor.od_mm(wall), cover.overload_c,
        max(preload_c, ambient_c), ambient_c, cover.k_w_per_mk)
    fuse_s = [fuses.opening_times_s(m, 1.0)[1] for m in multiples.tolist()]
    rows = tuple(zip(current.tolist(), fuse_s, wire_s.tolist(), strict=True))
    return rows, next((amps for amps, fuse, wire in rows if fuse > wire), None)
