"""A sheet of the circuit drawing as a picture: wires in their colours (IEC 60757), symbols of IEC 60617."""

from collections.abc import Callable, Collection

from loadstar.core.analysis import Analysis

from ..svg import PLAIN, WIRE_COLOURS, Look, document, el, num, text
from .lay import Bar, Sheet, Symbol

THICK, FOUND_THICK = 4.0, 2.2
Shapes = list[str]


def draw(analysis: Analysis, sheet: Sheet, of: int, look: Look = PLAIN, live: Collection[str] = ()) -> str:
    """One sheet of so many as a picture. `live` are the elements that are marked as carrying current."""
    paper = look.paper
    made = [_level(x0, x1, y, paper) for x0, x1, y in sheet.lines]
    for bar in sheet.bars:
        made += _bar(bar, paper)
    made += [_symbol(analysis, one, look, one.item.element in live) for one in sheet.symbols]
    made += [_words(label, x, y, "d-figure", paper) for label, x, y in sheet.labels]
    made += [el("text", {"x": x + 4, "y": y + 4, "text-anchor": "start", "class": "d-figure"}, text(f"to {name}"),
                paper=paper) for name, x, y in sheet.flags]
    said = "; ".join(" ".join(one.said.above) for one in sheet.symbols if one.item.kind != "wire")
    return document(sheet.size, f"Circuit drawing of {analysis.plan.name}, sheet {sheet.number} of {of}",
                    f"From the supply's positive on the left to its negative on the right: {said}.", made,
                    f"drawing-{sheet.number}", look)


def _words(words: str, x: float, y: float, kind: str, paper: bool) -> str:
    return el("text", {"x": x, "y": y, "text-anchor": "middle", "class": kind}, text(words), paper=paper)


def _level(x0: float, x1: float, y: float, paper: bool) -> str:
    return _line(x0, y, x1, y, paper)


def _line(x0: float, y0: float, x1: float, y1: float, paper: bool, thick: str = "1.6") -> str:
    return el("line", {"x1": x0, "y1": y0, "x2": x1, "y2": y1, "class": "d-edge", "stroke-width": thick}, paper=paper)


def _bar(bar: Bar, paper: bool) -> Shapes:
    """Upright, with a dot at each of its lines; open where nothing else is joined; the frame with its sign."""
    x, top, bottom = bar.x, bar.ys[0], bar.ys[-1]
    made = [_line(x, top, x, bottom, paper, "2.4")] if top != bottom else []
    if bar.free:
        return [*made, el("circle", {"cx": x, "cy": top, "r": 3.5, "class": "d-load"}, paper=paper)]
    made += [el("circle", {"cx": x, "cy": y, "r": 3.2, "class": "d-spot"}, paper=paper) for y in bar.ys]
    if bar.node == "frame":
        made += [_line(x - wide, bottom + down, x + wide, bottom + down, paper, "2")
                 for wide, down in ((10.0, 10.0), (6.5, 14.0), (3.0, 18.0))]
        made.append(_line(x, bottom, x, bottom + 10, paper))
    return made


def _symbol(analysis: Analysis, one: Symbol, look: Look, live: bool) -> str:
    element, paper = one.item.element, look.paper
    shapes = _halo(one, paper) if live else []
    shapes += _wire(analysis, one, paper) if one.item.kind == "wire" else SHAPES[one.item.kind](one, paper)
    shapes += [_words(line, one.middle, y, "d-label" if bold else "d-figure", paper) for line, y, bold in one.words]
    group = el("g", {"data-element": element}, *shapes)
    return look.led(element.part, element, group)


def _halo(one: Symbol, paper: bool) -> Shapes:
    """Behind what carries current."""
    return [el("line", {"x1": one.x0, "x2": one.x1, "y1": one.y, "y2": one.y, "class": "d-live", "stroke-width": "14"},
               paper=paper)]


def _wire(analysis: Analysis, one: Symbol, paper: bool) -> Shapes:
    """In its colours; one that was there before is thin."""
    wire = analysis.plan.wire(one.item.element)
    thick = FOUND_THICK if wire.origin == "found" else THICK
    level = {"x1": one.x0, "x2": one.x1, "y1": one.y, "y2": one.y}
    made = [el("line", {**level, "class": "d-edge", "stroke-width": num(thick + 1.6)}, paper=paper),
            el("line", {**level, "stroke": WIRE_COLOURS[wire.colour], "stroke-width": num(thick)})]
    if wire.stripe:
        made.append(el("line", {**level, "stroke": WIRE_COLOURS[wire.stripe], "stroke-width": num(thick * 0.4),
                                "stroke-dasharray": "7 5"}))
    return made


