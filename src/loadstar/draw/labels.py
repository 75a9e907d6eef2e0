"""Placing labels so that no two boxes overlap and none lies on a line.

Each label has an anchor and tries positions around it, nearest first, until its box is free; if none is, it is left
out of the picture (the list beside the picture still has it) and said so by `None`.
"""

import math
import unicodedata
from dataclasses import dataclass

CHAR_TEXT, CHAR_MONO = 0.56, 0.62
FULL_WIDTH = 1.8  # of a usual letter's width: a sign of a script that is written in squares


def letters(words: str) -> float:
    """How many letters of the usual width some words are as wide as."""
    return sum(0.0 if unicodedata.combining(sign) else FULL_WIDTH if unicodedata.east_asian_width(sign) in "WF" else 1.0
               for sign in words)


@dataclass(frozen=True)
class Box:
    """A rectangle: left, top, right, bottom."""

    x0: float
    y0: float
    x1: float
    y1: float

    def overlaps(self, other: "Box") -> bool:
        """Whether the two share more than an edge."""
        return self.x0 < other.x1 and other.x0 < self.x1 and self.y0 < other.y1 and other.y0 < self.y1

    def within(self, other: "Box") -> bool:
        """Whether this lies wholly inside another."""
        return self.x0 >= other.x0 and self.y0 >= other.y0 and self.x1 <= other.x1 and self.y1 <= other.y1


@dataclass(frozen=True)
class Label:
    """Lines of text at an anchor; `side` is where it would rather be: above (-1) or below (+1)."""

    key: str
    lines: tuple[str, ...]
    x: float
    y: float
    side: int = -1
    size: float = 13
    mono_from: int = 1

    @property
    def width(self) -> float:
        """Estimated width of its longest line."""
        return max(letters(line) * self.size * (CHAR_MONO if i >= self.mono_from else CHAR_TEXT)
                   for i, line in enumerate(self.lines)) + 4

    @property
    def height(self) -> float:
        """Height of its lines."""
        return len(self.lines) * (self.size + 3) + 1


@dataclass(frozen=True)
class Placed:
    """A label with its box; `far` when it needs a leader to its anchor."""

    label: Label
    box: Box
    far: bool

    @property
    def leader(self) -> "Line | None":
        """From its anchor to the nearest point of its box; None where it stands beside it."""
        if not self.far:
            return None
        x, y, b = self.label.x, self.label.y, self.box
        return x, y, min(max(x, b.x0), b.x1), min(max(y, b.y0), b.y1)


Line = tuple[float, float, float, float]


def place(labels: list[Label], area: Box, taken: list[Box], lines: list[Line],
          leaders: list[Line] | None = None) -> dict[str, Placed | None]:
    """A place for each label within `area`, in the order given, clear of `taken`, of `lines` and of each other, with no
    leader through words. `leaders` are those of labels placed before; these labels' are added to it."""
    occupied, drawn = list(taken), [] if leaders is None else leaders
    found: dict[str, Placed | None] = {}
    for label in labels:
        found[label.key] = None
        for box, far in _tries(label):
            put = Placed(label, box, far)
            if box.within(area) and not any(box.overlaps(o) for o in occupied) and not any(
                    _crosses(box, line) for line in (*lines, *drawn)) and not _leads_through(put, occupied):
                found[label.key] = put
                occupied.append(box)
                drawn += [put.leader] if put.leader else []
                break
    return found


def _leads_through(put: Placed, occupied: list[Box]) -> bool:
    """Whether its leader goes through a box that it does not begin in."""
    x, y = put.label.x, put.label.y
    return put.leader is not None and any(
        _crosses(box, put.leader) for box in occupied if not (box.x0 <= x <= box.x1 and box.y0 <= y <= box.y1))


def _tries(label: Label) -> list[tuple[Box, bool]]:
    w, h = label.width, label.height
    options: list[tuple[float, Box, bool]] = []
    for row in range(14):
        for side in (label.side, -label.side):
            for column in (0, 0.5, -0.5, 1, -1, 1.5, -1.5, 2.2, -2.2, 3, -3, 4, -4, 5.5, -5.5):
                gap = 6 + row * 12
                top = label.y - gap - h if side < 0 else label.y + gap
                left = label.x - w / 2 + column * w * 0.5
                cost = row * 12 + abs(column) * 16 + (30 if side != label.side else 0)
                options.append((cost, Box(left, top, left + w, top + h), row > 1 or abs(column) > 1))
    options.sort(key=lambda o: o[0])
    return [(box, far) for _, box, far in options]


def _crosses(box: Box, line: Line) -> bool:
    """Whether a line passes through a box (Liang and Barsky's clipping)."""
    x0, y0, x1, y1 = line
    dx, dy = x1 - x0, y1 - y0
    enter, leave = 0.0, 1.0
    for p, q in ((-dx, x0 - box.x0), (dx, box.x1 - x0), (-dy, y0 - box.y0), (dy, box.y1 - y0)):
        if p == 0:
            if q < 0:
                return False
            continue
        t = q / p
        if p < 0:
            enter = max(enter, t)
        else:
            leave = min(leave, t)
        if enter > leave:
            return False
    return True


def ends_of(line: Line) -> dict[str, object]:
    """A line's ends, as a picture has them."""
    return dict(zip(("x1", "y1", "x2", "y2"), line, strict=True))


def nice_step(span: float, most: int) -> float:
    """A step of 1, 2 or 5 times a power of ten that divides a span into at most so many parts."""
    raw = max(span, 1e-9) / most
    power = 10.0 ** math.floor(math.log10(raw))
    return next(m * power for m in (1, 2, 5, 10) if m * power >= raw * (1 - 1e-9))
