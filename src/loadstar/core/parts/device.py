"""An end of data lines."""

import re
from collections.abc import Iterator
from functools import cached_property
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..doc.machine import Machine, SystemKind
from ..doc.types import ONE_LINE
from .asks import Ask, name, place
from .base import Glance, Part
from .inside import NOTHING_INSIDE, Inside
from .terminals import PartTerminal

MOST_LINES, MOST_LETTERS = 24, 8
_LINE = re.compile(rf"^[a-z0-9]{{1,{MOST_LETTERS}}}$")


class Device(Part):
    """What data lines end at: a pack, a controller, a display. `lines` names them ("rx, tx, gnd"); every one has to be
    carried to its like. They carry no current worth counting, and are never joined to a supply."""

    kind: Literal["device"] = "device"
    lines: Annotated[str, Field(min_length=1, max_length=240), ONE_LINE] = "rx, tx"

    PREFIX: ClassVar[str] = "DV"
    TITLE: ClassVar[str] = "End of data lines"
    GROUP: ClassVar[str] = "Data lines"
    ADD_WORDS: ClassVar[str] = "Add an end of data lines"
    FITS: ClassVar[tuple[SystemKind, ...]] = ("pack",)
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = ()
    ASKS: ClassVar[tuple[Ask, ...]] = (name(), place(), Ask("lines", "Its lines", "Their names: rx, tx", kind="text"))

    @cached_property
    def ends(self) -> tuple[str, ...]:
        """Its lines."""
        return tuple(dict.fromkeys(p.strip().lower() for p in self.lines.split(",") if p.strip()))

    def contradictions(self) -> Iterator[tuple[str, str]]:
        """Names that can be told apart."""
        if wrong := next((end for end in self.ends if not _LINE.match(end)), None):
            yield "lines", f"“{wrong}” cannot be the name of a line: letters and digits, up to {MOST_LETTERS}."
        if not 1 <= len(self.ends) <= MOST_LINES:
            yield "lines", f"1 to {MOST_LINES} lines; these are {len(self.ends)}."

    def glance(self, machine: Machine, where: str) -> Glance:
        return ("lines", float(len(self.ends)), "")

    def inside(self, machine: Machine) -> Inside:
        """Nothing that power flows through."""
        return NOTHING_INSIDE
