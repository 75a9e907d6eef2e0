"""The full-size board: the harness flat and true to length, with its places, ties and lengths.

Placed in millimetres by core/harness/sheet.py. The screen shows it scaled to its width, paper and files at its true
size.
"""

import math

from loadstar.core.analysis import Analysis
from loadstar.core.harness.fittings import Fitting
from loadstar.core.harness.sheet import Sheet, Sits, sheet

from .labels import Box, Label, Line, Placed, place
from .svg import Look, document, el, num, text

INK = "#1d2a30"
LABEL_MM, PLACE_R_MM, FITTING_MM = 3.4, 3.0, 5.0  # height of the letters, and of a place's ring, on paper
WIDTH, MOST_HIGH, LABEL_PX = 760.0, 290.0, 14.0


def labelled(analysis: Analysis, on: Sheet, size: float, area: Box, k: float = 1.0, *,
             whole: bool = True) -> dict[str, Placed | None]:
    """Labels of places and runs where they overlap neither one another nor a stretch; `k` of the drawing's units to a
    millimetre. `whole` ones name a run's covering too."""
    plan = analysis.plan
    front = _foremost(analysis, on)
    names = [Label(p, (f"{p} {plan.place(p).name}" + (", front" if p == front else ""),), x * k, y * k, -1, size, 9)
             for p, (x, y) in on.at.items()]
    runs = [Label(s.run, (_run_words(analysis, s.run, whole),), (s.x0 + s.x1) / 2 * k,
                  (s.y0 + s.y1) / 2 * k, 1, size, 0) for s in on.pieces]
    sits = [Label(s.fitting.part.id, (_fitting_words(s.fitting),), s.x * k, s.y * k, 1, size, 6) for s in on.sits]
    lines: list[Line] = [(s.x0 * k, s.y0 * k, s.x1 * k, s.y1 * k) for s in on.pieces]
    rings = [Box(x * k - size / 2, y * k - size / 2, x * k + size / 2, y * k + size / 2) for x, y in on.at.values()]
    return place([*names, *runs, *sits], area, rings, lines)


def _fitting_words(fitting: Fitting) -> str:
    """What it is called on the board, and how far from its place."""
    return f"{fitting.part.id} {fitting.part.name}" + (f", {fitting.at_mm:.0f} mm" if fitting.at_mm else "")


def _run_words(analysis: Analysis, run: str, whole: bool) -> str:
    """A run's length, and its covering, as the board has them."""
    assert analysis.loom is not None
    here = analysis.loom.by_run[run]
    if not whole:
        return f"{run} {here.length_mm:.0f} mm"
    sleeve = f"{here.covering} {here.sleeve.nominal_mm}" if here.sleeve else here.covering or "bare"
    return f"{run} {here.length_mm:.0f} mm, {sleeve}"


def _bar(s: Sits, half: float, k: float) -> dict[str, str]:
    """A connector or splice as a bar across its run."""
    (x, y), (dx, dy) = (s.x * k, s.y * k), s.along
    return {"x1": f"{x - dy * half:.2f}", "y1": f"{y + dx * half:.2f}", "x2": f"{x + dy * half:.2f}",
            "y2": f"{y - dx * half:.2f}"}


def boxes_mm(analysis: Analysis, on: Sheet) -> tuple[tuple[float, float, float, float], ...]:
    """What is on the sheet, as boxes in mm: the stretches in short pieces, places and labels."""
    found = []
    for s in on.pieces:
        steps = max(1, int(max(abs(s.x1 - s.x0), abs(s.y1 - s.y0)) / 20))
        for i in range(steps):
            xs = [s.x0 + (s.x1 - s.x0) * j / steps for j in (i, i + 1)]
            ys = [s.y0 + (s.y1 - s.y0) * j / steps for j in (i, i + 1)]
            pad = s.thick_mm / 2 + 1
            found.append((min(xs) - pad, min(ys) - pad, max(xs) + pad, max(ys) + pad))
    for put in labelled(analysis, on, LABEL_MM, Box(0, 0, on.wide_mm, on.high_mm)).values():
        if put is not None:
            found.append((put.box.x0, put.box.y0, put.box.x1, put.box.y1))
    return tuple(found)


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
    for put in labelled(analysis, on, LABEL_PX, Box(4, 4, wide - 4, high - 4), k, whole=False).values():
        if put is not None:
            b = put.box
            if put.far:
                made.append(el("line", {"x1": put.label.x, "y1": put.label.y, "x2": min(max(put.label.x, b.x0), b.x1),
                                        "y2": min(max(put.label.y, b.y0), b.y1), "class": "d-leader"}))
            made.append(el("text", {"x": (b.x0 + b.x1) / 2, "y": b.y1 - 4, "text-anchor": "middle",
                                    "class": "d-label" if put.label.key in on.at else "d-figure"},
                           text(put.label.lines[0])))
    return document((wide, high), "The harness laid flat", f"{len(on.pieces)} runs at their true proportions; the list "
                    "beside it names them.", made, "board", Look(link))


def shapes_mm(analysis: Analysis, on: Sheet) -> list[str]:
    """The drawing for paper, one unit a millimetre, with presentation attributes."""
    made = []
    for s in on.pieces:
        ends = {"x1": f"{s.x0:.3f}", "y1": f"{s.y0:.3f}", "x2": f"{s.x1:.3f}", "y2": f"{s.y1:.3f}"}
        made.append(el("line", {**ends, "stroke": "#b9d2d3", "stroke-width": num(max(1.0, s.thick_mm))}))
        made.append(el("line", {**ends, "stroke": INK, "stroke-width": "0.25", "id": f"run-{s.run}"}))
        for x, y in s.ties:
            made.append(el("circle", {"cx": f"{x:.2f}", "cy": f"{y:.2f}", "r": "1", "fill": "none", "stroke": INK,
                                      "stroke-width": "0.25"}))
    for x, y in on.at.values():
        made.append(el("circle", {"cx": f"{x:.2f}", "cy": f"{y:.2f}", "r": num(PLACE_R_MM), "fill": "#ffffff",
                                  "stroke": "#0c6470", "stroke-width": "0.6"}))
    made += [el("line", {**_bar(s, FITTING_MM, 1), "stroke": INK, "stroke-width": "1.2"}) for s in on.sits]
    made += _front(analysis, on)
    for put in labelled(analysis, on, LABEL_MM, Box(0, 0, on.wide_mm, on.high_mm)).values():
        if put is not None:
            b = put.box
            if put.far:
                made.append(el("line", {"x1": f"{put.label.x:.2f}", "y1": f"{put.label.y:.2f}",
                                        "x2": f"{min(max(put.label.x, b.x0), b.x1):.2f}",
                                        "y2": f"{min(max(put.label.y, b.y0), b.y1):.2f}", "stroke": "#56646a",
                                        "stroke-width": "0.2"}))
            made.append(el("text", {"x": f"{(b.x0 + b.x1) / 2:.2f}", "y": f"{b.y1 - 2:.2f}",
                                    "text-anchor": "middle", "font-size": num(LABEL_MM), "fill": INK},
                           text(put.label.lines[0])))
    return made


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
    assert analysis.loom is not None
    on = sheet(analysis.loom)
    return el("svg", {"xmlns": "http://www.w3.org/2000/svg", "width": f"{on.wide_mm:.1f}mm",
                      "height": f"{on.high_mm:.1f}mm", "viewBox": f"0 0 {on.wide_mm:.1f} {on.high_mm:.1f}",
                      "font-family": "sans-serif"}, el("title", {}, text(f"{analysis.plan.name}: the harness, 1:1")),
              *shapes_mm(analysis, on))
