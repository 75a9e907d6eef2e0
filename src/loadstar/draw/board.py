"""The full-size board: the harness flat and true to length, with its places, ties and lengths.

Placed in millimetres by core/harness/sheet.py. The screen shows it scaled to its width, paper and files at its true
size.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from loadstar.core.analysis import Analysis
from loadstar.core.harness.fittings import Fitting
from loadstar.core.harness.nails import NAIL_MM
from loadstar.core.harness.sheet import Piece, Sheet, Sits, sheet
from loadstar.core.harness.tiling import ROLL, Tiling, tiled

from .labels import Box, Label, Line, Placed, ends_of, place
from .svg import Look, document, el, num, text

INK = "#1d2a30"
LABEL_MM, PLACE_R_MM, FITTING_MM = 3.4, 3.0, 5.0  # height of the letters, and of a place's ring, on paper
WIDTH, MOST_HIGH, LABEL_PX = 760.0, 290.0, 14.0


@dataclass(frozen=True)
class Plot:
    """A board for paper or a file, in mm: the sheet, and its words, each whole on one page where there are pages."""

    sheet: Sheet
    words: dict[str, Placed | None]
    pages: Tiling


def plotted(analysis: Analysis, paper: str = "A4", bench_mm: float | None = None,
            scale: tuple[float, float] = (1.0, 1.0)) -> Plot:
    """The board for a paper: pages first, by what is drawn; then words, off the seams; then the pages with something on
    them. `scale` is what the print is scaled by, across and down. Raises board.Loop where it cannot lie flat."""
    assert analysis.loom is not None
    on = sheet(analysis.loom, paper, bench_mm)
    across, down = scale
    extent = on.wide_mm * across, on.high_mm * down
    drawn_mm = _drawn(on)
    drawn = [_scaled(box, scale) for box in drawn_mm]
    first = tiled(paper, extent, tuple(drawn))
    columns, rows = first.seams_mm
    seams_x, seams_y = [x / across for x in columns], [y / down for y in rows]
    seams: list[Line] = [*((x, 0.0, x, on.high_mm) for x in seams_x), *((0.0, y, on.wide_mm, y) for y in seams_y)]
    empty = _empty(on, (0.0, *seams_x, on.wide_mm), (0.0, *seams_y, on.high_mm), drawn_mm)
    words = labelled(analysis, on, LABEL_MM, Room(Box(0, 0, on.wide_mm, on.high_mm), seams, empty))
    boxes = [*drawn, *(_scaled((put.box.x0, put.box.y0, put.box.x1, put.box.y1), scale)
                       for put in words.values() if put is not None)]
    return Plot(on, words, tiled(paper, extent, tuple(boxes), first.begins_mm))


def _scaled(box: tuple[float, float, float, float], scale: tuple[float, float]) -> tuple[float, float, float, float]:
    return box[0] * scale[0], box[1] * scale[1], box[2] * scale[0], box[3] * scale[1]


def _empty(on: Sheet, xs: Sequence[float], ys: Sequence[float],
           drawn_mm: Sequence[tuple[float, float, float, float]]) -> list[Box]:
    """Between the seams, what nothing is drawn on: words there would take a page of their own."""
    cells = [Box(x0, y0, x1, y1) for x0, x1 in pairwise(xs) for y0, y1 in pairwise(ys)]
    return [cell for cell in cells if not any(Box(*box).overlaps(cell) for box in drawn_mm)]


@dataclass(frozen=True)
class Room:
    """Where words may stand: within `area`, on none of the `seams`, and on an `empty` page only where there is no other
    room."""

    area: Box
    seams: Sequence[Line] = ()
    empty: Sequence[Box] = ()


def labelled(analysis: Analysis, on: Sheet, size: float, room: Room, k: float = 1.0, *,
             whole: bool = True) -> dict[str, Placed | None]:
    """Labels of places and runs where they overlap neither one another nor a stretch; `k` of the drawing's units to a
    millimetre. `whole` ones name a run's covering too."""
    plan = analysis.plan
    front = _foremost(analysis, on)
    names = [Label(p, (f"{p} {plan.place(p).name}" + (", front" if p == front else ""),), x * k, y * k, -1, size, 9)
             for p, (x, y) in on.at.items()]
    runs = [Label(s.run, _run_words(analysis, s, whole), (s.x0 + s.x1) / 2 * k, (s.y0 + s.y1) / 2 * k, 1, size, 0)
            for s in on.pieces]
    sits = [Label(s.fitting.part.id, (_fitting_words(analysis, s.fitting),), s.x * k, s.y * k, 1, size, 0)
            for s in on.sits]
    lines: list[Line] = [(s.x0 * k, s.y0 * k, s.x1 * k, s.y1 * k) for s in on.pieces]
    rings = [Box(x * k - size / 2, y * k - size / 2, x * k + size / 2, y * k + size / 2) for x, y in on.at.values()]
    lines += room.seams
    leaders: list[Line] = []
    put = place([*names, *runs, *sits], room.area, [*rings, *room.empty], lines, leaders)
    left = [label for label in (*names, *runs, *sits) if put[label.key] is None]
    taken = [*rings, *(one.box for one in put.values() if one is not None)]
    return put | place(left, room.area, taken, lines, leaders) if room.empty and left else put


