"""The working of every figure, by key ("wire_c/W5/idle"): formula, inputs, source.

Each function reads the same results that the figure was taken from, so formula and figure cannot part; a test
evaluates every formula of the demonstration plans again from the inputs shown.
"""

import math
from collections.abc import Callable

from . import explain_feeds, explain_supplies, explain_survey
from .analysis import Analysis
from .budget.ledger import Parked, average_a, ledger, standing_draws
from .materials import fuses
from .materials.ampacity import SOURCE as TABLE_SOURCE
from .materials.ampacity import TABLE_RISE_K, table_a
from .materials.conductors import ALPHA20_PER_K
from .materials.conductors import SOURCE as CONDUCTOR_SOURCE
from .physics import battery as cell
from .physics import generator as alternator
from .physics import heat
from .physics.elements import FILAMENT_COLD_FRAC, FILAMENT_EXPONENT
from .plan.model import (
    STATE_NAMES,
    STATES,
    Battery,
    Combiner,
    FramePoint,
    FusePart,
    LoadPart,
    Relay,
    States,
    Switch,
    Tap,
    Way,
)
from .sizing.inrush import inrush_through
from .sizing.openers import OVERLOAD_MULTIPLE, STEADY_MULTIPLE, Guard
from .sizing.ratings import fixed_rating_a
from .wiring.circuit import STRAP, TAP_RETURN_OHM
from .wiring.supplies import available_a, crank_limit_v, winding_of
from .working import Input, Working, summed

SOLVED = "solved network of this state"
STATED = "stated in the plan"
HOUSE = "house rule of this plan"


def working(analysis: Analysis, key: str) -> Working | None:
    """The working of a figure, or None when there is no such figure."""
    kind, *rest = key.split("/")
    explain = _EXPLAINED.get(kind)
    if explain is None or not analysis.plan.supply:
        return None
    try:
        return explain(analysis, *rest)
    except (KeyError, TypeError, ValueError):
        return None


def _state(name: str) -> States:
    if name not in STATES:
        raise KeyError(name)
    return name


def _load(analysis: Analysis, load: str) -> LoadPart:
    part = analysis.topology.parts[load]
    if not isinstance(part, LoadPart):
        raise KeyError(load)
    return part


def margin(analysis: Analysis, state: str) -> Working:
    """Charging margin of a state."""
    account = analysis.ledgers[_state(state)]
    formula, inputs = summed("I", ((i.average_a, f"{i.name}, average over the hour") for i in account.items if i.on),
                             "A", f"ledger at {account.at_v:.2f} V")
    given = Input("I_gen", account.given_a, "A", f"generator at {account.rpm:.0f} rpm", "generator model")
    return Working(f"Charging margin, {STATE_NAMES[_state(state)].lower()}", "I_margin", account.margin_a, "A",
                   f"I_gen - ({formula})", (given, *inputs),
                   f"Counted at {account.at_v:.2f} V at the posts, wire losses left out.")


def asked(analysis: Analysis, state: str) -> Working:
    """What a state asks for, averaged over the hour."""
    account = analysis.ledgers[_state(state)]
    formula, inputs = summed("I", ((i.average_a, f"{i.name}, average over the hour") for i in account.items if i.on),
                             "A", f"ledger at {account.at_v:.2f} V")
    return Working(f"Asked, {STATE_NAMES[_state(state)].lower()}", "I", account.demand_a, "A", formula, tuple(inputs))


def average(analysis: Analysis, load: str, state: str) -> Working:
    """Average current of an accessory in a state."""
    part = _load(analysis, load)
    item = next((i for i in analysis.ledgers[_state(state)].items if i.id == load), None)
    if item is None:
        raise KeyError(load)
    return Working(f"{part.name}, average over the hour", "I_avg", average_a(part, item.on_a), "A",
                   "t_on / 60 * I_on + (1 - t_on / 60) * I_standby / 1000",
                   (Input("t_on", part.minutes_per_hour, "min/h", "on for", STATED),
                    Input("I_on", item.on_a, "A", f"while on, at {analysis.ledgers[_state(state)].at_v:.2f} V",
                          "behaviour stated in the plan"),
                    Input("I_standby", part.standby_ma, "mA", "standby", STATED)))


