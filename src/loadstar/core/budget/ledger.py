"""The budget: what each state asks for and what it is given; the speed that breaks even; hours and days.

Of what a contact keeps apart, dipped and main beam, left and right, only the largest counts. Demand is counted at the
posts' voltage (the regulator's set-point with the engine running, the rested voltage of the judged charge without),
averaged over the minutes per hour that each accessory runs. Wire losses are not part of it: constant-power loads draw a
little more at the end of a wire, resistive ones a little less.
"""

import math
from dataclasses import dataclass, replace

from scipy.optimize import brentq

from ..doc.states import RUNNING, States
from ..parts.battery import Battery
from ..parts.load import LoadPart
from ..parts.second import SecondBattery
from ..physics import battery as cell
from ..plan.model import Plan
from ..plan.stands import never_together
from ..supply.choose import supply_of
from ..wiring.results import StateResult

TOP_RPM = 12_000.0


@dataclass(frozen=True)
class Item:
    """One consumer in a state: amps while on, amps and watts averaged over the hour, at the posts' voltage. `waits`:
    something larger that it is never on with is counted."""

    id: str
    name: str
    on_a: float
    average_a: float
    on: bool
    own: bool
    average_w: float
    kind: str = "load"
    waits: bool = False

    @property
    def counts(self) -> bool:
        """Whether it is part of the account."""
        return self.on and not self.waits


@dataclass(frozen=True)
class Ledger:
    """One state's account. `margin_a` is what is left for the battery; negative is what the battery pays."""

    state: States
    rpm: float
    at_v: float
    given_a: float
    items: tuple[Item, ...]

    @property
    def demand_a(self) -> float:
        """Average demand of everything that is on."""
        return sum(i.average_a for i in self.items if i.counts)

    @property
    def all_at_once_a(self) -> float:
        """Demand of the moment at which everything that may be on is on."""
        return sum(i.on_a for i in self.items if i.counts)

    @property
    def margin_a(self) -> float:
        """Given less demanded."""
        return self.given_a - self.demand_a


def ledger(plan: Plan, state: States, off: frozenset[str] = frozenset()) -> Ledger:
    """The account of a state, with the consumers in `off` switched off."""
    generator = plan.generator
    running = state in RUNNING and generator is not None
    at_v = generator.set_v if running and generator else supply_of(plan).resting_v(state)
    rpm = plan.machine.rpm(state)
    items = [Item(p.id, p.name, watts / at_v, watts / at_v, p.id not in off, True, watts, p.kind)
             for p in plan.parts if (watts := p.own_w(state, at_v)) is not None]
    if state == "cranking" and plan.battery is not None and plan.machine.cranking_a > 0:
        amps = plan.machine.cranking_a
        items.append(Item("machine", "the starter", amps, amps, "machine" not in off, True, amps * at_v, "machine"))
    for load in plan.loads:
        if state in plan.lives_in(load) and not plan.by_coil(load) and not (load.guest and state == "parked"):
            on_a = supply_a(plan, load, at_v)
            mean_a = load.average_a(on_a)
            items.append(Item(load.id, load.name, on_a, mean_a, load.id not in off, False, mean_a * at_v))
    for second in plan.of(SecondBattery) if running else ():
        items.append(Item(second.id, f"{second.name}, charging", second.charge_a, second.charge_a,
                          second.id not in off, False, second.charge_a * at_v, second.kind))
    waiting = never_together(plan, {i.id: i.average_a for i in items if i.on and not i.own})
    items = [replace(i, waits=True) if i.id in waiting else i for i in items]
    return Ledger(state, rpm, at_v, generator.available_a(rpm, at_v) if running and generator else 0.0, tuple(items))


def supply_a(plan: Plan, load: LoadPart, at_v: float) -> float:
    """What an accessory takes from the main supply at its voltage: through a converter, its watts over efficiency."""
    made = plan.second_supply(plan.hangs_on(load))
    if made is not None:
        return load.draws_a(made.out_v) * made.out_v / made.output_frac / at_v
    return load.draws_a(at_v)


def break_even_rpm(plan: Plan, off: frozenset[str] = frozenset(), without_charge: bool = True) -> float | None:
    """Lowest engine speed at which the generator gives what the running machine asks for; None if there is none.

    `without_charge` False counts the battery's charging allowance as asked for too.
    """
    generator, battery = plan.generator, plan.battery
    if generator is None:
        return None
    account = ledger(plan, "cruise", off)
    wanted = account.demand_a + (0.0 if without_charge or battery is None else battery.charge_a)

    def spare(rpm: float) -> float:
        return generator.available_a(rpm, generator.set_v) - wanted

    if spare(TOP_RPM) < 0:
        return None
    low = 100.0
    return low if spare(low) >= 0 else float(brentq(spare, low, TOP_RPM, xtol=0.01))


@dataclass(frozen=True)
class Parked:
    """How long the battery, full when parked, keeps a start in it."""

    draw_a: float
    least_charge: float
    usable_ah: float
    self_discharge_a: float
    days: float


def standing_draws(plan: Plan, at_v: float) -> list[tuple[float, str]]:
    """What draws on with everything off, in amps at a voltage: the machine's own, accessories that are always live,
    converters idle."""
    others = {p.id for p in plan.of(SecondBattery)}
    found = [(p.average_a(supply_a(plan, p, at_v)), f"{p.name}, average") for p in plan.loads
             if p.live == "always" and not p.guest and plan.hangs_on(p) not in others and not plan.by_coil(p)]
    own = [draw for p in plan.parts if (draw := p.standing_draw)]
    return [*((watts / at_v, words) for watts, words in own), *found]


def parked(plan: Plan) -> Parked | None:
    """Days from full until cranking would fall below the house rule's limit; None without a battery."""
    battery = plan.battery
    if battery is None:
        return None
    full_v = battery.full_v
    draw = sum(amps for amps, _ in standing_draws(plan, full_v))
    least = least_charge(plan, battery)
    usable = max(0.0, battery.capacity_ah * (1 - min(least, 1.0)))
    per_month = cell.SELF_DISCHARGE_FRAC_PER_MONTH[battery.chemistry]
    hours = cell.parked_h(usable, draw, battery.capacity_ah, per_month)
    return Parked(draw, least, usable, per_month * battery.capacity_ah / cell.MONTH_H, hours / 24)


def least_charge(plan: Plan, battery: Battery) -> float:
    """Charge at which cranking just holds the limit; infinite when a full battery does not."""
    return cell.least_charge_to_crank(battery.internal_mohm / 1000, plan.machine.cranking_a,
                                      plan.rules.crank_limit_at(battery.nominal_v), battery.chemistry,
                                      battery.nominal_v)


def battery_hours(plan: Plan, result: StateResult) -> float:
    """Hours from full until the battery, paying what the solved state takes from it, can no longer crank."""
    battery = plan.battery
    paid = max(result.battery_a, 0.0)
    if battery is None or result.solution is None:
        return math.nan
    if paid <= 0:
        return math.inf
    share = max(0.0, 1 - min(least_charge(plan, battery), 1.0))
    k = battery.peukert
    return share * cell.peukert_h(battery.capacity_ah, battery.rate_h, paid, k)
