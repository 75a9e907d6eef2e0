"""Where two packs meet."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..doc.machine import Machine, SystemKind
from ..doc.states import States
from ..physics import elements as net
from .asks import Ask, name, place
from .base import Glance, Part
from .inside import Branch, Inside, Point
from .terminals import PartTerminal, terminals
from .work import MAIN_COLOUR, RETURN_COLOUR, Work

SIDES = ("a", "b")


class Combiner(Part):
    """Where two packs meet: a changeover switch (`position` says at which), an ideal-diode combiner, or plain
    parallel."""

    kind: Literal["combiner"] = "combiner"
    way: Literal["changeover", "diode", "parallel"] = "diode"
    position: Literal["a", "b"] = "a"
    rated_a: Annotated[float, Field(gt=0, le=400)] = 40
    drop_mv: Annotated[float, Field(ge=0, le=1000)] = 30
    contact_mohm: Annotated[float, Field(ge=0.05, le=100)] = 2
    data_switched: bool = False

    PREFIX: ClassVar[str] = "CB"
    TITLE: ClassVar[str] = "Joining of two packs"
    GROUP: ClassVar[str] = "Joining of two packs"
    ADD_WORDS: ClassVar[str] = "Join the packs"
    FITS: ClassVar[tuple[SystemKind, ...]] = ("pack",)
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = terminals("high current", "a", "b", "out")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        name(), place(), Ask("way", "Joins two packs by", kind="choice", choices=(
            ("changeover", "changeover switch"), ("diode", "ideal-diode combiner"),
            ("parallel", "plain parallel lead"))),
        Ask("position", "Switch stands at", kind="choice", choices=(("a", "the first pack"), ("b", "the second pack"))),
        Ask("rated_a", "Rated"), Ask("drop_mv", "Diode drop", unit="mV"), Ask("contact_mohm", "Contact"),
        Ask("data_switched", "Takes the data lines along", kind="yes"))
    MOST: ClassVar[int] = 1

    def glance(self, machine: Machine, where: str) -> Glance:
        return (self.way, self.rated_a, "A")

    def inside(self, machine: Machine) -> Inside:
        """Two ideal diodes, or two contacts of which a changeover closes one."""
        point = (Point(self.at("out"), "positive", f"{self.name}, common positive"),)
        ohm = self.contact_mohm / 1000
        if self.way == "diode":
            return Inside(branches=(), shorted=(), points=point, elements=tuple(
                net.Diode(self.element(side), self.at(side), self.at("out"), self.drop_mv / 1000, ohm)
                for side in SIDES))
        moved = self.way == "changeover"
        return Inside(elements=(), shorted=(), points=point, branches=tuple(
            Branch(self.element(side), self.at(side), self.at("out"), ohm, "contact", divides=True,
                   moved_by=self.id if moved else "", positions=(side,) if moved else ()) for side in SIDES))

    def stands_in(self, state: States) -> tuple[str, ...]:
        """Where its switch has been set; its other side is a situation of the packs (supply/pack.py)."""
        return (self.position,) if self.way == "changeover" else ()

    def arrive(self, work: Work) -> None:
        """A fuse at each of the two packs, leads from there, the negatives joined. But for a changeover, each fuse may
        have to break what the other pack drives into a fault of its own."""
        packs = work.packs(self.id)
        both_v = max(pack.full_v for pack in packs)
        short_a = max(pack.full_v / pack.ohm for pack in packs)
        for side, pack in zip(SIDES, packs, strict=True):
            breaks_v = pack.full_v if self.way == "changeover" else both_v
            fuse = work.fuse(f"{pack.name} fuse", pack.place, self.id, breaks_v,
                             pack.bms_continuous_a / work.fuse_share_frac, short_a)
            work.wire(pack.at("pos"), fuse.at("a"), MAIN_COLOUR, self.id)
            work.wire(fuse.at("b"), self.at(side), MAIN_COLOUR, self.id)
        work.wire(packs[1].at("neg"), packs[0].at("neg"), RETURN_COLOUR, self.id)
