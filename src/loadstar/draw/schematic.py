"""The circuit drawing of all additions, made by itself: the tree of feeds from each source to what hangs on it.

One line for each accessory and coil; what several share is drawn once, on the first of their lines, with a riser to the
others. Along a line: wires with id, size and colour, and the symbols of IEC 60617 for what lies between. Returns that
several share are drawn as a tree of their own, below. On as many sheets as it takes, each whole in itself.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from loadstar.core.analysis import Analysis
from loadstar.core.parts.load import LoadPart
from loadstar.core.refs import ElementRef
from loadstar.core.wiring.circuit import Link

from .labels import Box
from .svg import WIRE_COLOURS, document, el, num, text

WIDTH, HEIGHT = 1040.0, 700.0
TOP, LEFT, ROW = 64.0, 96.0, 62.0
WIRE_W, PART_W, LEAF_W, STUB = 88.0, 52.0, 190.0, 18.0
MOST_WORDS = 44
LETTER = 7.3  # px of a letter of 13 px, about
ROWS = int((HEIGHT - TOP - 20) // ROW)


@dataclass(frozen=True)
class Branch:
    """One line of the drawing: the way from its source, what it ends at, in words, and the way back that is its own."""

    source: str
    way: tuple[Link, ...]
    leaf: str
    words: tuple[str, str]
    back: tuple[Link, ...]
    ends: str


@dataclass(frozen=True)
class Cell:
    """Something drawn on a line: its element, where it begins and ends, and its line's height."""

    link: Link
    x0: float
    x1: float
    y: float

    @property
    def box(self) -> Box:
        """What its symbol takes."""
        return Box(self.x0, self.y - 11, self.x1, self.y + 11)


@dataclass(frozen=True)
class Line:
    """A plain line of the drawing, across or up and down."""

    x0: float
    y0: float
    x1: float
    y1: float


@dataclass(frozen=True)
class Words:
    """Words with the box that they take."""

    text: str
    x: float
    y: float
    anchor: str = "start"
    bold: bool = False

    @property
    def box(self) -> Box:
        """What they take."""
        wide = len(self.text) * LETTER
        left = self.x - (wide if self.anchor == "end" else wide / 2 if self.anchor == "middle" else 0.0)
        return Box(left, self.y - 12, left + wide, self.y + 3)


@dataclass(frozen=True)
class Leaf:
    """What a line ends at: its symbol's middle, and which kind."""

    part: str
    kind: str
    x: float
    y: float

    @property
    def box(self) -> Box:
        """What its symbol takes."""
        return Box(self.x - 13, self.y - 13, self.x + 13, self.y + 13)


@dataclass(frozen=True)
class Sheet:
    """One sheet, laid out: everything on it by coordinates."""

    cells: tuple[Cell, ...]
    leaves: tuple[Leaf, ...]
    lines: tuple[Line, ...]
    words: tuple[Words, ...]
    width: float
    height: float


def branches(analysis: Analysis) -> list[Branch]:
    """Every line, in the order of the tree: what shares a way lies together."""
    topology = analysis.topology
    found = []
    for load in analysis.plan.loads:
        path = topology.paths[load.id]
        if path.complete:
            own = [k for k in path.back if topology.loads_behind.get(k.element) == (load,)]
            own = own[:next((n for n, k in enumerate(path.back) if k not in own), len(own))]
            ends = own[-1].b if own else path.back[0].a if path.back else path.root.negative
            found.append(Branch(path.root.part, path.feed, load.id, (load.name, f"{load.id}  {_draws(load)}"),
                                tuple(own), _terminal(analysis, ends)))
    for part, coil in topology.actuators.items():
        way = topology.way_to(part, coil.plus, coil.minus)
        if way.feed:
            found.append(Branch(way.root.part, way.feed, part, (f"coil of {topology.parts[part].name}", part), (),
                                _terminal(analysis, way.back[0].a) if way.back else coil.minus))
    for part, inside in topology.inside.items():
        if inside.input and topology.parts[part].id != (analysis.plan.supply.id if analysis.plan.supply else ""):
            way = topology.converter_path(part)
            if way.feed and any(b.source == part for b in found):
                found.append(Branch(way.root.part, way.feed, part, (topology.parts[part].name, part), (),
                                    _terminal(analysis, way.back[0].a) if way.back else ""))
    order: dict[str, int] = {}
    for root in topology.roots:
        order.setdefault(root.part, len(order))
    first = {}
    for n, b in enumerate(found):
        for depth in range(len(b.way)):
            first.setdefault((b.source, tuple(k.element for k in b.way[:depth + 1])), n)
    return sorted(found, key=lambda b: (order.get(b.source, 99), *(
        first[b.source, tuple(k.element for k in b.way[:d + 1])] for d in range(len(b.way)))))


