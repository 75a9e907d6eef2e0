"""What a wire of a size ends in: terminal, strip, nests, pull, shrink."""

from typing import Annotated, ClassVar

from pydantic import Field

from ..doc.rules import HouseRules
from ..doc.types import AreaMm2
from ..ends.choose import Fit, shrink_over, with_each
from ..figures.working import Input, Working
from ..materials.conductors import BY_AREA
from ..materials.terminals import FAMILIES, PULL_SOURCE, RATED_AT_C, SOURCE, Family, dies, pull_n
from ..parts.asks import Ask
from .base import SIZES, Answer, Question, Table


class EndQuestion(Question):
    """Which terminal of a family a wire goes into, and how it is made."""

    KEY: ClassVar[str] = "end"
    TITLE: ClassVar[str] = "What end, how far do I strip?"
    ASKS: ClassVar[tuple[Ask, ...]] = (
        Ask("area_mm2", "Wire", kind="choice", choices=SIZES),
        Ask("family", "Goes into", kind="choice", choices=tuple((f, f) for f in FAMILIES)),
        Ask("wall", "Insulation", kind="choice", choices=(("thin", "thin wall"), ("thick", "thick wall"))),
        Ask("ambient_c", "Air around it"))

    area_mm2: AreaMm2 = 2.5
    family: Family = "blade 6.3"
    wall: Annotated[str, Field(pattern="^(thin|thick)$")] = "thin"
    ambient_c: Annotated[float, Field(ge=-30, le=100)] = 40

    def answer(self, rules: HouseRules) -> Answer:
        """Every terminal of the family with it; the first that takes it is how it is made."""
        od_mm = BY_AREA[self.area_mm2].od_mm(self.wall)
        every = with_each(self.family, self.area_mm2, od_mm, self.ambient_c)
        rows = tuple((f.terminal.name, f"{f.terminal.strip_mm:g} mm", f"{f.rated_a:.0f} A", f.why_not or "takes it")
                     for f in every)
        chosen = next((f for f in every if not f.why_not), None)
        at = every.index(chosen) if chosen else None
        table = Table(f"All of {self.family}", ("Terminal", "Strip", "Carries", "This wire"), rows, at, SOURCE)
        if chosen is None:
            return Answer(f"None of {self.family} takes {self.area_mm2:g} mm² with {self.wall} wall.", tables=(table,),
                          grave=True)
        terminal = chosen.terminal
        formula = "I_t * sqrt(min(1, (T_m - T_a) / (T_m - T_t)))"
        figures = [Working(f"It carries, at {self.ambient_c:g} °C", "I", chosen.rated_a, "A", formula, (
            Input("I_t", terminal.table_a(self.area_mm2), "A", f"with this wire, at {RATED_AT_C:g} °C", SOURCE),
            Input("T_m", terminal.most_c, "°C", "what the terminal stands", SOURCE),
            Input("T_a", self.ambient_c, "°C", "air around it", "asked"),
            Input("T_t", RATED_AT_C, "°C", "that its table is for", SOURCE)))] if chosen.rated_a else []
        if (force := pull_n(self.area_mm2)) and terminal.stages:
            figures.append(Working("Has to hold", "F", float(force), "N", "F_t", (
                Input("F_t", float(force), "N", f"one wire of {self.area_mm2:g} mm², or the next larger listed",
                      PULL_SOURCE),)))
        said = f"{terminal.name[:1].upper()}{terminal.name[1:]}: strip {terminal.strip_mm:g} mm."
        return Answer(said, tuple(figures), tuple(self._how(od_mm, chosen)), (table,))

    def _how(self, od_mm: float, chosen: Fit) -> list[str]:
        """What it is crimped in, and what goes over it."""
        terminal = chosen.terminal
        told = [] if terminal.stages else ["It is soldered: no crimp."]
        if nest := dies(terminal, self.area_mm2, od_mm):
            told.append(f"Die: {nest.core_mm:g} mm over the core, {nest.wings_mm:g} mm over the insulation.")
        if terminal.sealed:
            told.append(f"Its seal goes on the wire before it is stripped; it takes {terminal.od_mm[0]:g} to "
                        f"{terminal.od_mm[1]:g} mm, the wire is {od_mm:.1f} mm.")
        shrink, length_mm = shrink_over(terminal, od_mm)
        if shrink:
            told.append(f"Shrink tube {shrink.supplied_mm:g} mm, {length_mm:.0f} mm of it, on the wire first.")
        return told
