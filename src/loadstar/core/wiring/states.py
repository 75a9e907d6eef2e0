"""The solved network in every state: source, relays and wire temperatures brought to agree.

Engine off, the battery is an EMF behind its resistance at the charge the plan is judged at. Engine running, the
regulator holds its set-point as long as the generator can give what is drawn; when it cannot, the generator gives all
it has as a current and the battery the rest, at battery voltage. What the battery takes while charging is the plan's
charging allowance. Relays are opened and closed until nothing changes.
"""

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..materials.conductors import BY_AREA, INSULATIONS
from ..physics import battery as cell
from ..physics import generator as alternator
from ..physics import heat
from ..physics.network import Compiled, Load, Network, NetworkError, Resistor, Solution, Source, solve
from ..plan.model import RUNNING, STATES, Generator, Relay, States
from .circuit import Topology

Array = NDArray[np.float64]
CHARGE, CRANK = "charging", "starter"
TEMPERATURE_ROUNDS = 4
TEMPERATURE_SETTLED_K = 0.02
RELAY_ROUNDS = 6
SOURCE_ROUNDS = 6


@dataclass(frozen=True)
class Choices:
    """What is decided: area of every wire (mm2) and rating of every fuse (A), and whether by hand."""

    area_mm2: dict[str, float]
    rating_a: dict[str, float]


@dataclass(frozen=True)
class StateResult:
    """One state, solved. `source` says how it is fed: "battery", "regulated" or "short" (battery helps out).

    `available_a` is what the generator can give, `charging_a` what goes into the battery, `battery_a` what comes out.
    By wire: `wire_c` where it is hottest, `wire_mean_c` over its length, `ambient_c` the air around its hottest
    stretch, `surround_c` that plus what neighbours in the bundle add there.
    """

    state: States
    rpm: float
    source: str
    solution: Solution | None
    failure: str
    failed_elements: tuple[str, ...]
    closed: dict[str, bool]
    undecided: tuple[str, ...]
    posts_v: float
    available_a: float
    charging_a: float
    battery_a: float
    wire_c: dict[str, float]
    wire_mean_c: dict[str, float]
    surround_c: dict[str, float]
    ambient_c: dict[str, float]

    def current(self, element: str) -> float:
        """Current through an element, from its first to its second terminal; 0 when it is open."""
        return self.solution.current_a.get(element, 0.0) if self.solution else 0.0


def winding_of(generator: Generator) -> alternator.Winding:
    """The winding that the plate's two ratings stand for. Raises GeneratorError when none fits."""
    v_dc = generator.rating_v + 2 * generator.diode_v
    return alternator.identify(
        ((generator.rating1_rpm, generator.rating1_w / generator.rating_v),
         (generator.rating2_rpm, generator.rating2_w / generator.rating_v)),
        generator.phase_ohm, v_dc, generator.phases)


def available_a(generator: Generator | None, rpm: float, posts_v: float) -> float:
    """What the generator can give into the posts at a speed, up to the regulator's limit."""
    if generator is None or rpm <= 0:
        return 0.0
    given = alternator.output_a(winding_of(generator), rpm, posts_v + 2 * generator.diode_v)
    return given if generator.limit_a is None else min(given, generator.limit_a)


