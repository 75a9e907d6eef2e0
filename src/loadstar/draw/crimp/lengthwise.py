"""A wire's end in its terminal, cut along the middle: insulation, strands, barrel, wings or seal, good or bad."""

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise

from loadstar.core.materials.terminals import Terminal

from .pen import Pen, Point, Sizes, is_sleeved

WIRE_MM = 10.0  # of insulation that is drawn
SEAL_FROM_MM = -7.5


@dataclass(frozen=True)
class Made:
    """How it was made: where the insulation ends and the strands' tips lie, mm from where they should; whether the
    barrel's mouths are opened; strands beside it; a barrel that is not pressed; solder that ran up the wire."""

    insulation_mm: float = 0.0
    tips_mm: float = 0.0
    bell: bool = True
    stray: bool = False
    loose: bool = False
    wicked_mm: float = 0.0


GOOD = Made()


def end_in_cut(pen: Pen, s: Sizes, terminal: Terminal, made: Made = GOOD, *, joint: bool = False) -> Iterator[str]:
    """Wire and barrel, without what it plugs or bolts on to. `joint`: soldered on to another wire."""
    yield from _wire(pen, s, made)
    if joint:
        yield from _solder(pen, s, made, s.strip)
    elif terminal.stages == 2:
        yield from _open_barrel(pen, s, made, sealed=terminal.sealed)
    elif terminal.stages == 0:
        yield from _cup(pen, s, made)
    else:
        yield from _tube(pen, s, terminal, made)
    if made.stray:
        x, y = s.crimp[0], -(s.pressed / 2 + 2.2 * s.sheet)
        for n in range(3):
            yield pen.line((x - 0.3, -s.core / 2), (x + 0.8 + n, y - 0.25 * n), "c-strand-out")


def _wire(pen: Pen, s: Sizes, made: Made) -> Iterator[str]:
    """The strands, pressed in the crimp and free past it, and the insulation over them."""
    ends, tips = made.insulation_mm, s.strip + made.tips_mm
    outline = _outline(s, made, ends, tips)
    yield pen.area([*((x, -y) for x, y in outline), *((x, y) for x, y in reversed(outline))], "c-core")
    for share in (-0.6, -0.2, 0.2, 0.6):
        for (x0, y0), (x1, y1) in pairwise(outline):
            yield pen.line((x0, y0 * share), (x1, y1 * share), "c-strand")
    for side in (-1, 1):
        inner, outer = side * s.core / 2, side * s.od / 2
        yield pen.area(((-WIRE_MM, inner), (-WIRE_MM, outer), (ends, outer), (ends, inner)), "c-insulation", pen.colour)


def _outline(s: Sizes, made: Made, ends: float, tips: float) -> list[Point]:
    """Half the strands' height along the wire."""
    (begin, end), free, held = s.crimp, s.core / 2, s.core / 2 if made.loose else s.pressed / 2
    points = [(-WIRE_MM, free), (max(min(ends, begin - 0.1), -1.0), free)]
    if tips > begin + 0.6:
        points += [(begin + 0.5, held), (min(end - 0.4, tips), held)]
    if tips > end - 0.4:
        points.append((tips, free * 1.04))
    return points


def _open_barrel(pen: Pen, s: Sizes, made: Made, *, sealed: bool) -> Iterator[str]:
    """Floor and folded wings of an open barrel: on the insulation, or on a seal's neck, and on the strands."""
    (begin, end), gap = s.crimp, 0.35 if made.bell else 0.0
    over = s.od / 2 + (0.45 if sealed else 0.0)
    assert s.wings is not None
    w0, w1 = s.wings
    if sealed:
        yield from _seal(pen, s)
    held = s.core / 2 + 0.15 if made.loose else s.pressed / 2
    held = max(held, s.od / 2 - 0.2) if made.insulation_mm > begin + 1 else held
    floor = [(w0, over), (w1, over), (begin, held + gap), (begin + 0.5, held), (end - 0.4, held),
             (end, held + gap / 2), (end + 0.8, held)]
    yield pen.area([*floor, *((x, y + s.sheet) for x, y in reversed(floor))], "c-cut")
    roof = [(begin, -held - gap), (begin + 0.5, -held), (end - 0.4, -held), (end, -held - gap / 2)]
    yield pen.area([*roof, *((x, y - 1.7 * s.sheet) for x, y in reversed(roof))], "c-cut")
    yield pen.box((w0, -over - s.sheet), (w1, -over), "c-cut", rx_mm=s.sheet / 2)


