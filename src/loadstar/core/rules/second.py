"""Rules about a second 12 V battery: charged with the engine, what flows when joined, apart while cranking, long enough
parked."""

import math
from collections.abc import Iterator
from dataclasses import dataclass

from ..budget.ledger import supply_a
from ..doc.states import RUNNING
from ..edits import ChangeElement
from ..figures.figures import Figures
from ..findings import Finding, Proposal
from ..parts.charging_diode import ChargingDiode
from ..parts.fuse import FusePart
from ..parts.second import SecondBattery
from ..wiring.results import StateResult
from .registry import Say, rule
from .words import amps, span

LEAST_A = 1e-3  # below which nothing flows
CRANKING_SHARE = 0.02  # of the starter's current, below which a second battery takes no part in cranking
USABLE_FRAC = 0.5  # of its capacity: what a lead battery gives without harm
FULL_V = 13.8  # below which a lead battery does not become full
DIODE_SPARE = 1.25  # times what flows: the next diode
OPENS_AT = 1.35  # times its rating, at which a blade fuse opens within half an hour


def charging_a(part: SecondBattery, row: StateResult) -> float:
    """What goes into a second battery in a state, less what comes out of it at the same time; negative: it gives."""
    return abs(row.current(part.element("takes"))) - abs(row.current(part.id))


@dataclass(frozen=True)
class Joined:
    """A running state in which current flows into a second battery: how much, and volts at the posts of both."""

    taken_a: float
    own_v: float
    its_v: float
    loads_a: float


def _joined(figures: Figures, part: SecondBattery) -> Iterator[Joined]:
    topology, battery = figures.topology, figures.plan.battery
    for row in figures.volts.rows if battery else ():
        if row.state in RUNNING and row.solution is not None and (taken_a := row.current(part.id)) > LEAST_A:
            own_v, its_v = (row.solution.across_v(*(topology.node(p.at(end)) for end in ("pos", "neg")))
                            for p in (battery, part) if p)
            yield Joined(taken_a, own_v, its_v, sum(abs(row.current(p.id)) for p in figures.plan.fed_from(part.id)))


def _diodes(figures: Figures, part: SecondBattery) -> list[ChargingDiode]:
    return [d for d in figures.plan.of(ChargingDiode) if d.made_for == part.id]


def first_a(figures: Figures, part: SecondBattery) -> float | None:
    """What flows into a half empty second battery at first, by what it accepts and what lies before it, at the highest
    of the running states; None if nothing flows into it."""
    drop_v = sum(d.drop_mv for d in _diodes(figures, part)) / 1000
    return max(((at.own_v - drop_v - part.drawn_v)
                / (max(0.0, at.own_v - at.its_v - drop_v) / (at.taken_a + at.loads_a) + part.accepts_ohm)
                for at in _joined(figures, part)), default=None)


@rule(
    "second.not-charged",
    meaning="Nothing flows into the second battery while the engine runs: what joins it to the machine's own is open "
            "or missing.",
    cure="An isolator that closes with the engine, or a charging diode; see to coil, contact and fuses.",
    source="Solved network")
def not_charged(figures: Figures, say: Say) -> Iterator[Finding]:
    """Second batteries that take nothing, half empty, in any running state."""
    for part in figures.plan.of(SecondBattery):
        solved = any(r.state in RUNNING and r.solution is not None for r in figures.volts.rows)
        if solved and not any(_joined(figures, part)):
            yield say("caution", (part.id,), (
                f"Nothing charges {part.name}: even half empty it takes nothing while the engine runs."), "energy")


@rule(
    "second.not-full",
    meaning="Behind its diode the second battery sees too little to become full: a lead battery that never does ages "
            "early.",
    cure="An isolator relay, or a diode with a smaller drop.",
    source="Solved network, less the diode's drop; lead batteries are charged at 13.8 V or more (usual; see the "
           "maker's data)")
def not_full(figures: Figures, say: Say) -> Iterator[Finding]:
    """The most that is left behind a charging diode once the current has died away."""
    for part in figures.plan.of(SecondBattery):
        diodes = _diodes(figures, part)
        drop_v = sum(d.drop_mv for d in diodes) / 1000
        left_v = max((at.own_v - drop_v for at in _joined(figures, part)), default=FULL_V)
        if diodes and part.chemistry != "lfp" and left_v < FULL_V:
            yield say("advice", (part.id, diodes[0].id), (
                f"Behind {diodes[0].name} there are {left_v:.2f} V at most; {part.name} wants {FULL_V:g} V to become "
                "full."), "energy", "", (
                Proposal(ChangeElement(id=part.id, values={"joined_by": "isolator"}), "Use an isolator relay"),))