class Thermal:
    """Geometry of the wires' heat as arrays: bundles by run, single wires by place."""

    def __init__(self, topology: Topology) -> None:
        plan = topology.plan
        self.wires = tuple(w.id for w in plan.wires)
        index = {w: i for i, w in enumerate(self.wires)}
        groups: dict[tuple[str, float], list[tuple[int, float]]] = {}
        for wire, geometry in topology.geometry.items():
            for number, segment in enumerate(geometry.segments):
                key = (segment.run or f"{wire}/{number}", segment.ambient_c)
                groups.setdefault(key, []).append((index[wire], segment.length_m / geometry.length_m))
        # Every stretch of every wire, and which of them lie together in a bundle (one row each, padded with -1).
        flat = [(wire, share, key[1]) for key, members in groups.items() for wire, share in members]
        self.wire = np.array([wire for wire, _, _ in flat], int)
        self.share = np.array([share for _, share, _ in flat])
        self.ambient = np.array([ambient for _, _, ambient in flat])
        bundles, at = [], 0
        for members in groups.values():
            if len(members) > 1:
                bundles.append(range(at, at + len(members)))
            at += len(members)
        self.bundle = np.full((len(bundles), max((len(b) for b in bundles), default=0)), -1)
        for row, stretch in enumerate(bundles):
            self.bundle[row, : len(stretch)] = stretch
        insulation = [INSULATIONS[w.insulation or plan.rules.insulation] for w in plan.wires]
        self.k = np.array([i.k_w_per_mk for i in insulation])
        self.wall = [w.wall for w in plan.wires]
        self.class_c = np.array([i.continuous_c for i in insulation])

    def sizes(self, area: dict[str, float]) -> tuple[Array, Array, Array]:
        """Resistance per metre, conductor and overall diameter of every wire."""
        rows = [BY_AREA[area[w]] for w in self.wires]
        return (np.array([c.r20_ohm_per_m for c in rows]), np.array([c.d_mm for c in rows]),
                np.array([c.od_mm(wall) for c, wall in zip(rows, self.wall, strict=True)]))

    def temperatures(self, area: dict[str, float], current: Array) -> tuple[Array, Array, Array, Array]:
        """For currents (states, wires): hottest and mean temperature; at the hottest the air with neighbours, and without."""
        states, count = current.shape
        if count == 0:
            empty = np.zeros((states, 0))
            return empty, empty, empty, empty
        r20, d, od = (values[self.wire] for values in self.sizes(area))
        k = self.k[self.wire]
        amps = np.abs(current)[:, self.wire]
        own = heat.wire_temperature_c(amps, r20, d, od, self.ambient, k)
        here = own.copy()
        if len(self.bundle):
            rows, width = self.bundle.shape
            there, at = self.bundle >= 0, np.maximum(self.bundle, 0)

            def packed(values: Array, missing: float) -> Array:
                return np.tile(np.where(there, values[at], missing), (states, 1))

            warm, _ = heat.bundle_temperatures_c(
                np.where(there, amps[:, at], 0.0).reshape(states * rows, width), packed(r20, 0.0), packed(d, 0.0),
                packed(od, 0.0), np.tile(self.ambient[self.bundle[:, 0]], states), packed(k, heat.K_PVC))
            # A cold neighbour cools a loaded wire; that is not relied on.
            together = self.bundle[there]
            here[:, together] = np.fmax(warm.reshape(states, rows, width)[:, there], own[:, together])
        mean = np.zeros((states, count))
        hottest, added, air = (np.zeros((states, count)) for _ in range(3))
        for s in range(states):
            np.add.at(mean[s], self.wire, here[s] * self.share)
            # Of each wire's stretches the hottest decides; the last written wins, so write in rising order.
            order = np.argsort(here[s] + 1e-6 * self.ambient, kind="stable")
            hottest[s, self.wire[order]] = here[s, order]
            with np.errstate(invalid="ignore"):
                near = np.where(np.isfinite(here[s]), here[s] - own[s], 0.0)
            added[s, self.wire[order]] = (self.ambient + near)[order]
            air[s, self.wire[order]] = self.ambient[order]
        return hottest, mean, added, air


