"""How do battery and charging stand, by the readings taken at the posts as found?

A rested voltage gives the charge (published curve at 25 C), the lowest voltage while cranking speaks of battery and
leads, the running voltages of the regulator, and the standing current of the days that are left.
"""

import math
from dataclasses import dataclass

from ..amounts import percent
from ..doc.survey import Reading
from ..findings import Severity
from ..parts.battery import Battery
from ..parts.pack import Pack
from ..physics import battery as cell
from ..plan.model import Plan
from .pins import readings_of

LOW_CHARGE, FLAT_CHARGE = 0.75, 0.40
OVERCHARGE_V, SURFACE_V = 15.0, 13.1  # for a 12 V lead battery; a 6 V one: half
CHARGING_LOW_V = {"flooded": 13.2, "agm": 13.2, "lfp": 13.6}  # a LiFePO4 battery has 13.3 V at rest already
CHARGING_USUAL_V = 14.2
SET_POINT_OFF_V = 0.4
WEAK_CRANK_V = 8.0
STANDING_A = 0.05
LEAST_RISE_V = 0.1


@dataclass(frozen=True)
class Judgement:
    """One thing that the readings say: the reading it hangs on, a severity (None: it is in order), and the sentence."""

    what: str
    reading: Reading
    severity: Severity | None
    sentence: str
    working: str = ""


def judged(plan: Plan) -> tuple[Judgement, ...]:
    """Everything that the readings at the supply's posts say; nothing without readings."""
    if plan.battery:
        return _battery(plan, plan.battery)
    return _pack(plan, plan.packs[0]) if plan.packs else ()


def rested_charge(plan: Plan) -> tuple[float, Reading, cell.Segment] | None:
    """Charge by the rested voltage at the posts, the reading it is from, and the two points of the curve that it lies
    between."""
    store = plan.battery or next(iter(plan.packs), None)
    reading = readings_of(plan, store.id).get(("V", "key_off")) if store else None
    if store is None or reading is None:
        return None
    return store.charge_at(reading.value), reading, store.charge_between(reading.value)


def standing_hours(plan: Plan) -> tuple[float, float, Reading] | None:
    """Hours until the standing current found has taken the start out of the battery as it is charged now; the usable
    ampere-hours; the reading."""
    battery = plan.battery
    reading = readings_of(plan, battery.id).get(("A", "key_off")) if battery else None
    if battery is None or reading is None:
        return None
    rested = rested_charge(plan)
    charge = rested[0] if rested else battery.charge_frac
    least = cell.least_charge_to_crank(battery.internal_mohm / 1000, plan.machine.cranking_a,
                                       plan.rules.crank_limit_at(battery.nominal_v),
                                       battery.chemistry, battery.nominal_v)
    usable = max(charge - (least if math.isfinite(least) else 1.0), 0.0) * battery.capacity_ah
    lost = cell.SELF_DISCHARGE_FRAC_PER_MONTH[battery.chemistry]
    return cell.parked_h(usable, abs(reading.value), battery.capacity_ah, lost), usable, reading


def _battery(plan: Plan, battery: Battery) -> tuple[Judgement, ...]:
    taken, scale = readings_of(plan, battery.id), battery.nominal_v / 12
    found = (_rested(plan, battery, scale), _cranking(plan, battery, taken.get(("V", "cranking")), scale),
             _idling(taken.get(("V", "idle")), taken.get(("V", "key_off")), scale),
             _raised(plan, battery, taken.get(("V", "raised")), scale), _standing(plan))
    return tuple(one for one in found if one is not None)


def _rested(plan: Plan, battery: Battery, scale: float) -> Judgement | None:
    rested = rested_charge(plan)
    if rested is None:
        return None
    charge, reading, _ = rested
    if battery.chemistry != "lfp" and reading.value > SURFACE_V * scale:
        return Judgement("rested", reading, "note", (
            f"{reading.value:g} V with the key off is more than a rested battery has: a charger is on it, or it came "
            "off one within the last hours. Let it rest and read again."), "rested_charge")
    words = f"{reading.value:g} V rested is about {percent(charge)} of charge."
    if charge >= LOW_CHARGE:
        return Judgement("rested", reading, None, words, "rested_charge")
    if charge >= FLAT_CHARGE:
        return Judgement("rested", reading, "advice", (
            f"{words} Charge it, let it rest for four hours and read again before anything is planned on it."),
            "rested_charge")
    return Judgement("rested", reading, "caution", (
        f"{words} It is nearly flat, or a cell is dead: charge and read again. If the voltage drops again, replace "
        "it."),
        "rested_charge")