def _through(one: Symbol, half: float, paper: bool) -> Shapes:
    """The line up to a symbol and on from it."""
    return [_level(one.x0, one.middle - half, one.y, paper), _level(one.middle + half, one.x1, one.y, paper)]


def _fuse(one: Symbol, paper: bool) -> Shapes:
    return [el("rect", {"x": one.middle - 15, "y": one.y - 6, "width": 30.0, "height": 12.0, "class": "d-edge",
                        "stroke-width": "1.6"}, paper=paper), _level(one.x0, one.x1, one.y, paper)]


def _contact(one: Symbol, paper: bool) -> Shapes:
    x, y = one.middle, one.y
    return [*_through(one, 11, paper), _line(x - 11, y, x + 10, y - 9, paper)]


def _plug(one: Symbol, paper: bool) -> Shapes:
    x, y = one.middle, one.y
    return [_level(one.x0, x - 3, y, paper), _level(x + 5, one.x1, y, paper),
            el("rect", {"x": x - 9, "y": y - 2.5, "width": 9.0, "height": 5.0, "class": "d-edge",
                        "stroke-width": "1.6"}, paper=paper),
            el("path", {"d": f"M {num(x + 12)} {num(y - 8)} A 8 8 0 0 0 {num(x + 12)} {num(y + 8)}",
                        "class": "d-edge", "stroke-width": "1.6"}, paper=paper)]


def _joint(one: Symbol, paper: bool) -> Shapes:
    return [_level(one.x0, one.x1, one.y, paper),
            el("circle", {"cx": one.middle, "cy": one.y, "r": 4.0, "class": "d-load"}, paper=paper)]


def _round(one: Symbol, paper: bool) -> Shapes:
    return [*_through(one, 12, paper),
            el("circle", {"cx": one.middle, "cy": one.y, "r": 12.0, "class": "d-load"}, paper=paper)]


def _lamp(one: Symbol, paper: bool) -> Shapes:
    x, y = one.middle, one.y
    return [*_round(one, paper), *(_line(x - 8.5, y - 8.5 * d, x + 8.5, y + 8.5 * d, paper) for d in (1, -1))]


def _motor(one: Symbol, paper: bool) -> Shapes:
    return [*_round(one, paper), _words("M", one.middle, one.y + 5, "d-label", paper)]


def _box(one: Symbol, paper: bool) -> Shapes:
    return [*_through(one, 14, paper),
            el("rect", {"x": one.middle - 14, "y": one.y - 9, "width": 28.0, "height": 18.0, "class": "d-load"},
               paper=paper)]


def _coil(one: Symbol, paper: bool) -> Shapes:
    x, y = one.middle, one.y
    return [*_box(one, paper), _line(x - 6, y + 9, x + 6, y - 9, paper)]


def _generator(one: Symbol, paper: bool) -> Shapes:
    return [*_round(one, paper), _words("G", one.middle, one.y + 5, "d-label", paper)]


def _cell(one: Symbol, paper: bool) -> Shapes:
    """A cell: the longer stroke is its positive side."""
    x, y, side = one.middle, one.y, -1 if one.item.about else 1
    return [*_through(one, 4, paper), _line(x - 4 * side, y - 11, x - 4 * side, y + 11, paper),
            _line(x + 4 * side, y - 6, x + 4 * side, y + 6, paper, "3.4")]


def _converter(one: Symbol, paper: bool) -> Shapes:
    """A box that is parted by a stroke: both of its sides are drawn, each in its own circuit."""
    x, y = one.middle, one.y
    return [*_box(one, paper), _line(x - 14, y + 9, x + 14, y - 9, paper)]


def _diode(one: Symbol, paper: bool) -> Shapes:
    """Its arrow shows the way that it conducts."""
    x, y, tip = one.middle, one.y, -7 if one.item.about else 7
    return [_level(one.x0, one.x1, y, paper), _line(x + tip, y - 7, x + tip, y + 7, paper),
            el("path", {"d": f"M {num(x - tip)} {num(y - 7)} L {num(x + tip)} {num(y)} L {num(x - tip)} {num(y + 7)} Z",
                        "class": "d-load"}, paper=paper)]


SHAPES: dict[str, Callable[[Symbol, bool], Shapes]] = {
    "fuse": _fuse, "contact": _contact, "plug": _plug, "joint": _joint, "lamp": _lamp, "motor": _motor, "load": _box,
    "coil": _coil, "cell": _cell, "generator": _generator, "converter": _converter, "output": _converter,
    "diode": _diode}
