"""The core crimp cut across, before it is pressed and after."""

import math
from collections.abc import Iterator

from loadstar.core.materials.terminals import Terminal

from .pen import Pen, Point, Sizes, is_sleeved

_RINGS = ((0.0, 1), (2.0, 6), (4.0, 12))  # strands are drawn as nineteen, however many there are
_ACROSS = 5.0  # strands' radii from the middle to the outer edge


def before(pen: Pen, s: Sizes, terminal: Terminal) -> Iterator[str]:
    """Open wings, tube or cup with the strands lying in it."""
    r = s.core / 2
    if terminal.stages == 2:
        yield pen.area(_band([(-1.25 * r, -2.1 * r), (-r, 0.15 * r), *_arc(r, math.pi, 0.0), (r, 0.15 * r),
                              (1.25 * r, -2.1 * r)], s.sheet), "c-cut")
    else:
        yield pen.disc((0, 0), r + 0.1 + 1.5 * s.sheet, "c-cut")
        yield pen.disc((0, 0), r + 0.1, "c-hole")
    yield from _strands(pen, s, 0.94, 1.0)


def after(pen: Pen, s: Sizes, terminal: Terminal) -> Iterator[str]:
    """Wings curled into the strands; a tube pressed to six sides, a sleeved one flat; solder between the strands."""
    r, t = s.core / 2, s.sheet
    if terminal.stages == 2:
        yield from _curled(pen, r, t)
    elif terminal.stages == 0:
        yield pen.disc((0, 0), r + 0.35 + 1.5 * t, "c-cut")
        yield pen.disc((0, 0), r + 0.35, "c-solder")
        yield from _strands(pen, s, 0.94, 1.0)
    elif is_sleeved(terminal):
        yield pen.box((-1.25 * r - 1.5 * t, -0.72 * r - 1.5 * t), (1.25 * r + 1.5 * t, 0.72 * r + 1.5 * t), "c-cut",
                      rx_mm=0.7 * r + t)
        yield pen.box((-1.25 * r, -0.72 * r), (1.25 * r, 0.72 * r), "c-core", rx_mm=0.6 * r)
        yield from _strands(pen, s, 1.2, 0.7)
    else:
        for radius, cls in ((r * PRESSED_SIX + 1.7 * t, "c-cut"), (r * PRESSED_SIX, "c-core")):
            yield pen.area([(radius * math.cos(a), radius * math.sin(a)) for a in _sixths()], cls)
        yield from _strands(pen, s, 0.86, 0.86)


PRESSED_SIX = 0.98  # of the strands' radius: the corners of the six sides


def _sixths() -> list[float]:
    return [math.radians(60 * n) for n in range(6)]


def _curled(pen: Pen, r: float, t: float) -> Iterator[str]:
    """The shape of a good open crimp: flat floor, two rolls that meet in the middle and turn down into the strands."""
    wide = 1.12 * r
    top = [(0.0, -0.1 * r), *((wide / 2 + wide / 2 * math.cos(a), -0.35 * r + 0.55 * r * math.sin(a))
                              for a in (math.pi + n * math.pi / 10 for n in range(11))),
           (wide, 0.55 * r), (wide * 0.85, 0.8 * r), (0.0, 0.8 * r)]
    inside = [*top, *((-x, y) for x, y in reversed(top))]
    outside = [(x * (1 + 1.3 * t / wide), y * (1 + 1.3 * t / r) if y > 0 else y - 1.2 * t) for x, y in inside]
    yield pen.area(outside, "c-cut")
    yield pen.area(inside, "c-core")
    for x in (-0.72, -0.36, 0.0, 0.36, 0.72):
        for y in (0.12, 0.5):
            yield pen.disc((x * r, y * r), 0.17 * r, "c-strand")
    for x in (-0.62, 0.62):
        yield pen.disc((x * r, -0.4 * r), 0.17 * r, "c-strand")
    yield pen.line((0, -0.45 * r - 1.2 * t), (0, -0.1 * r), "c-fold")


def _strands(pen: Pen, s: Sizes, wide: float, high: float) -> Iterator[str]:
    one = s.core / 2 / _ACROSS
    for ring, count in _RINGS:
        for n in range(count):
            a = 2 * math.pi * n / count
            x, y = ring * one * math.cos(a) * wide, ring * one * math.sin(a) * high
            yield pen.disc((x, y), one * 0.92 * min(wide, high, 1), "c-strand")


def _arc(r: float, begin: float, end: float) -> list[Point]:
    """Half a circle below, from left to right."""
    return [(r * math.cos(begin + (end - begin) * n / 12), r * math.sin(begin + (end - begin) * n / 12))
            for n in range(1, 12)]


def _band(points: list[Point], thick: float) -> list[Point]:
    """A line made so thick to its outside."""
    outer = []
    for n, (x, y) in enumerate(points):
        (x0, y0), (x1, y1) = points[max(n - 1, 0)], points[min(n + 1, len(points) - 1)]
        long = math.hypot(x1 - x0, y1 - y0)
        outer.append((x - (y1 - y0) / long * thick, y + (x1 - x0) / long * thick))
    return [*points, *reversed(outer)]
