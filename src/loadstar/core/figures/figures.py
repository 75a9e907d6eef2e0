"""`compute(plan) -> Figures`: everything that Loadstar computes about a plan, before anything is judged.

    topology (nodes, ways, lengths) -> sizes and ratings with every state solved -> protection -> budget

Results are frozen and keyed by element id. A state that cannot be solved is reported and shows no figures; the rest
stands. Same plan, same figures.
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import TypeVar

from .. import limits
from ..budget.ledger import Ledger, Parked, battery_hours, break_even_rpm, ledger, parked
from ..budget.lighting import LampVolts, lamp_volts
from ..budget.packs import PackBudget, pack_budget
from ..budget.total_loss import TotalLoss, total_loss
from ..doc.states import JUDGED_STATES, States
from ..ends.choose import Ends
from ..harness.loom import Loom, loom
from ..materials import fuses
from ..parts.base import Part
from ..parts.converter import Converter
from ..parts.coupling import Coupling
from ..parts.inside import Actuator
from ..parts.load import LoadPart
from ..physics.generator import GeneratorError
from ..plan.model import Plan
from ..plan.stands import together
from ..sizing.chafe import Chafe, chafes
from ..sizing.choose import Sized, size
from ..sizing.contacts import most_a
from ..sizing.drops import LEAST_A, LEAST_V, drop_frac
from ..sizing.unfused import Unfused, bridged, unfused_ways
from ..supply.base import Supply
from ..wiring.circuit import Link
from ..wiring.direction import Turned, turned
from ..wiring.references import Groups
from ..wiring.results import StateResult
from ..wiring.thermal import Thermal
from ..wiring.topology import CircuitPath, Topology
from .wires import WireResult, wire_results

T = TypeVar("T")


@dataclass(frozen=True)
class Figures:
    """Everything computed about a plan, before it is judged."""

    plan: Plan
    topology: Topology
    sized: Sized | None
    wires: dict[str, WireResult]
    ledgers: dict[States, Ledger]
    break_even_rpm: float | None
    parked: Parked | None
    pack: PackBudget | None = None
    lamps: LampVolts | None = None
    total_loss: TotalLoss | None = None
    chafes: dict[str, Chafe] = field(default_factory=dict)
    unfused: dict[str, Unfused] = field(default_factory=dict)
    bridged: dict[str, tuple[str, ...]] = field(default_factory=dict)
    turned: tuple[Turned, ...] = ()
    generator_fault: tuple[str, str] | None = None
    # as it was given: `plan` may lack a generator that cannot be understood
    whole_plan: Plan = field(default_factory=Plan)
    # what took more time or memory than it was given, in words
    left_out: tuple[str, ...] = ()

    @property
    def account(self) -> Plan:
        """The plan as the budget counts it: without a source that gives nothing as it is joined, and without what
        nothing is wired to."""
        return _account(self.plan, self.turned)

    @property
    def source(self) -> Supply:
        """What the machine's circuits hang on."""
        return self.topology.source

    @property
    def states(self) -> dict[States, StateResult]:
        """The solved states; empty when there is no battery to solve them with."""
        return self.sized.states if self.sized else {}

    @cached_property
    def rows(self) -> tuple[StateResult, ...]:
        """Every state of the plan, each followed by itself with its switches otherwise than they are taken to stand."""
        other = [r for r in self.sized.alternates if r.turned] if self.sized else []
        return tuple(row for state, result in self.states.items()
                     for row in (result, *(r for r in other if r.state == state)))

    def turns(self, state: States) -> tuple[StateResult, ...]:
        """A state as its switches are taken to stand, then at every other stand that is looked at; none, where the plan
        has no such state."""
        return tuple(r for r in self.rows if r.state == state)

    def ridden(self, state: States) -> StateResult:
        """A state as the machine is ridden: with nothing pressed."""
        return next((r for r in self.rows if r.state == state and r.is_ridden), self.states[state])

    def row(self, load: str, state: States) -> StateResult | None:
        """A state as it is looked at for a load: with the switches so that it is on and gets the least volts; where it
        never is then, as the state stands."""
        return self._row_of.get((state, load), self.states.get(state))

    def row_through(self, element: str, state: States) -> StateResult:
        """A state with its switches so that an element carries most."""
        return max((r for r in self.rows if r.state == state), key=lambda r: abs(r.current(element)))

    @cached_property
    def _row_of(self) -> dict[tuple[States, str], StateResult]:
        least: dict[tuple[States, str], tuple[float, StateResult]] = {}
        for row, volts in self._row_volts:
            for load, v in volts.items():
                key = (row.state, load)
                if key not in least or abs(v) < least[key][0]:
                    least[key] = (abs(v), row)
        return {key: row for key, (_, row) in least.items()}

    @cached_property
    def _row_volts(self) -> list[tuple[StateResult, dict[str, float]]]:
        """By solved row the volts across every load that carries current, negative where it is reversed (AC: its
        amount)."""
        return [(row, row.solution.load_volts(LEAST_A)) for row in self.rows if row.solution is not None]

    @property
    def is_solved(self) -> bool:
        """Whether any state has figures."""
        return any(r.solution is not None for r in self.states.values())

    @property
    def rated(self) -> dict[str, float]:
        """Ratings of fuses and settings of ways, chosen or fixed."""
        return self.sized.choices.rating_a if self.sized else {}

    def rating_a(self, fuse: str) -> float:
        """What a fuse or way is rated or set to: chosen, fixed, or found on the machine."""
        assert self.sized is not None
        protects = self.topology.parts[fuse].protection
        assert protects is not None, fuse
        if protects.chosen:
            return self.sized.choices.rating_a[fuse]
        assert protects.stated_a is not None, fuse
        return protects.stated_a

    def short_a(self, element: str) -> float:
        """What an element carries at the most while the starter turns."""
        return self.sized.short_a.get(element, 0.0) if self.sized else 0.0

    def rating_or_none_a(self, element: str) -> float | None:
        """Rating of a fuse, a way or a contact, chosen or fixed; None for what has none, or where nothing could be
        computed."""
        if self.sized is None:
            return None
        return self.rated.get(element, self.sized.contact_a.get(element))

    def contact_a(self, contact: str) -> float:
        """A relay's or switch's contact rating, chosen or fixed; infinite where nothing could be computed."""
        return self.sized.contact_a[contact] if self.sized else math.inf

    def fuse_share_frac(self, fuse: str) -> float:
        """Share of what a fuse stands at the temperature around it that its largest current takes."""
        ambient = self.plan.ambient_at(self.topology.parts[fuse].place)
        return self.peak_a(fuse) / fuses.rerated_a(self.rating_a(fuse), ambient)

    def peak_a(self, element: str) -> float:
        """Largest current of an element over the states."""
        return self.sized.peak_a.get(element, 0.0) if self.sized else 0.0

    def through_contact(self, part: str) -> tuple[str, float]:
        """Of a part's contacts the one that carries most, and how much."""
        return most_a(self.topology, part, self.sized.peak_a if self.sized else {})

    def path(self, load: str) -> CircuitPath:
        """The way to a load and back."""
        return self.topology.paths[load]

    def link(self, element: str) -> Link:
        """What conducts, between its nodes."""
        return next(k for k in self.topology.links if k.element == element)

    def across_v(self, load: str, state: States) -> float | None:
        """Volts across a load in a state, the least of any stand of the switches in which it is on; None when it never
        is then, or nothing of the state has a solution."""
        found = self._load_v.get(state, {}).get(load)
        return min(map(abs, found)) if found else None

    def most_v(self, load: str, state: States) -> float | None:
        """The most volts across a load in a state, by any stand of the switches; None when it is never on then."""
        found = self._load_v.get(state, {}).get(load)
        return max(map(abs, found)) if found else None

    @cached_property
    def _load_v(self) -> dict[States, dict[str, list[float]]]:
        """By state the volts across every load that is on, at each stand of the switches at which it is."""
        found: dict[States, dict[str, list[float]]] = {}
        for row, volts in self._row_volts:
            here = found.setdefault(row.state, {})
            for load, v in volts.items():
                here.setdefault(load, []).append(v)
        return found

    def drop_frac(self, load: LoadPart, state: States) -> float | None:
        """Share of the posts' voltage lost on the way to a load and back."""
        result = self.row(load.id, state)
        return drop_frac(self.topology, result, load) if result else None

    def is_reversed(self, load: str, state: States) -> bool:
        """Whether a load's positive lies below its negative in a state (of DC)."""
        return self.source.key != "magneto" and min(self._load_v.get(state, {}).get(load, ()), default=0.0) < -LEAST_V

    def reversed_in(self, load: str) -> States | None:
        """The first state in which a load is reversed; None where it never is."""
        return next((s for s in self.states if self.plan.is_one(load, LoadPart) and self.is_reversed(load, s)), None)

    def lives_beyond(self, load: LoadPart) -> tuple[States, ...]:
        """States in which a load has voltage though it is not meant to live then."""
        meant = self.plan.lives_in(load)
        return tuple(s for s in self.states if s not in meant and (self.across_v(load.id, s) or 0.0) > LEAST_V)

    @cached_property
    def joined(self) -> Groups:
        """Which nodes copper joins with every contact closed."""
        return Groups(self.topology, None)

    @cached_property
    def in_series(self) -> tuple[tuple[LoadPart, LoadPart], ...]:
        """Pairs of loads of which the one's negative is the other's positive, and joined to no supply."""
        groups = self.joined
        rails = {groups.of(end) for root in self.topology.roots for end in (root.positive, root.negative)}
        begins = {groups.of_terminal(p.at("pos")): p for p in self.plan.loads}
        return tuple((p, begins[end]) for p in self.plan.loads
                     if (end := groups.of_terminal(p.at("neg"))) in begins and end not in rails
                     and begins[end] is not p)

    @cached_property
    def back_fed(self) -> tuple[tuple[str, tuple[States, ...], tuple[str, ...]], ...]:
        """The machine's own wires and relays that are dead or open in a state, yet live behind from another feed:
        which, in which states, and the loads that live then though they are not meant to."""
        found: dict[str, tuple[list[States], dict[str, None]]] = {}
        own = {p.id for p in self.plan.parts if p.FUSED_BEFORE}  # what the machine itself has users on
        gates = [b for b in self.topology.branches.values() if b.follows or (b.opens and b.ref.part in own)]
        for state, result in self.states.items():
            if result.solution is None or self.source.key == "magneto":
                continue
            groups = Groups(self.topology, state, result.closed)
            live = groups.of(self.topology.positive)
            alive = [p for p in self.plan.loads if state in self.lives_beyond(p)]
            for gate in gates:
                if self.topology.conducts(gate.ref, state, result.closed) or groups.of_terminal(gate.b) != live:
                    continue
                part = gate.ref.part
                victims = [p.id for p in alive if gate.ref in {k.element for k in self.path(p.id).feed}
                           or groups.of_terminal(p.at("pos")) == groups.of_terminal(gate.b)]
                if victims or part in own:
                    states, who = found.setdefault(part, ([], {}))
                    states.append(state)
                    who.update(dict.fromkeys(victims))
        return tuple((e, tuple(states), tuple(who)) for e, (states, who) in found.items())

    @cached_property
    def loom(self) -> Loom | None:
        """What lies in each run, how thick, and the board; None before anything has been sized."""
        return loom(self.topology, self.sized.choices.area_mm2) if self.sized else None

    @cached_property
    def ends(self) -> Ends | None:
        """What every wire ends in; None before anything has been sized."""
        if self.sized is None or self.loom is None:
            return None
        covered: dict[str, list[str]] = {}
        for b in self.loom.bundles:
            for wire in b.wires if b.covering == "braided sleeve" and len(b.wires) > 1 else ():
                covered.setdefault(wire, []).append(b.run.id)
        return Ends(self.plan, self.sized.choices.area_mm2, self.sized.peak_a,
                    {wire: " ".join(runs) for wire, runs in covered.items()})

    def feeding_side(self, part: Coupling) -> str:
        """The side of a connector, "a" or "b", that feeds come to it from; "" where none goes through it, or from both.
        """
        ways = {f"{part.id}.w{n}" for n in range(1, part.ways + 1)}
        flows = [row.current(link.element) for load in self.plan.loads for link in self.path(load.id).feed
                 if link.element in ways for row in self.rows]
        found = {"a" if amps > 0 else "b" for amps in flows if abs(amps) > LEAST_A}
        return found.pop() if len(found) == 1 else ""

    @property
    def actuators(self) -> list[tuple[Part, Actuator]]:
        """Every part that a coil works, with its coil."""
        return [(self.plan.part(part), coil) for part, coil in self.topology.actuators.items()]

    def closed_before_cranking(self, relay: str) -> bool:
        """Whether a relay is already closed with the key on, before the starter turns."""
        return "key_on" in self.states and self.states["key_on"].closed.get(relay, False)

    def begins_v(self, load: str, state: States) -> float:
        """Voltage at which a load's circuit begins: at the posts, or at its converter's output."""
        result, root = self.row(load, state), self.topology.paths[load].root
        assert result is not None, state
        return abs(result.solution.across_v(root.positive, root.negative)) if result.solution else float("nan")

    def bms_margin_a(self) -> float:
        """Amps left to the pack's continuous limit at full power, everything on; negative is over it."""
        assert self.pack is not None
        return self.plan.packs[0].bms_continuous_a - self.pack.full_power_a

    def hardest_lamp(self) -> tuple[LoadPart, float]:
        """The lamp on the magneto that is furthest over its voltage at the highest speed, and its volts."""
        assert self.lamps is not None
        machine, found = self.plan.machine, self.lamps
        rpm = machine.rpm(machine.fastest)
        lamp = max((p for p in self.plan.loads if p.id in found.lamps), key=lambda p: found.at(p.id, rpm) / p.at_v)
        return lamp, found.at(lamp.id, rpm)

    def worst_when_one_fails(self) -> tuple[LoadPart, LoadPart, float] | None:
        """The failure of one lamp that is hardest on another at town speed: which, on which, and its volts."""
        assert self.lamps is not None
        rpm, found = self.plan.machine.town_rpm, self.lamps
        lamps = [p for p in self.plan.loads if p.id in found.lamps]
        pairs = [(found.at_failed(a.id, b.id, rpm), a, b) for a in lamps for b in lamps if a is not b]
        if not pairs:
            return None
        volts, gone, other = max(pairs, key=lambda pair: pair[0] / pair[2].at_v)
        return gone, other, volts

    def on_ac(self, load: LoadPart) -> bool:
        """Whether a load hangs on a lighting coil."""
        return self.source.key == "magneto" or self.plan.by_coil(load)

    def is_starved(self, load: str) -> bool:
        """Whether a load hangs on a converter or light port that is asked for more than it gives: its voltage falls for
        that."""
        part = self.plan.is_one(load, LoadPart)
        made = self.plan.second_supply(self.plan.hangs_on(part)) if part else None
        return made is not None and sum(
            p.draws_a(made.out_v) for p in together(self.plan, made.id, made.out_v)) > made.most_a

    def converter_asked_a(self, converter: Converter) -> float:
        """What is asked of a converter's output with everything on that may be on together."""
        return sum(p.draws_a(converter.out_v) for p in together(self.plan, converter.id, converter.out_v))

    def converter_worst_in(self, converter: Converter) -> tuple[float, float]:
        """A converter's input current (A) at the lowest voltage it works at, and that voltage: the pack nearly
        empty."""
        low = max(converter.window_low_v, min((p.empty_v for p in self.plan.packs), default=converter.window_low_v))
        return converter.input_a(min(self.converter_asked_a(converter), converter.rated_a), low), low

    def stator_short_a(self) -> float:
        """Current (rms) in each winding lead of a shorted permanent-magnet generator at cruise: E / Z."""
        generator = self.plan.generator
        assert generator is not None
        winding, rpm = generator.winding, self.plan.machine.cruise_rpm
        return winding.k_v_per_rpm * rpm / math.hypot(winding.r_ohm, winding.x_ohm_per_rpm * rpm) / math.sqrt(2)

    def worst_drop(self, load: LoadPart) -> tuple[States | None, float]:
        """The judged state that loses most, and the share lost."""
        return self._worst_drops[load.id]

    def lives(self, load: LoadPart, state: States) -> bool:
        """Whether a load is meant to live in a state of this machine."""
        return state in self.source.states and state in self.plan.lives_in(load)

    @cached_property
    def _worst_drops(self) -> dict[str, tuple[States | None, float]]:
        return {p.id: self._worst_drop_of(p) for p in self.plan.loads}

    def _worst_drop_of(self, load: LoadPart) -> tuple[States | None, float]:
        lost = [(self.drop_frac(load, s) or 0.0, s) for s in self.states if s in JUDGED_STATES]
        most = max(lost, key=lambda one: one[0], default=(0.0, None))
        return (most[1], most[0]) if most[0] > 0 else (None, 0.0)

    def hours(self, state: States) -> float:
        """Hours that the battery can pay in a state before it no longer cranks."""
        return battery_hours(self.plan, self.ridden(state)) if self.states else float("nan")

    def lowest_load(self, states: Sequence[States] = JUDGED_STATES) -> tuple[LoadPart, States, float] | None:
        """The load with the lowest voltage over some states, that state and the volts."""
        found = [(v, load, s) for load in self.plan.loads for s in states
                 if (v := self.across_v(load.id, s)) is not None]
        if not found:
            return None
        volts, load, state = min(found, key=lambda one: one[0])
        return load, state, volts

    @property
    def breaking_a(self) -> float:
        """What a blade fuse can interrupt."""
        return fuses.BREAKING_CAPACITY_A

    def hottest_wire(self, state: States | None = None) -> tuple[str, float] | None:
        """The wire nearest its limit in a state (or over all), and its temperature."""
        if state is None:
            found = [(w.class_c - w.hottest_c, w.id, w.hottest_c) for w in self.wires.values()
                     if math.isfinite(w.hottest_c)]
        else:
            here = self.states[state].wire_c if state in self.states else {}
            found = [(self.wires[w].class_c - c, w, c) for w, c in here.items()]
        return min(found)[1:] if found else None

    def weakest_wire(self) -> tuple[str, float] | None:
        """The guarded wire with the least strength, and that strength."""
        found = [(s, w.id) for w in self.wires.values() if (s := w.strength) is not None]
        return (min(found)[1], min(found)[0]) if found else None


