"""What tells an e-bike's controller that the brake is pulled."""

from typing import ClassVar, Literal

from ..doc.machine import Machine, SystemKind
from .asks import Ask, name, place
from .base import Glance, Part
from .inside import NOTHING_INSIDE, Inside
from .terminals import OWN_LEAD, PartTerminal, terminals


class Cutoff(Part):
    """A brake lever's switch on a controller's cut-off line: a signal, never power. `works` says what pulling the brake
    does to its contact: several that close lie beside one another, several that open one behind the other."""

    kind: Literal["cutoff"] = "cutoff"
    works: Literal["closes", "opens"] = "closes"

    PREFIX: ClassVar[str] = "BC"
    KEPT_APART: ClassVar[bool] = True
    TITLE: ClassVar[str] = "Brake cut-off switch"
    SHORT: ClassVar[str] = "cut-off"
    GROUP: ClassVar[str] = "Brake cut-off"
    ADD_WORDS: ClassVar[str] = "Add a brake cut-off switch"
    FITS: ClassVar[tuple[SystemKind, ...]] = ("pack",)
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = terminals(OWN_LEAD, "a", "b")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        name(), place(), Ask("works", "Pulling the brake", kind="choice", choices=(
            ("closes", "closes its contact"), ("opens", "opens its contact"))))

    def glance(self, machine: Machine, where: str) -> Glance:
        return (f"{self.works} with the brake", 2.0, "wires")

    def inside(self, machine: Machine) -> Inside:
        """Nothing that power flows through."""
        return NOTHING_INSIDE

    def joins(self, *, pulled: bool) -> bool:
        """Whether its contact is closed."""
        return pulled == (self.works == "closes")
