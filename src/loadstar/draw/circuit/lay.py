"""Sheets of the circuit drawing by coordinates.

Bars stand upright between columns, chains lie level between their bars. What feeds lies in the columns left of what
takes, the way back right of it. Where a line crosses a bar without a dot the two are not joined.
"""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import accumulate, permutations

from loadstar.core.analysis import Analysis
from loadstar.core.refs import ElementRef

from ..labels import Box, letters
from .items import Chain, Circuitry, Item
from .ranks import Ranked, ranked
from .rows import in_order, reach, straightened
from .texts import LETTER_PX, Said, said, symbol_px

HIGH = 740.0  # of a sheet, about: then another is begun
LEAST_WIDE = 1040.0  # so that words are as large on every sheet
EDGE, TRACK, GAP = 18.0, 16.0, 12.0  # px: around it, between bars, at each side of a column
NAME_PX, LINE_PX, HALF = 15.0, 14.0, 13.0  # a bar's name, a line of words, half of a symbol's height
PERMUTED = 4  # so many bars before one column are tried in every order


@dataclass(frozen=True)
class Symbol:
    """A thing drawn: from where to where, on which height, with its words."""

    item: Item
    x0: float
    x1: float
    y: float
    said: Said

    @property
    def middle(self) -> float:
        """Half way along it."""
        return (self.x0 + self.x1) / 2

    @property
    def box(self) -> Box:
        """What its symbol takes."""
        return Box(self.x0, self.y - 11, self.x1, self.y + 11)

    @property
    def words(self) -> tuple[tuple[str, float, bool], ...]:
        """Its lines, each with its height and whether it is bold."""
        above, below = self.said.above, self.said.below
        top = self.y - HALF - LINE_PX * (len(above) - 1)
        return (*((line, top + n * LINE_PX, True) for n, line in enumerate(above)),
                *((line, self.y + HALF + 11 + n * LINE_PX, False) for n, line in enumerate(below)))


@dataclass(frozen=True)
class Bar:
    """A node: where it stands, from its first to its last line, what it is called, and on which other sheets it is."""

    node: str
    name: str
    x: float
    ys: tuple[float, ...]
    others: tuple[int, ...]
    free: bool  # nothing else is at it: the end of a wire that leads nowhere

    @property
    def label(self) -> str:
        """Its name, and the sheets that it goes on on."""
        return " ".join((self.name, *(f"/{a}" if a == b else f"/{a}–{b}" for a, b in _spans(self.others))))

    @property
    def wide(self) -> float:
        """Of its label."""
        return letters(self.label) * LETTER_PX


@dataclass(frozen=True)
class Sheet:
    """One sheet: everything on it by coordinates. `flags` are ends of chains that come back to their own bar."""

    number: int
    symbols: tuple[Symbol, ...]
    bars: tuple[Bar, ...]
    lines: tuple[tuple[float, float, float], ...]  # level: from, to, height
    labels: tuple[tuple[str, float, float], ...]  # a bar's label, its middle and its height
    flags: tuple[tuple[str, float, float], ...]
    size: tuple[float, float]


def _spans(numbers: tuple[int, ...]) -> list[tuple[int, int]]:
    """Ascending numbers as spans from one to another."""
    found: list[tuple[int, int]] = []
    for n in numbers:
        if found and n == found[-1][1] + 1:
            found[-1] = found[-1][0], n
        else:
            found.append((n, n))
    return found


def sheets(analysis: Analysis) -> tuple[Sheet, ...]:
    """The whole drawing; () where there is nothing to draw."""
    circuit = Circuitry(analysis)
    order = ranked(circuit)
    words = {item.element: said(analysis, item) for item in circuit.items}
    pages = [straightened(page, order) for page in _pages(in_order(order), words)]
    on: dict[str, list[int]] = defaultdict(list)
    for number, page in enumerate(pages, 1):
        for node in {n for chain in page for n in (chain.a, chain.b)}:
            on[node].append(number)
    return tuple(_Laying(circuit, order, words, on, page).sheet(number) for number, page in enumerate(pages, 1))