def _cranking(plan: Plan, battery: Battery, reading: Reading | None, scale: float) -> Judgement | None:
    if reading is None:
        return None
    limit = plan.rules.crank_limit_at(battery.nominal_v)
    if reading.value >= limit:
        return Judgement("cranking", reading, None, f"{reading.value:g} V while cranking holds the {limit:g} V wanted.")
    why = ("The battery or its leads are weak: measure at the posts and at the starter to tell which."
           if reading.value >= WEAK_CRANK_V * scale
           else "Igniters drop out near this: a worn battery, a bad joint in the leads, or an engine that turns hard.")
    return Judgement("cranking", reading, "caution",
                     f"{reading.value:g} V while cranking; {limit:g} V is wanted. {why}")


def _idling(reading: Reading | None, rest: Reading | None, scale: float) -> Judgement | None:
    if reading is None:
        return None
    if reading.value > OVERCHARGE_V * scale:
        return _overcharging(reading, "idling")
    if rest is not None and reading.value < rest.value + LEAST_RISE_V:
        return Judgement("idle", reading, "advice",
                         f"{reading.value:g} V idling is no more than at rest: the battery discharges at idle.")
    return Judgement("idle", reading, None, f"{reading.value:g} V idling: it charges.")


def _raised(plan: Plan, battery: Battery, reading: Reading | None, scale: float) -> Judgement | None:
    if reading is None:
        return None
    wanted = plan.generator.set_v if plan.generator else CHARGING_USUAL_V * scale
    if reading.value > OVERCHARGE_V * scale:
        return _overcharging(reading, "at raised speed")
    if reading.value < CHARGING_LOW_V[battery.chemistry] * scale:
        return Judgement("raised", reading, "caution", (
            f"{reading.value:g} V at raised speed: the battery is not being charged (about {wanted:g} V is wanted). "
            "Look at generator, regulator and their plug before anything is planned."))
    if abs(reading.value - wanted) > SET_POINT_OFF_V * scale:
        return Judgement("raised", reading, "advice", (
            f"{reading.value:g} V at raised speed; the plan reckons with a set-point of {wanted:g} V. Change one of "
            f"the two."))
    return Judgement("raised", reading, None, f"{reading.value:g} V at raised speed: it charges.")


def _overcharging(reading: Reading, words: str) -> Judgement:
    return Judgement(reading.state, reading, "stop", (
        f"{reading.value:g} V {words}: the regulator does not hold. It boils the battery and ends lamps; repair it "
        f"before anything is added."))


def _standing(plan: Plan) -> Judgement | None:
    found = standing_hours(plan)
    if found is None:
        return None
    hours, _, reading = found
    words = (f"{reading.value * 1000:.0f} mA flows with everything off: {_span(hours)} until it no longer starts, "
             "charged as it is now")
    if hours / 24 < plan.rules.parked_days:
        return Judgement("standing", reading, "caution", (
            f"{words}; the house rule is {plan.rules.parked_days:g} days. Pull fuses one by one to find the circuit "
            "that draws it."),
            "standing_days")
    return Judgement("standing", reading, "advice" if reading.value > STANDING_A else None, f"{words}.",
                     "standing_days")


def _pack(plan: Plan, pack: Pack) -> tuple[Judgement, ...]:
    rested = rested_charge(plan)
    if rested is None:
        return ()
    charge, reading, _ = rested
    full, empty = pack.full_v, cell.pack_v(0.0, pack.chemistry, pack.series)
    if reading.value > full + 0.1:
        return (Judgement("rested", reading, "stop", (
            f"{reading.value:g} V is over the {full:.1f} V of {pack.series} full cells in series: an overcharged pack "
            "is not used, and not charged again, before somebody licensed for it has looked at it, outdoors.")),)
    if reading.value < empty:
        return (Judgement("rested", reading, "caution", (
            f"{reading.value:g} V is under the {empty:.1f} V of an empty pack: cells kept this low may be damaged. Do "
            "not charge it unwatched.")),)
    return (Judgement("rested", reading, None,
                      f"{reading.value:g} V rested is about {percent(charge)} of charge (approximate).",
                      "rested_charge"),)


def _span(hours: float) -> str:
    return f"{hours:.0f} hours" if hours < 48 else f"{hours / 24:.0f} days" if hours < 400 * 24 else "over a year"


