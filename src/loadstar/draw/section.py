"""The section of a run: its wires in their circle, to scale and in their true colours, with what is around them."""

from loadstar.core.analysis import Analysis
from loadstar.core.harness.closest import closest

from .svg import WIRE_COLOURS, document, el, num, text

WIDTH, HEIGHT = 256.0, 226.0
MOST_PX_MM, BAR_MM = 42.0, 5.0
COPPER_FRAC, STRIPE_FRAC = 0.52, 0.86  # of a wire's radius: its copper, where its stripe is drawn
NAMED_PX = 11.0  # a wire of at least this radius carries its id


def draw(analysis: Analysis, run: str) -> str:
    """The picture of a run that carries wires."""
    assert analysis.loom is not None
    here = analysis.loom.by_run[run]
    found, plan = closest(here.diameters_mm), analysis.plan
    outer_mm = max(here.covered_mm, found.diameter_mm)
    k = min(MOST_PX_MM, (HEIGHT - 70) / outer_mm)
    x0, y0 = WIDTH / 2, (HEIGHT - 40) / 2
    made = []
    if here.covering:
        made.append(el("circle", {"cx": x0, "cy": y0, "r": outer_mm / 2 * k, "class": "s-cover"}))
    looser = max(1.0, here.laid_mm / found.diameter_mm)  # as a hand lays them; never one in another
    for wire, (x, y, r) in zip(here.wires, found.wires, strict=True):
        colour = plan.wire(wire)
        cx, cy = x0 + x * k * looser, y0 - y * k * looser
        made.append(el("circle", {"cx": cx, "cy": cy, "r": r * k, "fill": WIRE_COLOURS[colour.colour],
                                  "class": "s-wire"}, el("title", {}, text(f"{wire} {colour.colour}"))))
        if colour.stripe:
            made.append(_stripe(cx, cy, r * k, WIRE_COLOURS[colour.stripe]))
        made.append(el("circle", {"cx": cx, "cy": cy, "r": r * k * COPPER_FRAC, "class": "s-copper"}))
        if r * k >= NAMED_PX:
            made.append(el("text", {"x": cx, "y": cy + 4.5, "text-anchor": "middle", "class": "s-name"}, text(wire)))
    bar = BAR_MM * k
    y = HEIGHT - 14
    made += [el("line", {"x1": x0 - bar / 2, "x2": x0 + bar / 2, "y1": y, "y2": y, "class": "d-edge"}),
             el("text", {"x": x0 + bar / 2 + 8, "y": y + 5, "class": "d-soft"}, text(f"{BAR_MM:g} mm"))]
    return document((WIDTH, HEIGHT), f"Section of {run}",
                    f"{len(here.wires)} wires, {here.laid_mm:.1f} mm as a hand lays it; the list beside it names them.",
                    made, "section")


def _stripe(x: float, y: float, radius: float, colour: str) -> str:
    """A quarter of a wire's insulation in its second colour."""
    at = radius * STRIPE_FRAC
    return el("path", {"d": f"M {num(x - at)} {num(y)} A {num(at)} {num(at)} 0 0 1 {num(x)} {num(y - at)}",
                       "stroke": colour, "fill": "none", "stroke-width": num(max(2.0, 2 * (radius - at)))})
