"""Where several wires meet."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..doc.machine import Machine, SystemKind
from ..materials.terminals import Family
from .asks import Ask, name, place, same, whole
from .base import Glance, Part
from .inside import NOTHING_INSIDE, Inside
from .terminals import OWN_LEAD, PartTerminal
from .work import MAIN_COLOUR, RETURN_COLOUR, Ends, Rail, Wanted, Work

# How far past what the house rule wants Loadstar puts a splice, and from the next.
SPLICE_BEYOND_MM, SPLICE_APART_MM = 20, 40


BOLTED_M = 0.04  # the link of a fuse holder that sits on a bus bar or stud: nothing guards it


class Junction(Part):
    """A stud, bus bar or splice: every wire on it meets at one point. Several wires may end in one barrel, made for a
    cross-section of `barrel_mm2` (null: the least that takes them). A splice sits `offset_mm` along the harness from
    its place (null: Loadstar says where)."""

    kind: Literal["junction"] = "junction"
    form: Literal["splice", "bus bar", "stud", "star point", "one barrel"] = "splice"
    terminals: Annotated[int, Field(ge=1, le=24)] = 8
    barrel_mm2: Annotated[float, Field(ge=0.5, le=120)] | None = None
    offset_mm: Annotated[float, Field(ge=0, le=500)] | None = None

    PREFIX: ClassVar[str] = "J"
    MOVABLE: ClassVar[bool] = True
    JOINS: ClassVar[bool] = True
    TITLE: ClassVar[str] = "Bus bar or stud"
    GROUP: ClassVar[str] = "Bus bars and studs"
    ADD_WORDS: ClassVar[str] = "Add a bus bar"
    FITS: ClassVar[tuple[SystemKind, ...]] = ("battery", "total_loss", "ignition_only")
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = (PartTerminal("t", OWN_LEAD),)
    RETURN_END: ClassVar[str] = "t"
    ASKS: ClassVar[tuple[Ask, ...]] = (
        name(), place(), same("form", "Kind", ("bus bar", "stud", "star point", "splice", "one barrel")),
        Ask("barrel_mm2", "Barrel for", "Of several wires in one barrel. Empty: Loadstar chooses.", optional=True),
        whole("terminals", "Places for terminals", range(1, 25)),
        Ask("offset_mm", "A splice: off its place by", "Empty: Loadstar says where.", optional=True))
    RELAYS: ClassVar[bool] = True
    FEED_WORDS: ClassVar[str] = "from the bus bar, with a fuse"

    @property
    def along_mm(self) -> float | None:
        """As stated."""
        return self.offset_mm

    @property
    def along(self) -> bool:
        """A splice; a star point is at its place."""
        return self.form == "splice"

    @property
    def one_barrel(self) -> bool:
        """A splice, and what is crimped together."""
        return self.form in ("splice", "one barrel")

    def glance(self, machine: Machine, where: str) -> Glance:
        return (self.form, float(self.terminals), "")

    def ends_in(self, terminal: str) -> Family | None:
        """A splice is a splice; of a stud, bar or barrel the usual ring."""
        return self.termination or ("splice" if self.form == "splice" else "ring M6")

    def inside(self, machine: Machine) -> Inside:
        """One node, which is its one terminal."""
        return NOTHING_INSIDE

    def arrive(self, work: Work) -> None:
        """A bus bar or stud has its lead from the source, behind a fuse there where it sits elsewhere; a star point its
        lead to the source's negative."""
        if self.form in ("bus bar", "stud"):
            rail, begin = work.rail, work.rail.live
            if rail.place != self.place:
                fuse = work.fuse(f"{self.name} main fuse", rail.place, self.id, rail.full_v)
                work.wire(begin, fuse.at("a"), MAIN_COLOUR, self.id)
                begin = fuse.at("b")
            work.wire(begin, self.at("t"), MAIN_COLOUR, self.id)
        elif self.form == "star point":
            work.wire(self.at("t"), work.rail.back, RETURN_COLOUR, self.id)

    def hang(self, work: Work, load: Wanted) -> Ends:
        """A fuse bolted to the bar, and a relay there for what does not always live."""
        bolted = BOLTED_M if self.form in ("bus bar", "stud") else None
        return fused_at(work, load, Rail(self.at("t"), work.rail.back, self.place, work.rail.full_v), bolted)


def fused_at(work: Work, load: Wanted, source: Rail, length_m: float | None = None) -> Ends:
    """A fuse at a source, so far from it, and behind it a relay for what does not always live."""
    fuse = work.fuse(f"{load.name} fuse", source.place, load.id, source.full_v)
    work.wire(source.live, fuse.at("a"), MAIN_COLOUR, load.id, length_m=length_m)
    if load.live == "always":
        return Ends(fuse.at("b"), source.back)
    relay = work.relay(load.live, source.place, load.id, f"{load.name} relay")
    work.wire(fuse.at("b"), relay.at("30"), MAIN_COLOUR, load.id)
    work.wire(relay.at("85"), source.back, RETURN_COLOUR, load.id)
    return Ends(relay.at("87"), source.back)
