"""How warm a wire runs, and how its guard protects it."""

import math

from ..doc.states import STATE_NAMES, States
from ..materials import fuses
from ..materials.ampacity import SOURCE as TABLE_SOURCE
from ..materials.ampacity import TABLE_RISE_K, table_a
from ..materials.conductors import ALPHA20_PER_K
from ..materials.conductors import SOURCE as CONDUCTOR_SOURCE
from ..physics import heat
from ..physics.surface import surface_loss_w_per_m
from ..sizing.openers import STEADY_MULTIPLE, Guard
from .figures import Figures
from .names import element_name
from .registry import STATE, WIRE, NoFigure, figure
from .wires import WireResult
from .working import SOLVED, Input, Working


@figure("wire_c", WIRE, STATE)
def wire_c(figures: Figures, found: WireResult, state: States) -> Working:
    """Temperature of a wire where it is hottest."""
    wire = found.id
    result = figures.volts.row_through(wire, state)
    if result.solution is None:
        raise NoFigure("This state has no solution.")
    amps = abs(result.current(wire)) if state != "cranking" else 0.0  # over in seconds
    return _temperature(found, f"Hottest spot of {wire}, {STATE_NAMES[state].lower()}",
                        (amps, "current", SOLVED), result.wire_c[wire],
                        (result.ambient_c[wire], result.surround_c[wire] - result.ambient_c[wire]))


@figure("use_c", WIRE)
def use(figures: Figures, found: WireResult) -> Working:
    """Temperature of a wire at the most that it carries in any situation, in the warmest air that it has then."""
    duty = found.coordination.duty
    return _temperature(found, f"{found.id} at the most that it carries",
                        (duty.use_a, "most of all situations", "see what it carries"), found.coordination.use_c,
                        (found.surround_c, 0.0))


def _guarded(wire: WireResult) -> Guard:
    guard = wire.judged_by
    if guard is None:
        raise NoFigure(f"Nothing guards {wire.id}.")
    return guard


def band_source(guard: Guard) -> str:
    """What says how much an opener carries for how long."""
    kind = guard.opener.kind
    if kind == "limit":
        return "its limit"
    return "setting of the way" if kind == "electronic" else fuses.BANDS[kind].source


def _lets(figures: Figures, guard: Guard, multiple: float) -> tuple[str, str]:
    besides = f", and {guard.others_a:.3g} A besides" if guard.others_a else ""
    if guard.opener.kind == "limit":
        return f"the most that {element_name(figures, guard.fuse)} gives", "its limit"
    source = band_source(guard)
    return f"{multiple:g} x {guard.rating_a:g} A{besides}", source


@figure("steady_c", WIRE)
def steady(figures: Figures, found: WireResult) -> Working:
    """Temperature of a wire at 1.10 times its guard's rating."""
    wire, guard = found.id, _guarded(found)
    return _temperature(found, f"{wire} at {guard.steady_multiple:g} times {element_name(figures, guard.fuse)}",
                        (guard.steady_a, *_lets(figures, guard, guard.steady_multiple)),
                        found.coordination.steady_c, (found.surround_c, 0.0))


@figure("overload_c", WIRE)
def overload(figures: Figures, found: WireResult) -> Working:
    """Temperature of a wire at 1.35 times its guard's rating."""
    wire, guard = found.id, _guarded(found)
    return _temperature(found, f"{wire} at {guard.overload_multiple:g} times {element_name(figures, guard.fuse)}",
                        (guard.lets_a(guard.overload_multiple), *_lets(figures, guard, guard.overload_multiple)),
                        found.coordination.overload_c, (found.surround_c, 0.0))


@figure("several_c", WIRE)
def several(figures: Figures, found: WireResult) -> Working:
    """Temperature of a wire before several fuses while all of them carry 1.10 times their ratings."""
    wire, guard = found.id, _guarded(found)
    if not guard.several_a:
        raise NoFigure("There is none for this wire.")
    return _temperature(found, f"{wire} with all fuses behind it at {STEADY_MULTIPLE:g} times their ratings",
                        (guard.several_lets_a, f"{STEADY_MULTIPLE:g} x {guard.several_a:g} A", fuses.SOURCE),
                        found.coordination.several_c, (found.surround_c, 0.0))


