"""The drive of an e-bike."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..doc.machine import Machine, SystemKind
from ..doc.states import States
from ..physics import elements as net
from .asks import Ask, name, place
from .base import Glance, Part
from .inside import RAIL_NEGATIVE, RAIL_POSITIVE, Inside
from .own import FLOOR_SHARE
from .terminals import PartTerminal, terminals


class Drive(Part):
    """The drive of an e-bike: its controller's input limit and the power it takes in each state."""

    kind: Literal["drive"] = "drive"
    assist_w: Annotated[float, Field(ge=0, le=20000)] = 150
    full_w: Annotated[float, Field(ge=0, le=20000)] = 500
    idle_w: Annotated[float, Field(ge=0, le=50)] = 1.5
    limit_a: Annotated[float, Field(ge=1, le=400)] = 20
    cut_off_v: Annotated[float, Field(ge=0, le=100)] = 0
    needs_data: bool = False

    PREFIX: ClassVar[str] = "D"
    TITLE: ClassVar[str] = "Drive"
    GROUP: ClassVar[str] = "Drive"
    ADD_WORDS: ClassVar[str] = "Enter the drive"
    FITS: ClassVar[tuple[SystemKind, ...]] = ("pack",)
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = terminals("high current", "pos", "neg")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        name(), place(), Ask("assist_w", "Takes in assist"), Ask("full_w", "At full power"),
        Ask("idle_w", "Switched on, idle"),
        Ask("limit_a", "Controller's current limit"),
        Ask("cut_off_v", "Cuts out below", "0 if the pack alone decides."),
        Ask("needs_data", "Needs the pack's data line", kind="yes"))
    MOST: ClassVar[int] = 1
    POLES: ClassVar[tuple[str, ...]] = ("pos", "neg")
    MAIN_WORDS: ClassVar[str] = "Traction"
    WRONG_WAY: ClassVar[str] = "Its controller is destroyed."
    SYSTEMS: ClassVar[tuple[SystemKind, ...]] = ("pack",)

    def glance(self, machine: Machine, where: str) -> Glance:
        return ("full power", self.full_w, "W")

    def inside(self, machine: Machine) -> Inside:
        """A constant power up to the controller's current limit; on the rail, where its leads are not drawn."""
        load = net.Load(self.id, self.at("pos"), self.at("neg"), net.CONSTANT_POWER, 1.0,
                        FLOOR_SHARE * machine.system_v,
                        limit_a=self.limit_a)
        return Inside(branches=(), elements=(load,), shorted=(),
                      on_rail=((self.at("pos"), RAIL_POSITIVE), (self.at("neg"), RAIL_NEGATIVE)))

    def watts_in(self, state: States) -> float:
        """Watts that the rider asks of it in a state; its controller lets no more through than its current limit."""
        return {"on": self.idle_w, "assist": self.assist_w, "full": self.full_w}.get(state, 0.0)

    def takes(self, state: States, machine: Machine) -> float:
        """What the rider asks of it."""
        return self.watts_in(state)

    def own_w(self, state: States, at_v: float) -> float | None:
        """What the rider asks of it, as far as its controller lets it have that."""
        return min(self.watts_in(state), self.limit_a * at_v) if self.watts_in(state) > 0 else None