def _draws(load: LoadPart) -> str:
    return f"{load.amount:g} {load.unit}"


def returns(analysis: Analysis) -> list[Branch]:
    """The returns that several share, from each supply's negative outward, as lines of a tree."""
    topology = analysis.topology
    own = {k.element for b in branches(analysis) for k in b.back}
    found: dict[tuple[str, ...], Branch] = {}
    for load in analysis.plan.loads:
        path = topology.paths[load.id]
        shared = tuple(Link(k.element, k.b, k.a) for k in reversed(path.back) if k.element not in own)
        key = tuple(k.element for k in shared)
        if path.complete and shared and key not in found:
            end = _terminal(analysis, shared[-1].b)
            found[key] = Branch(f"{path.root.part} −", shared, "", (f"returns at {end}", ""), (), "")
    return [b for key, b in sorted(found.items())
            if not any(other[:len(key)] == key and other != key for other in found)]


def _terminal(analysis: Analysis, node: str) -> str:
    """A name for a node: its terminal, or the frame."""
    return "frame" if node.startswith("frame") else node


def sheets(analysis: Analysis) -> list[Sheet]:
    """The drawing on as many sheets as it takes."""
    made: list[Sheet] = []
    for group in (branches(analysis), returns(analysis)):
        for n in range(0, len(group), ROWS):
            made.append(_laid(analysis, group[n:n + ROWS]))
    return made


def _wide(link: Link, analysis: Analysis) -> float:
    return WIRE_W if link.element in analysis.wires else PART_W


def _laid(analysis: Analysis, rows: Sequence[Branch]) -> Sheet:
    """Lines one under the other; a column for each step from the source, as wide as the widest thing in it."""
    deep = max(len(b.way) for b in rows)
    wide = [max((_wide(b.way[d], analysis) for b in rows if d < len(b.way)), default=0.0) for d in range(deep)]
    x = [LEFT + sum(wide[:d]) + STUB * d for d in range(deep + 1)]
    cells: list[Cell] = []
    leaves: list[Leaf] = []
    lines: list[Line] = []
    words: list[Words] = []
    drawn: dict[tuple[str, ...], tuple[float, float]] = {}  # where what several share is, and its last riser's end
    right = x[-1]
    for n, b in enumerate(rows):
        y = TOP + n * ROW
        shared = 0
        for depth in range(len(b.way)):
            key = (b.source, *(k.element for k in b.way[:depth + 1]))
            if key in drawn:
                shared = depth + 1
                continue
            if depth == shared:  # here it leaves what is drawn already
                above = (b.source, *(k.element for k in b.way[:depth])) if depth else (b.source,)
                at = x[depth] - STUB / 2
                if above in drawn:
                    lines.append(Line(at, drawn[above][1], at, y))
                    lines.append(Line(at, y, x[depth], y))
                    drawn[above] = (at, y)
                else:
                    words.append(Words(b.source, LEFT - STUB - 6, y + 4, "end", bold=True))
                    lines.append(Line(LEFT - STUB, y, x[0], y))
                    drawn[above] = (at, y)
            end = x[depth] + _wide(b.way[depth], analysis)
            cells.append(Cell(b.way[depth], x[depth], end, y))
            lines.append(Line(end, y, x[depth + 1], y))
            drawn[key] = (x[depth + 1] - STUB / 2, y)
        if shared == len(b.way):  # ends where another goes on: a riser of its own
            above = (b.source, *(k.element for k in b.way))
            at = x[len(b.way)] - STUB / 2
            lines += [Line(at, drawn[above][1], at, y), Line(at, y, x[len(b.way)], y)]
            drawn[above] = (at, y)
        lines.append(Line(x[len(b.way)], y, x[-1], y))
        right = max(right, _tail(analysis, b, x[-1], y, cells, leaves, lines, words))
    return Sheet(tuple(cells), tuple(leaves), tuple(line for line in lines if (line.x0, line.y0) != (line.x1, line.y1)),
                 tuple(words), max(WIDTH, right + 10), TOP + len(rows) * ROW - 20)


