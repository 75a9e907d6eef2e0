"""The solved network in every state: sources, relays and wire temperatures brought to agree.

Engine off, the battery is an EMF behind its resistance at the charge the plan is judged at; a pack always is one
(while charging: at its full voltage). Engine running, the regulator holds its set-point as long as the generator can
give what is drawn; when it cannot, the generator gives all it has as a current and the battery the rest, at battery
voltage. What the battery takes while charging is the plan's charging allowance. A lighting coil is an EMF behind its
winding's resistance and reactance, solved by phasors. Relays are opened and closed until nothing changes: one pulls in
at its pull-in voltage with its contact still open, and holds down to its much lower holding voltage. A state in which
copper joins a supply's two ends is a dead short: it has no figures, only the way of the short.
"""

import math
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..materials.conductors import ALPHA20_PER_K
from ..physics import battery as cell
from ..physics import heat
from ..physics.elements import NetworkError
from ..physics.graph import components
from ..physics.network import KCL_TOLERANCE_A, LOW, ON, Batch, Begin, Conditions, Solution, System
from ..plan.model import (
    LIVE_STATES,
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
from .situations import Situation, situations
from .sources import Sources
from .supplies import battery_v, drive_w, pack_empty_v, pack_full_v, pack_ohm, pack_rested_v
from .thermal import Thermal

Array = NDArray[Any]
BoolArray = NDArray[np.bool_]
TEMPERATURE_ROUNDS = 5
TEMPERATURE_SETTLED_K = 0.02
TURNS, ROUGH_TURNS = 14, 3  # of relays and sources, until they agree with the voltages
ROUGH_A = 1e-5
NEAR_WINDOW = 1.05  # a converter this near to the end of its window is looked at from both sides


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
    `short` is the way of a dead short, from a supply's positive to its negative. `coil_v` are the volts over the coils of closed
    relays that get less than their hot coil needs, with their contacts still open; `hunting` the converters that stay neither on
    nor off, `either` those that stay on once on and off once off.
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
    words: str = ""
    short: tuple[str, ...] = ()
    coil_v: dict[str, float] = field(default_factory=dict)
    hunting: tuple[str, ...] = ()
    either: tuple[str, ...] = ()

    def current(self, element: str) -> float:
        """Current through an element, from its first to its second terminal; 0 when it is open."""
        return self.solution.current_a.get(element, 0.0) if self.solution else 0.0


@dataclass(frozen=True)
class Solved:
    """All states as arrays (state, element), with the temperatures that belong to them."""

    topology: Topology
    wires: tuple[str, ...]
    rows: tuple[Situation, ...]
    batch: Batch
    source: tuple[str, ...]
    available_a: Array
    closed: tuple[dict[str, bool], ...]
    undecided: tuple[tuple[str, ...], ...]
    hottest_c: Array
    mean_c: Array
    surround_c: Array
    ambient_c: Array
    charging_a: Array
    shorts: tuple[tuple[str, ...], ...]
    coil_v: tuple[dict[str, float], ...] = ()
    either: tuple[tuple[str, ...], ...] = ()

    @property
    def states(self) -> tuple[States, ...]:
        """The state of every row."""
        return tuple(row.state for row in self.rows)

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
        """Each state of the plan by itself."""
        return {row.state: self._result(i) for i, row in enumerate(self.rows[:len(self.topology.plan.states)])}

    def alternates(self) -> tuple[StateResult, ...]:
        """What was solved besides the plan's states."""
        return tuple(self._result(i) for i in range(len(self.topology.plan.states), len(self.rows)))

    def _result(self, i: int) -> StateResult:
        plan, failure, row = self.topology.plan, self.batch.failure[i], self.rows[i]
        state, rpm = row.state, plan.machine.rpm(row.state)
        if failure is not None:
            return StateResult(state, rpm, self.source[i], None, str(failure), failure.elements, self.closed[i], (),
                               math.nan, 0.0, 0.0, 0.0, {}, {}, {}, {}, row.words, self.shorts[i])

        def table(values: Array) -> dict[str, float]:
            return dict(zip(self.wires, values[i].tolist(), strict=True))

        solution = self.batch.solution(i)
        available, charging, paid = float(self.available_a[i]), 0.0, 0.0
        supply = [s.name for s in self.batch.system.network.sources]
        battery, generator = plan.battery, plan.generator
        if self.source[i] == "regulated" and battery and generator:
            charging = float(self.charging_a[i])
        elif self.source[i] in ("battery", "short") and battery:
            paid = -float(self.batch.source[i, supply.index(battery.id)])
        elif self.source[i] == "pack":
            paid = -sum(float(self.batch.source[i, supply.index(p.id)]) for p in plan.packs)
        return StateResult(
            state, rpm, self.source[i], solution, "", (), self.closed[i], self.undecided[i],
            abs(complex(self.batch.potential[i, self.batch.system.index[self.topology.positive]])) if
            self.topology.positive else math.nan, available, charging, paid, table(self.hottest_c), table(self.mean_c),
            table(self.surround_c), table(self.ambient_c), row.words, (), self.coil_v[i] if self.coil_v else {},
            self._hunting(i), self.either[i] if self.either else ())

    def _hunting(self, i: int) -> tuple[str, ...]:
        """Converters that dropped out under their own draw, though without it their input is inside their window."""
        batch, law = self.batch, self.batch.system.converter_law
        vin = batch.potential[i, batch.system.ci[0]] - batch.potential[i, batch.system.ci[1]]
        return tuple(c.name for j, c in enumerate(batch.system.network.converters)
                     if batch.converter_mode[i, j] == LOW and np.real(vin[j]) >= law.low_v[j] - 1e-9)


class StateSolver:
    """All situations of a plan. Keeps the last temperatures, relays and voltages as the next start."""

    def __init__(self, topology: Topology, thermal: Thermal) -> None:
        self.topology, self.thermal, self.plan = topology, thermal, topology.plan
        self.rows = situations(self.plan)
        self.states = tuple(row.state for row in self.rows)
        self.system = System(topology.elements)
        self.mean_c = np.full((len(self.rows), len(thermal.wires)), 50.0)
        self.batch: Batch | None = None
        self._contacts = [k.element for k in (*topology.links, *topology.coils)][len(thermal.wires):]
        alike: dict[tuple[bool, ...], dict[str, bool]] = {}  # rows in which the same contacts conduct begin alike
        self.closed = [dict(self._guess_closed(row, alike)) for row in self.rows]
        self._pulled: list[set[str]] = [set() for _ in self.rows]  # relays seen to pull in with their contact open
        self._let_go: list[set[str]] = [set() for _ in self.rows]  # relays that were pulled in and did not hold
        self._joined: dict[Any, tuple[BoolArray, tuple[str, ...], bool]] = {}
        self._base = self._base_conditions()
        self.sources = Sources(topology, self.system, self.rows)

    def solve(self, choices: Choices, rounds: int = TEMPERATURE_ROUNDS) -> Solved:
        """Every row, with wires at their temperature; one round is enough while sizes still change."""
        rough = rounds == 1
        self.sources.begin()
        for turn in range(rounds):
            ohm = self.thermal.ohm(choices.area_mm2, self.mean_c)
            # Sizes have changed since the last solution: what a converter did with those says nothing about these.
            available, undecided = self._settle(ohm, choices.rating_a, rough, "on" if turn == 0 else "kept")
            assert self.batch is not None
            current = np.abs(np.nan_to_num(self.batch.branch[:, : len(self.thermal.wires)]))
            if "cranking" in self.states:
                current[self.states.index("cranking")] = 0.0  # over in seconds: the wires stay as warm as the air
            before = self.mean_c
            hottest, self.mean_c, surround, ambient = self.thermal.temperatures(choices.area_mm2, current)
            change = np.abs(np.minimum(self.mean_c, heat.RUNAWAY_C) - np.minimum(before, heat.RUNAWAY_C))
            if np.max(change, initial=0.0) < TEMPERATURE_SETTLED_K:
                break
        assert self.batch is not None
        return Solved(self.topology, self.thermal.wires, self.rows, self.batch, tuple(self.sources.mode), available,
                      tuple(dict(c) for c in self.closed), undecided, hottest, before, surround, ambient,
                      self.sources.charge_a.copy(), tuple(self._facts(i)[1] for i in range(len(self.rows))),
                      () if rough else self._open_coils(), () if rough else self._either())

    def patterns(self) -> list[BoolArray]:
        """Which contacts and coils conduct in each of the plan's states: the different ones."""
        found = {}
        for i in range(len(self.plan.states)):
            conducts = ~self._facts(i)[0]
            found[conducts.tobytes()] = conducts
        return list(found.values())

    def _guess_closed(self, row: Situation, alike: dict[tuple[bool, ...], dict[str, bool]]) -> dict[str, bool]:
        """Relays whose coil is joined to the source when every contact is: a start that is nearly always right."""
        relays = [p.id for p in self.plan.parts if isinstance(p, Relay)]
        closed = dict.fromkeys(relays, False)
        at, system = self.system.index, self.system
        trigger = [at[self.topology.node(f"{k}.86")] for k in relays]
        begins = tuple(not e.endswith(".coil") and self._conducts(e, row, closed) for e in self._contacts)
        while relays and begins not in alike:
            shut = [not e.endswith(".coil") and self._conducts(e, row, closed) for e in self._contacts]
            pairs = system.r[:, np.array([True] * len(self.thermal.wires) + shut)]
            _, group = components(pairs, system.n)
            live = group == group[at[self.topology.positive]]
            fresh = dict(zip(relays, live[trigger].tolist(), strict=True))
            if fresh == closed:
                break
            closed = fresh
        return alike.setdefault(begins, closed)

    def _conducts(self, element: str, row: Situation, closed: dict[str, bool]) -> bool:
        return self.topology.conducts(element, row.state, closed, row.position)

    def _facts(self, i: int) -> tuple[BoolArray, tuple[str, ...], bool]:
        """Of row i with its relays as they are: which contacts are open, the way of a dead short ("" none), and whether copper
        joins the generator to the rail."""
        row = self.rows[i]
        key = (row.state, row.position, tuple(self.closed[i].values()))
        if key not in self._joined:
            is_open = np.array([not self._conducts(e, row, self.closed[i]) for e in self._contacts], bool)
            coils = np.array([e.endswith(".coil") for e in self._contacts], bool)
            pairs = self.system.r[:, np.concatenate([np.ones(len(self.thermal.wires), bool), ~(is_open | coils)])]
            _, group = components(pairs, self.system.n)
            at = self.system.index
            short: tuple[str, ...] = ()
            for root in self.topology.roots:
                if group[at[root.positive]] == group[at[root.negative]]:
                    dead = {e for e, gone in zip(self._contacts, (is_open | coils).tolist(), strict=True) if gone}
                    dead |= {d.name for d in self.system.network.diodes}
                    short = (root.part, *self.topology.way_of_short(root, dead))
                    break
            generator = self.plan.generator
            joined = generator is not None and all(
                group[at[end]] == group[at[rail]] for end, rail in zip(
                    self.topology.ends(generator), (self.topology.positive, self.topology.negative), strict=True))
            self._joined[key] = is_open, short, joined
        return self._joined[key]

    def _base_conditions(self) -> Conditions:
        """What does not change: live loads and converters, batteries and packs, contacts that follow the state."""
        plan = self.plan
        given = self.system.conditions(len(self.rows))
        self._fuses = [(row, element) for row, element in enumerate(self._contacts, len(self.thermal.wires))
                       if isinstance(self.topology.parts.get(element), FusePart)]
        parts = self.topology.parts
        for i, row in enumerate(self.rows):
            for j, load in enumerate(self.system.network.loads):
                part = parts.get(load.name)
                if isinstance(part, OwnLoad):
                    given.value[i, j] = part.power_w if row.state in LIVE_STATES[part.live] else 0.0
                elif isinstance(part, Drive):
                    given.value[i, j] = drive_w(part, row.state)
                elif isinstance(part, Starter) or load.name == CRANK:
                    given.value[i, j] = plan.machine.cranking_a if row.state == "cranking" else 0.0
                elif isinstance(part, LoadPart) and part.behaviour != "resistor":
                    given.value[i, j] = load.value
            for j, converter in enumerate(self.system.network.converters):
                part = parts[converter.name]
                given.converter_on[i, j] = (part.enabled and row.state in LIVE_STATES[part.live]
                                            if isinstance(part, Port) else isinstance(part, Converter))
            for j, source in enumerate(self.system.network.sources):
                given.across[i, j], given.series[i, j], given.drive[i, j] = self._source(parts[source.name], row)
        if isinstance(plan.supply, Coil):
            given.series, given.drive = given.series.astype(complex), given.drive.astype(complex)
            column = [s.name for s in self.system.network.sources].index(plan.supply.id)
            for i, row in enumerate(self.rows):
                coil, rpm = plan.supply, plan.machine.rpm(row.state)
                given.series[i, column] = -complex(coil.winding_ohm, coil.reactance_mohm_per_rpm * rpm / 1000)
        return given

    def _source(self, part: Any, row: Situation) -> tuple[float, float, float]:
        if part.id in row.away:
            return 0.0, 1.0, 0.0
        if isinstance(part, Battery):
            return 1.0, -cell.internal_ohm(part.internal_mohm / 1000, part.charge_frac), battery_v(part)
        if isinstance(part, Pack):
            volts = pack_full_v(part) if row.state == "charging" else pack_empty_v(part) if row.empty else pack_rested_v(part)
            return 1.0, -pack_ohm(part), volts
        if isinstance(part, Coil):
            rpm = self.plan.machine.rpm(row.state)
            return 1.0, -part.winding_ohm, part.emf_mv_per_rpm * rpm / 1000
        return 0.0, 1.0, 0.0  # a generator that does not turn

    def _settle(self, wire_ohm: Array, rating_a: dict[str, float], rough: bool,
                begin: Begin) -> tuple[Array, tuple[tuple[str, ...], ...]]:
        """Solve, and let relays and sources follow the voltages until all agree; `rough` while sizes still change."""
        turns, tolerance_a = (ROUGH_TURNS, ROUGH_A) if rough else (TURNS, KCL_TOLERANCE_A)
        given, base = self.system.conditions(len(self.rows)), self._base
        given.value, given.converter_on = base.value, base.converter_on
        available = np.zeros(len(self.rows))
        undecided: list[tuple[str, ...]] = [()] * len(self.rows)
        for turn in range(turns):
            given.ohm = self._ohms(wire_ohm, rating_a)
            given.across, given.series, given.drive = base.across.copy(), base.series.copy(), base.drive.copy()
            for i in range(len(self.rows)):
                available[i] = self.sources.drive(i, given, self._facts(i)[2])
            failed = {i: NetworkError("a dead short", short) for i in range(len(self.rows)) if (short := self._facts(i)[1])}
            self.batch = self.system.solve(given, self.batch, tolerance_a, begin if turn == 0 else "kept", failed)
            moved = [self.sources.follow(i, self.batch, available) for i in range(len(self.rows))]
            flipped = [self._follow_relays(i) for i in range(len(self.rows))]
            if turn == turns - 1:
                undecided = [tuple(f) for f in flipped]
            if not any(moved) and not any(flipped):
                break
        return available, tuple(undecided)

    def _ohms(self, wire_ohm: Array, rating_a: dict[str, float]) -> Array:
        ohm = np.empty_like(self._base.ohm)
        wires = len(self.thermal.wires)
        ohm[:, :wires] = wire_ohm
        ohm[:, wires:] = self._base.ohm[:, wires:]
        for row, fuse in self._fuses:
            ohm[:, row] = self.topology.contact_ohm(fuse, rating_a)
        for i in range(len(self.rows)):
            ohm[i, wires:][self._facts(i)[0]] = np.inf
        return ohm

    def _coil_volts(self, batch: Batch, i: int, relay: str) -> float:
        at, node = self.system.index, self.topology.node
        return float(abs(batch.potential[i, at[node(f"{relay}.86")]] - batch.potential[i, at[node(f"{relay}.85")]]))

    def _follow_relays(self, i: int) -> list[str]:
        """Close what pulls in, open what no longer holds. A closed relay under its pull-in voltage is opened once, to see whether
        it would pull in; then it may hold."""
        assert self.batch is not None
        if self.batch.failure[i] is not None:
            return []
        flipped, closed = [], dict(self.closed[i])
        if self.states[i] == "cranking":  # what the key has closed before is closed when the starter begins to turn
            before = self.closed[self.states.index("key_on")]
            self._pulled[i] |= {k for k, shut in before.items() if shut and k not in self._let_go[i]}
        for relay, shut in self.closed[i].items():
            part = self.topology.parts[relay]
            assert isinstance(part, Relay)
            volts = self._coil_volts(self.batch, i, relay)
            if shut:
                stays = volts >= (part.holds_v if relay in self._pulled[i] else part.pull_in_v)
                if volts >= part.pull_in_v:
                    self._pulled[i].add(relay)
            else:
                held = relay in self._pulled[i] and self.states[i] == "cranking" and volts >= part.holds_v
                stays = volts < part.pull_in_v and not held
                if not stays:
                    self._pulled[i].add(relay)
            if not stays:
                if shut and relay in self._pulled[i]:
                    self._let_go[i].add(relay)
                    self._pulled[i].discard(relay)
                closed[relay] = not shut
                flipped.append(relay)
        self.closed[i] = closed
        return flipped

    def _open_coils(self) -> tuple[dict[str, float], ...]:
        """Per row: volts over the coil of each closed relay that gets less than its hot coil needs, its contact still open."""
        assert self.batch is not None
        found: list[dict[str, float]] = [{} for _ in self.rows]
        given = Conditions(*(v.copy() for v in vars(self.batch.given).values()))
        contact = {e: at for at, e in enumerate(self._contacts, len(self.thermal.wires))}
        for i in range(len(self.plan.states)):
            for relay, shut in self.closed[i].items():
                part = self.topology.parts[relay]
                if shut and self.batch.failure[i] is None and isinstance(part, Relay) and self._coil_volts(
                        self.batch, i, relay) < hot_pull_in_v(self.plan, part):
                    found[i][relay] = 0.0
                    given.ohm[i, contact[relay]] = np.inf
        if any(found):
            failed = {i: f for i, f in enumerate(self.batch.failure) if f is not None or not found[i]}
            apart = self.system.solve(given, self.batch, failed={i: f or NetworkError("not asked") for i, f in failed.items()})
            found = [{relay: self._coil_volts(apart, i, relay) for relay in relays if apart.failure[i] is None}
                     for i, relays in enumerate(found)]
        return tuple(found)

    def _either(self) -> tuple[tuple[str, ...], ...]:
        """Per row: converters that are on, and would stay off if they were off: near the lower end of their window."""
        assert self.batch is not None
        batch, law = self.batch, self.system.converter_law
        vin = np.real(batch.potential[:, self.system.ci[0]] - batch.potential[:, self.system.ci[1]])
        near = (batch.converter_mode == ON) & (vin < NEAR_WINDOW * law.low_v)
        if not near.any():
            return ()
        failed = {i: f for i, f in enumerate(batch.failure) if f is not None}
        low = self.system.solve(batch.given, batch, begin="low", failed=failed)
        names = [c.name for c in self.system.network.converters]
        return tuple(tuple(n for j, n in enumerate(names) if near[i, j] and low.failure[i] is None and low.converter_mode[i, j] == LOW)
                     for i in range(len(self.rows)))


def hot_pull_in_v(plan: Plan, relay: Relay) -> float:
    """Volts that a relay needs to pull in with its coil as warm as its place: copper's resistance rises, the ampere-turns stay."""
    return relay.pull_in_v * (1 + ALPHA20_PER_K * (plan.ambient_at(relay.place) - 20))
