"""What stands above and below each thing of a circuit drawing, in lines that are as wide as its column may be."""

import textwrap
from dataclasses import dataclass

from loadstar.core.analysis import Analysis
from loadstar.core.parts.load import LoadPart

from ..labels import letters
from .items import Item

LETTER_PX = 7.4  # of a letter of 13 px, about
WIDE = {"lamp": 24, "motor": 24, "load": 24, "cell": 24, "generator": 24, "converter": 20, "output": 20, "coil": 20}
USUAL = 13  # letters in a line
SYMBOL_PX = {"wire": 62.0, "fuse": 46.0, "contact": 46.0, "plug": 44.0, "joint": 34.0, "diode": 44.0}
TAKES_PX = 58.0


@dataclass(frozen=True)
class Said:
    """The lines above a thing and below it; the first above stand bold."""

    above: tuple[str, ...]
    below: tuple[str, ...]

    @property
    def wide_px(self) -> float:
        """Of its longest line."""
        return max((letters(line) for line in (*self.above, *self.below)), default=0.0) * LETTER_PX


def symbol_px(item: Item) -> float:
    """How wide it is drawn."""
    return SYMBOL_PX.get(item.kind, TAKES_PX)


def said(analysis: Analysis, item: Item) -> Said:
    """What is written at it."""
    element, most = item.element, WIDE.get(item.kind, USUAL)
    if item.kind == "wire":
        wire, found = analysis.plan.wire(element), analysis.wires.get(element)
        size = f"{found.area_mm2:g}" if found else "no size"
        return Said((element,), (f"{size} {wire.colours}",))
    part = analysis.topology.parts.get(element.part)
    if part is None:
        return Said((element,), _wrapped("strap to the frame", most))
    match item.kind:
        case "fuse":
            rated = analysis.ratings.rating_or_none_a(element)
            return Said((element,), (f"{rated:g} A",) if rated else ("no rating",))
        case "coil":
            return Said(_wrapped(f"{part.id} {part.name}", most), ("coil",))
        case "converter":
            return Said(_wrapped(f"{part.id} {part.name}", most), ("in",))
        case "output":
            return Said(_wrapped(f"{part.id} {part.name}", most), ("out",))
        case "lamp" | "motor" | "load" | "cell" | "generator":
            load = analysis.plan.is_one(part.id, LoadPart)
            return Said(_wrapped(f"{part.id} {part.name}", most), (f"{load.amount:g} {load.unit}",) if load else ())
    return Said((_contact(analysis, item),), _wrapped(part.name, most))


def _contact(analysis: Analysis, item: Item) -> str:
    """One of a part's contacts by its part and where it leads, its only one by its part."""
    branch = analysis.topology.branches.get(item.element)
    return f"{item.element.part} {branch.b.name}" if branch is not None and item.element.role else item.element


def _wrapped(words: str, most: int) -> tuple[str, ...]:
    """In lines of so many letters; a script without spaces is parted anywhere."""
    lines = []
    for line in textwrap.wrap(words, most, break_long_words=True) or [""]:
        while letters(line) > most + 1:
            keep = next(n for n in range(len(line), 0, -1) if letters(line[:n]) <= most)
            lines.append(line[:keep])
            line = line[keep:]
        lines.append(line)
    return tuple(lines)