def given(analysis: Analysis, state: str) -> Working:
    """Generator output at a state's speed and the set-point."""
    account = analysis.ledgers[_state(state)]
    generator = analysis.plan.generator
    if generator is None or account.rpm <= 0:
        raise KeyError(state)
    winding = winding_of(generator)
    half = generator.rectifier == "half" and generator.phases == 1
    v = generator.set_v + (1 if half else 2) * generator.diode_v
    formula, inputs = alternator.explain(winding, account.rpm, v, half)
    made = tuple(Input(*i) for i in inputs)
    note = ("k and x were found from the two ratings by root finding on this model; checked against circuit-simulator "
            "transients within 2 % above 1.5 times cut-in.")
    if generator.field_a > 0:
        formula, made = f"max(0, {formula} - I_field)", (*made, Input("I_field", generator.field_a, "A", "its own field",
                                                                      STATED))
    if generator.limit_a is not None:
        formula, made = f"min({formula}, I_limit)", (*made, Input("I_limit", generator.limit_a, "A", "regulator limit",
                                                                  STATED))
    return Working(f"Generator at {account.rpm:.0f} rpm", "I_gen", account.given_a, "A", formula, made, note)


def break_even(analysis: Analysis) -> Working:
    """The speed at which generator and demand meet: shown as the balance that holds there."""
    rpm, generator = analysis.break_even_rpm, analysis.plan.generator
    if rpm is None or generator is None:
        raise KeyError("break-even")
    demand = ledger(analysis.plan, "cruise").demand_a
    step = 1.0
    low, high = available_a(generator, rpm - step, generator.set_v), available_a(generator, rpm + step, generator.set_v)
    return Working("Break-even speed", "n", rpm, "rpm", "n_1 + (n_2 - n_1) * (I_demand - I_1) / (I_2 - I_1)", (
        Input("n_1", rpm - step, "rpm", "just below"), Input("n_2", rpm + step, "rpm", "just above"),
        Input("I_1", low, "A", "generator just below", "generator model"),
        Input("I_2", high, "A", "generator just above", "generator model"),
        Input("I_demand", demand, "A", "asked with the engine running", f"ledger at {generator.set_v:g} V")))


def _battery(analysis: Analysis) -> tuple[Battery, Parked]:
    if analysis.plan.battery is None or analysis.parked is None:
        raise KeyError("battery")
    return analysis.plan.battery, analysis.parked


def hours(analysis: Analysis, state: str) -> Working:
    """Hours that the battery pays in a state."""
    battery, found = _battery(analysis)
    paid = analysis.states[_state(state)].battery_a
    if paid <= 0:
        raise KeyError(state)
    return Working(f"Battery time, {STATE_NAMES[_state(state)].lower()}", "t", analysis.hours(_state(state)), "h",
                   "max(0, 1 - c_least) * min(H * (C / (I * H)) ** k, C / I)", (
                       Input("c_least", min(found.least_charge, 1.0), "", "charge that still cranks", "see days parked"),
                       Input("H", battery.rate_h, "h", "rate the capacity is stated at", STATED),
                       Input("C", battery.capacity_ah, "Ah", "capacity", STATED),
                       Input("I", paid, "A", "what the battery pays, everything on", SOLVED),
                       Input("k", battery.peukert_k or cell.PEUKERT_K[battery.chemistry], "", "Peukert exponent",
                             f"usual for {battery.chemistry}; battery-dependent")),
                   "From a full battery at 25 °C; cold takes about 1 % per kelvin off.")


def parked(analysis: Analysis) -> Working:
    """Days until no start."""
    battery, found = _battery(analysis)
    if math.isinf(found.days) or found.least_charge > 1:
        raise KeyError("parked")
    full_v = cell.rested_v(1.0, battery.chemistry, battery.nominal_v)
    formula, inputs = summed("I", standing_draws(analysis.plan, full_v), "A", f"at {full_v:.2f} V")
    return Working("Parked until it does not start", "t", found.days, "days",
                   f"C * (1 - c_least) / ({formula} + s * C / T) / 24", (
                       Input("C", battery.capacity_ah, "Ah", "capacity", STATED),
                       Input("c_least", found.least_charge, "", f"charge at which {analysis.plan.machine.cranking_a:g} A "
                             f"still leaves {crank_limit_v(analysis.plan, battery):g} V", "rested voltage less starter "
                             "current times resistance; resistance after Shepherd 1965"),
                       *inputs,
                       Input("s", cell.SELF_DISCHARGE_FRAC_PER_MONTH[battery.chemistry], "", "self-discharge a month",
                             "usual at 20-25 °C; doubles per 10 K"),
                       Input("T", cell.MONTH_H, "h", "hours in a month")),
                   "Full when parked, 25 °C, never more than the rated capacity. The rise of resistance with falling "
                   "charge is an assumption: take the figure as a warning.")


