"""Packs, converters and light ports."""

from ..budget.packs import pack_figures
from ..parts.converter import Converter
from ..parts.load import LoadPart
from ..parts.pack import Pack
from ..parts.port import Port
from ..physics import battery as cell
from ..plan.stands import together
from .figures import Figures
from .registry import CONVERTER, PACK, PORT, NoFigure, figure
from .working import STATED, Input, Working, source_of, summed


def bms_margin_a(figures: Figures) -> float:
    """Amps left to the pack's continuous limit at full power, everything on; negative is over it."""
    assert figures.pack is not None
    return figures.plan.packs[0].bms_continuous_a - figures.pack.full_power_a


def is_starved(figures: Figures, load: str) -> bool:
    """Whether a load hangs on a converter or light port that is asked for more than it gives: its voltage falls for
    that."""
    part = figures.plan.is_one(load, LoadPart)
    made = figures.plan.second_supply(figures.plan.hangs_on(part)) if part else None
    return made is not None and sum(
        p.draws_a(made.out_v) for p in together(figures.plan, made.id, made.out_v)) > made.most_a


def converter_asked_a(figures: Figures, converter: Converter) -> float:
    """What is asked of a converter's output with everything on that may be on together."""
    return sum(p.draws_a(converter.out_v) for p in together(figures.plan, converter.id, converter.out_v))


def converter_worst_in(figures: Figures, converter: Converter) -> tuple[float, float]:
    """A converter's input current (A) at the lowest voltage it works at, and that voltage: the pack nearly
    empty."""
    low = max(converter.window_low_v, min((p.empty_v for p in figures.plan.packs), default=converter.window_low_v))
    return converter.input_a(min(converter_asked_a(figures, converter), converter.rated_a), low), low


@figure("pack_v", PACK)
def pack_v(figures: Figures, part: Pack) -> Working:
    """Full voltage of a pack."""
    per_cell = cell.CELL_V[part.chemistry][-1][1]
    return Working(f"{part.name}, full", "U", part.full_v, "V", "s * U_cell", (
        Input("s", part.series, "", "cells in series", source_of(part, "series")),
        Input("U_cell", per_cell, "V", f"a full {part.chemistry.upper()} cell", cell.OCV_SOURCE)),
        f"Empty it has {part.empty_v:.1f} V. Between the ends voltage against charge is approximate.")


@figure("full_power")
def full_power(figures: Figures) -> Working:
    """Current at full power, sag included."""
    found = figures.pack
    if found is None or found.full_power_a != found.full_power_a:
        raise NoFigure("This plan has no full power.")
    watts = found.full_power_a * found.full_power_v
    return Working("Pack current at full power, everything on", "I", found.full_power_a, "A",
                   "P / (E / 2 + sqrt(E ** 2 / 4 - R * P))", (
                       Input("P", watts, "W", "drive and accessories", "ledger, full power"),
                       Input("E", found.packs[0].rested_v, "V", "rested voltage of the pack", "stated, or its charge"),
                       Input("R", found.packs[0].ohm, "Ω", "cells, protection and wiring",
                             source_of(figures.plan.packs[0], "cell_mohm", "parallel"))),
                   f"The pack then has {found.full_power_v:.2f} V.")


@figure("bms_margin")
def bms_margin(figures: Figures) -> Working:
    """Amps to the pack's continuous limit at full power."""
    if figures.pack is None or figures.pack.full_power_a != figures.pack.full_power_a:
        raise NoFigure("This plan has no full power.")
    return Working("To the pack's limit at full power", "I", bms_margin_a(figures), "A", "I_bms - I_full", (
        Input("I_bms", figures.plan.packs[0].bms_continuous_a, "A", "protection, continuous",
              source_of(figures.plan.packs[0], "bms_continuous_a")),
        Input("I_full", figures.pack.full_power_a, "A", "full power, everything on, sag included",
              "volts under power")))


