"""The working of figures about packs, converters, lamps on a magneto, total loss and starter leads."""

from collections.abc import Callable

from .analysis import Analysis
from .budget.lighting import LIFE_EXPONENT
from .budget.packs import pack_figures
from .budget.total_loss import CHARGE_EFFICIENCY
from .physics import battery as cell
from .plan.model import Combiner, Converter, Pack, Port
from .sizing.drops import starter_drop_v, starter_leads
from .wiring.conductor import conductor
from .wiring.supplies import pack_empty_v, pack_full_v, winding_of
from .working import Input, Working, summed

STATED = "stated in the plan"
FOUND = "found from the two ratings"


def pack_v(analysis: Analysis, pack: str) -> Working:
    """Full voltage of a pack."""
    part = _pack(analysis, pack)
    per_cell = cell.CELL_V[part.chemistry][-1][1]
    return Working(f"{part.name}, full", "U", pack_full_v(part), "V", "s * U_cell", (
        Input("s", part.series, "", "cells in series", STATED),
        Input("U_cell", per_cell, "V", f"a full {part.chemistry.upper()} cell", cell.OCV_SOURCE)),
        f"Empty it has {pack_empty_v(part):.1f} V. Between the ends voltage against charge is approximate.")


def _pack(analysis: Analysis, pack: str) -> Pack:
    part = analysis.topology.parts[pack]
    if not isinstance(part, Pack):
        raise KeyError(pack)
    return part


def full_power(analysis: Analysis) -> Working:
    """Current at full power, sag included."""
    found = analysis.pack
    if found is None or found.full_power_a != found.full_power_a:
        raise KeyError("full power")
    watts = found.full_power_a * found.full_power_v
    return Working("Pack current at full power, everything on", "I", found.full_power_a, "A",
                   "P / (E / 2 + sqrt(E ** 2 / 4 - R * P))", (
                       Input("P", watts, "W", "drive and accessories", "ledger, full power"),
                       Input("E", found.packs[0].rested_v, "V", "rested voltage of the pack", "stated, or its charge"),
                       Input("R", found.packs[0].ohm, "Ω", "cells, protection and wiring", STATED)),
                   f"The pack then has {found.full_power_v:.2f} V.")


def bms_margin(analysis: Analysis) -> Working:
    """Amps to the pack's continuous limit at full power."""
    if analysis.pack is None or analysis.pack.full_power_a != analysis.pack.full_power_a:
        raise KeyError("full power")
    return Working("To the pack's limit at full power", "I", analysis.bms_margin_a(), "A", "I_bms - I_full", (
        Input("I_bms", analysis.plan.packs[0].bms_continuous_a, "A", "protection, continuous", STATED),
        Input("I_full", analysis.pack.full_power_a, "A", "full power, everything on, sag included", "volts under power")))


def range_left(analysis: Analysis) -> Working:
    """Range with the accessories."""
    found = analysis.pack
    if found is None:
        raise KeyError("range")
    joined = any(isinstance(p, Combiner) for p in analysis.plan.parts)
    energy = sum(f.energy_wh for f in found.packs) if joined else found.packs[0].energy_wh
    return Working("Range with the accessories", "s", found.range_km, "km", "s_0 * W / W_1 * P_drive / (P_drive + P_acc)", (
        Input("s_0", found.range_bare_km, "km", "range known from one full pack, nothing else on", STATED),
        Input("W", energy, "Wh", "energy of the packs in use", "cells times nominal volts"),
        Input("W_1", found.packs[0].energy_wh, "Wh", "energy of the first pack", "cells times nominal volts"),
        Input("P_drive", found.assist_w, "W", "the drive in assist", STATED),
        Input("P_acc", found.accessories_w, "W", "accessories, average, from the pack", "ledger, assist")),
        "Scaled by watts at the same speed; hills and wind are in the range you know.")


def equalising(analysis: Analysis) -> Working:
    """The current that flows when two packs are joined."""
    found = analysis.pack.joining if analysis.pack else None
    if found is None:
        raise KeyError("joining")
    one, two = (pack_figures(p) for p in analysis.plan.packs)
    high, low = (one, two) if one.rested_v >= two.rested_v else (two, one)
    return Working("Equalising current when the packs are joined", "I", found.equalising_a, "A", "(U_1 - U_2) / (R_1 + R_2)", (
        Input("U_1", high.rested_v, "V", f"{high.id}, the higher", STATED), Input("U_2", low.rested_v, "V", f"{low.id}", STATED),
        Input("R_1", high.ohm, "Ω", "its cells, protection and wiring", STATED),
        Input("R_2", low.ohm, "Ω", "its cells, protection and wiring", STATED)),
        f"Leads left out: with them it is a little less. Within {found.may_join_v:.2f} V the charge limit is kept.")