def least_charge(analysis: Analysis) -> Working:
    """The charge that still cranks, shown as the voltage that is left there."""
    _, found = _battery(analysis)
    charge = min(found.least_charge, 1.0)
    return _crank(analysis, charge, "Cranking voltage at the least charge")


def crank_full(analysis: Analysis) -> Working:
    """Cranking voltage of the full battery."""
    return _crank(analysis, 1.0, "Cranking voltage, battery full")


def _crank(analysis: Analysis, charge: float, title: str) -> Working:
    battery, _ = _battery(analysis)
    amps = analysis.plan.machine.cranking_a
    return Working(title, "U", cell.cranking_v(battery.internal_mohm / 1000, charge, amps, battery.chemistry, battery.nominal_v), "V",
                   "U_0 - I * R / 1000 * (f + (1 - f) / c)", (
                       Input("U_0", cell.rested_v(charge, battery.chemistry, battery.nominal_v), "V", f"rested at {charge:.0%}",
                             cell.OCV_SOURCE),
                       Input("I", amps, "A", "starter current", STATED),
                       Input("R", battery.internal_mohm, "mΩ", "internal resistance, full", STATED),
                       Input("f", cell.SHEPHERD_FIXED_SHARE, "", "share of it that does not depend on charge",
                             "assumption after Shepherd 1965"),
                       Input("c", charge, "", "charge", "")))


def load_v(analysis: Analysis, load: str, state: str) -> Working:
    """Volts across a load: the posts' voltage less every step on the way."""
    part, name = _load(analysis, load), _state(state)
    volts, path = analysis.across_v(load, name), analysis.path(load)
    if volts is None or not path.complete or analysis.is_reversed(load, name):
        raise KeyError(load)
    steps = [(step_drop_v(analysis, k.element, name, k.a, k.b), _name(analysis, k.element))
             for k in (*path.feed, *path.back)]
    formula, inputs = summed("u", steps, "V", SOLVED)
    posts = Input("U_posts", analysis.begins_v(load, name), "V", _begins(analysis, load), SOLVED)
    return Working(f"{part.name}, {STATE_NAMES[name].lower()}", "U_load", volts, "V", f"U_posts - ({formula})",
                   (posts, *inputs))


def _begins(analysis: Analysis, load: str) -> str:
    root = analysis.path(load).root.part
    part = analysis.topology.parts[root]
    return "at the battery posts" if part is analysis.plan.supply else f"at the output of {part.name}"


def drop(analysis: Analysis, load: str, state: str) -> Working:
    """Share of the posts' voltage lost on the way."""
    part, name = _load(analysis, load), _state(state)
    lost, volts = analysis.drop_frac(part, name), analysis.across_v(load, name)
    if lost is None or volts is None:
        raise KeyError(load)
    return Working(f"{part.name}: lost on the way, {STATE_NAMES[name].lower()}", "p", lost * 100, "%",
                   "100 * (U_posts - U_load) / U_posts", (
                       Input("U_posts", analysis.begins_v(load, name), "V", _begins(analysis, load), SOLVED),
                       Input("U_load", volts, "V", "across the load", SOLVED)))


def step_drop_v(analysis: Analysis, element: str, state: States, a: str, b: str) -> float:
    """Volts from node a to node b of a link in a state."""
    solution = analysis.states[state].solution
    if solution is None:
        raise KeyError(element)
    return solution.across_v(a, b)


