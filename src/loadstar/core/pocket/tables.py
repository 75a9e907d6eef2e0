"""A colour by its letters, and a wire by any of the ways that its size is told in."""

import math
from typing import Annotated, ClassVar

from pydantic import Field

from ..doc.rules import HouseRules
from ..doc.types import AreaMm2, Colour
from ..errors import refuse
from ..figures.working import Input, Working
from ..materials import ampacity, conductors
from ..materials.conductors import ALPHA20_PER_K, BY_AREA, CONDUCTORS, gauge_label
from ..materials.terminals import pull_n
from ..parts.asks import COLOURS, Ask
from ..wiring.conductor import conductor_of
from .base import SIZES, Answer, Question, Table

ABOUT = 2  # sizes shown to either side
WARM_C = 60.0
NEAR = 0.12  # that what is counted may be off from a listed size: a strand, and a hundredth of a millimetre


class ColourQuestion(Question):
    """A colour's letters, by IEC 60757."""

    KEY: ClassVar[str] = "colour"
    TITLE: ClassVar[str] = "What is this colour here?"
    ASKS: ClassVar[tuple[Ask, ...]] = (
        Ask("colour", "Colour", kind="choice", choices=COLOURS),
        Ask("stripe", "with a stripe of", kind="choice", choices=(("", "none"), *COLOURS), optional=True))

    colour: Colour = "OG"
    stripe: Colour = ""

    @property
    def letters(self) -> str:
        """As it stands in a plan: "OG/WH"."""
        return f"{self.colour}/{self.stripe}" if self.stripe else self.colour

    def answer(self, rules: HouseRules) -> Answer:
        """Its letters; what it is for is the machine's own business."""
        names = dict(COLOURS)
        stripe = f" with {names[self.stripe]}" if self.stripe else ""
        return Answer(f"{names[self.colour].capitalize()}{stripe}: {self.letters}.", minded=(
            "A colour proves nothing: measure before anything is joined to it.",), tables=(
            Table("All of them", ("Letters", "Colour"), COLOURS, [c for c, _ in COLOURS].index(self.colour),
                  "IEC 60757 (check the current edition)"),))


class SizeQuestion(Question):
    """A size in all the ways that it is told in, from any of them."""

    KEY: ClassVar[str] = "size"
    TITLE: ClassVar[str] = "What size is this wire?"
    ASKS: ClassVar[tuple[Ask, ...]] = (
        Ask("area_mm2", "It is called", kind="choice", choices=(("", "not known"), *SIZES), optional=True),
        Ask("strands", "or count its strands", "Empty: not counted.", unit="", optional=True),
        Ask("strand_mm", "thickness of a strand", "With a micrometer.", optional=True))

    area_mm2: AreaMm2 | None = 1.0
    strands: Annotated[float, Field(ge=1, le=5000)] | None = None
    strand_mm: Annotated[float, Field(ge=0.03, le=5)] | None = None

    def answer(self, rules: HouseRules) -> Answer:
        """The size that it is, or the nearest listed."""
        if (self.strands is None) != (self.strand_mm is None):
            raise refuse("", "strand_mm" if self.strand_mm is None else "strands",
                         "Strands and their thickness belong together.")
        if self.area_mm2 is None and self.strands is None:
            raise refuse("", "area_mm2", "Say what it is called, or count its strands.")
        figures, area, said, other = [], self.area_mm2, "", False
        if self.strands is not None and self.strand_mm is not None:
            counted = self.strands * math.pi / 4 * self.strand_mm ** 2
            area = min(BY_AREA, key=lambda a: abs(math.log(a / counted)))
            other = abs(area / counted - 1) > NEAR
            said = f"{counted:.3g} mm² counted{', no listed size; nearest is' if other else ':'} "
            figures.append(Working("Cross-section by its strands", "A", counted, "mm²", "n * pi / 4 * d ** 2", (
                Input("n", self.strands, "", "strands", "counted"),
                Input("d", self.strand_mm, "mm", "of one strand", "measured"))))
            if self.area_mm2 is not None and area != self.area_mm2:
                said, other = f"Its strands make {counted:.3g} mm², not {self.area_mm2:g}: ", True
        assert area is not None
        figures += self._figures(rules, area)
        return Answer(f"{said}{area:g} mm², {gauge_label(area)}.", tuple(figures), (), (_sizes(rules, area),),
                      grave=other)

    @staticmethod
    def _figures(rules: HouseRules, area_mm2: float) -> list[Working]:
        metal, listed = conductor_of(rules, area_mm2), BY_AREA[area_mm2]
        warm = metal.ohm(1.0, WARM_C) - 2 * metal.end_ohm
        return [Working("A metre of it, warm", "r", warm * 1000, "mΩ", "r_20 * (1 + alpha * (T - 20))", (
            Input("r_20", metal.r20_ohm_per_m * 1000, "mΩ", "a metre at 20 °C" + (", tinned" if rules.tinned else ""),
                  conductors.SOURCE),
            Input("alpha", ALPHA20_PER_K, "1/K", "of copper", "IEC 60228"),
            Input("T", WARM_C, "°C", "warm", "usual in a loom"))),
            Working("Diameter over a thin wall", "D", listed.od_mm("thin"), "mm", "f * D_m", (
                Input("f", conductors.OD_NOMINAL_TO_MAX, "", "nominal of the most", "assumed"),
                Input("D_m", listed.thin_od_mm, "mm", "the most that its standard allows", conductors.SOURCE)))]


def _sizes(rules: HouseRules, area_mm2: float) -> Table:
    at = CONDUCTORS.index(BY_AREA[area_mm2])
    first = max(0, at - ABOUT)
    rows = tuple((f"{c.area_mm2:g}", gauge_label(c.area_mm2), f"{c.d_mm:.2f}", f"{c.od_mm('thin'):.1f}",
                  f"{c.od_mm('thick'):.1f}", _amps(c.area_mm2), f"{pull_n(c.area_mm2) or '-'}")
                 for c in CONDUCTORS[first:at + ABOUT + 1])
    return Table("Sizes about it", ("mm²", "Number", "Copper mm", "Thin wall mm", "Thick wall mm", "Table A", "Pull N"),
                 rows, at - first, ampacity.SOURCE)


def _amps(area_mm2: float) -> str:
    amps = float(ampacity.table_a(area_mm2))
    return f"{amps:.0f}" if math.isfinite(amps) else "-"
