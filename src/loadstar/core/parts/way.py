"""One way of a distribution module."""

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from ..doc.machine import Machine
from ..doc.states import LIVE_STATES, Feeding
from .asks import Ask
from .base import Part
from .inside import Branch, Inside, Protection
from .terminals import OWN_LEAD, PartTerminal, terminals

STEPS_A = (1.0, 2.0, 3.0, 4.0, 5.0, 7.5, 10.0, 12.5, 15.0, 20.0, 25.0, 30.0)  # settings


class Way(Part):
    """One way of a distribution module: switches by its module's inputs, limits at `limit_a` (null: Loadstar's). It may
    come on and go off some seconds later, rise slowly (`soft_start_ms`), and go off below `cut_below_v` at its input
    (0: never)."""

    kind: Literal["way"] = "way"
    live: Feeding = "key"
    limit_a: Annotated[float, Field(ge=1, le=60)] | None = None
    on_delay_s: Annotated[float, Field(ge=0, le=600)] = 0
    off_delay_s: Annotated[float, Field(ge=0, le=3600)] = 0
    soft_start_ms: Annotated[float, Field(ge=0, le=5000)] = 0
    cut_below_v: Annotated[float, Field(ge=0, le=60)] = 0
    contact_mohm: Annotated[float, Field(ge=0.1, le=100)] = 8

    PREFIX: ClassVar[str] = "Y"
    TITLE: ClassVar[str] = "Module way"
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = (*terminals(OWN_LEAD, "a"), *terminals("sealed 2.8", "b"))
    PROBED: ClassVar[str] = "in to out"
    ASKS: ClassVar[tuple[Ask, ...]] = (
        Ask("limit_a", "Limit; empty is left to Loadstar", optional=True), Ask("on_delay_s", "Comes on after"),
        Ask("off_delay_s", "Goes off after"), Ask("soft_start_ms", "Rises within", "0: at once."),
        Ask("cut_below_v", "Goes off below", "0: never."))
    ADDED: ClassVar[bool] = False
    CHOSEN: ClassVar[str] = "limit_a"
    SITS: ClassVar[str] = "feed"

    def inside(self, machine: Machine) -> Inside:
        """Its transistor, on while it is to live."""
        gate = Branch(self.element(), self.at("a"), self.at("b"), self.contact_mohm / 1000, "contact",
                      states=LIVE_STATES[self.live], opens=True)
        return Inside(branches=(gate,), elements=(), shorted=())

    @property
    def protection(self) -> Protection:
        """It switches off."""
        return Protection("electronic", self.limit_a, STEPS_A)

    def after_remaking(self, made: Part) -> dict[str, Any]:
        """When it lives, and the resistance of the module that it is on now."""
        assert isinstance(made, Way)
        return {**super().after_remaking(made), "live": made.live, "contact_mohm": made.contact_mohm}
