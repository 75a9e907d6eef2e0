"""The circuit drawing of all additions, made by itself: a sheet of `feedtree` with its wires in their colours, with id
and size, and the symbols of IEC 60617 for what lies between. Each sheet is whole in itself.
"""

from loadstar.core.analysis import Analysis
from loadstar.core.refs import ElementRef

from .feedtree import Cell, Leaf, Sheet, Words
from .svg import PLAIN, WIRE_COLOURS, Look, document, el, num, text


def draw(analysis: Analysis, sheet: Sheet, number: int, of: int, look: Look = PLAIN) -> str:
    """One sheet as a picture."""
    paper = look.paper
    made = [el("line", {"x1": li.x0, "y1": li.y0, "x2": li.x1, "y2": li.y1, "class": "d-edge", "stroke-width": "1.4"},
               paper=paper) for li in sheet.lines]
    made += [_cell(analysis, cell, look) for cell in sheet.cells]
    made += [_leaf(leaf, look) for leaf in sheet.leaves]
    made += [el("text", {"x": w.x, "y": w.y, "text-anchor": w.anchor, "class": "d-label" if w.bold else "d-figure"},
                text(w.text), paper=paper) for w in sheet.words]
    said = "; ".join(w.text for w in sheet.words if w.bold)
    return document((sheet.width, sheet.height), f"Circuit drawing of {analysis.plan.name}, sheet {number} of {of}",
                    f"From its source to each accessory: {said}.", made, f"drawing-{number}", look)


def labels(analysis: Analysis, cell: Cell) -> tuple[Words, Words]:
    """What stands over a cell and under it."""
    middle, element = (cell.x0 + cell.x1) / 2, cell.link.element
    if element in analysis.wires:
        wire = analysis.plan.wire(element)
        striped = wire.colours
        return (Words(element, middle, cell.y - 15, "middle", bold=True),
                Words(f"{analysis.wires[element].area_mm2:g} {striped}", middle, cell.y + 17, "middle"))
    rated = analysis.ratings.rating_or_none_a(element) if ElementRef(element).part in analysis.topology.parts else None
    return (Words(element[:7], middle, cell.y - 15, "middle", bold=True),
            Words(f"{rated:g} A" if rated else "", middle, cell.y + 26, "middle"))


def _cell(analysis: Analysis, cell: Cell, look: Look) -> str:
    element, shapes, paper = cell.link.element, [], look.paper
    if element in analysis.wires:
        wire = analysis.plan.wire(element)
        for colour, wide, dash in ((WIRE_COLOURS[wire.colour], 4.0, None), (
                WIRE_COLOURS[wire.stripe] if wire.stripe else "", 1.6, "7 5")):
            if colour:
                shapes.append(el("line", {"x1": cell.x0, "x2": cell.x1, "y1": cell.y, "y2": cell.y, "stroke": colour,
                                          "stroke-width": wide, "stroke-dasharray": dash}))
        shapes.insert(0, el("line", {"x1": cell.x0, "x2": cell.x1, "y1": cell.y, "y2": cell.y, "class": "d-edge",
                                     "stroke-width": "5.6"}, paper=paper))
    else:
        shapes += _symbol(analysis, cell, paper)
    for w in labels(analysis, cell):
        if w.text:
            shapes.append(el("text", {"x": w.x, "y": w.y, "text-anchor": "middle",
                                      "class": "d-label" if w.bold else "d-figure"}, text(w.text), paper=paper))
    group = el("g", {"data-element": element}, *shapes)
    return look.led(ElementRef(element).part, element, group)


def _symbol(analysis: Analysis, cell: Cell, paper: bool) -> list[str]:
    """By IEC 60617: a fuse as a bar with its wire through it, a contact open, a plug with its socket, a joint as a
    dot."""
    part = analysis.topology.parts.get(ElementRef(cell.link.element).part)
    middle, y = (cell.x0 + cell.x1) / 2, cell.y
    edge = {"class": "d-edge", "stroke-width": "1.6"}
    match part.SYMBOL if part is not None else "joint":
        case "fuse":
            return [el("rect", {"x": middle - 16, "y": y - 6, "width": 32.0, "height": 12.0, **edge}, paper=paper),
                    _line(cell.x0, y, cell.x1, y, paper)]
        case "contact":
            return [_line(cell.x0, y, middle - 12, y, paper), _line(middle - 12, y, middle + 11, y - 10, paper),
                    _line(middle + 12, y, cell.x1, y, paper)]
        case "plug":
            return [_line(cell.x0, y, middle - 3, y, paper), _line(middle + 5, y, cell.x1, y, paper),
                    el("rect", {"x": middle - 9, "y": y - 2.5, "width": 9.0, "height": 5.0, **edge}, paper=paper),
                    el("path", {"d": f"M {num(middle + 12)} {num(y - 8)} A 8 8 0 0 0 {num(middle + 12)} {num(y + 8)}",
                                **edge}, paper=paper)]
    return [_line(cell.x0, y, cell.x1, y, paper),
            el("circle", {"cx": middle, "cy": y, "r": 4.0, "class": "d-load"}, paper=paper)]


def _line(x0: float, y0: float, x1: float, y1: float, paper: bool) -> str:
    return el("line", {"x1": x0, "y1": y0, "x2": x1, "y2": y1, "class": "d-edge", "stroke-width": "1.6"}, paper=paper)


def _leaf(leaf: Leaf, look: Look) -> str:
    """A lamp as a circle with a cross, a motor with its letter, a coil as a bar, anything else as a box."""
    x, y, paper = leaf.x, leaf.y, look.paper
    if leaf.kind in ("lamp", "motor"):
        shapes = [el("circle", {"cx": x, "cy": y, "r": 13.0, "class": "d-load"}, paper=paper)]
        if leaf.kind == "lamp":
            shapes += [_line(x - 9.2, y - 9.2 * d, x + 9.2, y + 9.2 * d, paper) for d in (1, -1)]
        else:
            shapes.append(el("text", {"x": x, "y": y + 5, "text-anchor": "middle", "class": "d-label"}, "M",
                             paper=paper))
    else:
        shapes = [el("rect", {"x": x - 13, "y": y - 9, "width": 26.0, "height": 18.0, "class": "d-load"}, paper=paper)]
        if leaf.kind == "coil":
            shapes.append(_line(x - 6, y + 9, x + 6, y - 9, paper))
    group = el("g", {"data-element": leaf.part}, *shapes)
    return look.led(leaf.part, leaf.part, group)
