"""Figures of the harness: how thick a run is, what it weighs, what the steering asks of it."""

import math

from ..harness.loom import TIE_G, Bundle
from ..harness.packing import LAID_EXACT, LAID_FACTOR, MOST_PACKED, packed
from ..materials.coverings import SOURCE
from ..physics.bundle import BUNDLE_FILL
from .figures import Figures
from .registry import BUNDLE, NoFigure, figure
from .working import HOUSE, STATED, Input, Working

MODEL = "packing of circles (docs/physics.md, the harness); wires by their nominal outer diameters"
MASS = "ISO 6722 resistances and diameters; docs/physics.md, the harness"


@figure("bundle", BUNDLE)
def bundle(figures: Figures, here: Bundle) -> Working:
    """How thick the wires of a run are together, hand-laid."""
    count, squares = len(here.diameters_mm), sum(d * d for d in here.diameters_mm)
    title = f"{here.run.id}: {count} wires together"
    if count == 1:
        return Working(f"{here.run.id}: its one wire", "D", here.laid_mm, "mm", "d",
                       (Input("d", here.diameters_mm[0], "mm", "outer diameter", MODEL),))
    filled = Input("S", squares, "mm²", "sum of the squares of their diameters", MODEL)
    share = Input("f", BUNDLE_FILL, "", "fill of hand-laid wires", MODEL)
    if count > MOST_PACKED:
        return Working(title, "D", here.laid_mm, "mm", "sqrt(S / f)", (filled, share))
    best = Input("D_0", packed(here.diameters_mm).diameter_mm, "mm", "smallest circle that holds them", MODEL)
    looser = Input("k", LAID_FACTOR, "", "a hand lays looser", MODEL)
    if count <= LAID_EXACT:
        return Working(title, "D", here.laid_mm, "mm", "k * D_0", (looser, best))
    return Working(title, "D", here.laid_mm, "mm", "max(k * D_0, sqrt(S / f))", (looser, best, filled, share))


@figure("run_g", BUNDLE)
def run_g(figures: Figures, here: Bundle) -> Working:
    """What a run weighs."""
    assert figures.loom is not None
    return Working(f"{here.run.id} weighs", "m", here.wires_g + here.covering_g + TIE_G * len(
        figures.loom.ties_mm(here.run.id)), "g", "m_w + m_c + n * m_t", (
        Input("m_w", here.wires_g, "g", f"{len(here.wires)} wires: copper by their resistance, insulation 1.35 g/cm³",
              MASS),
        Input("m_c", here.covering_g, "g", here.covering or "no covering", SOURCE),
        Input("n", float(len(figures.loom.ties_mm(here.run.id))), "", "ties", HOUSE),
        Input("m_t", TIE_G, "g", "one tie", "usual")))


@figure("harness_g")
def harness_g(figures: Figures) -> Working:
    """What the harness weighs."""
    found = figures.loom
    if found is None:
        raise NoFigure("Nothing has been sized yet.")
    return Working("The harness weighs", "m", found.total_g, "g", "m_w + m_c + n * m_t", (
        Input("m_w", found.wires_g, "g", f"{len(found.cut_m)} wires at their cut lengths",
              MASS),
        Input("m_c", found.covering_g, "g", "coverings", SOURCE), Input("n", float(found.ties), "", "ties", HOUSE),
        Input("m_t", TIE_G, "g", "one tie", "usual")), "Connectors, terminals and parts are not counted yet.")


@figure("steer", BUNDLE)
def steer(figures: Figures, here: Bundle) -> Working:
    """What the steering takes and gives between its locks."""
    swept, run = here.sweep, here.run
    if swept is None:
        raise NoFigure(f"{run.id} is not said to pass the headstock.")
    return Working(f"{run.id}: slack for the steering", "s", swept.slack_mm, "mm",
                   "L_m - sqrt(h ** 2 + a ** 2 + b ** 2 - 2 * a * b * cos(phi))", (
        Input("L_m", swept.most_mm, "mm", f"longest way, {run.lock_deg:g}° either way", "over the whole sweep"),
        Input("h", run.high_mm or 0.0, "mm", "apart along the axis", STATED),
        Input("a", run.above_mm or 0.0, "mm", "from the axis above", STATED),
        Input("b", run.below_mm or 0.0, "mm", "from the axis below", STATED),
        Input("phi", math.radians(run.start_deg), "rad", "around the axis, straight ahead", STATED)),
        f"From lock to lock it gives and takes {swept.stow_mm:.0f} mm.")
