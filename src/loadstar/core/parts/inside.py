"""What a part may put between its terminals, as data: what conducts, what feeds, what draws, what touches."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal, NamedTuple

from ..doc.states import STATES, States
from ..materials import fuses
from ..physics import elements as net
from ..refs import ElementRef, TerminalRef

# Nodes that belong to no part: the machine's frame, and the two rails that everything hangs on.
FRAME, RAIL_POSITIVE, RAIL_NEGATIVE = TerminalRef("frame"), TerminalRef("rail.pos"), TerminalRef("rail.neg")
STATED, ASSUMED = "entered in the plan", "assumed"
Pair = tuple[TerminalRef, TerminalRef]
Element = net.Source | net.Load | net.Diode | net.Converter


class Cavity(NamedTuple):
    """A place in a connector that holds a wire's end: its side and its way, as people number them."""

    side: str
    way: str


@dataclass(frozen=True)
class Branch:
    """Something that conducts between two terminals, in the order source to load where that is known.

    `ohm` is its resistance; None: that of its fuse, by its rating. `what` and `source` say where the figure is from. It
    conducts in `states`, and (`follows`) while that part has pulled in, and only while what it is `moved_by` (a part,
    or an occasion) stands at one of `positions`. A `control` branch is a coil: it draws current and is on nobody's way.
    `opens` says that it is a contact that may stand open, `divides` that what lies behind it is no longer one pack's
    own; `joint` names it where it is a joint to the frame.
    """

    ref: ElementRef
    a: TerminalRef
    b: TerminalRef
    ohm: float | None
    what: str
    source: str = STATED
    states: tuple[States, ...] = STATES
    follows: str = ""
    moved_by: str = ""
    positions: tuple[str, ...] = ()
    control: bool = False
    opens: bool = False
    divides: bool = False
    joint: str = ""

    def ready(self, state: States, stands: Mapping[str, str]) -> bool:
        """Whether it conducts in a state with everything that is moved at these stands, once what it follows has pulled
        in."""
        return state in self.states and (not self.moved_by or stands.get(self.moved_by, "") in self.positions)

    def conducts(self, state: States, pulled: Mapping[str, bool], stands: Mapping[str, str]) -> bool:
        """Whether it does in a state, with these parts pulled in and everything that is moved at these stands."""
        return self.ready(state, stands) and (not self.follows or pulled.get(self.follows, False))

    @property
    def changes_over(self) -> bool:
        """Whether it is one side of a changeover: two of its kind are never closed together."""
        return bool(self.moved_by) and not self.opens


@dataclass(frozen=True)
class Actuator:
    """A coil that closes contacts: its terminals, ohms, the volts at 20 C at which it pulls in, below which it lets
    go, and what lies across it to take up its spike."""

    plus: TerminalRef
    minus: TerminalRef
    coil_ohm: float
    pull_in_v: float
    holds_v: float
    across: str


@dataclass(frozen=True)
class Point:
    """A terminal that says what its copper is referred to. `first`: a supply's, which is named before what hangs on
    it."""

    terminal: TerminalRef
    kind: Literal["negative", "positive", "output", "winding", "kill"]
    words: str
    first: bool = False


@dataclass(frozen=True)
class Inside:
    """All that a part puts between its terminals. What conducts, what feeds or draws, and where a fault may short it is
    always said.

    `shorted` are pairs that a fault may join, `touches` terminals that are one node, `on_rail` terminals that lie on a
    rail while nothing is wired to any of them, `input` and `output` the ends of a second supply that
    it makes out of the first.
    """

    branches: tuple[Branch, ...]
    elements: tuple[Element, ...]
    shorted: tuple[Pair, ...]
    touches: tuple[Pair, ...] = ()
    on_rail: tuple[Pair, ...] = ()
    points: tuple[Point, ...] = ()
    actuator: Actuator | None = None
    input: Pair | None = None
    output: Pair | None = None


NOTHING_INSIDE = Inside(branches=(), elements=(), shorted=())


@dataclass(frozen=True)
class Protection:
    """That a part ends a current by itself: how, its rating where it is stated (A), the ratings that it comes in, and
    which kind of fuse it is."""

    kind: Literal["fuse", "electronic"]
    stated_a: float | None
    steps_a: tuple[float, ...]
    chosen: bool = True  # False: found on the machine, and never Loadstar's to choose
    pattern: fuses.Pattern = "blade"  # of a fuse; where nobody said, blade

    @property
    def opener(self) -> Literal["electronic"] | fuses.Curve:
        """How soon it opens."""
        return "electronic" if self.kind == "electronic" else fuses.KINDS[self.pattern].curve


@dataclass(frozen=True)
class Limit:
    """That a part lets no more through than this into a short, and into which faults: all, those it feeds alone, those
    behind it."""

    most_a: float
    reach: Literal["all", "alone", "behind"]


@dataclass(frozen=True)
class ContactRating:
    """A contact's resistive rating where it is stated (A), the usual ratings, whether it makes an inrush by itself, and
    the DC that it is said to break (V)."""

    stated_a: float | None
    steps_a: tuple[float, ...]
    makes_inrush: bool
    breaks_v: float | None = None


@dataclass(frozen=True)
class Drives:
    """A source's equation in a state: across * (v_plus - v_minus) + series * i = drive."""

    across: float
    series: complex
    drive: float


ABSENT = Drives(0.0, 1.0, 0.0)
