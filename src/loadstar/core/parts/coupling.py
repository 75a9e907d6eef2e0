"""A connector in the middle of a harness."""

import math
from functools import cached_property
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..doc.machine import Machine, SystemKind
from .asks import Ask, name, place, whole
from .base import Glance, Part
from .inside import Branch, Cavity, Inside
from .terminals import PartTerminal

MOST_WAYS = 24
ONE_ROW = 4  # up to so many ways stand in one row, more in two
KEYINGS = ("", "A", "B", "C", "D")


class Coupling(Part):
    """A mated pair of several ways: wires come to "a1" and go on from "b1", and so on. `rated_a` is what each contact
    carries, `contact_mohm` its resistance, `offset_mm` how far along the harness from its place it sits, `mouth` where
    the open side of its housing faces, as it hangs, `keying` which of the maker's forms it has, `tabs` which side has
    the tabs ("": not said)."""

    kind: Literal["coupling"] = "coupling"
    ways: Annotated[int, Field(ge=1, le=MOST_WAYS)] = 2
    rated_a: Annotated[float, Field(gt=0, le=200)] = 10
    contact_mohm: Annotated[float, Field(ge=0.1, le=200)] = 5
    offset_mm: Annotated[float, Field(ge=0, le=500)] = 0
    mouth: Literal["", "up", "level", "down"] = ""
    keying: Literal["", "A", "B", "C", "D"] = ""
    tabs: Literal["", "a", "b"] = ""

    PREFIX: ClassVar[str] = "CN"
    MATED: ClassVar[bool] = True
    HELD_BY: ClassVar[str] = "connector"
    TITLE: ClassVar[str] = "Connector in the harness"
    SHORT: ClassVar[str] = "connector"
    GROUP: ClassVar[str] = "Connectors in the harness"
    ADD_WORDS: ClassVar[str] = "Add a connector"
    FITS: ClassVar[tuple[SystemKind, ...]] = Part.SYSTEMS
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = ()
    ASKS: ClassVar[tuple[Ask, ...]] = (
        name(), place(), whole("ways", "Ways", range(1, MOST_WAYS + 1)), Ask("rated_a", "Each contact carries"),
        Ask("contact_mohm", "Each contact"), Ask("offset_mm", "Off its place by", "Several in one sleeve sit apart."),
        Ask("mouth", "Its mouth faces", kind="choice", optional=True,
            choices=(("", "not said"), ("down", "down"), ("level", "level"), ("up", "up"))),
        Ask("keying", "Keying", kind="choice", optional=True,
            choices=(("", "not said"), *((k, k) for k in KEYINGS[1:]))),
        Ask("tabs", "Its tabs are on", kind="choice", optional=True, choices=(
            ("", "not said"), ("a", "side a"), ("b", "side b"))))
    SYMBOL: ClassVar[str] = "plug"
    PROBED: ClassVar[str] = "one side to the other"

    @property
    def along_mm(self) -> float | None:
        """As stated."""
        return self.offset_mm

    def cavity(self, terminal: str) -> Cavity:
        """One of its ways, on one of its sides."""
        return Cavity(terminal[0], terminal[1:])

    @property
    def along(self) -> bool:
        """In the middle of a harness."""
        return True

    @property
    def each_contact_a(self) -> float:
        """As stated."""
        return self.rated_a

    @cached_property
    def ends(self) -> tuple[str, ...]:
        """Both sides of every way."""
        return tuple(f"{side}{way}" for way in range(1, self.ways + 1) for side in "ab")

    @property
    def rows(self) -> int:
        """How many rows its ways stand in."""
        return 1 if self.ways <= ONE_ROW else 2

    def beside(self, way: int) -> set[int]:
        """The ways next to one: along its row, and over or under it; numbered row by row."""
        columns = math.ceil(self.ways / self.rows)
        column, row = (way - 1) % columns, (way - 1) // columns
        near = ((column - 1, row), (column + 1, row), (column, row - 1), (column, row + 1))
        return {r * columns + c + 1 for c, r in near if 0 <= c < columns and 0 <= r < self.rows
                and r * columns + c + 1 <= self.ways}

    def glance(self, machine: Machine, where: str) -> Glance:
        return ("ways", float(self.ways), "")

    def inside(self, machine: Machine) -> Inside:
        """A contact in each way."""
        return Inside(elements=(), shorted=(), branches=tuple(
            Branch(self.element(f"w{way}"), self.at(f"a{way}"), self.at(f"b{way}"), self.contact_mohm / 1000,
                   "contact of a connector") for way in range(1, self.ways + 1)))
