"""Figures of ends: what a terminal carries where it is, and what its crimp has to hold."""

from ..ends.choose import End
from ..materials.terminals import PULL_SOURCE, RATED_AT_C, SOURCE
from .figures import Figures
from .registry import END, NoFigure, figure
from .working import HOUSE, STATED, Input, Working


@figure("end_a", END)
def end_a(figures: Figures, end: End) -> Working:
    """What the terminal carries with this wire in the air there."""
    terminal = end.chosen
    if terminal is None or end.rated_a is None:
        raise NoFigure("No terminal takes this end.")
    table = Input("I_t", terminal.table_a(end.area_mm2), "A",
                  f"{terminal.name} with {end.area_mm2:g} mm², at {RATED_AT_C:g} °C", SOURCE)
    title = f"{terminal.name} on {end.wire} carries"
    if end.stated_a is not None:
        return Working(title, "I", end.stated_a, "A", "I_c", (
            Input("I_c", end.stated_a, "A", f"each contact of {figures.plan.part(end.at.part).name}", STATED),))
    if end.air_c <= RATED_AT_C:
        return Working(title, "I", end.rated_a, "A", "I_t", (table,), f"It is no warmer than {RATED_AT_C:g} °C there.")
    return Working(title, "I", end.rated_a, "A", "I_t * sqrt((T_m - T_a) / (T_m - T_t))", (
        table, Input("T_m", terminal.most_c, "°C", "what the terminal stands", SOURCE),
        Input("T_a", end.air_c, "°C", "air at its place", HOUSE),
        Input("T_t", RATED_AT_C, "°C", "that its table is for", SOURCE)))


@figure("pull", END)
def pull(figures: Figures, end: End) -> Working:
    """What a crimp has to hold."""
    if end.pull_n is None:
        raise NoFigure("This end is soldered, or no force is listed for such a wire.")
    area = figures.wires[end.wire].area_mm2
    return Working(f"Pull on {end.wire} at {end.at}", "F", float(end.pull_n), "N", "F_t", (
        Input("F_t", float(end.pull_n), "N", f"one wire of {area:g} mm², or the next larger listed", PULL_SOURCE),
    ), "Pull along the wire, with a hand scale, before it goes into anything. Several wires in a barrel: each its own.")