class StateSolver:
    """Solves the states of one topology again and again as sizes change, each from where it last stood."""

    def __init__(self, topology: Topology, thermal: Thermal) -> None:
        self.topology, self.thermal = topology, thermal
        self.plan = topology.plan
        self.lengths = np.array([topology.geometry[w].length_m for w in thermal.wires])
        self.mean_c = np.full((len(STATES), len(thermal.wires)), 50.0)
        self.feeds = {state: _Feed(topology, thermal.wires, state) for state in STATES}

    def solve(self, choices: Choices, rounds: int = TEMPERATURE_ROUNDS) -> dict[States, StateResult]:
        """Every state, with wires at their temperature; one round is enough while sizes still change."""
        r20, _, _ = self.thermal.sizes(choices.area_mm2)
        source_rounds = 2 if rounds == 1 else SOURCE_ROUNDS
        wires, contacts = self.thermal.wires, 2 * self.plan.rules.contact_mohm / 1000
        for _ in range(rounds):
            ohm = heat.resistance_at(r20, np.minimum(self.mean_c, heat.RUNAWAY_C)) * self.lengths + contacts
            results = [self.feeds[state].result(ohm[i], choices.rating_a, source_rounds)
                       for i, state in enumerate(STATES)]
            current = np.array([[r.current(w) for w in wires] for r in results]).reshape(len(STATES), -1)
            before = self.mean_c
            hottest, self.mean_c, surround, ambient = self.thermal.temperatures(choices.area_mm2, current)
            change = np.abs(np.minimum(self.mean_c, heat.RUNAWAY_C) - np.minimum(before, heat.RUNAWAY_C))
            if np.max(change, initial=0.0) < TEMPERATURE_SETTLED_K:
                break

        def table(values: Array, row: int) -> dict[str, float]:
            return dict(zip(wires, values[row].tolist(), strict=True))

        return {r.state: replace(r, wire_c=table(hottest, i), wire_mean_c=table(self.mean_c, i),
                                 surround_c=table(surround, i),
                                 ambient_c=table(ambient, i)) if r.solution else r for i, r in enumerate(results)}


@dataclass(frozen=True)
class _Given:
    source: str
    available_a: float
    charging_a: float
    battery_a: float


