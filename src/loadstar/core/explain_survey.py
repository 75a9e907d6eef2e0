"""The working of what the survey says: charge at rest, days by the standing current, how sure a pin is."""

import math
from collections.abc import Callable

from .analysis import Analysis
from .physics import battery as cell
from .plan.model import Battery, Pack, Tap
from .survey.health import rested_charge, standing_hours
from .survey.pins import CONFLICT_SHARE, DOUBTED, KIND_WORDS, STATE_WORDS, evidence
from .working import Input, Working

READ = "reading as found"


def charge(analysis: Analysis) -> Working:
    """Charge by the rested voltage."""
    found, supply = rested_charge(analysis.plan), analysis.plan.supply
    if found is None:
        raise KeyError("rested")
    value, reading = found
    if isinstance(supply, Pack):
        low, high = cell.pack_charge_between(reading.value, supply.chemistry, supply.series)
    else:
        assert isinstance(supply, Battery)
        low, high = cell.charge_between(reading.value, supply.chemistry, supply.nominal_v)
    return Working("Charge by the rested voltage", "q", value, "", "min(max(q_0 + (q_1 - q_0) * (U - U_0) / (U_1 - U_0), 0), 1)", (
        Input("U", reading.value, "V", "at the posts, key off", READ),
        Input("q_0", low[0], "", "charge at the point below", cell.OCV_SOURCE), Input("U_0", low[1], "V", "its voltage", cell.OCV_SOURCE),
        Input("q_1", high[0], "", "charge at the point above", cell.OCV_SOURCE), Input("U_1", high[1], "V", "its voltage", cell.OCV_SOURCE)),
        "Only after four hours of rest; between the points by a straight line.")


def standing(analysis: Analysis) -> Working:
    """Days by the standing current found."""
    found, battery = standing_hours(analysis.plan), analysis.plan.battery
    if found is None or battery is None:
        raise KeyError("standing")
    hours, usable, reading = found
    return Working("Days by the standing current", "t", hours / 24, "days", "Q / (I + f * C / H) / 24", (
        Input("Q", usable, "Ah", "from the charge found down to what still cranks", "battery model"),
        Input("I", abs(reading.value), "A", "everything off", READ),
        Input("f", cell.SELF_DISCHARGE_FRAC_PER_MONTH[battery.chemistry], "", "self-discharge a month", "usual values at 20-25 °C"),
        Input("C", battery.capacity_ah, "Ah", "capacity", "stated in the plan"), Input("H", cell.MONTH_H, "h", "hours of a month")))


def sure(analysis: Analysis, pin: str) -> Working:
    """How sure it is what a pin is."""
    part = analysis.plan.part(pin)
    if not isinstance(part, Tap):
        raise KeyError(pin)
    kind, prior, readings, rest = evidence(analysis.plan, part)
    inputs = [Input("q", prior, "", f"share of pins that are {KIND_WORDS[kind]}", "our estimate, before anything is read")]
    inputs += [Input(f"p_{i}", p, "", f"that such a pin shows {r.value:g} {r.quantity} with {STATE_WORDS[r.state]}", "our estimate")
               for i, (r, p) in enumerate(readings, 1)]
    product = " * ".join(i.symbol for i in inputs)
    inputs.append(Input("r", rest, "", "the same product, summed over all other kinds", "the same estimates"))
    doubted = any(p < CONFLICT_SHARE for _, p in readings)
    weight = math.prod((prior, *(p for _, p in readings)))
    formula, value = f"{product} / ({product} + r)", weight / (weight + rest)
    if doubted:
        formula, value = f"min({formula}, d)", min(value, DOUBTED)
        inputs.append(Input("d", DOUBTED, "", "most that is said while readings contradict each other"))
    return Working(f"How sure: {part.name} is {KIND_WORDS[kind]}", "P", value, "", formula, tuple(inputs),
                   "By Bayes' rule, readings taken as independent. The shares are estimates that rank the kinds; they measure nothing.")


EXPLAINED: dict[str, Callable[..., Working]] = {"rested_charge": charge, "standing_days": standing, "pin_sure": sure}


def keys(analysis: Analysis) -> list[str]:
    """Every key of these that has an answer for this plan."""
    read = {r.element for r in analysis.plan.readings}
    found = [f"pin_sure/{p.id}" for p in analysis.plan.parts if isinstance(p, Tap) and p.id in read]
    found += ["rested_charge"] if rested_charge(analysis.plan) else []
    return [*found, *(["standing_days"] if standing_hours(analysis.plan) else [])]
