"""What each state asks for and is given, how long the battery lasts: budget, hours, days, cranking."""

import math
from dataclasses import replace

from ..amounts import percent
from ..budget.ledger import Ledger, Parked, battery_hours, ledger, standing_draws
from ..budget.total_loss import CHARGE_EFFICIENCY
from ..doc.states import STATE_NAMES, States
from ..parts.base import Part
from ..parts.battery import Battery
from ..parts.load import LoadPart
from ..physics import battery as cell
from ..physics import generator as alternator
from ..sizing.drops import starter_drop_v, starter_leads
from ..wiring.conductor import conductor
from .figures import Figures
from .registry import LOAD, STATE, NoFigure, figure
from .winding import stator_short_a
from .working import FOUND, SOLVED, STATED, Input, Working, source_of, summed

RATINGS = ("rating1_w", "rating2_w")  # of a generator


def battery_time_h(figures: Figures, state: States) -> float:
    """Hours that the battery can pay in a state before it no longer cranks."""
    return battery_hours(figures.plan, figures.volts.ridden(state)) if figures.states else float("nan")


@figure("margin", STATE)
def margin(figures: Figures, state: States) -> Working:
    """Charging margin of a state."""
    account, generator = figures.ledgers[state], figures.plan.generator
    formula, inputs = _users(figures, account)
    model = "generator model" + ("" if generator is None else f"; its ratings: {source_of(generator, *RATINGS)}")
    given = Input("I_gen", account.given_a, "A", f"generator at {account.rpm:.0f} rpm", model)
    return Working(f"Charging margin, {STATE_NAMES[state].lower()}", "I_margin", account.margin_a, "A",
                   f"I_gen - ({formula})", (given, *inputs),
                   f"Counted at {account.at_v:.2f} V at the posts, wire losses left out.")


@figure("asked", STATE)
def asked(figures: Figures, state: States) -> Working:
    """What a state asks for, averaged over the hour."""
    account = figures.ledgers[state]
    formula, inputs = _users(figures, account)
    return Working(f"Asked, {STATE_NAMES[state].lower()}", "I", account.demand_a, "A", formula, tuple(inputs))


def _users(figures: Figures, account: Ledger) -> tuple[str, list[Input]]:
    """What is asked in a state, user by user, each with how its power is known."""
    counted = [i for i in account.items if i.counts]
    formula, inputs = summed("I", ((i.average_a, f"{i.name}, average over the hour") for i in counted), "A")
    parts = figures.plan.part_by_id
    return formula, [replace(made, source=f"ledger at {account.at_v:.2f} V{_known(parts.get(i.id))}")
                     for i, made in zip(counted, inputs, strict=True)]


def _known(part: Part | None) -> str:
    """That what a user draws is not simply stated."""
    source = source_of(part, part.own_figure) if part is not None and part.own_figure else STATED
    return "" if source == STATED else f"; its power: {source}"


@figure("average", LOAD, STATE)
def average(figures: Figures, load: LoadPart, state: States) -> Working:
    """Average current of an accessory in a state."""
    item = next((i for i in figures.ledgers[state].items if i.id == load.id), None)
    if item is None:
        raise NoFigure(f"{load.name} does not live then.")
    return Working(f"{load.name}, average over the hour", "I_avg", load.average_a(item.on_a), "A",
                   "t_on / 60 * I_on + (1 - t_on / 60) * I_standby / 1000",
                   (Input("t_on", load.minutes_per_hour, "min/h", "on for", source_of(load, "minutes_per_hour")),
                    Input("I_on", item.on_a, "A", f"while on, at {figures.ledgers[state].at_v:.2f} V",
                          "behaviour entered in the plan"),
                    Input("I_standby", load.standby_ma, "mA", "standby", source_of(load, "standby_ma"))))


@figure("given", STATE)
def given(figures: Figures, state: States) -> Working:
    """Generator output at a state's speed and the set-point."""
    account = figures.ledgers[state]
    generator = figures.account.generator  # one that gives nothing as it is joined has no figure
    if generator is None or account.rpm <= 0:
        raise NoFigure("There is none in this state.")
    winding = generator.winding
    half = generator.rectifier == "half" and generator.phases == 1
    v = generator.set_v + (1 if half else 2) * generator.diode_v
    formula, inputs = alternator.explain(winding, account.rpm, v, half)
    made = tuple(Input(*i) for i in inputs)
    note = ("k and x were found from the two ratings by root finding on this model; checked against circuit-simulator "
            "transients within 2 % above 1.5 times cut-in.")
    if generator.field_a > 0:
        formula, made = f"max(0, {formula} - I_field)", (*made,
                                                         Input("I_field", generator.field_a, "A", "its own field",
                                                                      source_of(generator, "field_a")))
    if generator.limit_a is not None:
        formula, made = f"min({formula}, I_limit)", (*made, Input("I_limit", generator.limit_a, "A", "regulator limit",
                                                                  source_of(generator, "limit_a")))
    return Working(f"Generator at {account.rpm:.0f} rpm", "I_gen", account.given_a, "A", formula, made, note)


