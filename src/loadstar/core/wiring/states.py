"""The solved network in every state: sources, relays and wire temperatures brought to agree.

Engine off, the battery is an EMF behind its resistance at the charge the plan is judged at; a pack always is one
(while charging: at its full voltage). Engine running, the regulator holds its set-point as long as the generator can
give what is drawn; when it cannot, the generator gives all it has as a current and the battery the rest, at battery
voltage. What the battery takes while charging is the plan's charging allowance. A lighting coil is an EMF behind its
winding's resistance and reactance, solved by phasors. Relays are opened and closed until nothing changes.
"""

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from ..physics import battery as cell
from ..physics import heat
from ..physics.network import KCL_TOLERANCE_A, Batch, Conditions, Solution, System
from ..plan.model import (
    LIVE_STATES,
    RUNNING,
    Battery,
    Coil,
    Converter,
    Drive,
    FusePart,
    LoadPart,
    OwnLoad,
    Pack,
    Plan,
    Port,
    Relay,
    Starter,
    States,
)
from .circuit import CRANK, Topology
from .supplies import available_a, battery_v, drive_w, pack_full_v, pack_ohm, pack_rested_v
from .thermal import Thermal

Array = NDArray[Any]
TEMPERATURE_ROUNDS = 5
TEMPERATURE_SETTLED_K = 0.02
TURNS, ROUGH_TURNS = 14, 3  # of relays and sources, until they agree with the voltages
ROUGH_A = 1e-5
SOURCE_SETTLED_V = 5e-3  # the straight line through the generator's current is exact to microvolts within this
SLOPE_V = 0.05


@dataclass(frozen=True)
class Choices:
    """What is decided: area of every wire (mm2) and rating of every fuse or way (A), and whether by hand."""

    area_mm2: dict[str, float]
    rating_a: dict[str, float]