def converter_in(analysis: Analysis, converter: str) -> Working:
    """What a converter draws from the almost empty pack."""
    part = _converter(analysis, converter)
    amps, low = analysis.converter_worst_in(part)
    asked = min(analysis.converter_asked_a(part), part.rated_a)
    return Working(f"{part.name}: input at the lowest voltage", "I", amps, "A",
                   "(U_out * I_out / eta + P_0) / U_in", (
                       Input("U_out", part.out_v, "V", "output", STATED), Input("I_out", asked, "A", "everything on", "summed"),
                       Input("eta", part.efficiency_frac, "", "efficiency", STATED),
                       Input("P_0", part.idle_w, "W", "its own draw", STATED),
                       Input("U_in", low, "V", "the empty pack, or where its window ends", "chemistry")))


def _converter(analysis: Analysis, converter: str) -> Converter:
    part = analysis.topology.parts[converter]
    if not isinstance(part, Converter):
        raise KeyError(converter)
    return part


def converter_out(analysis: Analysis, converter: str) -> Working:
    """What is asked of a converter's output."""
    part = _converter(analysis, converter)
    formula, inputs = summed("I", ((analysis.asked_a(p, part.out_v), p.name) for p in analysis.plan.loads
                                   if p.feed == part.id), "A", f"at {part.out_v:g} V")
    return Working(f"{part.name}: asked of its output", "I", sum(i.value for i in inputs), "A", formula, tuple(inputs),
                   f"It is rated {part.rated_a:g} A.")


def port_w(analysis: Analysis, port: str) -> Working:
    """Watts asked of a light port."""
    part = analysis.topology.parts[port]
    if not isinstance(part, Port):
        raise KeyError(port)
    formula, inputs = summed("P", ((analysis.asked_a(p, part.out_v) * part.out_v, p.name) for p in analysis.plan.loads
                                   if p.feed == part.id), "W", f"at {part.out_v:g} V")
    return Working(f"{part.name}: asked of it", "P", sum(i.value for i in inputs), "W", formula, tuple(inputs),
                   f"It gives {part.limit_w:g} W.")


def _lit(volts: float, nominal_v: float) -> None:
    """Life is reckoned for a lamp that is lit: below a third of its voltage there is nothing to say."""
    if volts < nominal_v / 3:
        raise KeyError("lamp")


def lamp_v(analysis: Analysis, lamp: str, state: str) -> Working:
    """Volts of a lamp on the magneto at a state's speed: the lamp's life there."""
    found = analysis.lamps
    part = analysis.topology.parts[lamp]
    if found is None or part.kind != "load":
        raise KeyError(lamp)
    rpm = analysis.plan.machine.rpm(state)  # type: ignore[arg-type]
    volts = found.at(lamp, rpm)
    _lit(volts, part.at_v)
    return Working(f"Life of {part.name} at {rpm:g} rpm, as a share of its hours", "t", (volts / part.at_v) ** LIFE_EXPONENT,
                   "", "(U / U_n) ** n", (
                       Input("U", volts, "V", "at the lamp", "coil, wires and lamps solved by phasors"),
                       Input("U_n", part.at_v, "V", "the lamp's voltage", STATED),
                       Input("n", LIFE_EXPONENT, "", "exponent of lamp life", "usual: life falls with the 13th power")))


def lamp_failed(analysis: Analysis, gone: str, lamp: str) -> Working:
    """Life of a lamp at town speed when another has failed."""
    found, part = analysis.lamps, analysis.topology.parts[lamp]
    if found is None or part.kind != "load":
        raise KeyError(lamp)
    volts = found.at_failed(gone, lamp, analysis.plan.machine.town_rpm)
    _lit(volts, part.at_v)
    return Working(f"Life of {part.name} with {analysis.topology.parts[gone].name} failed, share of its hours", "t",
                   (volts / part.at_v) ** LIFE_EXPONENT, "", "(U / U_n) ** n", (
                       Input("U", volts, "V", f"at {analysis.plan.machine.town_rpm:g} rpm", "solved by phasors"),
                       Input("U_n", part.at_v, "V", "the lamp's voltage", STATED),
                       Input("n", LIFE_EXPONENT, "", "exponent of lamp life", "usual")))


