"""A wire or pin of the machine that can be used without cutting."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..doc.machine import Machine, SystemKind
from ..doc.states import LIVE_STATES, Live, moved_by
from ..doc.survey import PinFunction
from ..doc.types import ONE_LINE, Id, NeverTapped, Standing
from ..errors import refuse
from ..materials.fuses import Pattern
from ..materials.terminals import Family
from ..refs import TerminalRef
from .asks import FOUND_LIVE, NEVER, PATTERNS, Ask, name, place
from .base import Glance, Part
from .inside import ASSUMED, NOTHING_INSIDE, RAIL_NEGATIVE, RAIL_POSITIVE, Branch, Cavity, Inside, Protection
from .terminals import OWN_LEAD, PartTerminal, terminals
from .work import LIVE_COLOUR, LIVE_WORDS, Ends, Wanted, Work

RETURN_OHM = 0.001  # of a plug's ground back to the battery, assumed


class Tap(Part):
    """A factory wire or plug that can be used without cutting: what it may give, and when it is live.

    `source_mohm` is the machine's own wiring from the battery and back; `fused_a` the factory fuse before it (null:
    not known; `unfused`: found to have none); `others_a` what the machine already draws through it, and `others` who.
    Delays are from key or engine to live, and to dead again. A pin of a connector names it (`plug`) and its `way`; only
    where its `function` is to feed can it be one. `fuse_pattern` is the kind of the factory fuse before it, and
    `fuse_at` where that is. In a pin map `goes_to` is the other end of its wire, `new_colour` the new part's wire that
    takes its place, and `phase` marks it as one of those that may be joined in any order.
    """

    kind: Literal["tap"] = "tap"
    plug: Id | None = None
    way: Annotated[int, Field(ge=1, le=60)] | None = None
    function: PinFunction = "feed"
    live: Live = "key"
    rated_a: Annotated[float, Field(gt=0, le=60)] = 5
    source_mohm: Annotated[float, Field(ge=1, le=5000)] = 60
    fused_a: Annotated[float, Field(ge=1, le=60)] | None = 10
    fuse_pattern: Pattern = "blade"
    fuse_at: Annotated[str, Field(max_length=80), ONE_LINE] = ""
    unfused: bool = False
    others_a: Annotated[float, Field(ge=0, le=60)] = 0
    on_delay_s: Annotated[float, Field(ge=0, le=600)] = 0
    off_delay_s: Annotated[float, Field(ge=0, le=3600)] = 0
    never: NeverTapped = ""
    wire_colour: Annotated[str, Field(max_length=20), ONE_LINE] = ""
    others: Annotated[str, Field(max_length=80), ONE_LINE] = ""
    goes_to: Annotated[str, Field(max_length=80), ONE_LINE] = ""
    new_colour: Annotated[str, Field(max_length=20), ONE_LINE] = ""
    phase: bool = False
    rating: Literal["stated", "believed safe"] = "believed safe"
    standing: Standing = "found"

    PREFIX: ClassVar[str] = "T"
    AS_FOUND: ClassVar[bool] = True
    TITLE: ClassVar[str] = "Plug or found wire"
    GROUP: ClassVar[str] = "Found wires"
    ADD_WORDS: ClassVar[str] = "Add a found wire"
    FITS: ClassVar[tuple[SystemKind, ...]] = ("battery", "total_loss", "ignition_only")
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = terminals(OWN_LEAD, "pin", "gnd")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        name("Plug or wire"), place("Where it is"), Ask("live", "Live", kind="choice", choices=FOUND_LIVE),
        Ask("rated_a", "May give"),
        Ask("fused_a", "Factory fuse before it", "Empty: not known yet.", optional=True),
        Ask("fuse_pattern", "That is a", kind="choice", choices=PATTERNS),
        Ask("fuse_at", "That fuse is", "Which box, which slot.", kind="text", optional=True),
        Ask("unfused", "Found to have no factory fuse", kind="yes"),
        Ask("source_mohm", "Resistance of the machine's own wiring to it",
            "Drop measured under a known load, over the amps."),
        Ask("others_a", "The machine's own users draw"), Ask("on_delay_s", "Live after"),
        Ask("off_delay_s", "Stays live for, after"),
        Ask("never", "Belongs to", kind="choice", optional=True, choices=NEVER),
        Ask("wire_colour", "Wire colour as found", kind="text", optional=True))
    TELLS_WHEN: ClassVar[bool] = True
    FEED_WORDS: ClassVar[str] = "factory plug"
    FUSED_BEFORE: ClassVar[bool] = True
    SYMBOL: ClassVar[str] = "plug"
    PROBED: ClassVar[str] = "post to pin"

    def family(self, terminal: str, leads: Family) -> Family | None:
        """A found wire is spliced into; of a pin its connector decides."""
        if self.termination:
            return self.termination
        return None if self.plug else "splice"

    def cavity(self, terminal: str) -> Cavity | None:
        """Its way of its connector, on the machine's side."""
        return Cavity("machine", str(self.way or "")) if self.plug else None

    @property
    def in_plug(self) -> str | None:
        """Its connector."""
        return self.plug

    def glance(self, machine: Machine, where: str) -> Glance:
        return (self.never or self.live, self.rated_a, "A")

    def inside(self, machine: Machine) -> Inside:
        """The machine's own wiring to it, and its ground; nothing of a pin that feeds nothing."""
        if self.function != "feed":
            return NOTHING_INSIDE
        pin = Branch(self.element(), RAIL_POSITIVE, self.at("pin"), self.source_mohm / 1000, "the machine's own wiring",
                     states=LIVE_STATES[self.live], opens=True, moved_by=moved_by(self.live),
                     positions=(self.live,) if moved_by(self.live) else ())
        ground = Branch(self.element("gnd"), self.at("gnd"), RAIL_NEGATIVE, RETURN_OHM, "return joint", ASSUMED)
        return Inside(branches=(pin, ground), elements=(), shorted=())

    def back(self, work: Work) -> TerminalRef:
        """Its own ground."""
        return self.at("gnd")

    def gives(self, live: Live) -> bool:
        """What hangs on it lives as it does."""
        return live == self.live

    @property
    def can_feed(self) -> bool:
        """Only where that is what it is there for."""
        return self.function == "feed"

    @property
    def protection(self) -> Protection | None:
        """The factory fuse, where one has been found."""
        return None if self.fused_a is None or self.unfused else Protection(
            "fuse", self.fused_a, (), chosen=False, pattern=self.fuse_pattern)

    def hang(self, work: Work, load: Wanted) -> Ends:
        """A fuse at the plug; what hangs on it lives as it does."""
        self._check(work, load)
        fuse = work.fuse(f"{load.name} fuse", self.place, load.id)
        work.wire(self.at("pin"), fuse.at("a"), LIVE_COLOUR[load.live], load.id)
        return Ends(fuse.at("b"), self.at("gnd"))

    def takes_plug(self, work: Work, load: Wanted) -> Ends:
        """At the pin and its ground: the factory fuse guards it."""
        if self.plug is None:
            raise refuse(load.id, "plugged", f"{self.name} is a wire and no pin of a connector: nothing is plugged in "
                                             "there. Wire it, or enter the connector under Survey.")
        self._check(work, load)
        return Ends(self.at("pin"), self.at("gnd"))

    def _check(self, work: Work, load: Wanted) -> None:
        """Whether it may feed something, and that it lives as it does. PlanError where not."""
        if never := work.never(self.id):
            raise refuse(load.id, "feed", f"{self.name} belongs to the {never} system: nothing is ever fed from it.")
        if self.function != "feed":
            raise refuse(load.id, "feed",
                         f"{self.name} has not been found to be a live pin: probe it under Survey first.")
        if self.live != load.live:
            raise refuse(load.id, "live",
                         f"{self.name} is {LIVE_WORDS[self.live]}, so an accessory on it is too: choose that, or "
                                          "another feed.")
