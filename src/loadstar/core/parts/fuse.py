"""A blade fuse."""

from typing import Any, ClassVar, Literal

from ..doc.machine import Machine
from ..doc.types import BladeRating
from ..materials import fuses
from ..materials.terminals import Family
from .asks import Ask, whole
from .base import Part
from .inside import Branch, Inside, Protection
from .terminals import PartTerminal, terminals

BREAKS_V = (32, 58, 80, 125)


class FusePart(Part):
    """A blade fuse in its holder; `rating_a` null leaves the rating to Loadstar. `volts_v` is what it may break.
    One that is `supplied` sits in the lead that an accessory came with."""

    kind: Literal["fuse"] = "fuse"
    rating_a: BladeRating | None = None
    volts_v: Literal[32, 58, 80, 125] = 32
    supplied: bool = False

    PREFIX: ClassVar[str] = "F"
    ENDS_PLUGGED: ClassVar[Family | None] = "blade 6.3"
    TITLE: ClassVar[str] = "Fuse"
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = terminals("fuse holder", "a", "b")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        Ask("rating_a", "Rating", kind="choice", optional=True, choices=(
            ("", "left to Loadstar"), *((f"{a:g}", f"{a:g} A") for a in fuses.RATINGS_A))),
        whole("volts_v", "May break", BREAKS_V, "{} V"))
    ADDED: ClassVar[bool] = False
    SYMBOL: ClassVar[str] = "fuse"
    PROBED: ClassVar[str] = "test points"
    CHOSEN: ClassVar[str] = "rating_a"
    BRIDGED: ClassVar[bool] = True
    SITS: ClassVar[str] = "feed"

    def inside(self, machine: Machine) -> Inside:
        """Its wire, warm, in its holder."""
        wire = Branch(self.element(), self.at("a"), self.at("b"), None, "fuse, warm, in its holder", fuses.SOURCE,
                      divides=True)
        return Inside(branches=(wire,), elements=(), shorted=())

    @property
    def is_high(self) -> bool:
        """Whether it is of a type above the usual, so that another must not be put in its place."""
        return self.volts_v > BREAKS_V[0]

    @property
    def protection(self) -> Protection:
        """It opens."""
        return Protection("fuse", self.rating_a, fuses.RATINGS_A)

    def after_remaking(self, made: Part) -> dict[str, Any]:
        """It may have to break more than before."""
        return {**super().after_remaking(made), "volts_v": max(self.volts_v, getattr(made, "volts_v", 0))}