@rule(
    "diode.rating",
    meaning="More flows through a charging diode than it is rated for: it overheats.",
    cure="A larger diode, or one with its heat sink.",
    source="Solved network; the diode's stated rating")
def diode_rating(figures: Figures, say: Say) -> Iterator[Finding]:
    """The most in any state against what is stated."""
    for part in figures.plan.of(ChargingDiode):
        flows = max((row.current(part.id) for row in figures.volts.rows), default=0.0)
        if flows > part.rated_a:
            yield say("stop", (part.id,), (
                f"{part.name} is rated {part.rated_a:g} A; {flows:.1f} A flow through it."), "circuit", "", (
                Proposal(ChangeElement(id=part.id, values={"rated_a": math.ceil(flows * DIODE_SPARE)}),
                         f"Take one for {math.ceil(flows * DIODE_SPARE)} A"),))


@rule(
    "second.rush",
    meaning="When a half empty second battery is joined to the machine's own, more flows at first than the fuses "
            "between them stand.",
    cure="State what flows at first, so that fuses and wires are chosen for it; or a converter that limits it.",
    source="Volts between the two over what lies between them, from the solved network, and what a half empty battery "
           "accepts (lead: 1.2 ohm over its Ah, assumed); a blade fuse opens within half an hour at 1.35 times its "
           "rating (ISO 8820-3)")
def rush(figures: Figures, say: Say) -> Iterator[Finding]:
    """The first current at half charge, against the fuses that were made for it."""
    for part in figures.plan.of(SecondBattery):
        flows = first_a(figures, part)
        fuses = [p for p in figures.plan.of(FusePart) if p.made_for == part.id and figures.sized]
        least = min(fuses, key=lambda f: figures.ratings.rating_a(f.id), default=None)
        if flows is None or least is None or flows <= OPENS_AT * figures.ratings.rating_a(least.id):
            continue
        most_v = max(at.own_v for at in _joined(figures, part))
        enough = math.ceil((most_v - part.drawn_v) / part.accepts_ohm)  # with leads and fuses that take nothing
        yield say("caution", (part.id, least.id), (
            f"Half empty, {part.name} takes about {flows:.0f} A when the engine starts and the two are joined; "
            f"{least.name} is {figures.ratings.rating_a(least.id):g} A."), "energy", "", (
            Proposal(ChangeElement(id=part.id, values={"joined_a": enough}), f"Choose for {enough} A"),))


@rule(
    "second.cranks",
    meaning="The second battery is joined to the machine's own while the starter turns: its leads and fuses carry a "
            "part of the starter's current.",
    cure="A split-charge relay that is open while cranking: one that is live with the engine.",
    source="Solved network, cranking")
def cranks(figures: Figures, say: Say) -> Iterator[Finding]:
    """What comes out of a second battery while cranking, past what hangs on it."""
    cranking = figures.states.get("cranking")
    if cranking is None:
        return
    for part in figures.plan.of(SecondBattery):
        own_a = sum(abs(cranking.current(p.id)) for p in figures.plan.fed_from(part.id))
        share_a = abs(cranking.current(part.id)) - own_a
        if share_a > CRANKING_SHARE * figures.plan.machine.cranking_a:
            yield say("caution", (part.id,), (
                f"While the starter turns {part.name} gives {share_a:.0f} A of it, through leads and fuses that are "
                "not made for that."), "energy")


@rule(
    "second.flat",
    meaning="What is always live on the second battery empties it within the house rule's days.",
    cure="Less that is always live, a larger battery, or a charger.",
    source="Half of its stated capacity, over what draws on; house rule: parked days")
def flat(figures: Figures, say: Say) -> Iterator[Finding]:
    """Days until the second battery is half empty."""
    for part in figures.plan.of(SecondBattery):
        draw_a = sum(p.average_a(supply_a(figures.plan, p, part.resting_v)) for p in figures.plan.fed_from(part.id)
                     if p.live == "always")
        hours = USABLE_FRAC * part.capacity_ah / draw_a if draw_a > 0 else float("inf")
        if hours < 24 * figures.plan.rules.parked_days:
            yield say("caution", (part.id,), (
                f"Parked, {amps(draw_a)} empty {part.name} to a half in {span(hours)}; the house rule is "
                f"{figures.plan.rules.parked_days:g} days."), "energy")
