"""A switch."""

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from ..doc.machine import Machine
from ..doc.states import STATES, States
from .asks import BREAKS, Ask, name, place
from .base import Part
from .inside import Branch, ContactRating, Inside
from .terminals import OWN_LEAD, PartTerminal, terminals

STEPS_A = (10.0, 16.0, 20.0, 30.0, 50.0, 75.0, 100.0)  # resistive ratings that are usual on a small machine


class Switch(Part):
    """A switch in one conductor, closed in the states named. `contact_a` null leaves the contact's rating to
    Loadstar."""

    kind: Literal["switch"] = "switch"
    closed_in: tuple[States, ...] = STATES
    contact_a: Annotated[float, Field(gt=0, le=200)] | None = None
    breaks_v: Annotated[float, Field(ge=1, le=1000)] | None = None
    contact_mohm: Annotated[float, Field(ge=0.1, le=1000)] = 10

    PREFIX: ClassVar[str] = "S"
    TITLE: ClassVar[str] = "Switch"
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = terminals(OWN_LEAD, "a", "b")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        name(), place(), Ask("contact_a", "Contact rating", "Empty: Loadstar chooses.", optional=True), BREAKS,
        Ask("contact_mohm", "Contact resistance"))
    ADDED: ClassVar[bool] = False
    SYMBOL: ClassVar[str] = "contact"
    PROBED: ClassVar[str] = "contact"
    CHOSEN: ClassVar[str] = "contact_a"
    BRIDGED: ClassVar[bool] = True
    SITS: ClassVar[str] = "load"

    def inside(self, machine: Machine) -> Inside:
        """Its contact."""
        contact = Branch(self.element(), self.at("a"), self.at("b"), self.contact_mohm / 1000, "contact",
                         states=self.closed_in, opens=True)
        return Inside(branches=(contact,), elements=(), shorted=())

    @property
    def contact(self) -> ContactRating:
        """Its contact's: what it feeds comes on with it."""
        return ContactRating(self.contact_a, STEPS_A, makes_inrush=True, breaks_v=self.breaks_v)

    def after_remaking(self, made: Part) -> dict[str, Any]:
        """When it is closed."""
        assert isinstance(made, Switch)
        return {**super().after_remaking(made), "closed_in": made.closed_in}