def _fitting_words(analysis: Analysis, fitting: Fitting) -> str:
    """What it is called on the board, how far from its place, and which wires a splice joins."""
    part = fitting.part
    far = f", {fitting.at_mm:.0f} mm" if fitting.at_mm else ""
    joined = [w.id for w in analysis.plan.wires if part.id in (w.a.part, w.b.part)] if part.kind == "junction" else []
    return f"{part.id} {part.name}{far}" + (f": {', '.join(joined)}" if joined else "")


def _run_words(analysis: Analysis, piece: Piece, whole: bool) -> tuple[str, ...]:
    """A run's true length, its covering, and what is done where it is folded."""
    assert analysis.loom is not None
    here = analysis.loom.by_run[piece.run]
    if not whole:
        return (f"{piece.run} {here.length_mm:.0f} mm",)
    sleeve = f"{here.covering} {here.sleeve.nominal_mm}" if here.sleeve else here.covering or "bare"
    said = f"{piece.run} {here.length_mm:.0f} mm, {sleeve}"
    if piece.folded_mm > 0:
        return said, f"fold {piece.folded_mm:.0f} mm here, radius {piece.bend_mm:.0f} mm or more"
    return (said,)


def _bar(s: Sits, half: float, k: float) -> dict[str, str]:
    """A connector or splice as a bar across its run."""
    (x, y), (dx, dy) = (s.x * k, s.y * k), s.along
    return {"x1": f"{x - dy * half:.2f}", "y1": f"{y + dx * half:.2f}", "x2": f"{x + dy * half:.2f}",
            "y2": f"{y - dx * half:.2f}"}


def _drawn(on: Sheet) -> list[tuple[float, float, float, float]]:
    """What is on the sheet but words, as boxes in mm: the stretches in short pieces, and places."""
    found = []
    for s in on.pieces:
        steps = max(1, int(max(abs(s.x1 - s.x0), abs(s.y1 - s.y0)) / 20))
        for i in range(steps):
            xs = [s.x0 + (s.x1 - s.x0) * j / steps for j in (i, i + 1)]
            ys = [s.y0 + (s.y1 - s.y0) * j / steps for j in (i, i + 1)]
            pad = s.thick_mm / 2 + 1
            found.append((min(xs) - pad, min(ys) - pad, max(xs) + pad, max(ys) + pad))
    return found


def draw(analysis: Analysis, *, selected: str = "", link: str = "", zoom: float = 1.0) -> str:
    """The board on the screen; `link` is an address with "{}" for a run or place."""
    assert analysis.loom is not None
    on = sheet(analysis.loom)
    k = min(WIDTH / on.wide_mm, MOST_HIGH / on.high_mm) * zoom
    wide, high = WIDTH * zoom, max(on.high_mm * k, 160.0)
    made = []
    for s in on.pieces:
        ends = {"x1": s.x0 * k, "y1": s.y0 * k, "x2": s.x1 * k, "y2": s.y1 * k}
        kind = "m-run" + (" is-selected" if s.run == selected else "")
        line = el("line", {**ends, "class": kind, "stroke-width": num(max(3.0, s.thick_mm * k))})
        ties = "".join(el("circle", {"cx": x * k, "cy": y * k, "r": 2.2, "class": "s-tie"}) for x, y in s.ties)
        touch = el("line", {**ends, "class": "d-touch", "stroke-width": 24})
        name = f"Run {s.run}, {analysis.plan.run(s.run).length_m:g} m"
        inside = line + ties + touch
        made.append(el("a", {"href": link.replace("{}", s.run), "aria-label": name, "class": "d-link"}, inside)
                    if link else inside)
    made += [el("circle", {"cx": x * k, "cy": y * k, "r": 6, "class": "m-place"}) for x, y in on.at.values()]
    made += [el("line", {**_bar(s, 8, k), "class": "s-fitting"}) for s in on.sits]
    for put in labelled(analysis, on, LABEL_PX, Room(Box(4, 4, wide - 4, high - 4)), k, whole=False).values():
        if put is not None:
            b = put.box
            if put.leader:
                made.append(el("line", {**ends_of(put.leader), "class": "d-leader"}))
            made.append(el("text", {"x": (b.x0 + b.x1) / 2, "y": b.y1 - 4, "text-anchor": "middle",
                                    "class": "d-label" if put.label.key in on.at else "d-figure"},
                           text(put.label.lines[0])))
    return document((wide, high), "The harness laid flat", f"{len(on.pieces)} runs at their true proportions; the list "
                    "beside it names them.", made, "board", Look(link))


