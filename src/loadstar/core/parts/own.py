"""What the machine itself uses."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..doc.machine import Machine, SystemKind
from ..doc.states import LIVE_STATES, Feeding, States
from ..physics import elements as net
from .asks import LIVE, Ask, name, place
from .base import Glance, Part
from .inside import RAIL_NEGATIVE, RAIL_POSITIVE, Inside
from .terminals import OWN_LEAD, PartTerminal, terminals

FLOOR_SHARE = 0.5  # of the machine's nominal voltage: below it the machine's own consumers count as resistances


class OwnLoad(Part):
    """What the machine itself uses (ignition, pump, lamps): constant power at the battery posts.

    `usual` says which figure of the machine's size class it began with.
    """

    kind: Literal["own"] = "own"
    power_w: Annotated[float, Field(ge=0, le=2000)]
    live: Feeding = "engine"
    low_v: Annotated[float, Field(ge=0, le=16)] = 0
    usual: Literal["", "engine", "lamps", "standing"] = ""

    PREFIX: ClassVar[str] = "M"
    TITLE: ClassVar[str] = "Own consumption"
    GROUP: ClassVar[str] = "The machine's own use"
    ADD_WORDS: ClassVar[str] = "Add own use"
    FITS: ClassVar[tuple[SystemKind, ...]] = ("battery", "total_loss", "ignition_only")
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = terminals(OWN_LEAD, "pos", "neg")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        name("What it is"), place("Where it is"), Ask("power_w", "Power"),
        Ask("live", "Uses power", kind="choice", choices=LIVE),
        Ask("low_v", "Works down to", "0 if it does not matter."))

    @property
    def own_figure(self) -> str:
        """What it draws."""
        return "power_w"

    def glance(self, machine: Machine, where: str) -> Glance:
        return ("", self.power_w, "W")

    def inside(self, machine: Machine) -> Inside:
        """A constant power; at the posts, where the machine's own wiring is not drawn. That wiring's shorts are the
        machine's own."""
        load = net.Load(self.id, self.at("pos"), self.at("neg"), net.CONSTANT_POWER, 1.0,
                        FLOOR_SHARE * machine.system_v)
        return Inside(branches=(), elements=(load,), shorted=(),
                      on_rail=((self.at("pos"), RAIL_POSITIVE), (self.at("neg"), RAIL_NEGATIVE)))

    def takes(self, state: States, machine: Machine) -> float:
        """Its power, while it lives."""
        return self.power_w if state in LIVE_STATES[self.live] else 0.0

    def own_w(self, state: States, at_v: float) -> float | None:
        """Its power, while it lives."""
        return self.power_w if state in LIVE_STATES[self.live] else None

    @property
    def standing_draw(self) -> tuple[float, str] | None:
        """Its power, if it always lives."""
        return (self.power_w, self.name) if self.live == "always" else None
