"""The board at its true size, over pages that are joined at their overlaps, with a test page before them."""

from dataclasses import dataclass
from typing import Any

from django.utils import timezone
from django.utils.safestring import mark_safe

from loadstar.core.harness.nodes import leaving
from loadstar.core.harness.tiling import BAR_MM, MARGIN_MM, OVERLAP_MM, Tile, Tiling
from loadstar.core.parts.coupling import Coupling
from loadstar.core.quantities import read
from loadstar.draw import board, mouth
from loadstar.draw.svg import Look, el, text

from ..frame.frame import Frame
from .press import pdf

CROSS_MM = 4.0
LEAST_BENCH_M, MOST_BENCH_M = 0.6, 10.0


@dataclass(frozen=True)
class Print:
    """How the board is printed: on which paper, scaled by how much each way for a printer that is a little off, and for
    a bench how long (None: as long as it takes)."""

    paper: str
    across: float = 1.0
    along: float = 1.0
    bench_mm: float | None = None


def bench_of(typed: str) -> float | None:
    """How long the bench is, mm; None where nobody says so. Raises ValueError, with a sentence."""
    if not typed.strip():
        return None
    long_m = read(typed, "m")
    if not LEAST_BENCH_M <= long_m <= MOST_BENCH_M:
        raise ValueError(f"A bench is {LEAST_BENCH_M:g} m to {MOST_BENCH_M:g} m long. Empty: the whole length.")
    return long_m * 1000


def plot_of(frame: Frame, how: Print) -> board.Plot:
    """The board as it is printed. Raises board.Loop where the harness cannot lie flat."""
    return board.plotted(frame.analysis, how.paper, how.bench_mm, (how.across, how.along))


def board_pdf(frame: Frame, how: Print) -> bytes:
    """What ends at each place, a test page, and every page of the board with something on it."""
    plot = plot_of(frame, how)
    pages = plot.pages
    drawing = el("g", {"transform": f"scale({how.across:.6f} {how.along:.6f})"}, *board.shapes_mm(frame.analysis, plot))
    wide, high = pages.sheet_mm
    return pdf("papers/board.html", {
        "frame": frame, "today": timezone.now(), "paper": how, "wide": wide, "high": high, "margin": MARGIN_MM,
        "tiles": [{"name": tile.name, "svg": mark_safe(page_svg(drawing, pages, tile))} for tile in pages.tiles],
        "pages": pages, "places": _places(frame), "test": mark_safe(bars_svg(pages, how)),
        "left_out": [key for key, put in plot.words.items() if put is None]})


def _places(frame: Frame) -> list[dict[str, Any]]:
    """What ends at each place of the board, with what is done to it there."""
    a, plan = frame.analysis, frame.plan
    assert a.ends is not None and a.loom is not None
    names = {place.id: place.name for place in plan.places}
    found = []
    for place, here in leaving(plan, a.topology.geometry).items():
        rows = [{"one": one, "end": a.ends.by_key.get(f"{one.wire.id}.{one.side}"), "to": names[one.to],
                 "area": a.wires[one.wire.id].area_mm2, "cut_m": a.loom.cut_m.get(one.wire.id),
                 "part": plan.part(one.at.part).name} for one in here if one.wire.id in a.wires]
        faces = [mouth.draw(plan, plug, "wires", Look(paper=True)) for plug in plan.plugs if plug.place == place]
        faces += [mouth.half(plan, part, side, "wires", Look(paper=True))
                  for part in plan.of(Coupling) if part.place == place for side in ("a", "b")]
        found.append({"id": place, "name": names[place], "rows": rows, "faces": [mark_safe(face) for face in faces]})
    return found


def page_svg(drawing: str, pages: Tiling, tile: Tile) -> str:
    crosses = [_cross(x, y) for x in (OVERLAP_MM / 2, pages.wide_mm - OVERLAP_MM / 2)
               for y in (OVERLAP_MM / 2, pages.high_mm - OVERLAP_MM / 2)]
    moved = el("g", {"transform": f"translate({-tile.x_mm:.3f} {-tile.y_mm:.3f})"}, drawing)
    return _svg(pages, f"Page {tile.name} of the board", moved, *crosses)


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
    return _svg(pages, "Two bars to measure", *bars)


def _svg(pages: Tiling, title: str, *inside: str) -> str:
    return el("svg", {"xmlns": "http://www.w3.org/2000/svg", "width": f"{pages.wide_mm:g}mm",
                      "height": f"{pages.high_mm:g}mm", "viewBox": f"0 0 {pages.wide_mm:g} {pages.high_mm:g}",
                      "font-family": "Loadstar Text"},
              el("title", None, text(title)), *inside)
