"""Draws in millimetres about a point of the picture, which is where a wire's insulation ends, on its axis."""

import math
from collections.abc import Iterable
from dataclasses import dataclass, replace

from loadstar.core.ends.choose import End
from loadstar.core.materials.conductors import STRAND_FILL
from loadstar.core.materials.terminals import Terminal

from ..svg import el, num, text

Point = tuple[float, float]


@dataclass(frozen=True)
class Pen:
    """The point's place on the picture, px; px a millimetre; the wire's colour as it is drawn."""

    x: float
    y: float
    k: float
    colour: str
    paper: bool

    def at(self, x: float, y: float) -> "Pen":
        """The same pen about another point, px."""
        return replace(self, x=x, y=y)

    def area(self, points_mm: Iterable[Point], cls: str, fill: str | None = None) -> str:
        """A closed outline."""
        path = " L".join(f"{num(self.x + x * self.k)} {num(self.y + y * self.k)}" for x, y in points_mm)
        return el("path", {"d": f"M{path} Z", "class": cls, **_filled(fill)}, paper=self.paper)

    def box(self, begin: Point, end: Point, cls: str, fill: str | None = None, rx_mm: float = 0.0) -> str:
        """A rectangle from corner to corner."""
        (x0, y0), (x1, y1) = begin, end
        return el("rect", {"x": self.x + x0 * self.k, "y": self.y + y0 * self.k, "width": (x1 - x0) * self.k,
                           "height": (y1 - y0) * self.k, "rx": rx_mm * self.k or None, "class": cls, **_filled(fill)},
                  paper=self.paper)

    def line(self, begin: Point, end: Point, cls: str) -> str:
        """A straight line."""
        (x0, y0), (x1, y1) = begin, end
        return el("line", {"x1": self.x + x0 * self.k, "y1": self.y + y0 * self.k, "x2": self.x + x1 * self.k,
                           "y2": self.y + y1 * self.k, "class": cls}, paper=self.paper)

    def disc(self, centre: Point, r_mm: float, cls: str, fill: str | None = None) -> str:
        """A circle."""
        return el("circle", {"cx": self.x + centre[0] * self.k, "cy": self.y + centre[1] * self.k,
                             "r": r_mm * self.k, "class": cls, **_filled(fill)}, paper=self.paper)

    def words(self, at: Point, words: str, cls: str = "d-soft", anchor: str = "start") -> str:
        """Words at a point of the picture, px."""
        return el("text", {"x": at[0], "y": at[1], "text-anchor": anchor, "class": cls}, text(words), paper=self.paper)


def _filled(colour: str | None) -> dict[str, object]:
    """A fill of its own, where the class does not say it."""
    return {} if colour is None else {"fill": colour}


@dataclass(frozen=True)
class Sizes:
    """What an end measures, mm, as it is drawn: over the insulation, over the strands, over them when they are pressed;
    the sheet that its terminal is made of (drawn, not known); from where to where the core crimp lies, and the crimp
    on insulation or seal (None: it has none); how far the strip goes."""

    od: float
    core: float
    pressed: float
    sheet: float
    crimp: Point
    wings: Point | None
    strip: float


def is_sleeved(terminal: Terminal) -> bool:
    """Whether a tube comes with a sleeve on it: small splices, ferrules, all that is pre-insulated."""
    return terminal.insulated or (terminal.family in ("ferrule", "splice") and terminal.area_mm2[1] <= 6)


SHOWS_MM = 0.75  # of the strands past the core crimp, and between insulation and core crimp
WINGS_MM, SEAL_MM = 3.0, 5.5  # how long insulation wings and a seal are
PRESSED = 0.85  # of the strands' diameter that a good crimp leaves


def sizes(end: End, terminal: Terminal) -> Sizes:
    """What is drawn of an end with this terminal."""
    core, strip = math.sqrt(4 * end.area_mm2 / (math.pi * STRAND_FILL)), terminal.strip_mm
    sheet = 0.25 + 0.08 * core
    if terminal.stages == 2:
        crimp, wings = (SHOWS_MM, strip - SHOWS_MM), (-0.5 - WINGS_MM, -0.5)
    elif terminal.insulated:
        crimp, wings = (0.4, strip), (-3.5, 0.0)
    else:
        crimp, wings = (0.4, strip + 0.4), None
    return Sizes(end.od_mm, core, core * PRESSED, sheet, crimp, wings, strip)