def _seal(pen: Pen, s: Sizes) -> Iterator[str]:
    """A single-wire seal: its neck under the wings, three lips behind them."""
    inner, neck, lip, body = s.od / 2, s.od / 2 + 0.45, s.od / 2 + 1.3, s.od / 2 + 0.75
    x = SEAL_FROM_MM
    one_lip = ((0.1, body), (0.35, lip), (0.65, lip), (0.9, body))
    top = [(x, body), *((x + n + at, y) for n in range(3) for at, y in one_lip), (x + 3.2, body), (x + 3.6, neck),
           (-0.2, neck)]
    for side in (-1, 1):
        yield pen.area([*((a, side * y) for a, y in top), (-0.2, side * inner), (x, side * inner)], "c-seal")


def _tube(pen: Pen, s: Sizes, terminal: Terminal, made: Made) -> Iterator[str]:
    """A closed tube, pressed in the middle; a hole where the strands end; a sleeve over it where it has one."""
    begin, end = s.crimp
    free, held, wall = s.core / 2 + 0.1, s.core / 2 + 0.1 if made.loose else s.pressed / 2, 1.5 * s.sheet
    reach = 2 * end + 0.8 if terminal.family == "splice" else end + 0.8
    dents = [(begin + 0.22 * (end - begin), end - 0.22 * (end - begin))]
    if terminal.family == "splice":
        dents.append((reach - dents[0][1] + begin, reach - dents[0][0] + begin))
        yield pen.box((end + 0.2, -s.core / 2), (end + 0.6, s.core / 2), "c-cut")
    inside = [(begin, free)]
    for a, b in dents:
        inside += [(a - 0.4, free), (a, held), (b, held), (b + 0.4, free)]
    inside.append((reach, free))
    for side in (-1, 1):
        yield pen.area([*((x, side * y) for x, y in inside),
                        *((x, side * (y + wall)) for x, y in reversed(inside))], "c-cut")
    if terminal.shape == "ring" and not terminal.insulated:
        yield pen.box((end - 0.6, -free - wall - 0.1), (end + 0.4, -free + 0.02), "c-hole")
    if is_sleeved(terminal):
        back = s.wings[0] if s.wings else -3.0
        outer = max(s.od / 2, free + wall)
        for side in (-1, 1):
            far = (begin, side * (outer + 0.1)) if terminal.family == "ferrule" else (reach, side * (free + wall))
            yield pen.area(((back, side * (outer + 0.1)), (back, side * (outer + 0.75)),
                            (far[0], far[1] + side * 0.65), far, (begin, side * (outer + 0.1))), "c-sleeve")


def _cup(pen: Pen, s: Sizes, made: Made) -> Iterator[str]:
    """A cup that is soldered: its mouth is cut slanting, its floor is closed."""
    begin, end = s.crimp
    inner, wall = s.core / 2 + 0.35, 1.5 * s.sheet
    yield from _solder(pen, s, made, end, inner)
    outer, lip, far = inner + wall, begin + 1.6, end + 1.4
    yield pen.area(((begin, inner), (begin, outer), (far, outer), (far, -outer), (lip, -outer), (lip, -inner),
                    (end + 0.2, -inner), (end + 0.2, inner)), "c-cut")


def _solder(pen: Pen, s: Sizes, made: Made, end: float, inner: float | None = None) -> Iterator[str]:
    """Solder between the strands and round them."""
    half = inner or s.core / 2 + 0.3
    begin = max(s.crimp[0], 0.8) - made.wicked_mm
    if made.loose:
        yield pen.disc(((begin + end) / 2, -half * 0.6), half * 0.75, "c-solder")
        return
    yield pen.area(((begin, -s.core / 2), (begin + 1, -half), (end, -half), (end, half), (begin + 1, half),
                    (begin, s.core / 2)), "c-solder")
