"""The starter motor."""

from typing import ClassVar, Literal

from ..doc.machine import Machine, SystemKind
from ..doc.states import States
from ..physics import elements as net
from .asks import Ask, name, place
from .base import Glance, Part
from .inside import Inside
from .terminals import PartTerminal, terminals
from .work import MAIN_COLOUR, RETURN_COLOUR, Work

FLOOR_V = 1.0  # below which it is a resistance


class Starter(Part):
    """The starter motor at the end of its leads: it draws the machine's cranking current."""

    kind: Literal["starter"] = "starter"

    PREFIX: ClassVar[str] = "ST"
    TITLE: ClassVar[str] = "Starter"
    GROUP: ClassVar[str] = "Starter"
    ADD_WORDS: ClassVar[str] = "Add the starter"
    FITS: ClassVar[tuple[SystemKind, ...]] = ("battery", "total_loss", "ignition_only")
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = terminals("ring M8", "pos", "neg")
    ASKS: ClassVar[tuple[Ask, ...]] = (name(), place())
    MOST: ClassVar[int] = 1
    MAIN_WORDS: ClassVar[str] = "Starting"

    def glance(self, machine: Machine, where: str) -> Glance:
        return ("cranking", machine.cranking_a, "A")

    def inside(self, machine: Machine) -> Inside:
        """A constant current while cranking. Its leads carry more than any fuse: a short there is the machine's own."""
        motor = net.Load(self.id, self.at("pos"), self.at("neg"), net.CONSTANT_CURRENT, 0.0, FLOOR_V)
        return Inside(branches=(), elements=(motor,), shorted=())

    def takes(self, state: States, machine: Machine) -> float:
        """The cranking current, while cranking."""
        return machine.cranking_a if state == "cranking" else 0.0

    def arrive(self, work: Work) -> None:
        """Its two leads from the battery."""
        work.wire(work.rail.live, self.at("pos"), MAIN_COLOUR, self.id)
        work.wire(self.at("neg"), work.rail.back, RETURN_COLOUR, self.id)