@figure("break_even")
def break_even(figures: Figures) -> Working:
    """The speed at which generator and demand meet: shown as the balance that holds there."""
    rpm, generator = figures.break_even_rpm, figures.account.generator
    if rpm is None or generator is None:
        raise NoFigure("There is no speed that breaks even.")
    demand = ledger(figures.account, "cruise").demand_a
    step = 1.0
    low, high = generator.available_a(rpm - step, generator.set_v), generator.available_a(rpm + step, generator.set_v)
    return Working("Break-even speed", "n", rpm, "rpm", "n_1 + (n_2 - n_1) * (I_demand - I_1) / (I_2 - I_1)", (
        Input("n_1", rpm - step, "rpm", "just below"), Input("n_2", rpm + step, "rpm", "just above"),
        Input("I_1", low, "A", "generator just below", "generator model"),
        Input("I_2", high, "A", "generator just above", "generator model"),
        Input("I_demand", demand, "A", "asked with the engine running", f"ledger at {generator.set_v:g} V")))


def _battery(figures: Figures) -> tuple[Battery, Parked]:
    if figures.plan.battery is None or figures.parked is None:
        raise NoFigure("This plan has no battery.")
    return figures.plan.battery, figures.parked


@figure("hours", STATE)
def hours(figures: Figures, state: States) -> Working:
    """Hours that the battery pays in a state."""
    battery, found = _battery(figures)
    paid = figures.volts.ridden(state).battery_a
    if paid <= 0:
        raise NoFigure("There is none in this state.")
    return Working(f"Battery time, {STATE_NAMES[state].lower()}", "t", battery_time_h(figures, state), "h",
                   "max(0, 1 - c_least) * min(H * (C / (I * H)) ** k, C / I)", (
                       Input("c_least", min(found.least_charge, 1.0), "", "charge that still cranks",
                             "see days parked"),
                       Input("H", battery.rate_h, "h", "rate the capacity is stated at",
                             source_of(battery, "rate_h")),
                       Input("C", battery.capacity_ah, "Ah", "capacity", source_of(battery, "capacity_ah")),
                       Input("I", paid, "A", "what the battery gives, everything on", SOLVED),
                       Input("k", battery.peukert_k or cell.PEUKERT_K[battery.chemistry], "", "Peukert exponent",
                             f"usual for {battery.chemistry}; battery-dependent")),
                   "From a full battery at 25 °C; cold takes about 1 % per kelvin off.")


@figure("parked")
def parked(figures: Figures) -> Working:
    """Days until no start."""
    battery, found = _battery(figures)
    if math.isinf(found.days) or found.least_charge > 1:
        raise NoFigure("It never ends, or never starts.")
    full_v = cell.rested_v(1.0, battery.chemistry, battery.nominal_v)
    formula, inputs = summed("I", standing_draws(figures.account, full_v), "A", f"at {full_v:.2f} V")
    return Working("Parked until it does not start", "t", found.days, "days",
                   f"C * (1 - c_least) / ({formula} + s * C / T) / 24", (
                       Input("C", battery.capacity_ah, "Ah", "capacity", source_of(battery, "capacity_ah")),
                       Input("c_least", found.least_charge, "",
                             f"charge at which {figures.plan.machine.cranking_a:g} A "
                             f"still leaves {figures.plan.rules.crank_limit_at(battery.nominal_v):g} V",
                             "rested voltage less starter current times resistance; resistance after Shepherd 1965"),
                       *inputs,
                       Input("s", cell.SELF_DISCHARGE_FRAC_PER_MONTH[battery.chemistry], "", "self-discharge a month",
                             "usual at 20-25 °C; doubles per 10 K"),
                       Input("T", cell.MONTH_H, "h", "hours in a month")),
                   "Full when parked, 25 °C, never more than the rated capacity. The rise of resistance with falling "
                   "charge is an assumption: take the figure as a warning.")


