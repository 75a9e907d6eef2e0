"""The board at its true size, over pages that are joined at their overlaps, with a test page before them."""

from dataclasses import dataclass

from django.utils import timezone
from django.utils.safestring import mark_safe

from loadstar.core.harness.sheet import sheet
from loadstar.core.harness.tiling import BAR_MM, MARGIN_MM, OVERLAP_MM, PAPERS_MM, Tile, Tiling, tiled
from loadstar.draw import board
from loadstar.draw.svg import el

from ..frame.frame import Frame
from .card import pdf

CROSS_MM = 4.0


@dataclass(frozen=True)
class Print:
    """How the board is printed: on which paper, and scaled by how much each way for a printer that is a little off."""

    paper: str
    across: float = 1.0
    along: float = 1.0


def tiling_of(frame: Frame, how: Print) -> Tiling:
    """The pages that a print takes. Raises board.Loop where the harness cannot lie flat."""
    assert frame.analysis.loom is not None
    on = sheet(frame.analysis.loom)
    boxes = tuple((x0 * how.across, y0 * how.along, x1 * how.across, y1 * how.along)
                  for x0, y0, x1, y1 in board.boxes_mm(frame.analysis, on))
    return tiled(how.paper, (on.wide_mm * how.across, on.high_mm * how.along), boxes)


def board_pdf(frame: Frame, how: Print) -> bytes:
    """Test page, list of wires, and every page of the board with something on it."""
    analysis = frame.analysis
    assert analysis.loom is not None
    pages = tiling_of(frame, how)
    drawing = el("g", {"transform": f"scale({how.across:.6f} {how.along:.6f})"},
                 *board.shapes_mm(analysis, sheet(analysis.loom)))
    wide, high = PAPERS_MM[how.paper]
    plan = frame.plan
    wires = [{"wire": w, "area": analysis.wires[w.id].area_mm2, "cut_m": analysis.loom.cut_m[w.id]} for w in plan.wires]
    return pdf("papers/board.html", {
        "frame": frame, "today": timezone.now(), "paper": how, "wide": wide, "high": high, "margin": MARGIN_MM,
        "tiles": [{"name": tile.name, "svg": mark_safe(page_svg(drawing, pages, tile))} for tile in pages.tiles],
        "pages": pages, "wires": wires, "test": mark_safe(bars_svg(pages, how)), "loom": analysis.loom})


def page_svg(drawing: str, pages: Tiling, tile: Tile) -> str:
    crosses = [_cross(x, y) for x in (OVERLAP_MM / 2, pages.wide_mm - OVERLAP_MM / 2)
               for y in (OVERLAP_MM / 2, pages.high_mm - OVERLAP_MM / 2)]
    moved = el("g", {"transform": f"translate({-tile.x_mm:.3f} {-tile.y_mm:.3f})"}, drawing)
    return _svg(pages, moved, *crosses)


def _cross(x: float, y: float) -> str:
    lines = ((x - CROSS_MM, y, x + CROSS_MM, y), (x, y - CROSS_MM, x, y + CROSS_MM))
    return "".join(el("line", {"x1": f"{a:.2f}", "y1": f"{b:.2f}", "x2": f"{c:.2f}", "y2": f"{d:.2f}",
                               "stroke": "#1d2a30", "stroke-width": "0.2"}) for a, b, c, d in lines)


def bars_svg(pages: Tiling, how: Print) -> str:
    """A bar each way, scaled as the board is."""
    bars = []
    for x1, y1, words in ((BAR_MM * how.across, 0.0, "across"), (0.0, BAR_MM * how.along, "along")):
        x, y = 20.0, 20.0
        bars.append(el("line", {"x1": x, "y1": y, "x2": f"{x + x1:.4f}", "y2": f"{y + y1:.4f}", "stroke": "#1d2a30",
                                "stroke-width": "0.3"}))
        bars.append(el("text", {"x": f"{x + x1 + 3:.2f}", "y": f"{y + y1 + 4:.2f}", "font-size": "5"},
                       f"{BAR_MM:g} mm {words}"))
    return _svg(pages, *bars)


def _svg(pages: Tiling, *inside: str) -> str:
    return el("svg", {"xmlns": "http://www.w3.org/2000/svg", "width": f"{pages.wide_mm:g}mm",
                      "height": f"{pages.high_mm:g}mm", "viewBox": f"0 0 {pages.wide_mm:g} {pages.high_mm:g}",
                      "font-family": "Loadstar Text"}, *inside)