@dataclass(frozen=True)
class StateResult:
    """One state, solved. `source` says how it is fed: "battery", "regulated" or "short" (battery helps out), "pack",
    or "coil".

    `available_a` is what the generator can give, `charging_a` what goes into the battery, `battery_a` what comes out.
    By wire: `wire_c` where it is hottest, `wire_mean_c` over its length as the network was solved with, `ambient_c` the air around its hottest
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


@dataclass(frozen=True)
class Solved:
    """All states as arrays (state, element), with the temperatures that belong to them."""

    topology: Topology
    wires: tuple[str, ...]
    states: tuple[States, ...]
    batch: Batch
    source: tuple[str, ...]
    available_a: Array
    closed: tuple[dict[str, bool], ...]
    undecided: tuple[tuple[str, ...], ...]
    hottest_c: Array
    mean_c: Array
    surround_c: Array
    ambient_c: Array

    def wire_a(self) -> Array:
        """Currents of the wires (states, wires); 0 where a state has no solution."""
        return np.asarray(np.abs(np.nan_to_num(self.batch.branch[:, : len(self.wires)])))

    def peaks(self) -> dict[str, float]:
        """The largest current of each element over all states but cranking, which lasts seconds."""
        b = self.batch
        lasting = [i for i, s in enumerate(self.states) if s != "cranking"]
        rows = np.concatenate([b.branch, b.source, b.load, b.diode, b.converter_out, b.converter_in], axis=1)[lasting]
        worst = np.max(np.abs(np.nan_to_num(rows)), axis=0, initial=0.0)
        return dict(zip(b.system.names, worst.tolist(), strict=True))

    def results(self) -> dict[States, StateResult]:
        """Each state by itself."""
        return {state: self._result(i, state) for i, state in enumerate(self.states)}

    def _result(self, i: int, state: States) -> StateResult:
        plan, failure = self.topology.plan, self.batch.failure[i]
        rpm = plan.machine.rpm(state)
        if failure is not None:
            return StateResult(state, rpm, self.source[i], None, str(failure), failure.elements, self.closed[i], (),
                               math.nan, 0.0, 0.0, 0.0, {}, {}, {}, {})

        def table(values: Array) -> dict[str, float]:
            return dict(zip(self.wires, values[i].tolist(), strict=True))

        solution = self.batch.solution(i)
        available, charging, paid = float(self.available_a[i]), 0.0, 0.0
        supply = [s.name for s in self.batch.system.network.sources]
        battery, generator = plan.battery, plan.generator
        if self.source[i] == "regulated" and battery and generator:
            drawn = -float(self.batch.source[i, supply.index(generator.id)])
            # What the battery takes flows at the posts and changes no voltage beyond them.
            charging = min(battery.charge_a, available - drawn)
        elif self.source[i] in ("battery", "short") and battery:
            paid = -float(self.batch.source[i, supply.index(battery.id)])
        elif self.source[i] == "pack":
            paid = -sum(float(self.batch.source[i, supply.index(p.id)]) for p in plan.packs)
        return StateResult(
            state, rpm, self.source[i], solution, "", (), self.closed[i], self.undecided[i],
            abs(complex(self.batch.potential[i, self.batch.system.index[self.topology.positive]])) if
            self.topology.positive else math.nan, available, charging, paid, table(self.hottest_c), table(self.mean_c),
            table(self.surround_c), table(self.ambient_c))


class StateSolver:
    """All states of a plan. Keeps the last temperatures, relays and voltages as the next start."""

    def __init__(self, topology: Topology, thermal: Thermal) -> None:
        self.topology, self.thermal, self.plan = topology, thermal, topology.plan
        self.states = self.plan.states
        self.system = System(topology.elements)
        self.lengths = np.array([topology.geometry[w].length_m for w in thermal.wires])
        self.mean_c = np.full((len(self.states), len(thermal.wires)), 50.0)
        self.mode = [_first_mode(self.plan, state) for state in self.states]
        self.push_v = np.full(len(self.states), math.nan)  # posts' voltage that the generator's current was taken at
        self.batch: Batch | None = None
        self._contacts = [k.element for k in (*topology.links, *topology.coils)][len(thermal.wires):]
        alike: dict[tuple[bool, ...], dict[str, bool]] = {}  # states in which the same contacts conduct begin alike
        self.closed = [dict(self._guess_closed(state, alike)) for state in self.states]
        self._at = {s.name: i for i, s in enumerate(topology.elements.sources)}
        self._open: dict[Any, NDArray[np.bool_]] = {}
        self._base = self._base_conditions()

    def solve(self, choices: Choices, rounds: int = TEMPERATURE_ROUNDS) -> Solved:
        """Every state, with wires at their temperature; one round is enough while sizes still change."""
        r20, _, _ = self.thermal.sizes(choices.area_mm2)
        ends = self.thermal.ends_ohm(choices.area_mm2)
        for _ in range(rounds):
            ohm = heat.resistance_at(r20, np.minimum(self.mean_c, heat.RUNAWAY_C)) * self.lengths + ends
            available, undecided = self._settle(ohm, choices.rating_a, rough=rounds == 1)
            assert self.batch is not None
            current = np.abs(np.nan_to_num(self.batch.branch[:, : len(self.lengths)]))
            if "cranking" in self.states:
                current[self.states.index("cranking")] = 0.0  # over in seconds: the wires stay as warm as the air
            before = self.mean_c
            hottest, self.mean_c, surround, ambient = self.thermal.temperatures(choices.area_mm2, current)
            change = np.abs(np.minimum(self.mean_c, heat.RUNAWAY_C) - np.minimum(before, heat.RUNAWAY_C))
            if np.max(change, initial=0.0) < TEMPERATURE_SETTLED_K:
                break
        assert self.batch is not None
        return Solved(self.topology, self.thermal.wires, self.states, self.batch, tuple(self.mode), available,
                      tuple(dict(c) for c in self.closed), undecided, hottest, before, surround, ambient)

    def _guess_closed(self, state: States, alike: dict[tuple[bool, ...], dict[str, bool]]) -> dict[str, bool]:
        """Relays whose coil is joined to the source when every contact is: a start that is nearly always right."""
        relays = [p.id for p in self.plan.parts if isinstance(p, Relay)]
        closed = dict.fromkeys(relays, False)
        at, system = self.system.index, self.system
        trigger = [at[self.topology.node(f"{k}.86")] for k in relays]
        begins = tuple(not e.endswith(".coil") and self.topology.conducts(e, state, closed) for e in self._contacts)
        while relays and begins not in alike:
            shut = [not e.endswith(".coil") and self.topology.conducts(e, state, closed) for e in self._contacts]
            pairs = system.r[:, np.array([True] * len(self.lengths) + shut)]
            _, group = connected_components(coo_array((np.ones(pairs.shape[1], np.int8), tuple(pairs)),
                                                      shape=(system.n, system.n)), directed=False)
            live = group == group[at[self.topology.positive]]
            fresh = dict(zip(relays, live[trigger].tolist(), strict=True))
            if fresh == closed:
                break
            closed = fresh
        return alike.setdefault(begins, closed)

    def _base_conditions(self) -> Conditions:
        """What does not change: live loads and converters, batteries and packs, contacts that follow the state."""
        plan, states = self.plan, self.states
        given = self.system.conditions(len(states))
        self._fuses = [(row, element) for row, element in enumerate(self._contacts, len(self.lengths))
                       if isinstance(self.topology.parts.get(element), FusePart)]
        parts = self.topology.parts
        for i, state in enumerate(states):
            for j, load in enumerate(self.system.network.loads):
                part = parts.get(load.name)
                if isinstance(part, OwnLoad):
                    given.value[i, j] = part.power_w if state in LIVE_STATES[part.live] else 0.0
                elif isinstance(part, Drive):
                    given.value[i, j] = drive_w(plan, part, state)
                elif isinstance(part, Starter) or load.name == CRANK:
                    given.value[i, j] = plan.machine.cranking_a if state == "cranking" else 0.0
                elif isinstance(part, LoadPart) and part.behaviour != "resistor":
                    given.value[i, j] = load.value
            for j, converter in enumerate(self.system.network.converters):
                part = parts[converter.name]
                given.converter_on[i, j] = (part.enabled and state in LIVE_STATES[part.live]
                                            if isinstance(part, Port) else isinstance(part, Converter))
            for name, j in self._at.items():
                given.across[i, j], given.series[i, j], given.drive[i, j] = self._source(parts[name], state)
        if isinstance(plan.supply, Coil):
            given.series, given.drive = given.series.astype(complex), given.drive.astype(complex)
            for i, state in enumerate(states):
                coil, rpm = plan.supply, plan.machine.rpm(state)
                given.series[i, self._at[coil.id]] = -complex(coil.winding_ohm, coil.reactance_mohm_per_rpm * rpm / 1000)
        return given

    def _source(self, part: Any, state: States) -> tuple[float, float, float]:
        if isinstance(part, Battery):
            return 1.0, -cell.internal_ohm(part.internal_mohm / 1000, part.charge_frac), battery_v(part)
        if isinstance(part, Pack):
            return 1.0, -pack_ohm(part), pack_full_v(part) if state == "charging" else pack_rested_v(part)
        if isinstance(part, Coil):
            rpm = self.plan.machine.rpm(state)
            return 1.0, -part.winding_ohm, part.emf_mv_per_rpm * rpm / 1000
        return 0.0, 1.0, 0.0  # a generator that does not turn

    def _settle(self, wire_ohm: Array, rating_a: dict[str, float], rough: bool) -> tuple[Array, tuple[tuple[str, ...], ...]]:
        """Solve, and let relays and sources follow the voltages until all agree; `rough` while sizes still change."""
        turns, tolerance_a = (ROUGH_TURNS, ROUGH_A) if rough else (TURNS, KCL_TOLERANCE_A)
        given, base = self.system.conditions(len(self.states)), self._base
        given.value, given.converter_on = base.value, base.converter_on
        available = np.zeros(len(self.states))
        undecided: list[tuple[str, ...]] = [()] * len(self.states)
        for turn in range(turns):
            given.ohm = self._ohms(wire_ohm, rating_a)
            given.across, given.series, given.drive = base.across.copy(), base.series.copy(), base.drive.copy()
            for i in range(len(self.states)):
                available[i] = self._drive(i, given)
            self.batch = self.system.solve(given, self.batch, tolerance_a)
            moved = [self._follow_sources(i, available) for i in range(len(self.states))]
            flipped = [self._follow_relays(i) for i in range(len(self.states))]
            if turn == turns - 1:
                undecided = [tuple(f) for f in flipped]
            if not any(moved) and not any(flipped):
                break
        return available, tuple(undecided)

    def _ohms(self, wire_ohm: Array, rating_a: dict[str, float]) -> Array:
        ohm = np.empty_like(self._base.ohm)
        ohm[:, : len(self.lengths)] = wire_ohm
        ohm[:, len(self.lengths):] = self._base.ohm[:, len(self.lengths):]
        for row, fuse in self._fuses:
            ohm[:, row] = self.topology.contact_ohm(fuse, rating_a)
        for i, state in enumerate(self.states):
            key = (state, tuple(self.closed[i].values()))
            if key not in self._open:
                self._open[key] = np.array([not self.topology.conducts(e, state, self.closed[i]) for e in self._contacts],
                                           bool)
            ohm[i, len(self.lengths):][self._open[key]] = np.inf
        return ohm

    def _drive(self, i: int, given: Conditions) -> float:
        """Write the source's equation of state i for its mode; what the generator can give there."""
        generator, battery, plan = self.plan.generator, self.plan.battery, self.plan
        if self.mode[i] == "clamped" and isinstance(plan.supply, Coil):
            at = self._at[plan.supply.id]
            given.series[i, at], given.drive[i, at] = 0.0, float(plan.supply.clamp_v or 0.0)
            return 0.0
        if generator is None or self.mode[i] not in ("regulated", "short"):
            return 0.0
        at, rpm = self._at[generator.id], plan.machine.rpm(self.states[i])
        if self.mode[i] == "regulated":
            given.across[i, at], given.series[i, at], given.drive[i, at] = 1.0, 0.0, generator.set_v
            if battery:
                own = self._at[battery.id]
                given.across[i, own], given.series[i, own], given.drive[i, own] = 0.0, 1.0, 0.0
            return available_a(generator, rpm, generator.set_v)
        if math.isnan(self.push_v[i]):
            self.push_v[i] = battery_v(battery) if battery else generator.set_v
        # Its current over voltage as a straight line around the last voltage: i = I + I' (v - v_0), flowing out.
        most = available_a(generator, rpm, self.push_v[i])
        slope = (available_a(generator, rpm, self.push_v[i] + SLOPE_V) - available_a(
            generator, rpm, self.push_v[i] - SLOPE_V)) / (2 * SLOPE_V)
        given.across[i, at], given.series[i, at] = slope, 1.0
        given.drive[i, at] = slope * self.push_v[i] - most
        return most

    def _follow_sources(self, i: int, available: Array) -> bool:
        batch, plan = self.batch, self.plan
        assert batch is not None
        if batch.failure[i] is not None:
            return False
        if isinstance(plan.supply, Coil):
            clamp, volts = plan.supply.clamp_v, float(abs(batch.potential[i, self.system.index[self.topology.positive]]))
            if clamp and self.mode[i] == "coil" and volts > clamp + 1e-9:
                self.mode[i] = "clamped"
                return True
            return False
        generator = plan.generator
        if generator is None or self.mode[i] not in ("regulated", "short"):
            return False
        if self.mode[i] == "regulated":
            if -batch.source[i, self._at[generator.id]] <= available[i] + 1e-9:
                return False
            self.mode[i] = "short"
            return True
        posts = float(batch.potential[i, self.system.index[self.topology.positive]])
        if posts > generator.set_v + 1e-9:
            self.mode[i], self.push_v[i] = "regulated", math.nan
            return True
        before, self.push_v[i] = self.push_v[i], posts
        available[i] = -batch.source[i, self._at[generator.id]]
        return bool(abs(posts - before) > SOURCE_SETTLED_V)

    def _follow_relays(self, i: int) -> list[str]:
        batch, at = self.batch, self.system.index
        assert batch is not None
        if batch.failure[i] is not None:
            return []
        flipped, closed = [], dict(self.closed[i])
        for relay in closed:
            part = self.topology.parts[relay]
            assert isinstance(part, Relay)
            volts = abs(batch.potential[i, at[self.topology.node(f"{relay}.86")]]
                        - batch.potential[i, at[self.topology.node(f"{relay}.85")]])
            if (volts >= part.pull_in_v) != closed[relay]:
                closed[relay] = not closed[relay]
                flipped.append(relay)
        self.closed[i] = closed
        return flipped


def _first_mode(plan: Plan, state: States) -> str:
    if isinstance(plan.supply, Pack):
        return "pack"
    if isinstance(plan.supply, Coil):
        return "coil"
    return "regulated" if plan.generator and state in RUNNING else "battery"