@figure("least_charge")
def least_charge(figures: Figures) -> Working:
    """The charge that still cranks, shown as the voltage that is left there."""
    _, found = _battery(figures)
    charge = min(found.least_charge, 1.0)
    return _crank(figures, charge, "Cranking voltage at the least charge")


@figure("crank_full")
def crank_full(figures: Figures) -> Working:
    """Cranking voltage of the full battery."""
    return _crank(figures, 1.0, "Cranking voltage, battery full")


def _crank(figures: Figures, charge: float, title: str) -> Working:
    battery, _ = _battery(figures)
    amps = figures.plan.machine.cranking_a
    return Working(title, "U",
        cell.cranking_v(battery.internal_mohm / 1000, charge, amps, battery.chemistry, battery.nominal_v), "V",
                   "U_0 - I * R / 1000 * (f + (1 - f) / c)", (
                       Input("U_0", cell.rested_v(charge, battery.chemistry, battery.nominal_v), "V",
                             f"rested at {percent(charge)}",
                             cell.OCV_SOURCE),
                       Input("I", amps, "A", "starter current", source_of(figures.plan.machine, "cranking_a")),
                       Input("R", battery.internal_mohm, "mΩ", "internal resistance, full",
                             source_of(battery, "internal_mohm")),
                       Input("f", cell.SHEPHERD_FIXED_SHARE, "", "share of it that does not depend on charge",
                             "assumption after Shepherd 1965"),
                       Input("c", charge, "", "charge", "")))


@figure("total_loss")
def total_loss(figures: Figures) -> Working:
    """Minutes from full to empty."""
    found, battery = figures.total_loss, figures.plan.battery
    if found is None or battery is None:
        raise NoFigure("This plan has no total loss.")
    return Working("From full to empty", "t", found.empty_min, "min", "60 * min(H * (C / (I * H)) ** k, C / I)", (
        Input("H", battery.rate_h, "h", "rate the capacity is stated at", source_of(battery, "rate_h")),
        Input("C", battery.capacity_ah, "Ah", "capacity", source_of(battery, "capacity_ah")),
        Input("I", found.draw_a, "A", "what runs", "ledger, cruise"),
        Input("k", found.peukert_k, "", "Peukert exponent", f"usual for {battery.chemistry}, or stated")),
        f"At 25 °C. Usable to the ignition's {found.low_v:g} V: {found.usable_min:.0f} min. To charge again: what went "
        f"out over {CHARGE_EFFICIENCY:g}.")


@figure("starter_drop")
def starter_drop(figures: Figures) -> Working:
    """Volts over the starter's leads."""
    leads = starter_leads(figures.topology)
    if not leads or figures.sized is None:
        raise NoFigure("This plan has no starter.")
    areas = figures.sized.choices.area_mm2
    terms = []
    for w in leads:
        geometry = figures.topology.geometry[w]
        metal = conductor(figures.plan, figures.topology.wires[w], areas[w])
        terms.append((1000 * metal.ohm(geometry.length_m, geometry.hottest_ambient_c),
                      f"{w}, {areas[w]:g} mm², with its ends"))
    formula, inputs = summed("R", terms, "mΩ", "IEC 60028 copper at the place's temperature")
    return Working("Lost in the starter's leads", "U", starter_drop_v(figures.topology, areas, leads), "V",
                   f"I * ({formula}) / 1000", (
                       Input("I", figures.plan.machine.cranking_a, "A", "starter current",
                             source_of(figures.plan.machine, "cranking_a")), *inputs))


@figure("stator_short")
def stator_short(figures: Figures) -> Working:
    """Current in the winding's leads behind a shunt regulator."""
    generator = figures.plan.generator
    if generator is None:
        raise NoFigure("This plan has no generator.")
    winding, rpm = generator.winding, figures.plan.machine.cruise_rpm
    return Working("Winding current, shorted at cruise", "I", stator_short_a(figures), "A",
                   "k * n / 1000 / sqrt(R ** 2 + (x * n / 1000) ** 2) / sqrt(2)", (
                       Input("k", winding.k_v_per_rpm * 1000, "mV/rpm", "peak voltage per phase", FOUND),
                       Input("n", rpm, "rpm", "cruise", source_of(figures.plan.machine, "cruise_rpm")),
                       Input("R", winding.r_ohm, "Ω", "a phase, hot", source_of(generator, "phase_ohm")),
                       Input("x", winding.x_ohm_per_rpm * 1000, "mΩ/rpm", "reactance per phase", FOUND)))
