"""What the survey says: charge at rest, days by the standing current, how sure a pin is."""

import math

from ..parts.tap import Tap
from ..physics import battery as cell
from ..survey.health import rested_charge, standing_hours
from ..survey.pins import CONFLICT_SHARE, DOUBTED, evidence
from ..survey.shows import kind_words, with_state
from .figures import Figures
from .registry import TAP, NoFigure, figure
from .working import READ, Input, Working


@figure("rested_charge")
def charge(figures: Figures) -> Working:
    """Charge by the rested voltage."""
    found = rested_charge(figures.plan)
    if found is None:
        raise NoFigure("No rested voltage has been read.")
    value, reading, (low, high) = found
    return Working("Charge by the rested voltage", "q", value, "",
                   "min(max(q_0 + (q_1 - q_0) * (U - U_0) / (U_1 - U_0), 0), 1)", (
        Input("U", reading.value, "V", "at the posts, key off", READ),
        Input("q_0", low[0], "", "charge at the point below", cell.OCV_SOURCE),
        Input("U_0", low[1], "V", "its voltage", cell.OCV_SOURCE),
        Input("q_1", high[0], "", "charge at the point above", cell.OCV_SOURCE),
        Input("U_1", high[1], "V", "its voltage", cell.OCV_SOURCE)),
        "Only after four hours of rest; between the points by a straight line.")


@figure("standing_days")
def standing(figures: Figures) -> Working:
    """Days by the standing current found."""
    found, battery = standing_hours(figures.plan), figures.plan.battery
    if found is None or battery is None:
        raise NoFigure("No standing current has been read.")
    hours, usable, reading = found
    return Working("Days by the standing current", "t", hours / 24, "days", "Q / (I + f * C / H) / 24", (
        Input("Q", usable, "Ah", "from the charge found down to what still cranks", "battery model"),
        Input("I", abs(reading.value), "A", "everything off", READ),
        Input("f", cell.SELF_DISCHARGE_FRAC_PER_MONTH[battery.chemistry], "", "self-discharge a month",
              "usual values at 20-25 °C"),
        Input("C", battery.capacity_ah, "Ah", "capacity", "entered in the plan"),
        Input("H", cell.MONTH_H, "h", "hours of a month")))


@figure("pin_sure", TAP)
def sure(figures: Figures, part: Tap) -> Working:
    """How sure it is what a pin is."""
    if not any(r.element == part.id for r in figures.plan.readings):
        raise NoFigure(f"{part.name} has no readings.")
    kind, prior, readings, rest = evidence(figures.plan, part)
    inputs = [Input("q", prior, "", f"share of pins that are {kind_words(figures.plan)[kind]}",
                    "our estimate, before anything is read")]
    inputs += [Input(f"p_{i}", p, "",
                     f"that such a pin shows {r.value:g} {r.quantity} with {with_state(figures.plan, r.state)}",
                     "our estimate")
               for i, (r, p) in enumerate(readings, 1)]
    product = " * ".join(i.symbol for i in inputs)
    inputs.append(Input("r", rest, "", "the same product, summed over all other kinds", "the same estimates"))
    doubted = any(p < CONFLICT_SHARE for _, p in readings)
    weight = math.prod((prior, *(p for _, p in readings)))
    formula, value = f"{product} / ({product} + r)", weight / (weight + rest)
    if doubted:
        formula, value = f"min({formula}, d)", min(value, DOUBTED)
        inputs.append(Input("d", DOUBTED, "", "most that is said while readings contradict each other"))
    return Working(f"How sure: {part.name} is {kind_words(figures.plan)[kind]}", "P", value, "", formula, tuple(inputs),
                   "By Bayes' rule, readings taken as independent. The shares are estimates that rank the kinds; they "
                   "measure nothing.")
