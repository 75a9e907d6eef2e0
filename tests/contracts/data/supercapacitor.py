"""A bank of supercapacitors beside the battery, for the start: the kind that a test adds to a copy of the core."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..doc.machine import Machine, SystemKind
from ..doc.states import States
from ..physics import elements as net
from .asks import Ask, name, place
from .base import Glance, Part
from .inside import Drives, Inside, Point
from .terminals import PartTerminal, terminals
from .work import MAIN_COLOUR, RETURN_COLOUR, Work

FULL_V = 14.4  # what a regulator charges it to
AT_REST = Drives(0.0, 1.0, 0.0)  # neither gives nor takes


class Supercapacitor(Part):
    """A bank that is charged by the rail and gives it back to the starter.

    While the starter turns it is a voltage behind its resistance, as a turn begins. At rest it is as full as the rail
    and carries nothing but its leak. Into a short it drives what its resistance lets through, for less time than opens
    a fuse: what opens for certain is judged without it, what burns with it.
    """

    kind: Literal["supercapacitor"] = "supercapacitor"
    capacity_f: Annotated[float, Field(ge=1, le=5000)] = 80
    esr_mohm: Annotated[float, Field(ge=0.1, le=100)] = 6
    charged_v: Annotated[float, Field(ge=5, le=16)] = 12.6
    leak_ma: Annotated[float, Field(ge=0, le=200)] = 5

    PREFIX: ClassVar[str] = "UC"
    CONSUMES: ClassVar[bool] = True
    TITLE: ClassVar[str] = "Supercapacitors"
    SHORT: ClassVar[str] = "capacitor"
    GROUP: ClassVar[str] = "Supercapacitors"
    ADD_WORDS: ClassVar[str] = "Add supercapacitors"
    FITS: ClassVar[tuple[SystemKind, ...]] = ("battery",)
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = terminals("ring M6", "pos", "neg")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        name(), place(), Ask("capacity_f", "Capacity of the bank", "Six of 350 F in series: 58 F.", unit="F"),
        Ask("esr_mohm", "Resistance of the bank"), Ask("charged_v", "Charged to, engine off"),
        Ask("leak_ma", "Leaks, balancing included"))
    MOST: ClassVar[int] = 1
    STORES: ClassVar[bool] = True
    POLES: ClassVar[tuple[str, ...]] = ("pos", "neg")
    WRONG_WAY: ClassVar[str] = "It drives a short through the battery, and is destroyed by it."

    @property
    def standing_draw(self) -> tuple[float, str] | None:
        return (self.leak_ma / 1000 * self.charged_v, "leak of the capacitors") if self.leak_ma else None

    def glance(self, machine: Machine, where: str) -> Glance:
        return (where, self.capacity_f, "F")

    def inside(self, machine: Machine) -> Inside:
        """A voltage behind its resistance."""
        return Inside(
            branches=(), shorted=(),
            elements=(net.Source(self.id, self.at("pos"), self.at("neg"), 0.0, 1.0),),
            points=(Point(self.at("neg"), "negative", f"{self.name}, negative"),
                    Point(self.at("pos"), "positive", f"{self.name}, positive")))

    def drives(self, state: States, machine: Machine, *, empty: bool) -> Drives:
        """What it gives as a turn of the starter begins; else nothing."""
        return Drives(1.0, -self.esr_mohm / 1000, self.charged_v) if state == "cranking" else AT_REST

    def drives_fault(self, machine: Machine, *, strong: bool, alone: bool) -> Drives:
        """Full, behind its resistance; where the least counts, nothing: it is empty before a fuse opens."""
        return Drives(1.0, -self.esr_mohm / 1000, FULL_V) if strong else AT_REST

    def arrive(self, work: Work) -> None:
        """Its leads to the battery, with a fuse at either end: both feed a short between them."""
        rail = work.rail
        first = work.fuse(f"{self.name} fuse at the battery", rail.place, self.id)
        second = work.fuse(f"{self.name} fuse", self.place, self.id)
        work.wire(rail.live, first.at("a"), MAIN_COLOUR, self.id)
        work.wire(first.at("b"), second.at("a"), MAIN_COLOUR, self.id)
        work.wire(second.at("b"), self.at("pos"), MAIN_COLOUR, self.id)
        work.wire(self.at("neg"), rail.back, RETURN_COLOUR, self.id)