def _tail(analysis: Analysis, b: Branch, x: float, y: float, cells: list[Cell], leaves: list[Leaf], lines: list[Line],
          words: list[Words]) -> float:
    """What a line ends at, with its own way back; how far right it goes."""
    if not b.leaf:
        words.append(Words(b.words[0], x + 6, y + 4))
        return words[-1].box.x1
    middle = x + 18
    lines.append(Line(x, y, middle - 13, y))
    leaves.append(Leaf(b.leaf, _kind(analysis, b.leaf), middle, y))
    at = middle + 13
    for link in b.back:
        lines.append(Line(at, y, at + STUB, y))
        cells.append(Cell(link, at + STUB, at + STUB + _wide(link, analysis), y))
        at += STUB + _wide(link, analysis)
    lines.append(Line(at, y, at + STUB, y))
    words.append(Words(f"to {b.ends}", at + STUB + 4, y + 16))
    words.append(Words(f"{b.words[0]}, {b.words[1]}"[:MOST_WORDS], at + STUB + 4, y, bold=True))
    return max(words[-2].box.x1, words[-1].box.x1)


def _kind(analysis: Analysis, part: str) -> str:
    found = analysis.topology.parts[part]
    if isinstance(found, LoadPart):
        return found.category if found.category in ("lamp", "motor") else "load"
    return "coil" if part in analysis.topology.actuators else "converter"


def draw(analysis: Analysis, sheet: Sheet, number: int, of: int, *, link: str = "", paper: bool = False) -> str:
    """One sheet as a picture. `link` is an address with "{}" for an element's id."""
    made = [el("line", {"x1": li.x0, "y1": li.y0, "x2": li.x1, "y2": li.y1, "class": "d-edge", "stroke-width": "1.4"},
               paper=paper) for li in sheet.lines]
    made += [line for cell in sheet.cells for line in _cell(analysis, cell, link, paper)]
    made += [line for leaf in sheet.leaves for line in _leaf(leaf, link, paper)]
    made += [el("text", {"x": w.x, "y": w.y, "text-anchor": w.anchor, "class": "d-label" if w.bold else "d-figure"},
                text(w.text), paper=paper) for w in sheet.words]
    said = "; ".join(w.text for w in sheet.words if w.bold)
    return document(sheet.width, sheet.height, f"Circuit drawing of {analysis.plan.name}, sheet {number} of {of}",
                    f"From its source to each accessory: {said}.", made, paper=paper, id_prefix=f"drawing-{number}",
                    linked=bool(link) and not paper)


def labels(analysis: Analysis, cell: Cell) -> tuple[Words, Words]:
    """What stands over a cell and under it."""
    middle, element = (cell.x0 + cell.x1) / 2, cell.link.element
    if element in analysis.wires:
        wire = analysis.plan.wire(element)
        striped = f"{wire.colour}/{wire.stripe}" if wire.stripe else wire.colour
        return (Words(element, middle, cell.y - 15, "middle", bold=True),
                Words(f"{analysis.wires[element].area_mm2:g} {striped}", middle, cell.y + 17, "middle"))
    rated = analysis.rating_or_none_a(element) if ElementRef(element).part in analysis.topology.parts else None
    return (Words(element[:7], middle, cell.y - 15, "middle", bold=True),
            Words(f"{rated:g} A" if rated else "", middle, cell.y + 26, "middle"))


def _cell(analysis: Analysis, cell: Cell, link: str, paper: bool) -> Iterator[str]:
    element, shapes = cell.link.element, []
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
    yield el("a", {"href": link.replace("{}", ElementRef(element).part), "aria-label": element, "class": "d-link"},
             group) if link and not paper else group


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


def _leaf(leaf: Leaf, link: str, paper: bool) -> Iterator[str]:
    """A lamp as a circle with a cross, a motor with its letter, a coil as a bar, anything else as a box."""
    x, y = leaf.x, leaf.y
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
    yield el("a", {"href": link.replace("{}", leaf.part), "aria-label": leaf.part, "class": "d-link"},
             group) if link and not paper else group
