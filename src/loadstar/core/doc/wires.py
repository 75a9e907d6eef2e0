"""Wires from terminal to terminal, and terminals that touch without one."""

from typing import Annotated, Literal, get_args

from pydantic import Field

from ..refs import TerminalRef
from .types import AreaMm2, Colour, Doc, Id, InsulationCode

Side = Literal["a", "b"]
SIDES: tuple[Side, ...] = get_args(Side)


class Wire(Doc):
    """A wire between two terminals. Null size or length: Loadstar chooses, or measures along the runs. `way` are the
    runs that it is told to take, from `a` to `b` in turn (none: the shortest way). `voltage_class` is what is printed
    on it, DC; null: what Loadstar orders is of the class that its voltage needs. `origin` says where it is from: bought
    for this work, there already on the machine, or come with a part; and `made` at which ends such a wire is made up
    anew, where it otherwise stays as it is. `carries_a` is what it carries at the most as somebody said, where nothing
    of the plan drives it.
    """

    id: Id
    a: TerminalRef
    b: TerminalRef
    area_mm2: AreaMm2 | None = None
    length_m: Annotated[float, Field(ge=0.02, le=9.9)] | None = None
    way: Annotated[tuple[Id, ...], Field(max_length=40)] = ()
    insulation: InsulationCode | None = None
    wall: Literal["thin", "thick"] = "thin"
    voltage_class: Literal["60 V", "600 V"] | None = None
    colour: Colour = "BK"
    stripe: Colour = ""
    made_for: Id | None = None
    origin: Literal["new", "found", "supplied"] = "new"
    made: Literal["", "a", "b", "ab"] = ""
    carries_a: Annotated[float, Field(ge=0, le=500)] | None = None

    @property
    def colours(self) -> str:
        """Its colour, with its stripe: "OG/WH"."""
        return f"{self.colour}/{self.stripe}" if self.stripe else self.colour

    def end(self, side: Side) -> TerminalRef:
        """One of its ends."""
        return self.a if side == "a" else self.b

    def also_made(self, side: Side) -> str:
        """At which ends it is made up anew where this one is too; nothing to say of a new wire."""
        return self.made if self.origin == "new" else "".join(s for s in SIDES if s in self.made or s == side)

    def keeps(self, side: Side) -> bool:
        """Whether it stays as it is at an end: nothing is bought, cut or crimped there."""
        return self.origin != "new" and side not in self.made


class Join(Doc):
    """Two terminals that touch: a fuse plugged into its block."""

    a: TerminalRef
    b: TerminalRef
