"""A solenoid contactor."""

from collections.abc import Iterator
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..doc.machine import Machine, SystemKind
from .asks import Ask, name, place
from .base import Glance, Part
from .inside import USUAL_HOLD_SHARE, Actuator, Branch, ContactRating, Inside

STEPS_A = (80.0, 100.0, 150.0, 200.0, 300.0, 400.0)  # ratings, for as long as it is closed, that are usual


class Solenoid(Part):
    """A coil between two terminals and a heavy contact between two others; neither is joined to the other or to its
    bracket.

    `contact_a` is what the contact carries for as long as it is closed (null: Loadstar's choice); `pull_in_v` is at
    20 C; `hold_v` is the least that keeps it closed once it is (null: two fifths of that, usual).
    """

    kind: Literal["solenoid"] = "solenoid"
    contact_a: Annotated[float, Field(gt=0, le=600)] | None = None
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
    TERMINALS: ClassVar[tuple[str, ...]] = ("a", "b", "plus", "minus")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        name(), place(), Ask("contact_a", "Contact, all the time", "Empty: Loadstar chooses.", optional=True),
        Ask("coil_ohm", "Coil"), Ask("pull_in_v", "Pulls in at, 20 °C"),
        Ask("hold_v", "Holds down to", "Empty: two fifths of its pull-in voltage.", optional=True),
        Ask("contact_mohm", "Contact resistance"),
        Ask("suppression", "Across the coil", kind="choice",
            choices=(("none", "nothing"), ("resistor", "resistor"), ("diode", "diode"))))
    SYMBOL: ClassVar[str] = "contact"
    PROBED: ClassVar[str] = "stud to stud"
    CHOSEN: ClassVar[str] = "contact_a"

    @property
    def holds_v(self) -> float:
        """Below this a closed contact opens."""
        return self.hold_v if self.hold_v is not None else USUAL_HOLD_SHARE * self.pull_in_v

    def glance(self, machine: Machine, where: str) -> Glance:
        return ("pulls in at", self.pull_in_v, "V")

    def contradictions(self) -> Iterator[tuple[str, str]]:
        """It cannot need more to hold than to pull in."""
        if self.holds_v > self.pull_in_v:
            yield "hold_v", "A coil holds down to less than it needs to pull in."

    def inside(self, machine: Machine) -> Inside:
        """Its contact, closed while its coil has pulled in, and the coil."""
        contact = Branch(self.element(), self.at("a"), self.at("b"), self.contact_mohm / 1000, "contact",
                         follows=self.id, opens=True)
        coil = Branch(self.element("coil"), self.at("plus"), self.at("minus"), self.coil_ohm, "coil", control=True)
        pull = Actuator(self.at("plus"), self.at("minus"), self.coil_ohm, self.pull_in_v, self.holds_v,
                        self.suppression != "none")
        return Inside(branches=(contact, coil), elements=(), shorted=((self.at("plus"), self.at("minus")),),
                      actuator=pull)

    @property
    def contact(self) -> ContactRating:
        """Its contact's: it is made for what comes on with it."""
        return ContactRating(self.contact_a, STEPS_A, makes_inrush=False)