def step(analysis: Analysis, element: str, state: str) -> Working:
    """Volts over one wire, fuse or contact: current times resistance."""
    name = _state(state)
    result = analysis.states[name]
    if result.solution is None or element not in result.solution.current_a:
        raise KeyError(element)
    amps = abs(result.current(element))
    current = Input("I", amps, "A", "current", SOLVED)
    title = f"Drop over {_name(analysis, element)}, {STATE_NAMES[name].lower()}"
    if element in analysis.wires:
        wire = analysis.wires[element]
        metal = wire.coordination.duty.wire
        inputs = (current, Input("r_20", metal.r20_ohm_per_m * 1000, "mΩ/m",
                                 f"{wire.area_mm2:g} mm²{', tinned,' if metal.tinned else ''} at 20 °C", CONDUCTOR_SOURCE),
                  Input("alpha", ALPHA20_PER_K, "1/K", "copper", "IEC 60028"),
                  Input("T", min(result.wire_mean_c[element], heat.RUNAWAY_C), "°C", "mean temperature of the wire", "heat model"),
                  Input("L", wire.length_m, "m", "length", "along its runs, with allowances"),
                  Input("R_c", 1000 * metal.end_ohm, "mΩ", "each of its two ends", HOUSE))
        return Working(title, "u", _drop_mv(analysis, element, name), "mV", "I * (r_20 * (1 + alpha * (T - 20)) * L + 2 * R_c)", inputs,
                       "The network was solved with the wire at this temperature, brought to agree with its current.")
    ohm, what, source = _contact(analysis, element)
    return Working(title, "u", _drop_mv(analysis, element, name), "mV", "I * R",
                   (current, Input("R", ohm * 1000, "mΩ", what, source)))


def _drop_mv(analysis: Analysis, element: str, state: States) -> float:
    link = next((k for k in analysis.topology.links if k.element == element), None)
    if link is None:
        raise KeyError(element)
    return abs(step_drop_v(analysis, element, state, link.a, link.b)) * 1000


def _wire_ohm(analysis: Analysis, wire: str, mean_c: float) -> float:
    result = analysis.wires[wire]
    return result.coordination.duty.wire.ohm(result.length_m, mean_c)


def _contact(analysis: Analysis, element: str) -> tuple[float, str, str]:
    part = analysis.topology.parts[element.split(".")[0]]
    if isinstance(part, FusePart):
        rating = analysis.rating_a(part.id)
        return fuses.BY_RATING[rating].hot_ohm, f"{rating:g} A fuse, warm, in its holder", fuses.SOURCE
    if isinstance(part, Relay | Switch | Way | Combiner):
        return part.contact_mohm / 1000, "contact", STATED
    if isinstance(part, FramePoint):
        return part.joint_mohm * part.ageing / 1000, f"frame joint, aged {part.ageing:g} times", STATED
    if element == STRAP or isinstance(part, LoadPart):
        return analysis.topology.contact_ohm(element, {}), "joint to the frame", "assumed"
    if isinstance(part, Tap):
        return (TAP_RETURN_OHM, "return joint", "assumed") if element.endswith(".gnd") else (
            part.source_mohm / 1000, "the machine's own wiring", STATED)
    raise KeyError(element)


def current(analysis: Analysis, element: str, state: str) -> Working:
    """Current through an element: Ohm's law over its solved drop, or a load's behaviour at its solved voltage."""
    name = _state(state)
    result = analysis.states[name]
    if result.solution is None or element not in result.solution.current_a:
        raise KeyError(element)
    title = f"Current, {_name(analysis, element)}, {STATE_NAMES[name].lower()}"
    part = analysis.topology.parts.get(element)
    amps = abs(result.current(element))
    if isinstance(part, LoadPart):
        across = analysis.across_v(element, name)
        if across is None or element in result.solution.on_floor:
            raise KeyError(element)
        volts = Input("U", across, "V", "across it", SOLVED)
        if part.behaviour == "resistor":
            return Working(title, "I", amps, "A", "U * P / U_n ** 2", (
                volts, Input("P", part.power_w, "W", "stated power", STATED),
                Input("U_n", part.at_v, "V", "stated at", STATED)))
        if part.behaviour == "power":
            return Working(title, "I", amps, "A", "P / U", (volts, Input("P", part.power_w, "W", "power", STATED)))
        if part.behaviour == "filament":
            if across < FILAMENT_COLD_FRAC * part.at_v:  # hardly lit: taken as a cold resistance
                raise KeyError(element)
            return Working(title, "I", amps, "A", "P / U_n * (U / U_n) ** b", (
                volts, Input("P", part.power_w, "W", "stated power", STATED), Input("U_n", part.at_v, "V", "stated at", STATED),
                Input("b", FILAMENT_EXPONENT, "", "exponent of a filament lamp", "usual: I rises with V to the power 0.55")))
        return Working(title, "I", amps, "A", "I_n", (Input("I_n", part.current_a, "A", "constant current", STATED),))
    ohm = _wire_ohm(analysis, element, min(result.wire_mean_c[element], heat.RUNAWAY_C)) if element in analysis.wires else _contact(
        analysis, element)[0]
    return Working(title, "I", amps, "A", "u / R", (
        Input("u", _drop_mv(analysis, element, name), "mV", "drop over it", SOLVED), Input("R", ohm * 1000, "mΩ", "its resistance", "see its drop")))


