"""The circuit drawing laid out: the tree of feeds from each source to what hangs on it, on as many sheets as it takes.

One line for each accessory and coil; what several share is on the first of their lines, with a riser to the others.
Returns that several share are a tree of their own, below.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from loadstar.core.analysis import Analysis
from loadstar.core.parts.can import as_accessory
from loadstar.core.parts.load import LoadPart
from loadstar.core.wiring.circuit import Link

from .labels import Box

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
            made.append(_Laying(analysis, group[n:n + ROWS]).sheet())
    return made


def _wide(link: Link, analysis: Analysis) -> float:
    return WIRE_W if link.element in analysis.wires else PART_W


class _Laying:
    """A sheet while it is laid out: what is on it so far, and where what several lines share was drawn, with its last
    riser's end."""

    def __init__(self, analysis: Analysis, rows: Sequence[Branch]) -> None:
        self.analysis, self.rows = analysis, rows
        deep = max(len(b.way) for b in rows)
        wide = [max((_wide(b.way[d], analysis) for b in rows if d < len(b.way)), default=0.0) for d in range(deep)]
        self.x = [LEFT + sum(wide[:d]) + STUB * d for d in range(deep + 1)]
        self.cells: list[Cell] = []
        self.leaves: list[Leaf] = []
        self.lines: list[Line] = []
        self.words: list[Words] = []
        self.drawn: dict[tuple[str, ...], tuple[float, float]] = {}

    def sheet(self) -> Sheet:
        """Lines one under the other; a column for each step from the source, as wide as the widest thing in it."""
        right = self.x[-1]
        for n, branch in enumerate(self.rows):
            y = TOP + n * ROW
            self._way(branch, y)
            self.lines.append(Line(self.x[len(branch.way)], y, self.x[-1], y))
            right = max(right, self._tail(branch, y))
        lines = tuple(line for line in self.lines if (line.x0, line.y0) != (line.x1, line.y1))
        return Sheet(tuple(self.cells), tuple(self.leaves), lines, tuple(self.words), max(WIDTH, right + 10),
                     TOP + len(self.rows) * ROW - 20)

    def _way(self, b: Branch, y: float) -> None:
        """What of a line is not drawn yet, from where it leaves what is."""
        x, shared = self.x, 0
        for depth in range(len(b.way)):
            key = _key(b, depth + 1)
            if key in self.drawn:
                shared = depth + 1
                continue
            if depth == shared:
                self._leave(b, depth, y)
            end = x[depth] + _wide(b.way[depth], self.analysis)
            self.cells.append(Cell(b.way[depth], x[depth], end, y))
            self.lines.append(Line(end, y, x[depth + 1], y))
            self.drawn[key] = (x[depth + 1] - STUB / 2, y)
        if shared == len(b.way):  # ends where another goes on: a riser of its own
            self._rise(_key(b, shared), shared, y)

    def _leave(self, b: Branch, depth: int, y: float) -> None:
        above = _key(b, depth)
        if above in self.drawn:
            self._rise(above, depth, y)
            return
        self.words.append(Words(b.source, LEFT - STUB - 6, y + 4, "end", bold=True))
        self.lines.append(Line(LEFT - STUB, y, self.x[0], y))
        self.drawn[above] = (self.x[depth] - STUB / 2, y)

    def _rise(self, above: tuple[str, ...], depth: int, y: float) -> None:
        at = self.x[depth] - STUB / 2
        self.lines += [Line(at, self.drawn[above][1], at, y), Line(at, y, self.x[depth], y)]
        self.drawn[above] = (at, y)

    def _tail(self, b: Branch, y: float) -> float:
        """What a line ends at, with its own way back; how far right it goes."""
        x = self.x[-1]
        if not b.leaf:
            self.words.append(Words(b.words[0], x + 6, y + 4))
            return self.words[-1].box.x1
        middle = x + 18
        self.lines.append(Line(x, y, middle - 13, y))
        self.leaves.append(Leaf(b.leaf, _kind(self.analysis, b.leaf), middle, y))
        at = middle + 13
        for link in b.back:
            self.lines.append(Line(at, y, at + STUB, y))
            self.cells.append(Cell(link, at + STUB, at + STUB + _wide(link, self.analysis), y))
            at += STUB + _wide(link, self.analysis)
        self.lines.append(Line(at, y, at + STUB, y))
        self.words.append(Words(f"to {b.ends}", at + STUB + 4, y + 16))
        self.words.append(Words(f"{b.words[0]}, {b.words[1]}"[:MOST_WORDS], at + STUB + 4, y, bold=True))
        return max(self.words[-2].box.x1, self.words[-1].box.x1)


def _key(b: Branch, depth: int) -> tuple[str, ...]:
    """What of a line lies before a column, to tell what is drawn already."""
    return (b.source, *(k.element for k in b.way[:depth]))


def _kind(analysis: Analysis, part: str) -> str:
    found = analysis.topology.parts[part]
    if accessory := as_accessory(found):
        return accessory.category if accessory.category in ("lamp", "motor") else "load"
    return "coil" if part in analysis.topology.actuators else "converter"
