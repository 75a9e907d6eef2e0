"""A fuse block."""

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from ..doc.machine import Machine, SystemKind
from ..doc.states import Live
from ..doc.types import Id
from ..errors import refuse
from ..refs import TerminalRef
from .asks import LIVE, Ask, name, place, whole
from .base import Glance, Part
from .fed import Fed
from .inside import NOTHING_INSIDE, Inside
from .terminals import PartTerminal, terminals
from .work import LIVE_COLOUR, LIVE_WORDS, MAIN_COLOUR, RETURN_COLOUR, Ends, Wanted, Work


class Block(Fed):
    """A fuse block with a return bar: constant ways, and ways behind relays for key and engine. On a feed of its own
    (`feed`; null: on the battery) all its ways live as that does. `total_a` and `way_most_a` are what it carries in all
    and in one way, where its maker says so; `return_to` is a post, star point or frame joint that its returns go to
    (null: where its feed returns to). `own_relay`: a relay that switches its ways is built into it, with a lead for its
    trigger."""

    kind: Literal["block"] = "block"
    ways: Annotated[int, Field(ge=1, le=24)] = 6
    total_a: Annotated[float, Field(gt=0, le=400)] | None = None
    way_most_a: Annotated[float, Field(gt=0, le=100)] | None = None
    return_to: Id | None = None
    own_relay: bool = False

    PREFIX: ClassVar[str] = "B"
    HOUSING: ClassVar[bool] = True
    MOVABLE: ClassVar[bool] = True
    TITLE: ClassVar[str] = "Fuse block"
    GROUP: ClassVar[str] = "Blocks with fuses"
    ADD_WORDS: ClassVar[str] = "Add a block"
    FITS: ClassVar[tuple[SystemKind, ...]] = ("battery", "total_loss", "ignition_only")
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = (
        *terminals("ring M5", "in"), *terminals("blade 6.3", "always", "key", "engine"), *terminals("ring M4", "ret"))
    ASKS: ClassVar[tuple[Ask, ...]] = (
        name("Fuse block"), place(), whole("ways", "Ways", (4, 6, 8, 10, 12)),
        Ask("own_relay", "Has a relay built in", "Then only its trigger is wired.", kind="yes"),
        Ask("feed", "Fed from", "Empty: on the battery, behind a main fuse.", kind="choice", optional=True),
        Ask("live", "That feed lives", kind="choice", choices=LIVE),
        Ask("return_to", "Its returns go to", "Empty: where its feed returns to.", kind="choice", optional=True),
        Ask("total_a", "Carries in all", "If its maker says so.", optional=True),
        Ask("way_most_a", "In one way", "If its maker says so.", optional=True))
    RELAYS: ClassVar[bool] = True
    FEED_WORDS: ClassVar[str] = "fused way"

    @property
    def plug_in_ways(self) -> int:
        """Its ways."""
        return self.ways

    @property
    def own_return(self) -> str | None:
        """As told."""
        return self.return_to

    @property
    def hangs_by(self) -> tuple[Any, ...]:
        """Its feed, and where it returns to."""
        return (*super().hangs_by, self.return_to)

    def glance(self, machine: Machine, where: str) -> Glance:
        return ("ways", float(self.ways), "")

    def inside(self, machine: Machine) -> Inside:
        """Bars, each one node; its fuses are parts of their own, plugged into them."""
        return NOTHING_INSIDE

    @property
    def fed_at(self) -> tuple[str, str]:
        """Its feed and its return bar."""
        return "in", "ret"

    def arrive(self, work: Work) -> None:
        """Its main fuse at the source, or what its feed takes; feed wire and return wire."""
        if self.feed is None:
            lead_in(work, self, to=work.part(self.return_to).return_at if self.return_to else None)
        else:
            super().arrive(work)
        work.join(self.at("in"), self.at("always"))

    def return_of(self, work: Work, back: TerminalRef | None) -> TerminalRef | None:
        """The star point, where one was chosen."""
        return work.part(self.return_to).return_at if self.return_to else back

    def back(self, work: Work) -> TerminalRef:
        """Its return bar."""
        return self.at("ret")

    def gives(self, live: Live) -> bool:
        """On the battery, always, with the key or the engine; on a feed, as that does."""
        return live == self.live if self.feed is not None else super().gives(live)

    @property
    def lives_unswitched(self) -> Live:
        """With its feed."""
        return self.live if self.feed is not None else super().lives_unswitched

    def hang(self, work: Work, load: Wanted) -> Ends:
        """A fuse in one of its ways, which live as the load is to."""
        if self.feed is not None and load.live != self.live:
            raise refuse(load.id, "live", f"{self.name} is fed from what is {LIVE_WORDS[self.live]}, and so does "
                                          "all that "
                                          "is on it: choose that, or another feed.")
        bus = "always" if self.feed is not None else load.live
        self._ready_bus(work, bus)
        fuse = work.fuse(f"{load.name} fuse", self.place, load.id)
        work.join(self.at(bus), fuse.at("a"))
        return Ends(fuse.at("b"), self.at("ret"))

    def _ready_bus(self, work: Work, live: Live) -> None:
        """See that there is a relay for ways that live with the key or the engine."""
        if live == "always" or self.at(live) in self._ready(work):
            return
        if self.own_relay:
            self._own_relay(work, live)
            return
        relay = work.relay(live, self.place, self.id, f"{self.name} {live} relay")
        work.wire(self.at("in"), relay.at("30"), MAIN_COLOUR, self.id)
        work.wire(relay.at("87"), self.at(live), LIVE_COLOUR[live], self.id)
        work.wire(relay.at("85"), self.at("ret"), RETURN_COLOUR, self.id)


    def _ready(self, work: Work) -> set[TerminalRef]:
        """The bars that a relay feeds already."""
        bars = {self.at("key"), self.at("engine")}
        return {w.b for w in work.wires if w.b in bars} | {j.b for j in work.joins if j.b in bars and (
            j.a.name == "87")}

    def _own_relay(self, work: Work, live: Live) -> None:
        """The relay that is built in, its trigger wired: one, for the ways that live so."""
        if self._ready(work):
            raise refuse(self.id, "own_relay", f"{self.name} has one relay built in, which switches other ways "
                                               "already: let this one live as they do, or always.")
        relay = work.relay(live, self.place, self.id, f"{self.name} relay, built in", built_in=True)
        work.join(self.at("in"), relay.at("30"))
        work.join(relay.at("87"), self.at(live))
        work.join(relay.at("85"), self.at("ret"))


def lead_in(work: Work, owner: Part, *, into: str = "in", back: str = "ret", to: TerminalRef | None = None) -> None:
    """A main fuse at the source, the feed wire behind it, and the return wire (`to`: to a star point)."""
    rail = work.rail
    fuse = work.fuse(f"{owner.name} main fuse", rail.place, owner.id, rail.full_v)
    work.wire(rail.live, fuse.at("a"), MAIN_COLOUR, owner.id)
    work.wire(fuse.at("b"), owner.at(into), MAIN_COLOUR, owner.id)
    work.wire(owner.at(back), to or rail.back, RETURN_COLOUR, owner.id)