def wire_c(analysis: Analysis, wire: str, state: str) -> Working:
    """Temperature of a wire where it is hottest."""
    name = _state(state)
    result = analysis.states[name]
    amps = abs(result.current(wire)) if name != "cranking" else 0.0  # over in seconds
    return _temperature(analysis, wire, f"Hottest spot of {wire}, {STATE_NAMES[name].lower()}", amps,
                        result.ambient_c[wire], result.surround_c[wire] - result.ambient_c[wire],
                        result.wire_c[wire], ("current", SOLVED))


def use(analysis: Analysis, wire: str) -> Working:
    """Temperature of a wire at the most that it carries in any situation, in the warmest air that it has then."""
    found = analysis.wires[wire]
    duty = found.coordination.duty
    return _temperature(analysis, wire, f"{wire} at the most that it carries", duty.use_a, found.surround_c, 0.0, found.coordination.use_c,
                        ("most of all situations", "see what it carries"))


def _guarded(analysis: Analysis, wire: str) -> Guard:
    guard = analysis.wires[wire].judged_by
    if guard is None:
        raise KeyError(wire)
    return guard


def _lets(analysis: Analysis, guard: Guard, multiple: float) -> tuple[str, str]:
    besides = f", and {guard.others_a:.3g} A besides" if guard.others_a else ""
    if guard.opener.kind == "limit":
        return f"the most that {_name(analysis, guard.fuse)} gives", "its limit"
    part = analysis.topology.parts[guard.fuse]
    return f"{multiple:g} x {guard.rating_a:g} A{besides}", fuses.SOURCE if isinstance(part, FusePart | Tap) else "setting of the way"


def steady(analysis: Analysis, wire: str) -> Working:
    """Temperature of a wire at 1.10 times its guard's rating."""
    found, guard = analysis.wires[wire], _guarded(analysis, wire)
    return _temperature(analysis, wire, f"{wire} at {STEADY_MULTIPLE:g} times {_name(analysis, guard.fuse)}", guard.lets_a(STEADY_MULTIPLE),
                        found.surround_c, 0.0, found.coordination.steady_c, _lets(analysis, guard, STEADY_MULTIPLE))


def overload(analysis: Analysis, wire: str) -> Working:
    """Temperature of a wire at 1.35 times its guard's rating."""
    found, guard = analysis.wires[wire], _guarded(analysis, wire)
    return _temperature(analysis, wire, f"{wire} at {OVERLOAD_MULTIPLE:g} times {_name(analysis, guard.fuse)}", guard.lets_a(OVERLOAD_MULTIPLE),
                        found.surround_c, 0.0, found.coordination.overload_c, _lets(analysis, guard, OVERLOAD_MULTIPLE))


def several(analysis: Analysis, wire: str) -> Working:
    """Temperature of a wire before several fuses while all of them carry 1.10 times their ratings."""
    found, guard = analysis.wires[wire], _guarded(analysis, wire)
    if not guard.several_a:
        raise KeyError(wire)
    return _temperature(analysis, wire, f"{wire} with all fuses behind it at {STEADY_MULTIPLE:g} times their ratings", guard.several_lets_a,
                        found.surround_c, 0.0, found.coordination.several_c, (f"{STEADY_MULTIPLE:g} x {guard.several_a:g} A", fuses.SOURCE))


