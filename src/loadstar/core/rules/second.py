"""Rules about a second 12 V battery: charged with the engine, what flows when joined, apart while cranking, long enough
parked."""

import math
from collections.abc import Iterator

from ..budget.ledger import supply_a
from ..doc.states import RUNNING
from ..edits import ChangeElement
from ..figures.figures import Figures
from ..findings import Finding, Proposal
from ..parts.fuse import FusePart
from ..parts.second import SecondBattery
from ..physics import battery as cell
from ..wiring.results import StateResult
from .registry import rule
from .words import amps, span

LEAST_A = 1e-3  # below which nothing flows
CRANKING_SHARE = 0.02  # of the starter's current, below which a second battery takes no part in cranking
USABLE_FRAC = 0.5  # of its capacity: what a lead battery gives without harm
OPENS_AT = 1.35  # times its rating, at which a blade fuse opens within half an hour


def charging_a(part: SecondBattery, row: StateResult) -> float:
    """What goes into a second battery in a state, less what comes out of it at the same time; negative: it gives."""
    return abs(row.current(part.element("takes"))) - abs(row.current(part.id))


def first_a(figures: Figures, part: SecondBattery) -> float | None:
    """What flows into a half empty second battery at first, at the highest of the running states; None if nothing joins
    the two."""
    topology, battery = figures.topology, figures.plan.battery
    if battery is None:
        return None
    found: list[float] = []
    for row in figures.rows:
        gets_a = charging_a(part, row)
        if row.state not in RUNNING or row.solution is None or gets_a < LEAST_A:
            continue
        own_v, its_v = (row.solution.across_v(*(topology.node(p.at(end)) for end in ("pos", "neg")))
                        for p in (battery, part))
        between_ohm = (own_v - its_v) / (gets_a + sum(abs(row.current(p.id)) for p in figures.plan.fed_from(part.id)))
        found.append((own_v - cell.rested_v(USABLE_FRAC, part.chemistry, 12)) / (
            between_ohm + cell.internal_ohm(part.internal_mohm / 1000, USABLE_FRAC)))
    return max(found, default=None)


@rule(
    "second.not-charged",
    meaning="Nothing charges the second battery while the engine runs: what joins it to the machine's own is open.",
    cure="An isolator that closes with the engine; see to its coil, contact and fuses.",
    source="Solved network")
def not_charged(figures: Figures) -> Iterator[Finding]:
    """Second batteries that in no running state get more than they give."""
    for part in figures.plan.of(SecondBattery):
        running = [r for r in figures.rows if r.state in RUNNING and r.solution is not None]
        gets_a = [charging_a(part, r) for r in running]
        if running and max(gets_a) <= LEAST_A:
            yield Finding("second.not-charged", "caution", (part.id,), (
                f"Nothing charges {part.name}: with the engine running it gives {amps(max(-max(gets_a), 0.0))} to what "
                "hangs on it, and gets nothing."), "energy")


@rule(
    "second.rush",
    meaning="When a half empty second battery is joined to the machine's own, more flows at first than the fuses "
            "between them stand.",
    cure="State what flows at first, so that fuses and wires are chosen for it; or a converter that limits it.",
    source="Volts between the two over what lies between them, from the solved network; a blade fuse opens within half "
           "an hour at 1.35 times its rating (ISO 8820-3)")
def rush(figures: Figures) -> Iterator[Finding]:
    """The first current at half charge, against the fuses that were made for it."""
    for part in figures.plan.of(SecondBattery):
        flows = first_a(figures, part)
        fuses = [p for p in figures.plan.of(FusePart) if p.made_for == part.id and figures.sized]
        least = min(fuses, key=lambda f: figures.rating_a(f.id), default=None)
        if flows is None or least is None or flows <= OPENS_AT * figures.rating_a(least.id):
            continue
        enough = math.ceil(flows)
        yield Finding("second.rush", "caution", (part.id, least.id), (
            f"Half empty, {part.name} takes about {flows:.0f} A when the engine starts and the two are joined; "
            f"{least.name} is {figures.rating_a(least.id):g} A."), "energy", "", (
            Proposal(ChangeElement(id=part.id, values={"joined_a": enough}), f"Choose for {enough} A"),))


@rule(
    "second.cranks",
    meaning="The second battery is joined to the machine's own while the starter turns: its leads and fuses carry a "
            "part of the starter's current.",
    cure="An isolator that is open while cranking: one that lives with the engine.",
    source="Solved network, cranking")
def cranks(figures: Figures) -> Iterator[Finding]:
    """What comes out of a second battery while cranking, past what hangs on it."""
    cranking = figures.states.get("cranking")
    if cranking is None:
        return
    for part in figures.plan.of(SecondBattery):
        own_a = sum(abs(cranking.current(p.id)) for p in figures.plan.fed_from(part.id))
        share_a = abs(cranking.current(part.id)) - own_a
        if share_a > CRANKING_SHARE * figures.plan.machine.cranking_a:
            yield Finding("second.cranks", "caution", (part.id,), (
                f"While the starter turns {part.name} gives {share_a:.0f} A of it, through leads and fuses that are "
                "not made for that."), "energy")


@rule(
    "second.flat",
    meaning="What is always live on the second battery empties it within the house rule's days.",
    cure="Less that is always live, a larger battery, or a charger.",
    source="Half of its stated capacity, over what draws on; house rule: parked days")
def flat(figures: Figures) -> Iterator[Finding]:
    """Days until the second battery is half empty."""
    for part in figures.plan.of(SecondBattery):
        draw_a = sum(p.average_a(supply_a(figures.plan, p, part.resting_v)) for p in figures.plan.fed_from(part.id)
                     if p.live == "always")
        hours = USABLE_FRAC * part.capacity_ah / draw_a if draw_a > 0 else float("inf")
        if hours < 24 * figures.plan.rules.parked_days:
            yield Finding("second.flat", "caution", (part.id,), (
                f"Parked, {amps(draw_a)} empty {part.name} to a half in {span(hours)}; the house rule is "
                f"{figures.plan.rules.parked_days:g} days."), "energy")
