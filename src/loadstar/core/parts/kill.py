"""An engine's kill wire."""

from typing import ClassVar, Literal

from ..doc.machine import Machine, SystemKind
from .asks import Ask, name, place
from .base import Glance, Part
from .inside import Inside, Point
from .terminals import PartTerminal, terminals


class KillWire(Part):
    """An engine's kill wire: it stops the engine by being grounded and is never to be fed."""

    kind: Literal["kill"] = "kill"

    PREFIX: ClassVar[str] = "KW"
    TITLE: ClassVar[str] = "Kill wire"
    GROUP: ClassVar[str] = "Kill wire"
    ADD_WORDS: ClassVar[str] = "Add the kill wire"
    FITS: ClassVar[tuple[SystemKind, ...]] = ("battery", "total_loss", "magneto", "ignition_only")
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = terminals("bullet 3.9", "t")
    ASKS: ClassVar[tuple[Ask, ...]] = (name(), place())

    def glance(self, machine: Machine, where: str) -> Glance:
        return (where, 0.0, "")

    def inside(self, machine: Machine) -> Inside:
        """Nothing that is known: it leads into the ignition."""
        return Inside(branches=(), elements=(), shorted=(),
                      points=(Point(self.at("t"), "kill", f"{self.name}: grounded to stop the engine"),))