def total_loss(analysis: Analysis) -> Working:
    """Minutes from full to empty."""
    found, battery = analysis.total_loss, analysis.plan.battery
    if found is None or battery is None:
        raise KeyError("total loss")
    return Working("From full to empty", "t", found.empty_min, "min", "60 * min(H * (C / (I * H)) ** k, C / I)", (
        Input("H", battery.rate_h, "h", "rate the capacity is stated at", STATED),
        Input("C", battery.capacity_ah, "Ah", "capacity", STATED),
        Input("I", found.draw_a, "A", "what runs", "ledger, cruise"),
        Input("k", found.peukert_k, "", "Peukert exponent", f"usual for {battery.chemistry}, or stated")),
        f"At 25 °C. Usable to the ignition's {found.low_v:g} V: {found.usable_min:.0f} min. To charge again: what went out "
        f"over {CHARGE_EFFICIENCY:g}.")


def starter_drop(analysis: Analysis) -> Working:
    """Volts over the starter's leads."""
    leads = starter_leads(analysis.topology)
    if not leads or analysis.sized is None:
        raise KeyError("starter")
    areas = analysis.sized.choices.area_mm2
    terms = []
    for w in leads:
        geometry = analysis.topology.geometry[w]
        metal = conductor(analysis.plan, analysis.topology.wires[w], areas[w])
        terms.append((1000 * metal.ohm(geometry.length_m, geometry.hottest_ambient_c), f"{w}, {areas[w]:g} mm², with its ends"))
    formula, inputs = summed("R", terms, "mΩ", "IEC 60028 copper at the place's temperature")
    return Working("Lost in the starter's leads", "U", starter_drop_v(analysis.topology, areas, leads), "V",
                   f"I * ({formula}) / 1000", (
                       Input("I", analysis.plan.machine.cranking_a, "A", "starter current", STATED), *inputs))


def stator_short(analysis: Analysis) -> Working:
    """Current in the winding's leads behind a shunt regulator."""
    generator = analysis.plan.generator
    if generator is None:
        raise KeyError("generator")
    winding, rpm = winding_of(generator), analysis.plan.machine.cruise_rpm
    return Working("Winding current, shorted at cruise", "I", analysis.stator_short_a(), "A",
                   "k * n / 1000 / sqrt(R ** 2 + (x * n / 1000) ** 2) / sqrt(2)", (
                       Input("k", winding.k_v_per_rpm * 1000, "mV/rpm", "peak voltage per phase", FOUND),
                       Input("n", rpm, "rpm", "cruise", STATED), Input("R", winding.r_ohm, "Ω", "a phase, hot", STATED),
                       Input("x", winding.x_ohm_per_rpm * 1000, "mΩ/rpm", "reactance per phase", FOUND)))


EXPLAINED: dict[str, Callable[..., Working]] = {
    "pack_v": pack_v, "full_power": full_power, "bms_margin": bms_margin, "range": range_left, "equalising": equalising, "converter_in": converter_in,
    "converter_out": converter_out, "port": port_w, "lamp_v": lamp_v, "lamp_failed": lamp_failed, "total_loss": total_loss,
    "starter_drop": starter_drop, "stator_short": stator_short,
}


def keys(analysis: Analysis) -> list[str]:
    """Every key of this module that can be asked of an analysis."""
    found = ["full_power", "bms_margin", "range", "equalising", "total_loss", "starter_drop", "stator_short"]
    for part in analysis.plan.parts:
        if isinstance(part, Pack):
            found.append(f"pack_v/{part.id}")
        elif isinstance(part, Converter):
            found += [f"converter_in/{part.id}", f"converter_out/{part.id}"]
        elif isinstance(part, Port):
            found.append(f"port/{part.id}")
    lamps = analysis.lamps.lamps if analysis.lamps else ()
    found += [f"lamp_v/{lamp}/{state}" for lamp in lamps for state in ("idle", "town", "cruise")]
    return found + [f"lamp_failed/{a}/{b}" for a in lamps for b in lamps if a != b]
