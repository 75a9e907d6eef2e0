"""A circuit drawing read back from its lines and words alone, as somebody reads it: what ends where."""

import re
from collections import Counter, defaultdict
from collections.abc import Iterable
from xml.etree import ElementTree

SVG = "{http://www.w3.org/2000/svg}"
Point = tuple[int, float, float] | str  # on a sheet, or a name that is the same on all
Nets = Counter[tuple[str, ...]]


class _Joined:
    """Points that are one node."""

    def __init__(self) -> None:
        self.above: dict[Point, Point] = {}

    def of(self, point: Point) -> Point:
        while self.above.setdefault(point, point) != point:
            point = self.above[point]
        return point

    def join(self, one: Point, other: Point) -> None:
        self.above[self.of(one)] = self.of(other)


def _ends(line: ElementTree.Element) -> tuple[float, float, float, float]:
    return tuple(float(line.get(name, "nan")) for name in ("x1", "y1", "x2", "y2"))  # type: ignore[return-value]


def read(sheets: Iterable[str]) -> Nets:
    """Of every node what ends there, an element twice where both of its ends do."""
    joined = _Joined()
    found: list[tuple[str, Point]] = []
    for number, sheet in enumerate(sheets):
        root = ElementTree.fromstring(sheet)
        inside = {line for group in root.iter(f"{SVG}g") for line in group.iter()}
        loose = [e for e in root.iter() if e not in inside]
        for group in root.iter(f"{SVG}g"):
            level = [e for line in group.iter(f"{SVG}line") if (e := _ends(line))[1] == e[3]]
            xs = [x for line in level for x in (line[0], line[2])]
            found += [(str(group.get("data-element")), (number, x, level[0][1])) for x in (min(xs), max(xs))]
        _lines(joined, number, loose)
        _names(joined, number, loose)
    nets: dict[Point, list[str]] = defaultdict(list)
    for element, point in found:
        nets[joined.of(point)].append(element)
    return Counter(tuple(sorted(elements)) for elements in nets.values())


def _lines(joined: _Joined, number: int, loose: list[ElementTree.Element]) -> None:
    """What lines and dots join. A line that crosses another without a dot does not."""
    dots = [(float(e.get("cx", 0)), float(e.get("cy", 0))) for e in loose if e.tag == f"{SVG}circle"]
    for line in (e for e in loose if e.tag == f"{SVG}line"):
        x0, y0, x1, y1 = _ends(line)
        joined.join((number, x0, y0), (number, x1, y1))
        for x, y in dots:
            if x0 == x1 == x and min(y0, y1) <= y <= max(y0, y1):
                joined.join((number, x, y), (number, x0, y0))


def _names(joined: _Joined, number: int, loose: list[ElementTree.Element]) -> None:
    """A bar's name stands over its upper end; "to" a name is that bar."""
    dots = [(float(e.get("cx", 0)), float(e.get("cy", 0))) for e in loose if e.tag == f"{SVG}circle"]
    for words in (e for e in loose if e.tag == f"{SVG}text"):
        x, y, said = float(words.get("x", 0)), float(words.get("y", 0)), words.text or ""
        if said.startswith("to "):
            joined.join((number, x - 4, y - 4), said[3:])
        else:
            under = min((dot for dot in dots if abs(dot[0] - x) < 0.06 and dot[1] > y), key=lambda dot: dot[1])
            joined.join((number, *under), re.sub(r"( /[\d–]+)+$", "", said))
