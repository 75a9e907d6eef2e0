"""A relay."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..doc.machine import Machine
from .asks import BREAKS, Ask, name, place
from .base import Part
from .contactor import COIL_ASKS, worked
from .inside import ContactRating, Inside
from .terminals import PartTerminal, terminals

STEPS_A = (40.0, 70.0, 100.0, 150.0, 200.0)  # resistive ratings that are usual on a small machine


class Relay(Part):
    """A changeover relay of the ISO 7588 kind, used normally open.

    `contact_a` is the contact's resistive rating (null: Loadstar's choice); `pull_in_v` is at 20 C; `hold_v` is the
    least that keeps it closed once it is (null: two fifths of that, usual). One that is `built_in` comes with its
    block.
    """

    kind: Literal["relay"] = "relay"
    contact_a: Annotated[float, Field(gt=0, le=200)] | None = None
    breaks_v: Annotated[float, Field(ge=1, le=1000)] | None = None
    contact_mohm: Annotated[float, Field(ge=0.1, le=100)] = 3
    coil_ohm: Annotated[float, Field(ge=10, le=5000)] = 90
    pull_in_v: Annotated[float, Field(ge=1, le=72)] = 8.0
    hold_v: Annotated[float, Field(ge=0.1, le=72)] | None = None
    built_in: bool = False
    suppression: Literal["none", "diode", "resistor"] = "resistor"

    PREFIX: ClassVar[str] = "K"
    MOVABLE: ClassVar[bool] = True
    TITLE: ClassVar[str] = "Relay"
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = terminals("blade 6.3", "30", "87", "85", "86")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        name(), place(), Ask("contact_a", "Contact, resistive", "Empty: Loadstar chooses.", optional=True), BREAKS,
        *COIL_ASKS)
    ADDED: ClassVar[bool] = False
    SYMBOL: ClassVar[str] = "contact"
    PROBED: ClassVar[str] = "30 to 87"
    CHOSEN: ClassVar[str] = "contact_a"
    SITS: ClassVar[str] = "feed"

    def inside(self, machine: Machine) -> Inside:
        """Its contact, closed while its coil has pulled in, and the coil."""
        return worked(self, contact=("30", "87"), coil=("86", "85"))

    @property
    def contact(self) -> ContactRating:
        """Its contact's: it is closed before what it feeds comes on, or with it."""
        return ContactRating(self.contact_a, STEPS_A, makes_inrush=False, breaks_v=self.breaks_v)