def compute(plan: Plan, solved: Sized | None = None) -> Figures:
    """Every figure of a plan. `solved`: of a plan with the same currents in the same wires, which then are not solved
    again."""
    fault = _generator_fault(plan)
    # With ratings that fit no generator, the battery alone is what can be computed.
    usable = plan if fault is None else plan.model_copy(
        update={"parts": tuple(p for p in plan.parts if p.id != fault[0])})
    topology = Topology(usable)
    stands = turned(topology)
    account = _account(usable, stands)
    left_out: list[str] = []
    sized = _within_bounds(left_out, "what flows in the wires", lambda: solved or (
        size(topology, Thermal(topology)) if usable.supply else None))
    if sized and sized.faults.unfollowed:
        left_out.append("what becomes of faults between very many fuses side by side")
    return Figures(
        plan=usable, topology=topology, sized=sized, wires=wire_results(topology, sized) if sized else {},
        ledgers={state: ledger(account, state) for state in topology.source.states},
        break_even_rpm=break_even_rpm(account),
        parked=parked(account), pack=pack_budget(account), total_loss=total_loss(account),
        lamps=_within_bounds(left_out, "lamp volts with one lamp failed", lambda: lamp_volts(
            topology, sized.choices, sized.warm_c)) if sized else None,
        unfused=unfused_ways(topology, sized.faults) if sized else {},
        bridged=bridged(topology, sized.faults) if sized else {},
        chafes=(_within_bounds(left_out, "touches to the frame", lambda: chafes(topology, sized)) or {})
        if sized else {},
        turned=stands, generator_fault=fault, whole_plan=plan, left_out=tuple(left_out))


def _account(plan: Plan, stands: tuple[Turned, ...]) -> Plan:
    """A plan for the budget: without a source that gives nothing as it is joined, and without what asks for something
    and is wired to nothing (a machine's own parts, which nobody draws, lie on the rail)."""
    idle = {t.part for t in stands if plan.part(t.part).GIVES}
    idle |= {p.id for p in plan.parts if p.CONSUMES and p.id not in plan.wired and p is not plan.supply}
    left = tuple(p for p in plan.parts if p.id not in idle)
    return plan if len(left) == len(plan.parts) else plan.model_copy(update={"parts": left})


def _within_bounds(left_out: list[str], what: str, computed: Callable[[], T]) -> T | None:
    """A part of the figures; None, and its words in `left_out`, when it takes more time or memory than there is."""
    try:
        with limits.at_most_half():  # so that something is left for judging what could be computed
            limits.check()
            return computed()
    except (limits.TooLarge, MemoryError):
        left_out.append(what)
        return None


def _generator_fault(plan: Plan) -> tuple[str, str] | None:
    if plan.generator is None:
        return None
    try:
        break_even_rpm(plan)
    except GeneratorError as error:
        return plan.generator.id, str(error)
    return None
