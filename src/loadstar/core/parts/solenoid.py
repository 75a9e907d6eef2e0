"""A solenoid contactor."""

from collections.abc import Iterator
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..doc.machine import Machine, SystemKind
from .asks import BREAKS, Ask, name, place
from .base import Glance, Part
from .contactor import COIL_ASKS, holds_v, worked
from .inside import ContactRating, Inside
from .terminals import PartTerminal, terminals

STEPS_A = (80.0, 100.0, 150.0, 200.0, 300.0, 400.0)  # ratings, for as long as it is closed, that are usual


class Solenoid(Part):
    """A coil between two terminals and a heavy contact between two others; neither is joined to the other or to its
    bracket.

    `contact_a` is what the contact carries for as long as it is closed (null: Loadstar's choice); `pull_in_v` is at
    20 C; `hold_v` is the least that keeps it closed once it is (null: two fifths of that, usual).
    """

    kind: Literal["solenoid"] = "solenoid"
    contact_a: Annotated[float, Field(gt=0, le=600)] | None = None
    breaks_v: Annotated[float, Field(ge=1, le=1000)] | None = None
    contact_mohm: Annotated[float, Field(ge=0.01, le=100)] = 0.5
    coil_ohm: Annotated[float, Field(ge=1, le=2000)] = 15
    pull_in_v: Annotated[float, Field(ge=1, le=100)] = 8.0
    hold_v: Annotated[float, Field(ge=0.1, le=100)] | None = None
    suppression: Literal["none", "diode", "resistor"] = "none"

    PREFIX: ClassVar[str] = "SD"
    TITLE: ClassVar[str] = "Solenoid"
    GROUP: ClassVar[str] = "Solenoids"
    ADD_WORDS: ClassVar[str] = "Add a solenoid"
    FITS: ClassVar[tuple[SystemKind, ...]] = ("battery", "total_loss", "ignition_only", "pack")
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = (
        *terminals("ring M8", "a", "b"), *terminals("blade 6.3", "plus", "minus"))
    ASKS: ClassVar[tuple[Ask, ...]] = (
        name(), place(), Ask("contact_a", "Contact, all the time", "Empty: Loadstar chooses.", optional=True), BREAKS,
        *COIL_ASKS)
    SYMBOL: ClassVar[str] = "contact"
    PROBED: ClassVar[str] = "stud to stud"
    CHOSEN: ClassVar[str] = "contact_a"

    def glance(self, machine: Machine, where: str) -> Glance:
        return ("pulls in at", self.pull_in_v, "V")

    def contradictions(self) -> Iterator[tuple[str, str]]:
        """It cannot need more to hold than to pull in."""
        if holds_v(self) > self.pull_in_v:
            yield "hold_v", "A coil holds down to less than it needs to pull in."

    def inside(self, machine: Machine) -> Inside:
        """Its contact, closed while its coil has pulled in, and the coil."""
        return worked(self, contact=("a", "b"), coil=("plus", "minus"))

    @property
    def contact(self) -> ContactRating:
        """Its contact's: it is made for what comes on with it."""
        return ContactRating(self.contact_a, STEPS_A, makes_inrush=False, breaks_v=self.breaks_v)
