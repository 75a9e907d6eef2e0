"""Rules about the budget: charging margin, break-even, standing draw, cranking."""

from collections.abc import Iterator

from ..amounts import percent
from ..doc.states import STATE_NAMES
from ..figures.figures import Figures
from ..figures.supply import battery_time_h
from ..findings import Finding
from ..physics import battery as cell
from .registry import Say, rule
from .words import amps, listed, span, verb


@rule(
    "budget.short",
    meaning="In a running state the machine and its accessories draw more than the generator gives: the battery "
            "discharges.",
    cure="Switch something off at low speed, LED for filament, a larger winding, a higher idle.",
    source="Generator model and ledger of docs/physics.md")
def short(figures: Figures, say: Say) -> Iterator[Finding]:
    """Margin in idle, town and cruise."""
    if figures.plan.generator is None or figures.generator_fault:
        return
    for state in (s for s in ("idle", "town", "cruise") if s in figures.ledgers):
        account = figures.ledgers[state]
        if account.margin_a >= 0:
            continue
        hours = battery_time_h(figures, state)
        ends = "it no longer cranks" if figures.plan.machine.cranking_a > 0 else "it is flat"  # a kick needs no charge
        lasts = f" The battery lasts about {span(hours)} before {ends}." if hours < 1e4 else ""
        yield say.of(state)("caution", (), (
            f"{STATE_NAMES[state]}: load {account.demand_a:.1f} A, generator {account.given_a:.1f} A: "
            f"{-account.margin_a:.1f} A short.{lasts}"), "energy", f"margin/{state}")


@rule(
    "budget.never",
    meaning="No engine speed gives enough for the load: the battery is never charged.",
    cure="Take load off, or fit a larger generator.",
    source="Generator model of docs/physics.md")
def never(figures: Figures, say: Say) -> Iterator[Finding]:
    """No break-even speed at all."""
    if figures.plan.generator is not None and not figures.generator_fault and figures.break_even_rpm is None:
        yield say("caution", (), (
            "The battery discharges at every engine speed: the generator gives less than the load."), "energy",
            "margin/cruise")


@rule(
    "budget.parked",
    meaning="Key-off current and self-discharge empty the battery sooner than the workshop wants.",
    cure="Switch constant loads with the key, a larger battery, a charging lead.",
    source="Battery model of docs/physics.md; house rule: parked days")
def parked_too_short(figures: Figures, say: Say) -> Iterator[Finding]:
    """Days parked against the house rule."""
    found, wanted = figures.parked, figures.plan.rules.parked_days
    if found is None or found.least_charge > 1 or found.days >= wanted:
        return
    drawing = [p for p in figures.plan.loads if p.live == "always" and p.average_a(p.current_a) > 0]
    culprits = [p.name for p in drawing]
    who = f" {listed(culprits)} {verb(len(culprits), 'is', 'are')} live then." if culprits else ""
    yield say("caution", tuple(p.id for p in drawing), (
        f"Key-off current {amps(found.draw_a)}: the battery still starts the engine for {span(found.days * 24)}. "
        "House rule: "
        f"{wanted:g} days.{who}"), "energy", "parked")


@rule(
    "budget.crank",
    meaning="Even a full battery falls below the limit while cranking.",
    cure="A battery with less internal resistance; check the cranking current.",
    source="At least 9.6 V at the posts while cranking at 20 °C (house rule)")
def crank(figures: Figures, say: Say) -> Iterator[Finding]:
    """Cranking voltage of the full battery, and at the judged charge."""
    plan, battery = figures.plan, figures.plan.battery
    if battery is None or figures.parked is None:
        return
    if figures.parked.least_charge > 1:
        volts = cell.cranking_v(battery.internal_mohm / 1000, 1.0, plan.machine.cranking_a, battery.chemistry,
                                battery.nominal_v)
        yield say("stop", (battery.id,), (
            f"Full, the battery holds {volts:.2f} V while the starter draws {plan.machine.cranking_a:g} A; the limit "
            f"is {plan.rules.crank_limit_at(battery.nominal_v):g} V."), "machine", "crank_full")
    elif figures.parked.least_charge > battery.charge_frac:
        yield say("caution", (battery.id,), (
            f"At the judged charge of {percent(battery.charge_frac)} the battery no longer holds "
            f"{plan.rules.crank_limit_at(battery.nominal_v):g} V while cranking; it needs "
            f"{percent(figures.parked.least_charge)}."), "machine",
            "least_charge")


@rule(
    "supply.no-battery",
    meaning="Without a battery in the plan no circuit can be computed.",
    cure="Enter the battery under Survey.",
    source="The plan")
def no_battery(figures: Figures, say: Say) -> Iterator[Finding]:
    """No battery yet."""
    if figures.plan.supply is None:
        yield say("note", (),
                      "No battery, pack or lighting coil has been entered yet: nothing can be fed.", "machine")


@rule(
    "supply.generator",
    meaning="The generator's two ratings fit no machine of this kind.",
    cure="Check watts, speeds and winding resistance.",
    source="Generator model of docs/physics.md")
def generator_ratings(figures: Figures, say: Say) -> Iterator[Finding]:
    """Ratings that identify no winding."""
    if figures.generator_fault:
        element, why = figures.generator_fault
        yield say("caution", (element,), (
            f"The generator's two ratings cannot be understood: {why}. Until then only the battery is reckoned with."),
            "machine")
