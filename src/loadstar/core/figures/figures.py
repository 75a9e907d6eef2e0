"""`compute(plan) -> Figures`: everything that Loadstar computes about a plan, before anything is judged.

    topology (nodes, ways, lengths) -> sizes and ratings with every state solved -> protection -> budget

Results are frozen and keyed by element id. A state that cannot be solved is reported and shows no figures; the rest
stands. Same plan, same figures.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property
from typing import TypeVar

from .. import limits
from ..budget.ledger import Ledger, Parked, break_even_rpm, ledger, parked
from ..budget.lighting import LampVolts, lamp_volts
from ..budget.packs import PackBudget, pack_budget
from ..budget.total_loss import TotalLoss, total_loss
from ..doc.states import States
from ..doc.wires import SIDES
from ..ends.choose import Ends
from ..harness.loom import Loom, loom
from ..materials.coverings import SLEEVED
from ..parts.base import Part
from ..parts.inside import Actuator
from ..physics.generator import GeneratorError
from ..plan.model import Plan
from ..sizing.chafe import Chafe, chafes
from ..sizing.choose import Sized, size
from ..sizing.unfused import Unfused, bridged, unfused_ways
from ..supply.base import Supply
from ..wiring.circuit import Link
from ..wiring.direction import Turned, turned
from ..wiring.results import StateResult
from ..wiring.thermal import Thermal
from ..wiring.topology import CircuitPath, Topology
from .joins import Joins
from .mains import Main, mains_of
from .rated import Ratings
from .volts import Volts
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
    def volts(self) -> Volts:
        """Volts of every load, in every state at every stand of the switches."""
        return Volts(self.plan, self.topology, self.states, self.sized.alternates if self.sized else ())

    @cached_property
    def ratings(self) -> Ratings:
        """What fuses, ways and contacts are rated, and what they carry."""
        return Ratings(self.plan, self.topology, self.sized)

    @cached_property
    def joins(self) -> Joins:
        """What copper joins, and what that does."""
        return Joins(self.plan, self.topology, self.volts)

    @cached_property
    def mains(self) -> dict[str, Main]:
        """The circuits that no accessory has, by the part at their end."""
        return mains_of(self.plan, self.topology)

    @property
    def is_solved(self) -> bool:
        """Whether any state has figures."""
        return any(r.solution is not None for r in self.states.values())

    def path(self, load: str) -> CircuitPath:
        """The way to a load and back."""
        return self.topology.paths[load]

    def link(self, element: str) -> Link:
        """What conducts, between its nodes."""
        return next(k for k in self.topology.links if k.element == element)

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
            for wire in b.made if b.covering in SLEEVED and len(b.made) > 1 else ():
                covered.setdefault(wire, []).append(b.run.id)
        kept = {(w.id, side) for w in self.plan.wires for side in SIDES if self.topology.keeps(w, side)}
        return Ends(self.plan, self.sized.choices.area_mm2, self.sized.peak_a,
                    {wire: " ".join(runs) for wire, runs in covered.items()}, kept)

    @property
    def actuators(self) -> list[tuple[Part, Actuator]]:
        """Every part that a coil works, with its coil."""
        return [(self.plan.part(part), coil) for part, coil in self.topology.actuators.items()]


def compute(plan: Plan, solved: Sized | None = None) -> Figures:
    """Every figure of a plan. `solved`: of a plan with the same currents in the same wires, which then are not solved
    again."""
    fault, floats_rpm = _generator_fault(plan)
    # With ratings that fit no generator, the battery alone is what can be computed.
    usable = plan if fault is None else plan.model_copy(
        update={"parts": tuple(p for p in plan.parts if p.id != fault[0]),
                "wires": tuple(w for w in plan.wires if fault[0] not in (w.a.part, w.b.part)),
                "joins": tuple(j for j in plan.joins if fault[0] not in (j.a.part, j.b.part))})
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
        break_even_rpm=floats_rpm if account is plan else break_even_rpm(account),
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


def _generator_fault(plan: Plan) -> tuple[tuple[str, str] | None, float | None]:
    """What is wrong with the generator's ratings, by its id; or the speed from which it gives what is asked for."""
    if plan.generator is None:
        return None, None
    try:
        return None, break_even_rpm(plan)
    except GeneratorError as error:
        return (plan.generator.id, str(error)), None