def _temperature(analysis: Analysis, wire: str, title: str, amps: float, ambient: float, near: float, reached: float,
                 what: tuple[str, str]) -> Working:
    """The heat balance of the wire alone in its air at its solution, or the table's rise where that is more, and what neighbours add."""
    if not math.isfinite(reached):  # it runs away: there is no temperature at which heat and loss balance
        raise KeyError(wire)
    metal = analysis.wires[wire].coordination.duty.wire
    r_ins = float(heat.insulation_mk_per_w(metal.d_mm, metal.od_mm, metal.cover.k_w_per_mk))
    alone = float(heat.wire_temperature_c(amps, metal.r20_ohm_per_m, metal.d_mm, metal.od_mm, ambient, metal.cover.k_w_per_mk))
    surface = alone - amps**2 * float(heat.resistance_at(metal.r20_ohm_per_m, alone)) * r_ins
    over = max(surface - ambient, 1e-6)
    h = float(heat.surface_loss_w_per_m(metal.od_mm, ambient + over, ambient)) / (math.pi * metal.od_mm / 1000 * over)
    balance = "I ** 2 * r_20 / 1000 * (1 + alpha * (T_1 - 20)) * (R_ins + 1 / (pi * D / 1000 * h))"
    table = float(table_a(metal.area_mm2))
    inputs = [Input("T_a", ambient, "°C", "air around it" if near else "air around it, neighbours included", "place and run"),
              Input("dT", near, "K", "added by its neighbours in the bundle", "bundle model"),
              Input("I", amps, "A", *what),
              Input("r_20", metal.r20_ohm_per_m * 1000, "mΩ/m", f"{metal.area_mm2:g} mm²{', tinned,' if metal.tinned else ''} at 20 °C",
                    CONDUCTOR_SOURCE),
              Input("alpha", ALPHA20_PER_K, "1/K", "copper", "IEC 60028"),
              Input("T_1", alone, "°C", "the wire alone (found by iteration)", "heat balance"),
              Input("R_ins", r_ins, "K·m/W", "through the insulation", f"{metal.cover.code}: {metal.cover.source}"),
              Input("D", metal.od_mm, "mm", "overall diameter", "0.95 of the standard's maximum"),
              Input("h", h, "W/(m²K)", "convection and radiation at its surface", "Churchill and Chu 1975; emissivity 0.9")]
    if math.isfinite(table):
        balance = f"max({balance}, T_t * (I / I_t) ** 2)"
        inputs += [Input("I_t", table, "A", "table current of its size, free air", TABLE_SOURCE),
                   Input("T_t", TABLE_RISE_K, "K", "rise that the table stands for", TABLE_SOURCE)]
    return Working(title, "T", reached, "°C", f"T_a + dT + {balance}", tuple(inputs),
                   "Still air. The heat model is good to about 15 %: smaller margins are close.")


def strength(analysis: Analysis, wire: str) -> Working:
    """What a wire stands over what its guard lets through for hours."""
    found, guard = analysis.wires[wire], _guarded(analysis, wire)
    if found.strength is None:
        raise KeyError(wire)
    most = 1.0 if guard.opener.kind == "limit" else STEADY_MULTIPLE
    return Working(f"Protection of {wire} by {_name(analysis, guard.fuse)}", "x", found.strength, "×", "I_z / (m * I_n * s + I_o)", (
        Input("I_z", found.coordination.limit_a, "A", f"brings it to its class, {found.class_c:.0f} °C", "heat model, or the table"),
        Input("m", most, "", "of its rating it carries for hours", fuses.SOURCE),
        Input("I_n", guard.rating_a, "A", f"rating of {_name(analysis, guard.fuse)}", "chosen or fixed"),
        Input("s", guard.share, "", "share of its current that flows here", "fault solution"),
        Input("I_o", guard.others_a, "A", "what the wire carries besides", SOLVED)),
        "Below 1 it does not protect the wire.")


def inrush(analysis: Analysis, element: str) -> Working:
    """Inrush of what comes on together through a fuse."""
    rating = analysis.rated.get(element) or fixed_rating_a(analysis.topology, element)
    found = inrush_through(analysis.topology, element, rating) if rating else None
    if found is None:
        raise KeyError(element)
    if len(found.loads) == 1 and found.loads[0].inrush_shape == "rectangle":
        load = found.loads[0]
        return Working(f"Inrush through {_name(analysis, element)}", "q", found.a2s, "A²s", "I ** 2 * t / 1000", (
            Input("I", load.inrush_a, "A", f"peak of {load.name}", STATED), Input("t", load.inrush_ms, "ms", "lasts", STATED)))
    inputs = [Input(f"I_{n}", p.inrush_a, "A", f"peak of {p.name}, {p.inrush_ms:g} ms, {p.inrush_shape}", STATED)
              for n, p in enumerate(found.loads, 1)]
    total = " + ".join(i.symbol for i in inputs)
    return Working(f"Inrush through {_name(analysis, element)}", "q", found.a2s, "A²s", f"({total}) ** 2 * t", (
        *inputs, Input("t", found.duration_s, "s", "a rectangle of the same peak and integral lasts", "integral of the squared sum")))