class _Feed:
    """One state: its source, its relays, and the networks already compiled for it."""

    def __init__(self, topology: Topology, wires: tuple[str, ...], state: States) -> None:
        battery = topology.plan.battery
        assert battery is not None
        self.topology, self.plan, self.battery, self.state = topology, topology.plan, battery, state
        self.rpm = self.plan.machine.rpm(state)
        self.generator = self.plan.generator if state in RUNNING else None
        self.relays = [p for p in self.plan.parts if isinstance(p, Relay)]
        self.closed: dict[str, bool] = self._guess_closed()
        self.short_v: float | None = None  # posts' voltage when last the generator could not keep up
        self._wire_at = {w: i for i, w in enumerate(wires)}
        self._circuits: dict[tuple[frozenset[str], bool], _Circuit] = {}

    def result(self, wire_ohm: Array, rating_a: dict[str, float], source_rounds: int = SOURCE_ROUNDS) -> StateResult:
        """Solve with these wires (in the order of the thermal model) and fuses; a failure is told, with no figures."""
        undecided: tuple[str, ...] = ()
        try:
            for round_number in range(RELAY_ROUNDS):
                solution, given = self._solve(wire_ohm, rating_a, source_rounds)
                fresh = {k.id: solution.across_v(self.topology.node(f"{k.id}.86"), self.topology.node(f"{k.id}.85"))
                         >= k.pull_in_v for k in self.relays}
                if fresh == self.closed:
                    break
                if round_number == RELAY_ROUNDS - 1:
                    undecided = tuple(k for k in fresh if fresh[k] != self.closed.get(k))
                self.closed = fresh
        except NetworkError as error:
            return StateResult(self.state, self.rpm, "battery", None, str(error), error.elements, self.closed, (),
                               math.nan, 0.0, 0.0, 0.0, {}, {}, {}, {})
        return StateResult(
            self.state, self.rpm, given.source, solution, "", (), self.closed, undecided,
            solution.across_v(self.topology.positive, self.topology.negative), given.available_a, given.charging_a,
            given.battery_a, {}, {}, {}, {})

    def _guess_closed(self) -> dict[str, bool]:
        """Relays whose coil is joined to the battery when every contact is: a start that is nearly always right."""
        closed = {k.id: False for k in self.relays}
        if not self.relays:
            return closed
        while True:
            live = self.topology.reached(self.state, closed)
            fresh = {k.id: self.topology.node(f"{k.id}.86") in live for k in self.relays}
            if fresh == closed:
                return closed
            closed = fresh

    def _solve(self, wire_ohm: Array, rating_a: dict[str, float], source_rounds: int) -> tuple[Solution, _Given]:
        if self.generator is None:
            solution = self._run(wire_ohm, rating_a, held=False)
            return solution, _Given("battery", 0.0, 0.0, -solution.current_a[self.battery.id])
        if self.short_v is not None:  # it fell short last time: the rule is asked again only if it now keeps up
            solution, most = self._short(wire_ohm, rating_a, source_rounds)
            if self.short_v < self.generator.set_v - 1e-6:
                return solution, _Given("short", most, 0.0, -solution.current_a[self.battery.id])
        most = available_a(self.generator, self.rpm, self.generator.set_v)
        solution = self._run(wire_ohm, rating_a, held=True)
        drawn = -solution.current_a[self.generator.id]
        if drawn <= most + 1e-9:
            self.short_v = None
            # What the battery takes flows at the posts and changes no voltage beyond them.
            return solution, _Given("regulated", most, min(self.battery.charge_a, most - drawn), 0.0)
        self.short_v = self._cell().emf_v
        solution, most = self._short(wire_ohm, rating_a, source_rounds)
        return solution, _Given("short", most, 0.0, -solution.current_a[self.battery.id])

    def _short(self, wire_ohm: Array, rating_a: dict[str, float], rounds: int) -> tuple[Solution, float]:
        """The generator gives all it has at the posts' voltage, and the battery helps out."""
        assert self.short_v is not None
        for _ in range(rounds):
            most = available_a(self.generator, self.rpm, self.short_v)
            solution = self._run(wire_ohm, rating_a, held=False, push_a=most)
            before, self.short_v = self.short_v, solution.across_v(self.topology.positive, self.topology.negative)
            if abs(self.short_v - before) < 1e-5:
                break
        return solution, most

    def _cell(self) -> Source:
        b = self.battery
        return Source(b.id, self.topology.positive, self.topology.negative,
                      cell.rested_v(b.charge_frac, b.chemistry), cell.internal_ohm(b.internal_mohm / 1000, b.charge_frac))

    def _run(self, wire_ohm: Array, rating_a: dict[str, float], *, held: bool, push_a: float = 0.0) -> Solution:
        key = (frozenset(k for k, shut in self.closed.items() if shut), held)
        circuit = self._circuits.get(key) or self._compile(held, rating_a)
        self._circuits[key] = circuit
        ohms = np.where(circuit.wire_index >= 0, wire_ohm[np.maximum(circuit.wire_index, 0)]
                        if len(wire_ohm) else 0.0, circuit.contact_ohm)
        for row, fuse in circuit.fuses:
            ohms[row] = self.topology.contact_ohm(fuse, rating_a)
        values = np.append(circuit.compiled.value[:-1], -push_a) if self.generator and not held else None
        solution = solve(circuit.compiled, ohms=ohms, values=values, start=circuit.load_v)
        circuit.load_v = solution.load_v
        return solution

    def _compile(self, held: bool, rating_a: dict[str, float]) -> "_Circuit":
        topology, plus, minus = self.topology, self.topology.positive, self.topology.negative
        links = topology.conducting(self.state, self.closed)
        loads = list(topology.loads(self.state))
        source = self._cell()
        if self.state == "cranking" and self.plan.machine.cranking_a > 0:
            loads.append(Load(CRANK, plus, minus, "current", self.plan.machine.cranking_a, 1.0))
        if held and self.generator:
            source = Source(self.generator.id, plus, minus, self.generator.set_v)
        elif self.generator:
            loads.append(Load(self.generator.id, plus, minus, "current", 0.0, 1.0))
        at = np.array([self._wire_at.get(k.element, -1) for k in links], int)
        contact = np.array([1.0 if i >= 0 else topology.contact_ohm(k.element, rating_a)
                            for k, i in zip(links, at.tolist(), strict=True)])
        network = Network(minus, tuple(Resistor(k.element, k.a, k.b, float(r))
                                       for k, r in zip(links, contact, strict=True)), (source,), tuple(loads))
        fuses = [(row, k.element) for row, k in enumerate(links) if k.element in rating_a]
        return _Circuit(Compiled(network), at, contact, fuses)


@dataclass
class _Circuit:
    """A compiled network with where its resistances come from, and the loads' voltages it last settled at."""

    compiled: Compiled
    wire_index: NDArray[np.int64]
    contact_ohm: Array
    fuses: list[tuple[int, str]]
    load_v: Array | None = None
