"""A fuse in its holder."""

from collections.abc import Iterator
from functools import lru_cache
from typing import Annotated, Any, ClassVar, Literal

from pydantic import AfterValidator

from ..doc.machine import Machine
from ..doc.types import FuseRating
from ..materials import fuses
from ..materials.fuses import EVERY_VOLTS, KINDS, Pattern
from ..materials.terminals import Family
from .asks import PATTERNS, Ask, whole
from .base import Part
from .inside import Branch, Inside, Protection
from .terminals import PartTerminal, terminals


def _listed(volts: int) -> int:
    if volts not in EVERY_VOLTS:
        raise ValueError(f"must be one of {', '.join(str(v) for v in EVERY_VOLTS)}")
    return volts


class FusePart(Part):
    """A fuse in its holder: which kind (`pattern`), its rating (null: left to Loadstar), and the volts that it may
    break. One that is `supplied` is there: the machine's own, or in the lead that an accessory came with."""

    kind: Literal["fuse"] = "fuse"
    pattern: Pattern = "blade"
    rating_a: FuseRating | None = None
    volts_v: Annotated[int, AfterValidator(_listed)] = fuses.USUAL_V
    supplied: bool = False

    PREFIX: ClassVar[str] = "F"
    ENDS_PLUGGED: ClassVar[Family | None] = "blade 6.3"
    TITLE: ClassVar[str] = "Fuse"
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = terminals("fuse holder", "a", "b")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        Ask("pattern", "Kind", kind="choice", choices=PATTERNS),
        Ask("rating_a", "Rating", kind="choice", optional=True, choices=(
            ("", "left to Loadstar"), *((f"{a:g}", f"{a:g} A") for a in fuses.EVERY_RATING_A))),
        whole("volts_v", "Rated voltage", EVERY_VOLTS, "{} V"))
    ADDED: ClassVar[bool] = False
    SYMBOL: ClassVar[str] = "fuse"
    PROBED: ClassVar[str] = "test points"
    CHOSEN: ClassVar[str] = "rating_a"
    BRIDGED: ClassVar[bool] = True
    SITS: ClassVar[str] = "feed"

    @property
    def of_kind(self) -> fuses.FuseKind:
        """What is known of its kind."""
        return KINDS[self.pattern]

    def contradictions(self) -> Iterator[tuple[str, str]]:
        """A kind comes in its own ratings and for its own volts."""
        kind = self.of_kind
        if self.rating_a is not None and self.rating_a not in kind.by_rating:
            yield "rating_a", f"A {kind.words} comes with {', '.join(f'{a:g}' for a in kind.ratings_a)} A."
        if self.volts_v not in kind.volts:
            yield "volts_v", f"A {kind.words} comes for {' or '.join(f'{v}' for v in kind.volts)} V."

    def family(self, terminal: str, leads: Family) -> Family | None:
        """What its kind's holder takes."""
        return self.termination or self.of_kind.family

    def words(self, rating_a: float, *, colour: bool = False) -> str:
        """As it is bought, with a rating: the same on every page and paper."""
        return fuses.words(self.pattern, rating_a, self.volts_v, colour=colour)

    def inside(self, machine: Machine) -> Inside:
        """Its wire, warm, in its holder."""
        wire = Branch(self.element(), self.at("a"), self.at("b"), None, "fuse, warm, in its holder",
                      self.of_kind.source, divides=True)
        return Inside(branches=(wire,), elements=(), shorted=())

    @property
    def is_high(self) -> bool:
        """Whether it is for more volts than usual, so that another must not be put in its place."""
        return self.volts_v > fuses.USUAL_V

    @property
    def protection(self) -> Protection:
        """It opens."""
        return _protects(self.pattern, self.rating_a)

    def after_remaking(self, made: Part) -> dict[str, Any]:
        """It may have to break more than before."""
        kept = super().after_remaking(made)
        if not isinstance(made, FusePart) or self.volts_v >= made.volts_v:
            return {**kept, "pattern": self.pattern, "volts_v": self.volts_v}
        return {**kept, "pattern": made.pattern, "volts_v": made.volts_v}


@lru_cache(maxsize=256)
def _protects(pattern: Pattern, rating_a: float | None) -> Protection:
    return Protection("fuse", rating_a, KINDS[pattern].ratings_a, pattern=pattern)