def shapes_mm(analysis: Analysis, plot: Plot) -> list[str]:
    """The drawing for paper, one unit a millimetre, with presentation attributes."""
    made, on = [], plot.sheet
    for s in on.pieces:
        corners = " ".join(f"{x:.3f},{y:.3f}" for x, y in s.outline)
        bare = not analysis.loom or not analysis.loom.by_run[s.run].covering
        made.append(el("polygon", {"points": corners, "fill": "#dfe9e9", "stroke": INK, "stroke-width": "0.25",
                                   "stroke-dasharray": "3 2" if bare else None}))
        made.append(el("line", {"x1": f"{s.x0:.3f}", "y1": f"{s.y0:.3f}", "x2": f"{s.x1:.3f}", "y2": f"{s.y1:.3f}",
                                "stroke": INK, "stroke-width": "0.25", "id": f"run-{s.run}"}))
        made += [_ring(x, y, 1.0, "none", "0.25") for x, y in s.ties]
        made += _fold(s)
    made += [_ring(x, y, PLACE_R_MM, "#ffffff", "0.6") for x, y in on.at.values()]
    for x, y in on.nails:
        made += [_ring(x, y, NAIL_MM / 2, "#ffffff", "0.4"), _ring(x, y, 0.4, INK, "0.2")]
    made += [el("line", {**_bar(s, FITTING_MM, 1), "stroke": INK, "stroke-width": "1.2"}) for s in on.sits]
    made += _front(analysis, on)
    for put in plot.words.values():
        if put is not None:
            b = put.box
            if put.leader:
                ends = {end: f"{at:.2f}" for end, at in ends_of(put.leader).items()}
                made.append(el("line", {**ends, "stroke": "#56646a", "stroke-width": "0.2"}))
            made += [el("text", {"x": f"{(b.x0 + b.x1) / 2:.2f}", "y": f"{b.y0 + (i + 1) * (LABEL_MM + 3) - 2:.2f}",
                                 "text-anchor": "middle", "font-size": num(LABEL_MM), "fill": INK}, text(line))
                     for i, line in enumerate(put.label.lines)]
    return made


def _ring(x: float, y: float, r: float, fill: str, stroke: str) -> str:
    return el("circle", {"cx": f"{x:.2f}", "cy": f"{y:.2f}", "r": num(r), "fill": fill, "stroke": INK,
                         "stroke-width": stroke})


def _fold(s: Piece) -> list[str]:
    """Two strokes across the middle of a run that is folded there."""
    if not s.folded_mm:
        return []
    x, y, long_mm = (s.x0 + s.x1) / 2, (s.y0 + s.y1) / 2, math.dist((s.x0, s.y0), (s.x1, s.y1))
    dx, dy = (s.x1 - s.x0) / long_mm, (s.y1 - s.y0) / long_mm
    half = s.thick_mm / 2 + 4
    return [el("line", {"x1": f"{x + dx * off - dy * half:.2f}", "y1": f"{y + dy * off + dx * half:.2f}",
                        "x2": f"{x + dx * (off + 3) + dy * half:.2f}", "y2": f"{y + dy * (off + 3) - dx * half:.2f}",
                        "stroke": INK, "stroke-width": "0.6"}) for off in (-4.0, 1.0)]


def _foremost(analysis: Analysis, on: Sheet) -> str:
    """The place on the board that is furthest forward on the machine."""
    return max(on.at, key=lambda p: (analysis.plan.place(p).x_mm, p))


def _front(analysis: Analysis, on: Sheet) -> list[str]:
    """An arrow at the foremost place, away from the run that comes to it."""
    x, y = on.at[_foremost(analysis, on)]
    piece = next(s for s in on.pieces if (x, y) in ((s.x0, s.y0), (s.x1, s.y1)))
    from_x, from_y = (piece.x0, piece.y0) if (x, y) == (piece.x1, piece.y1) else (piece.x1, piece.y1)
    long_mm = math.hypot(x - from_x, y - from_y)
    dx, dy = (x - from_x) / long_mm, (y - from_y) / long_mm
    (begin_x, begin_y), (end_x, end_y), (back_x, back_y) = ((x + dx * far, y + dy * far) for far in (6, 20, 15))
    side_x, side_y = -dy * 2, dx * 2
    head = " ".join(f"{px:.2f},{py:.2f}" for px, py in (
        (end_x, end_y), (back_x + side_x, back_y + side_y), (back_x - side_x, back_y - side_y)))
    return [el("line", {"x1": f"{begin_x:.2f}", "y1": f"{begin_y:.2f}", "x2": f"{end_x:.2f}", "y2": f"{end_y:.2f}",
                        "stroke": INK, "stroke-width": "0.4"}),
            el("polygon", {"points": head, "fill": INK})]


def file_svg(analysis: Analysis) -> str:
    """The board as a drawing of its own at true size."""
    plot = plotted(analysis, ROLL)
    on = plot.sheet
    return el("svg", {"xmlns": "http://www.w3.org/2000/svg", "width": f"{on.wide_mm:.1f}mm",
                      "height": f"{on.high_mm:.1f}mm", "viewBox": f"0 0 {on.wide_mm:.1f} {on.high_mm:.1f}",
                      "font-family": "sans-serif"}, el("title", {}, text(f"{analysis.plan.name}: the harness, 1:1")),
              *shapes_mm(analysis, plot))
