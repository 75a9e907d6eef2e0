"""A fuse block."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..doc.machine import Machine, SystemKind
from ..doc.states import Live
from .asks import Ask, name, place, whole
from .base import Glance, Part
from .inside import NOTHING_INSIDE, Inside
from .work import LIVE_COLOUR, MAIN_COLOUR, RETURN_COLOUR, Ends, Wanted, Work


class Block(Part):
    """A fuse block with a return bar: constant ways, and ways behind relays for key and engine."""

    kind: Literal["block"] = "block"
    ways: Annotated[int, Field(ge=1, le=24)] = 6

    PREFIX: ClassVar[str] = "B"
    TITLE: ClassVar[str] = "Fuse block"
    GROUP: ClassVar[str] = "Blocks with fuses"
    ADD_WORDS: ClassVar[str] = "Add a block"
    FITS: ClassVar[tuple[SystemKind, ...]] = ("battery", "total_loss", "ignition_only")
    TERMINALS: ClassVar[tuple[str, ...]] = ("in", "always", "key", "engine", "ret")
    ASKS: ClassVar[tuple[Ask, ...]] = (name("Fuse block"), place(), whole("ways", "Ways", (4, 6, 8, 10, 12)))
    FEED_WORDS: ClassVar[str] = "fused way"

    def glance(self, machine: Machine, where: str) -> Glance:
        return ("ways", float(self.ways), "")

    def inside(self, machine: Machine) -> Inside:
        """Bars, each one node; its fuses are parts of their own, plugged into them."""
        return NOTHING_INSIDE

    def arrive(self, work: Work) -> None:
        """Its main fuse at the source, feed wire and return wire."""
        lead_in(work, self)
        work.join(self.at("in"), self.at("always"))

    def hang(self, work: Work, load: Wanted) -> Ends:
        """A fuse in one of its ways, which live as the load is to."""
        self._ready_bus(work, load.live)
        fuse = work.fuse(f"{load.name} fuse", self.place, load.id)
        work.join(self.at(load.live), fuse.at("a"))
        return Ends(fuse.at("b"), self.at("ret"))

    def _ready_bus(self, work: Work, live: Live) -> None:
        """See that there is a relay for ways that live with the key or the engine."""
        if live == "always" or any(w.b == self.at(live) for w in work.wires):
            return
        relay = work.relay(live, self.place, self.id, f"{self.name} {live} relay")
        work.wire(self.at("in"), relay.at("30"), MAIN_COLOUR, self.id)
        work.wire(relay.at("87"), self.at(live), LIVE_COLOUR[live], self.id)
        work.wire(relay.at("85"), self.at("ret"), RETURN_COLOUR, self.id)


def lead_in(work: Work, owner: Part, *, into: str = "in", back: str = "ret") -> None:
    """A main fuse at the source, the feed wire behind it, and the return wire."""
    rail = work.rail
    fuse = work.fuse(f"{owner.name} main fuse", rail.place, owner.id, rail.full_v)
    work.wire(rail.live, fuse.at("a"), MAIN_COLOUR, owner.id)
    work.wire(fuse.at("b"), owner.at(into), MAIN_COLOUR, owner.id)
    work.wire(owner.at(back), rail.back, RETURN_COLOUR, owner.id)
