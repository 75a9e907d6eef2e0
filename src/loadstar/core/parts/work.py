"""What a part is handed when it is to make something: a plan that is being added to."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

from ..doc.states import LIVES_WITH, Live
from ..doc.types import Colour
from ..doc.wires import Join, Wire
from ..refs import TerminalRef

MAIN_COLOUR: Colour = "RD"
LIVE_COLOUR: dict[Live, Colour] = {
    "always": "RD", "key": "OG", "engine": "YE", "brake": "GN", "horn": "VT", "left": "GY", "right": "TQ", "dip": "WH",
    "main": "BU", "park": "PK", "hot": "BN", "start": "YE", "switch": "OG"}
TRIGGER_COLOUR: Colour = "BU"
RETURN_COLOUR: Colour = "BK"
LIVE_WORDS: dict[Live, str] = {"always": "always live",
                               **{live: f"live {words}" for live, words in LIVES_WITH.items() if live != "always"}}


@dataclass(frozen=True)
class Ends:
    """Where an accessory's feed wire begins, and its return; None: it can only return by the frame."""

    begin: TerminalRef
    back: TerminalRef | None


@dataclass(frozen=True)
class Rail:
    """What everything of a plan hangs on: where a feed begins and a return ends, and the volts a fuse there must
    break."""

    live: TerminalRef
    back: TerminalRef
    place: str
    full_v: float


class Made(Protocol):
    """A part that was made on the way."""

    @property
    def id(self) -> str:
        """Its id."""

    def at(self, terminal: str) -> TerminalRef:
        """One of its terminals."""


class PackMade(Made, Protocol):
    """One of the two packs that are joined."""

    @property
    def name(self) -> str:
        """Its name."""

    @property
    def place(self) -> str:
        """Where it sits."""

    @property
    def ohm(self) -> float:
        """Its resistance."""

    @property
    def bms_continuous_a(self) -> float:
        """What its protection allows for good."""

    @property
    def full_v(self) -> float:
        """Its voltage when full."""


class Wanted(Protocol):
    """What an accessory wants of its feed."""

    @property
    def id(self) -> str:
        """Its id."""

    @property
    def name(self) -> str:
        """Its name."""

    @property
    def place(self) -> str:
        """Where it sits."""

    @property
    def live(self) -> Live:
        """When it must live."""

    @property
    def own_switch(self) -> bool:
        """Whether it is switched by itself, so that nothing has to switch it."""


class Feeder(Protocol):
    """A part that something may hang on."""

    @property
    def return_at(self) -> TerminalRef:
        """Where returns are brought together on it."""

    def at(self, terminal: str) -> TerminalRef:
        """One of its terminals."""

    def hang(self, work: "Work", load: Wanted) -> Ends:
        """Make what lies between it and what hangs on it."""

    def takes_plug(self, work: "Work", load: Wanted) -> Ends | None:
        """Where the wires of a lead begin that is plugged in as it came; None: nothing is plugged in there."""

    def back(self, work: "Work") -> TerminalRef | None:
        """Where what hangs on it returns to."""


class Work(Protocol):
    """A plan while it is added to."""

    @property
    def rail(self) -> Rail:
        """What everything hangs on; PlanError without a supply."""

    @property
    def wires(self) -> Sequence[Wire]:
        """The wires so far."""

    @property
    def joins(self) -> Sequence[Join]:
        """What touches without a wire, so far."""

    @property
    def fuse_share_frac(self) -> float:
        """What of a fuse's rating the house uses for good."""

    def part(self, part_id: str) -> Feeder:
        """A part of the plan so far; PlanError where there is none."""

    def wire(self, a: TerminalRef, b: TerminalRef, colour: Colour, made_for: str | None, stripe: Colour = "",
             length_m: float | None = None) -> str:
        """Lay a wire whose size is left to Loadstar, and its length too where none is given; its id."""

    def join(self, a: TerminalRef, b: TerminalRef) -> None:
        """Let two terminals touch."""

    def make(self, kind: str, **values: object) -> Made:
        """Add a part of a kind, with its id from the counter."""

    def fuse(self, name: str, place: str, made_for: str, volts_v: float = 0.0, amps: float = 0.0,
             short_a: float = 0.0) -> Made:
        """Add a fuse that may break so many volts and so large a short, and comes for so many amps: a blade fuse where
        one does."""

    def relay(self, live: Live, place: str, made_for: str, name: str, *, built_in: bool = False) -> Made:
        """Add a relay whose coil is fed by the best found wire that lives so."""

    def trigger(self, live: Live) -> TerminalRef:
        """The pin of the best found wire that lives so; PlanError where there is none."""

    def switched(self, begin: TerminalRef, load: Wanted, colour: Colour) -> TerminalRef:
        """Put a switch on the way to a load that is not to live always; where its wire then begins."""

    def packs(self, asker: str) -> Sequence[PackMade]:
        """The plan's two packs; PlanError, about the asker, where there are not two."""

    def never(self, tap: str) -> str:
        """The system that a found wire belongs to and that is never tapped; "" where there is none."""
