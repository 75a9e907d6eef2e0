"""A flasher relay."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..doc.machine import Machine, SystemKind
from ..doc.states import LIVE_STATES
from .asks import LIVE, Ask, name, place
from .base import Glance, Part
from .fed import Fed
from .inside import Branch, ContactRating, Inside
from .terminals import PartTerminal, terminals
from .work import Ends, Wanted, Work

STEPS_A = (5.0, 10.0, 20.0)  # that flashers are usually rated


class Flasher(Fed):
    """What makes indicators flash: lit half of the time. A thermal one is worked by the current of the lamps it is
    made for (`made_for_w`, of one side); a load-sensing one flashes fast when less is on, to tell of a failed lamp; a
    fixed-rate one does not care."""

    kind: Literal["flasher"] = "flasher"
    way: Literal["thermal", "load sensing", "fixed rate"] = "fixed rate"
    made_for_w: Annotated[float, Field(gt=0, le=200)] = 42
    contact_a: Annotated[float, Field(gt=0, le=60)] | None = None
    contact_mohm: Annotated[float, Field(ge=0.1, le=1000)] = 30

    PREFIX: ClassVar[str] = "FL"
    TITLE: ClassVar[str] = "Flasher"
    GROUP: ClassVar[str] = "Flashers"
    ADD_WORDS: ClassVar[str] = "Add a flasher"
    FITS: ClassVar[tuple[SystemKind, ...]] = Part.SYSTEMS
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = terminals("blade 6.3", "in", "out")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        name(), place(), Ask("way", "Works by", kind="choice", choices=(
            ("fixed rate", "electronics, any load"), ("load sensing", "electronics, sensing the lamps"),
            ("thermal", "heat of the lamps' current"))),
        Ask("made_for_w", "Made for, each side"), Ask("feed", "Fed from", "Empty: you add its wires.", kind="choice",
                                                       optional=True),
        Ask("live", "Its feed lives", kind="choice", choices=LIVE),
        Ask("contact_a", "Contact rating", "Empty: Loadstar chooses.", optional=True),
        Ask("contact_mohm", "Contact resistance"))
    FEED_WORDS: ClassVar[str] = "through the flasher"
    SYMBOL: ClassVar[str] = "contact"
    PROBED: ClassVar[str] = "in to out"
    CHOSEN: ClassVar[str] = "contact_a"

    def glance(self, machine: Machine, where: str) -> Glance:
        return (self.way, self.made_for_w, "W")

    def inside(self, machine: Machine) -> Inside:
        """Its contact, closed as while the lamps are lit."""
        contact = Branch(self.element(), self.at("in"), self.at("out"), self.contact_mohm / 1000, "contact",
                         states=LIVE_STATES[self.live], opens=True)
        return Inside(branches=(contact,), elements=(), shorted=())

    @property
    def contact(self) -> ContactRating:
        """Its contact's: lamps come on with it."""
        return ContactRating(self.contact_a, STEPS_A, makes_inrush=True)

    @property
    def fed_at(self) -> tuple[str, None]:
        """Its feed."""
        return "in", None

    def hang(self, work: Work, load: Wanted) -> Ends:
        """Behind its contact."""
        return Ends(self.at("out"), self.back(work))