def _pages(rows: list[Chain], words: dict[ElementRef, Said]) -> list[list[Chain]]:
    """The rows on as few sheets as have room for them, parted where the fewest bars go on."""
    heights = [sum(_extents([words[item.element] for item in chain.items])) for chain in rows]
    cut = _cut_at(rows)
    best: list[tuple[tuple[int, int], int]] = [((0, 0), 0)]  # sheets and bars cut up to a row, and where the last began
    for end in range(1, len(rows) + 1):
        found, high = [], 0.0
        for begin in range(end - 1, -1, -1):
            high += heights[begin]
            if high > HIGH and begin < end - 1:
                break
            sheets_before, bars_cut = best[begin][0]
            found.append(((sheets_before + 1, bars_cut + cut[begin]), begin))
        best.append(min(found))
    pages: list[list[Chain]] = []
    end = len(rows)
    while end:
        begin = best[end][1]
        pages.append(rows[begin:end])
        end = begin
    return pages[::-1]


def _cut_at(rows: list[Chain]) -> list[int]:
    """How many bars go on across the edge before each row."""
    change = [0] * (len(rows) + 1)
    for first, last in reach(rows).values():
        change[first + 1] += 1
        change[last + 1] -= 1
    return list(accumulate(change))


def _extents(every: list[Said]) -> tuple[float, float]:
    """What a row needs above its line and below it."""
    return (NAME_PX + HALF + LINE_PX * max((len(s.above) for s in every), default=0),
            HALF + 3 + LINE_PX * max((len(s.below) for s in every), default=0))


