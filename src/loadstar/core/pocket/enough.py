"""Does the generator give enough, and does the battery last?"""

import math
from typing import Annotated, ClassVar

from pydantic import Field

from ..doc.rules import HouseRules
from ..edits.builder import Builder
from ..errors import refuse
from ..figures.figures import compute
from ..figures.registry import NoFigure, working
from ..figures.working import Working
from ..materials.typical import MIDDLE, SMALL, TOURING, Engine
from ..parts.asks import Ask
from ..physics.battery import rested_v
from ..plan.model import Plan
from ..quantities import NoQuantity, read
from .base import Answer, Question

IDLE_RPM, RATED_RPM = 1300, 5000
KEYS = ("margin/idle", "margin/cruise", "break_even", "hours/key_on", "parked")
FULL_V = rested_v(1.0, "agm")  # at which a draw is turned to watts
MOST_LISTED, MOST_TOGETHER_W = 40, 2000.0


class Enough(Question):
    """A generator, a battery, and a list of what is on."""

    KEY: ClassVar[str] = "enough"
    TITLE: ClassVar[str] = "Is the generator enough?"
    ASKS: ClassVar[tuple[Ask, ...]] = (
        Ask("rated_w", "Generator, at speed", "What it is stated for, usually at 5,000 rpm."),
        Ask("idle_w", "Generator, at idle", "Empty: as is usual, about a third.", optional=True),
        Ask("own_w", "The machine itself, running", "Ignition, injection, lamps."),
        Ask("listed", "What is added, in watts", "One after the other: 20 8 100", kind="text"),
        Ask("capacity_ah", "Battery"),
        Ask("standing_ma", "Draws with the key off"))

    rated_w: Annotated[float, Field(ge=10, le=3000)] = 350
    idle_w: Annotated[float, Field(ge=1, le=3000)] | None = None
    own_w: Annotated[float, Field(gt=0, le=2000)] = 150
    listed: Annotated[str, Field(max_length=200)] = "40 20"
    capacity_ah: Annotated[float, Field(ge=0.5, le=200)] = 10
    standing_ma: Annotated[float, Field(ge=0, le=5000)] = 1

    @property
    def _like(self) -> Engine:
        """The engine whose generator is about as large, for what nobody reads off a label."""
        return min((SMALL, MIDDLE, TOURING), key=lambda one: abs(math.log(one.generator_w.usual / self.rated_w)))

    @property
    def added_w(self) -> list[float]:
        """The list, read."""
        words = self.listed.replace("+", " ").replace(";", " ").split()
        if len(words) > MOST_LISTED:
            raise refuse("", "listed", f"{MOST_LISTED} at the most: add small ones up.")
        try:
            found = [read(word, "W") for word in words]
        except NoQuantity as error:
            raise refuse("", "listed", f"{error} Write watts, one after the other: 20 8 100.") from error
        if any(watts <= 0 for watts in found):
            raise refuse("", "listed", "Every one of them draws something: more than 0 W.")
        return found

    def plan(self, rules: HouseRules) -> Plan:
        """A machine with that generator and battery, and with all that is added as one load."""
        b = Builder("Is the generator enough?", Plan(rules=rules))
        idle_w = self.idle_w if self.idle_w is not None else self._like.idle_share.usual * self.rated_w
        if idle_w > self.rated_w:
            raise refuse("", "idle_w", "At idle it gives no more than at speed.")
        b.machine(name="A machine", kind="motorcycle", idle_rpm=IDLE_RPM, cruise_rpm=RATED_RPM,
                  typical=("idle_rpm", "town_rpm", "cruise_rpm", "cranking_a"))
        at = b.add("place", name="at the battery")
        b.add("battery", name="battery", place=at, capacity_ah=self.capacity_ah,
              internal_mohm=TOURING.internal_mohm.usual * TOURING.battery_ah.usual / self.capacity_ah,
              charge_a=round(self.capacity_ah / 10, 2),
              typical=("chemistry", "rate_h", "internal_mohm", "charge_a", "charge_frac"))
        b.add("generator", name="generator", place=at, rating1_w=idle_w, rating1_rpm=IDLE_RPM, rating2_w=self.rated_w,
              rating2_rpm=RATED_RPM, phase_ohm=self._like.phase_ohm, typical=(
                  "phases", "rating1_rpm", "rating2_rpm", "rating_v", "phase_ohm", "diode_v", "regulator", "set_v",
                  "tied", "rectifier", *(("rating1_w",) if self.idle_w is None else ())))
        b.add("own", name="the machine itself", place=at, power_w=self.own_w, live="engine")
        if self.standing_ma:
            b.add("own", name="with the key off", place=at, power_w=self.standing_ma / 1000 * FULL_V, live="always")
        if (added := sum(self.added_w)) > MOST_TOGETHER_W:
            raise refuse("", "listed", f"{added:g} W together: no such machine gives more than {MOST_TOGETHER_W:g} W.")
        if added:
            b.add("own", name="what is added", place=at, power_w=added, live="key")
        return b.plan

    def answer(self, rules: HouseRules) -> Answer:
        """Amps left over, the speed that it floats at, hours and days."""
        plan = self.plan(rules)
        figures = compute(plan)
        if figures.generator_fault:
            raise refuse("", "idle_w", f"No such generator: {figures.generator_fault[1]}")
        found: dict[str, Working] = {}
        for key in KEYS:
            try:
                found[key] = working(figures, key)
            except NoFigure:  # a figure that such a machine does not have: nothing to break even with
                continue
        idle, cruise = (figures.ledgers[state].margin_a for state in ("idle", "cruise"))
        floats = figures.break_even_rpm
        if cruise < 0:
            said = f"No: at speed {-cruise:.1f} A are missing, and the battery discharges."
        elif idle < 0:
            said = f"From {floats:.0f} rpm on. At idle {-idle:.1f} A are missing." if floats else "At speed only."
        else:
            said = f"Yes: {idle:.1f} A are left at idle, {cruise:.1f} A at speed."
        days = figures.parked.days if figures.parked else math.nan
        minded = [] if not days < rules.parked_days else [
            f"Parked it starts for {days:.0f} days; the house rule is {rules.parked_days:g}."]
        return Answer(said, tuple(found.values()), (
            *minded, "The battery's own charging comes out of what is left.",
            f"What is not asked is as usual: winding {self._like.phase_ohm:g} Ω, idle at {IDLE_RPM} rpm, rated at "
            f"{RATED_RPM} rpm, the battery's resistance and the starter's amps."), (), plan, cruise < 0)