def _temperature(found: WireResult, title: str, carried: tuple[float, str, str], reached: float,
                 air: tuple[float, float]) -> Working:
    """The heat balance of the wire alone in its air at its solution, or the table's rise where that is more, and what
    neighbours add. `carried` are its amps, in words, and their source; `air` the air's temperature and how many K the
    neighbours add to what it reaches."""
    (ambient, near), amps = air, carried[0]
    if not math.isfinite(reached):  # it runs away: there is no temperature at which heat and loss balance
        raise NoFigure("There is none for this wire.")
    metal = found.coordination.duty.wire
    r_ins = float(heat.insulation_mk_per_w(metal.d_mm, metal.od_mm, metal.cover.k_w_per_mk))
    alone = float(heat.wire_temperature_c(amps, metal.r20_ohm_per_m, metal.d_mm, metal.od_mm, ambient,
                                          metal.cover.k_w_per_mk))
    surface = alone - amps**2 * float(heat.resistance_at(metal.r20_ohm_per_m, alone)) * r_ins
    over = max(surface - ambient, 1e-6)
    h = float(surface_loss_w_per_m(metal.od_mm, ambient + over, ambient)) / (math.pi * metal.od_mm / 1000 * over)
    balance = "I ** 2 * r_20 / 1000 * (1 + alpha * (T_1 - 20)) * (R_ins + 1 / (pi * D / 1000 * h))"
    table = float(table_a(metal.area_mm2))
    inputs = [Input("T_a", ambient, "°C", "air around it" if near else "air around it, neighbours included",
                    "place and run"),
              Input("dT", near, "K", "added by its neighbours in the bundle", "bundle model"),
              Input("I", amps, "A", *carried[1:]),
              Input("r_20", metal.r20_ohm_per_m * 1000, "mΩ/m",
                    f"{metal.area_mm2:g} mm²{', tinned,' if metal.tinned else ''} at 20 °C",
                    CONDUCTOR_SOURCE),
              Input("alpha", ALPHA20_PER_K, "1/K", "copper", "IEC 60028"),
              Input("T_1", alone, "°C", "the wire alone (found by iteration)", "heat balance"),
              Input("R_ins", r_ins, "K·m/W", "through the insulation", f"{metal.cover.code}: {metal.cover.source}"),
              Input("D", metal.od_mm, "mm", "overall diameter", "0.95 of the standard's maximum"),
              Input("h", h, "W/(m²K)", "convection and radiation at its surface",
                    "Churchill and Chu 1975; emissivity 0.9")]
    if math.isfinite(table):
        balance = f"max({balance}, T_t * (I / I_t) ** 2)"
        inputs += [Input("I_t", table, "A", "table current of its size, free air", TABLE_SOURCE),
                   Input("T_t", TABLE_RISE_K, "K", "rise that the table stands for", TABLE_SOURCE)]
    return Working(title, "T", reached, "°C", f"T_a + dT + {balance}", tuple(inputs),
                   "Still air. The heat model is good to about 15 %: smaller margins are close.")


@figure("strength", WIRE)
def strength(figures: Figures, found: WireResult) -> Working:
    """What a wire stands over what its guard lets through for hours."""
    wire, guard = found.id, _guarded(found)
    if found.strength is None:
        raise NoFigure("There is none for this wire.")
    most = 1.0 if guard.opener.kind == "limit" else guard.steady_multiple
    return Working(f"Protection of {wire} by {element_name(figures, guard.fuse)}", "x", found.strength, "×",
                   "I_z / (m * I_n * s + I_o)", (
        Input("I_z", found.coordination.limit_a, "A", f"brings it to its class, {found.class_c:.0f} °C",
              "heat model, or the table"),
        Input("m", most, "", "of its rating it carries for hours", band_source(guard)),
        Input("I_n", guard.rating_a, "A", f"rating of {element_name(figures, guard.fuse)}", "chosen or fixed"),
        Input("s", guard.share, "", "share of its current that flows here", "fault solution"),
        Input("I_o", guard.others_a, "A", "what the wire carries besides", SOLVED)),
        "Below 1 it does not protect the wire.")
