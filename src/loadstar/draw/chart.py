"""Axes, curves and marks shared by the pictures that are charts: placing first, then SVG."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise

from .labels import Box, Label, Line, Placed, ends_of, nice_step, place
from .svg import el, text

FEW_DECADES = 2.2  # of a logarithmic axis; then 2 and 5 are marked too
LINE = 17.0  # between two lines of words
LEFT, RIGHT, TOP, BOTTOM = 76.0, 24.0, 22.0, 50.0
Points = Sequence[tuple[float, float]]


@dataclass(frozen=True)
class Axis:
    """One axis: its range, its unit and whether it is logarithmic."""

    low: float
    high: float
    words: str
    unit: str
    log: bool = False

    def share(self, value: float) -> float:
        """Where a value lies, 0 to 1."""
        if self.log:
            return math.log(max(value, 1e-12) / self.low) / math.log(self.high / self.low)
        return (value - self.low) / (self.high - self.low)

    def ticks(self, most: int) -> list[float]:
        """Round values along the axis."""
        if self.log:
            decades = range(math.floor(math.log10(self.low)), math.ceil(math.log10(self.high)) + 1)
            steps = (1, 2, 5) if math.log10(self.high / self.low) <= FEW_DECADES else (1,)
            return [t for d in decades for s in steps if self.low * 0.999 <= (t := s * 10.0**d) <= self.high * 1.001]
        step = nice_step(self.high - self.low, most)
        first = math.ceil(self.low / step - 1e-9)
        return [n * step for n in range(first, math.floor(self.high / step + 1e-9) + 1)]


@dataclass
class Chart:
    """A chart under construction. Curves are clipped to the frame; labels are placed clear of them."""

    width: float
    height: float
    along: Axis
    up: Axis
    curves: list[tuple[str, list[tuple[float, float]]]] = field(default_factory=list)
    marks: list[str] = field(default_factory=list)
    lines: list[Line] = field(default_factory=list)
    wanted: list[tuple[Label, str]] = field(default_factory=list)
    right: float = RIGHT  # room beside the frame, for the names of curves at their ends
    ends: list[tuple[str, float, str]] = field(default_factory=list)

    @property
    def area(self) -> Box:
        """The frame."""
        return Box(LEFT, TOP, self.width - self.right, self.height - BOTTOM)

    def x(self, value: float) -> float:
        """A value along, in picture units."""
        return self.area.x0 + (self.area.x1 - self.area.x0) * min(max(self.along.share(value), 0.0), 1.0)

    def y(self, value: float) -> float:
        """A value up, in picture units."""
        return self.area.y1 - (self.area.y1 - self.area.y0) * min(max(self.up.share(value), 0.0), 1.0)

    def curve(self, points: Points, kind: str) -> None:
        """A line through points; what lies outside the range is left out."""
        inside = [(self.x(a), self.y(b)) for a, b in points if -1e-9 <= self.up.share(b) <= 1 + 1e-9]
        if len(inside) > 1:
            self.curves.append((kind, inside))
            self.lines += [(*one, *two) for one, two in pairwise(inside)]

    def band(self, upper: Points, lower: Points, kind: str) -> None:
        """The space between two lines."""
        edge = [(self.x(a), self.y(b)) for a, b in upper] + [(self.x(a), self.y(b)) for a, b in reversed(list(lower))]
        self.marks.append(el("polygon", {"points": " ".join(f"{a:.1f},{b:.1f}" for a, b in edge), "class": kind}))

    def upright(self, value: float, kind: str) -> None:
        """A line from bottom to top."""
        x = self.x(value)
        self.lines.append((x, self.area.y0, x, self.area.y1))
        self.marks.append(el("line", {"x1": x, "x2": x, "y1": self.area.y0, "y2": self.area.y1, "class": kind}))

    def level(self, value: float, kind: str) -> None:
        """A line from side to side."""
        y = self.y(value)
        self.lines.append((self.area.x0, y, self.area.x1, y))
        self.marks.append(el("line", {"x1": self.area.x0, "x2": self.area.x1, "y1": y, "y2": y, "class": kind}))

    def point(self, along: float, up: float, kind: str) -> None:
        """A ring."""
        self.marks.append(el("circle", {"cx": self.x(along), "cy": self.y(up), "r": 6, "class": kind}))

    def label(self, key: str, words: str, along: float, up: float, kind: str, side: int = -1) -> None:
        """Words at a point, placed when everything is known."""
        self.wanted.append((Label(key, tuple(words.split("\n")), self.x(along), self.y(up), side, 14, 9), kind))

    def end(self, words: str, up: float, kind: str) -> None:
        """The name of a curve that ends at the right, beside the frame."""
        self.ends.append((words, self.y(up), kind))

    def _names_at_the_ends(self) -> list[str]:
        """Names one below the other in the order of their curves, each with a line to its own."""
        a, made = self.area, []
        rows = sorted(self.ends, key=lambda end: end[1])
        tops = [y for _, y, _ in rows]
        for i in range(1, len(tops)):
            tops[i] = max(tops[i], tops[i - 1] + LINE)
        over = max(0.0, tops[-1] - a.y1) if tops else 0.0
        for (words, y, kind), at in zip(rows, tops, strict=True):
            row = at - over
            made.append(el("line", {"x1": a.x1, "y1": y, "x2": a.x1 + 14, "y2": row, "class": "d-leader"}))
            made.append(el("text", {"x": a.x1 + 18, "y": row + 5, "class": kind}, text(words)))
        return made

    def placed(self) -> dict[str, Placed | None]:
        """Where each label goes."""
        a = self.area
        return place([label for label, _ in self.wanted], Box(a.x0 + 3, a.y0 + 2, a.x1 - 3, a.y1 - 2), [], self.lines)

    def body(self) -> list[str]:
        """Frame, grid, marks, curves and labels."""
        a = self.area
        made = [el("rect", {"x": a.x0, "y": a.y0, "width": a.x1 - a.x0, "height": a.y1 - a.y0, "class": "d-frame"})]
        for value in self.up.ticks(6):
            y = self.y(value)
            made.append(el("line", {"x1": a.x0, "x2": a.x1, "y1": y, "y2": y, "class": "d-grid"}))
            made.append(el("text", {"x": a.x0 - 8, "y": y + 4, "text-anchor": "end", "class": "d-axis"},
                           text(f"{value:g}\u00a0{self.up.unit}")))
        for value in self.along.ticks(8):
            x = self.x(value)
            made.append(el("line", {"x1": x, "x2": x, "y1": a.y0, "y2": a.y1, "class": "d-grid"}))
            made.append(el("text", {"x": x, "y": a.y1 + 20, "text-anchor": "middle", "class": "d-axis"},
                           text(f"{value:g}\u00a0{self.along.unit}".rstrip())))
        made.append(el("text", {"x": a.x1, "y": a.y1 + 38, "text-anchor": "end", "class": "d-soft"},
                       text(self.along.words)))
        made.append(el("text", {"x": a.x0, "y": a.y0 - 7, "class": "d-soft"}, text(self.up.words)))
        made += self.marks
        for kind, points in self.curves:
            made.append(el("polyline",
                           {"points": " ".join(f"{x:.1f},{y:.1f}" for x, y in points), "class": kind, "fill": "none"}))
        return [*made, *self._names_at_the_ends(), *self._words()]

    def _words(self) -> list[str]:
        kinds = {label.key: kind for label, kind in self.wanted}
        made = []
        for key, put in self.placed().items():
            if put is None:
                continue
            b = put.box
            if put.leader:
                made.append(el("line", {**ends_of(put.leader), "class": "d-leader"}))
            made.append(el("rect",
                {"x": b.x0, "y": b.y0, "width": b.x1 - b.x0, "height": b.y1 - b.y0, "class": "d-plate", "rx": 3}))
            for i, line in enumerate(put.label.lines):
                made.append(el("text", {"x": (b.x0 + b.x1) / 2, "y": b.y0 + (i + 1) * 17 - 4, "text-anchor": "middle",
                                        "class": kinds[key]}, text(line)))
        return made