class _Laying:
    """A sheet while it is laid out."""

    def __init__(self, circuit: Circuitry, order: Ranked, words: dict[ElementRef, Said], on: dict[str, list[int]],
                 rows: list[Chain]) -> None:
        self.circuit, self.order, self.said, self.on, self.rows = circuit, order, words, on, rows
        self.ys: list[float] = []
        self.tops: list[float] = []
        y = EDGE
        for chain in rows:
            above, below = _extents([self.said[item.element] for item in chain.items])
            self.tops.append(y + NAME_PX - 4)
            self.ys.append(y + above)
            y += above + below
        self.high = y + EDGE
        self.bar_x: dict[str, float] = {}
        self.left: dict[int, float] = {}  # of each column

    def sheet(self, number: int) -> Sheet:
        """Columns from left to right, then everything in its place."""
        width = self._across(number)
        symbols: list[Symbol] = []
        lines: list[tuple[float, float, float]] = []
        flags = []
        for chain, y in zip(self.rows, self.ys, strict=True):
            placed = [self._symbol(item, column, y) for item, column in self._columns(chain)]
            symbols += placed
            begin, end = self.bar_x[chain.a], self.bar_x[chain.b]
            if chain.a == chain.b:
                begin, end, flag = self._stub(chain, placed)
                flags.append((self.circuit.names[chain.a], flag, y))
            ends = [begin, *(x for s in placed for x in (s.x0, s.x1)), end]
            lines += [(ends[n], ends[n + 1], y) for n in range(0, len(ends), 2) if ends[n] != ends[n + 1]]
        bars = tuple(self._bar(node, x, number) for node, x in self.bar_x.items())
        labels = tuple((bar.label, bar.x, self.tops[self.ys.index(bar.ys[0])]) for bar in bars)
        wide = max(width, max((x + letters(name) * LETTER_PX + EDGE for name, x, _ in flags), default=0.0))
        return Sheet(number, tuple(symbols), bars, tuple(lines), labels, tuple(flags),
                     (max(LEAST_WIDE, wide), self.high))

    def _stub(self, chain: Chain, placed: list[Symbol]) -> tuple[float, float, float]:
        """The line of a chain that comes back to its own bar: where it begins and ends, and where that is said."""
        bar = self.bar_x[chain.a]
        if bar <= placed[0].x0:
            return bar, placed[-1].x1 + GAP, placed[-1].x1 + GAP
        return placed[0].x0 - GAP, bar, placed[0].x0 - GAP

    def _columns(self, chain: Chain) -> list[tuple[Item, int]]:
        """Each of its things with its column: what feeds as far left as it may, the way back as far right."""
        column, middle, items, loads = self.order.column, self.order.middle, chain.items, chain.loads
        begin, end, many = column[chain.a], column[chain.b], len(items)
        if begin >= middle.stop:
            return [(item, end - many + n) for n, item in enumerate(items)]
        if end < middle.stop:
            return [(item, begin + n) for n, item in enumerate(items)]
        return [(item, begin + n if n < loads.start else middle.start + n - loads.start if n < loads.stop
                 else end - many + n) for n, item in enumerate(items)]

    def _symbol(self, item: Item, column: int, y: float) -> Symbol:
        wide = symbol_px(item)
        middle = self.left[column] + self.wide[column] / 2
        return Symbol(item, middle - wide / 2, middle + wide / 2, y, self.said[item.element])

    def _bar(self, node: str, x: float, number: int) -> Bar:
        ys = tuple(y for chain, y in zip(self.rows, self.ys, strict=True) if node in (chain.a, chain.b))
        others = tuple(n for n in self.on[node] if n != number)
        return Bar(node, self.circuit.names[node], x, ys, others, len(self.circuit.joined[node]) == 1)

    # -- across ---------------------------------------------------------------------------------------------------

    def _across(self, number: int) -> float:
        """Where each column begins and each bar stands; how wide that makes the sheet."""
        self.wide: dict[int, float] = {}
        for chain in self.rows:
            for item, column in self._columns(chain):
                need = max(symbol_px(item), self.said[item.element].wide_px)
                self.wide[column] = max(self.wide.get(column, 0.0), need)
        before: dict[int, list[Bar]] = defaultdict(list)
        for node in dict.fromkeys(n for chain in self.rows for n in (chain.a, chain.b)):
            before[self.order.column[node]].append(self._bar(node, 0.0, number))
        placed: list[Bar] = []
        x = EDGE
        for column in range(self.order.columns + 1):
            for bar in self._in_turn(before[column]):
                x = max([x, EDGE + bar.wide / 2, *(self.bar_x[o.node] + self._apart(o, bar) for o in placed)])
                self.bar_x[bar.node] = x
                placed.append(bar)
                x += TRACK
            if column in self.wide:
                self.left[column] = x + GAP - (TRACK if before[column] else 0)
                x = self.left[column] + self.wide[column] + GAP
        return max([x, *(self.bar_x[bar.node] + bar.wide / 2 for bar in placed)]) + EDGE

    def _apart(self, one: Bar, other: Bar) -> float:
        """How far apart two bars stand, so that neither goes through the other's name."""
        half = (one.wide + other.wide) / 2
        if one.ys[0] == other.ys[0]:
            return half + 8
        if one.ys[0] < other.ys[0] <= one.ys[-1]:
            return other.wide / 2 + 5
        if other.ys[0] < one.ys[0] <= other.ys[-1]:
            return one.wide / 2 + 5
        return 0.0

    def _in_turn(self, bars: list[Bar]) -> list[Bar]:
        """The bars before a column in the order in which their lines cross least."""
        if len(bars) > PERMUTED:
            return sorted(bars, key=lambda bar: bar.ys[0] - bar.ys[-1])
        leaves = {bar.node: [(y, chain.a == bar.node) for chain, y in zip(self.rows, self.ys, strict=True)
                             if bar.node in (chain.a, chain.b)] for bar in bars}

        def crossed(turn: Sequence[Bar]) -> int:
            return sum(other.ys[0] < y < other.ys[-1] and (n < m) == rightwards
                       for n, bar in enumerate(turn) for m, other in enumerate(turn) if m != n
                       for y, rightwards in leaves[bar.node])
        return min((list(turn) for turn in permutations(bars)), key=crossed)