def share(analysis: Analysis, fuse: str) -> Working:
    """Continuous share of a fuse."""
    part = analysis.topology.parts[fuse]
    rating = analysis.rating_a(fuse)
    ambient = analysis.plan.ambient_at(part.place)
    value = analysis.fuse_share_frac(fuse)
    return Working(f"{part.name}: share of its rating", "p", value * 100, "%",
                   "100 * I / (I_n * (1 - f * (T - 25)))", (
                       Input("I", analysis.peak_a(fuse), "A", "most of all states, everything on", SOLVED),
                       Input("I_n", rating, "A", "rating", fuses.SOURCE),
                       Input("f", fuses.RERATE_PER_K, "1/K", "rerating above 25 °C", "typical; see the maker's curve"),
                       Input("T", ambient, "°C", "where it sits", STATED)))


def peak(analysis: Analysis, element: str) -> Working:
    """The largest current over the states."""
    found = [(abs(r.current(element)), r.words) for s, r in analysis.states.items() if s != "cranking"]
    found += [(abs(r.current(element)), r.words) for r in (analysis.sized.alternates if analysis.sized else ())]
    _, inputs = summed("I", found, "A", SOLVED)
    arguments = ", ".join(i.symbol for i in inputs)
    formula, note = f"max({arguments})", ""
    more = analysis.peak_a(element) - max(amps for amps, _ in found)
    if more > 1e-9:  # it leads to a converter, which takes more from an almost empty pack
        inputs.append(Input("I_low", more, "A", "more that a converter takes with the pack nearly empty", "same watts at less volts"))
        formula, note = f"{formula} + I_low", "Sized for the pack's empty end."
    return Working(f"Most that {_name(analysis, element)} carries", "I", analysis.peak_a(element), "A", formula, tuple(inputs), note)


def length(analysis: Analysis, wire: str) -> Working:
    """Length of a wire from its stretches."""
    geometry = analysis.topology.geometry[wire]
    measured = analysis.topology.wires[wire].length_m is not None
    terms = [(s.length_m, f"{s.run or 'within the place'}, its share of the ends' allowance included")
             for s in geometry.segments]
    formula, inputs = summed("l", terms, "m", "measured" if measured else "runs of this plan")
    return Working(f"Length of {wire}", "L", geometry.length_m, "m", formula, tuple(inputs),
                   "" if geometry.way_known else "No run joins its ends: the straight distance stands in.")


def _name(analysis: Analysis, element: str) -> str:
    part = analysis.topology.parts.get(element.split(".")[0])
    return f"{part.name} ({part.id})" if part is not None else element


_EXPLAINED: dict[str, Callable[..., Working]] = {
    "margin": margin, "asked": asked, "average": average, "given": given, "break_even": break_even, "hours": hours, "parked": parked,
    "least_charge": least_charge, "crank_full": crank_full, "load_v": load_v, "drop": drop, "step": step,
    "current": current, "wire_c": wire_c, "use_c": use, "steady_c": steady, "overload_c": overload, "several_c": several,
    "strength": strength, "inrush": inrush,
    "share": share, "peak": peak, "length": length, **explain_supplies.EXPLAINED, **explain_feeds.EXPLAINED, **explain_survey.EXPLAINED,
}


def all_keys(analysis: Analysis) -> list[str]:
    """Every key that can be asked of an analysis."""
    keys = ["parked", "least_charge", "crank_full", "break_even"]
    for state in analysis.states:
        keys += [f"margin/{state}", f"asked/{state}", f"given/{state}", f"hours/{state}"]
        keys += [f"average/{i.id}/{state}" for i in analysis.ledgers[state].items if not i.own]
        for load in analysis.plan.loads:
            keys += [f"load_v/{load.id}/{state}", f"drop/{load.id}/{state}", f"current/{load.id}/{state}"]
        for link in analysis.topology.links:
            keys += [f"step/{link.element}/{state}", f"current/{link.element}/{state}"]
        keys += [f"wire_c/{w}/{state}" for w in analysis.wires]
    for wire in analysis.wires:
        keys += [f"{kind}/{wire}" for kind in ("use_c", "steady_c", "overload_c", "several_c", "strength", "length", "peak")]
    keys += [f"{kind}/{p.id}" for p in analysis.plan.of_kind("fuse") for kind in ("share", "inrush")]
    return [*keys, *explain_supplies.keys(analysis), *explain_feeds.keys(analysis), *explain_survey.keys(analysis)]