@figure("range")
def range_left(figures: Figures) -> Working:
    """Range with the accessories."""
    found = figures.pack
    if found is None:
        raise NoFigure("This plan has no range.")
    joined, machine = figures.plan.combiner is not None, figures.plan.machine
    energy = sum(f.energy_wh for f in found.packs) if joined else found.packs[0].energy_wh
    return Working("Range with the accessories", "s", found.range_km, "km",
                   "s_0 * W / W_1 * P_drive / (P_drive + P_acc)", (
        Input("s_0", machine.range_km, "km", "range known from one full pack, nothing else on",
              source_of(machine, "range_km")),
        Input("W", energy, "Wh", "energy of the packs in use", "cells times nominal volts"),
        Input("W_1", found.range_known_wh, "Wh", "energy of the pack that it is known with",
              STATED if machine.range_wh else "the first pack's: cells times nominal volts"),
        Input("P_drive", found.assist_w, "W", "the drive in assist", STATED),
        Input("P_acc", found.accessories_w, "W", "accessories, average, from the pack", "ledger, assist")),
        "Scaled by watts at the same speed; hills and wind are in the range you know.")


@figure("equalising")
def equalising(figures: Figures) -> Working:
    """The current that flows when two packs are joined."""
    found = figures.pack.joining if figures.pack else None
    if found is None:
        raise NoFigure("This plan has no joining.")
    one, two = (pack_figures(p) for p in figures.plan.packs)
    high, low = (one, two) if one.rested_v >= two.rested_v else (two, one)
    return Working("Equalising current when the packs are joined", "I", found.equalising_a, "A",
                   "(U_1 - U_2) / (R_1 + R_2)", (
        Input("U_1", high.rested_v, "V", f"{high.id}, the higher",
              source_of(figures.plan.part(high.id), "charge_frac")),
        Input("U_2", low.rested_v, "V", f"{low.id}", source_of(figures.plan.part(low.id), "charge_frac")),
        Input("R_1", high.ohm, "Ω", "its cells, protection and wiring",
              source_of(figures.plan.part(high.id), "cell_mohm", "parallel")),
        Input("R_2", low.ohm, "Ω", "its cells, protection and wiring",
              source_of(figures.plan.part(low.id), "cell_mohm", "parallel"))),
        f"Leads left out: with them it is a little less. Within {found.may_join_v:.2f} V the charge limit is kept.")


@figure("converter_in", CONVERTER)
def converter_in(figures: Figures, part: Converter) -> Working:
    """What a converter draws from the almost empty pack."""
    amps, low = converter_worst_in(figures, part)
    asked = min(converter_asked_a(figures, part), part.rated_a)
    return Working(f"{part.name}: input at the lowest voltage", "I", amps, "A",
                   "(U_out * I_out / eta + P_0) / U_in", (
                       Input("U_out", part.out_v, "V", "output", source_of(part, "out_v")),
                       Input("I_out", asked, "A", "everything on", "summed"),
                       Input("eta", part.efficiency_frac, "", "efficiency", source_of(part, "efficiency_frac")),
                       Input("P_0", part.idle_w, "W", "its own draw", source_of(part, "idle_w")),
                       Input("U_in", low, "V", "the empty pack, or where its window ends", "chemistry")))


@figure("converter_out", CONVERTER)
def converter_out(figures: Figures, part: Converter) -> Working:
    """What is asked of a converter's output."""
    users = together(figures.plan, part.id, part.out_v)
    formula, inputs = summed("I", ((p.draws_a(part.out_v), p.name) for p in users), "A", f"at {part.out_v:g} V")
    return Working(f"{part.name}: asked of its output", "I", sum(i.value for i in inputs), "A", formula, tuple(inputs),
                   f"It is rated {part.rated_a:g} A.")


@figure("port", PORT)
def port_w(figures: Figures, part: Port) -> Working:
    """Watts asked of a light port."""
    users = together(figures.plan, part.id, part.out_v)
    formula, inputs = summed("P", ((p.draws_a(part.out_v) * part.out_v, p.name) for p in users), "W",
                             f"at {part.out_v:g} V")
    return Working(f"{part.name}: asked of it", "P", sum(i.value for i in inputs), "W", formula, tuple(inputs),
                   f"It gives {part.limit_w:g} W.")
