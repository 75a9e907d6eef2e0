"""Wires from terminal to terminal, and terminals that touch without one."""

from typing import Annotated, Literal

from pydantic import Field

from ..refs import TerminalRef
from .types import AreaMm2, Colour, Doc, Id, InsulationCode


class Wire(Doc):
    """A wire between two terminals. Null size or length: Loadstar chooses, or measures along the runs. `way` are the
    runs that it is told to take, from `a` to `b` in turn (none: the shortest way). `voltage_class` is what is printed
    on it, DC; null: what Loadstar orders is of the class that its voltage needs."""

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


class Join(Doc):
    """Two terminals that touch: a fuse plugged into its block."""

    a: TerminalRef
    b: TerminalRef
