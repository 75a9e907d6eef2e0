"""A step-down converter."""

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from ..doc.machine import Machine, SystemKind
from ..doc.states import States
from ..physics import elements as net
from ..refs import TerminalRef
from .asks import LIVE, Ask, name, place
from .base import Glance
from .fed import Fed
from .inside import Inside, Limit, Point
from .terminals import OWN_LEAD, PartTerminal, terminals
from .work import LIVE_COLOUR, MAIN_COLOUR, RETURN_COLOUR, Ends, Wanted, Work

SHORT_MULTIPLE = 1.3  # of its rating, what a converter gives into a short; assumed


class Converter(Fed):
    """A step-down converter: input window, output volts and amps, efficiency, draw when idle, isolated or not. Its
    input is on what everything hangs on (`feed` null), or on a feed of its own: behind a switch it draws nothing while
    that is off. `inrush_a` charges the capacitors at its input for `inrush_ms`, when it is connected or switched on."""

    kind: Literal["converter"] = "converter"
    window_low_v: Annotated[float, Field(ge=5, le=120)]
    window_high_v: Annotated[float, Field(ge=8, le=150)]
    out_v: Annotated[float, Field(ge=3, le=30)] = 12
    rated_a: Annotated[float, Field(gt=0, le=60)]
    efficiency_frac: Annotated[float, Field(ge=0.4, le=1)] = 0.88
    idle_w: Annotated[float, Field(ge=0, le=20)] = 0.3
    isolated: bool = False
    inrush_a: Annotated[float, Field(ge=0, le=1000)] = 0
    inrush_ms: Annotated[float, Field(ge=0, le=5000)] = 0

    PREFIX: ClassVar[str] = "CV"
    HOUSING: ClassVar[bool] = True
    MOVABLE: ClassVar[bool] = True
    CONSUMES: ClassVar[bool] = True
    TITLE: ClassVar[str] = "Step-down converter"
    GROUP: ClassVar[str] = "Step-down converters"
    ADD_WORDS: ClassVar[str] = "Add a converter"
    FITS: ClassVar[tuple[SystemKind, ...]] = ("pack", "battery", "total_loss", "ignition_only")
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = terminals(OWN_LEAD, "inp", "inn", "pos", "neg")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        name(), place(), Ask("feed", "Its input is fed from", "Empty: straight on the pack or battery, behind a fuse.",
                             kind="choice", optional=True),
        Ask("live", "That feed lives", kind="choice", choices=LIVE), Ask("window_low_v", "Input from"),
        Ask("window_high_v", "up to"), Ask("out_v", "Output"),
        Ask("rated_a", "Output rating"), Ask("efficiency_frac", "Efficiency", "1 is all of it."),
        Ask("idle_w", "Draws when idle"),
        Ask("inrush_a", "Inrush at its input, peak", "0 if it has none, or nobody knows."),
        Ask("inrush_ms", "Inrush lasts"), Ask("isolated", "Input and output isolated", kind="yes"))
    inrush_shape: ClassVar[Literal["rectangle"]] = "rectangle"
    SWITCHES: ClassVar[bool] = True
    PASSES: ClassVar[bool] = False
    FEED_WORDS: ClassVar[str] = "behind the converter"
    BEGINS: ClassVar[dict[str, Any]] = {"window_low_v": 36, "window_high_v": 60}
    OWN_ENDS: ClassVar[tuple[str, ...]] = ("pos", "neg")
    POLES: ClassVar[tuple[str, ...]] = ("inp", "inn")
    MAIN_WORDS: ClassVar[str] = "Converter"
    WRONG_WAY: ClassVar[str] = "Its input is destroyed."

    def input_a(self, output_a: float, input_v: float) -> float:
        """What it draws from its input: output watts over efficiency and its idle draw, over the input volts."""
        return (self.out_v * output_a / self.efficiency_frac + self.idle_w) / input_v

    @property
    def most_a(self) -> float:
        """What it gives at the most."""
        return self.rated_a

    @property
    def most_w(self) -> float:
        """The most that it gives for long."""
        return self.rated_a * self.out_v

    @property
    def output_frac(self) -> float:
        """Watts given over watts taken."""
        return self.efficiency_frac

    def glance(self, machine: Machine, where: str) -> Glance:
        return (f"{self.out_v:g} V", self.rated_a, "A")

    def inside(self, machine: Machine) -> Inside:
        """A second supply out of the first; without isolation the two negatives are one."""
        made = net.Converter(self.id, self.at("inp"), self.at("inn"), self.at("pos"), self.at("neg"), self.out_v,
                             self.rated_a,
                             self.efficiency_frac, self.idle_w, self.window_low_v, self.window_high_v)
        return Inside(
            branches=(), elements=(made,), shorted=((self.at("inp"), self.at("inn")),),
            touches=() if self.isolated else ((self.at("neg"), self.at("inn")),),
            points=(Point(self.at("neg"), "negative", f"{self.name}, output negative"),
                    Point(self.at("pos"), "output", f"{self.name}, output")),
            input=(self.at("inp"), self.at("inn")), output=(self.at("pos"), self.at("neg")))

    def converts_in(self, state: States) -> bool:
        """Always: whether its input lets it is for the network to say."""
        return True

    def limit(self, machine: Machine) -> Limit:
        """It gives little more than its rating into a short."""
        return Limit(self.rated_a * SHORT_MULTIPLE, "behind")

    @property
    def standing_draw(self) -> tuple[float, str] | None:
        """What it draws idle, where nothing switches its input off."""
        lasting = self.feed is None or self.live == "always"
        return (self.idle_w, f"{self.name}, idle") if self.idle_w > 0 and lasting else None

    @property
    def fed_at(self) -> tuple[str, str]:
        """Its input."""
        return "inp", "inn"

    def arrive(self, work: Work) -> None:
        """A fuse at the source that breaks its full voltage, or what its feed takes; both input wires."""
        if self.feed is not None:
            super().arrive(work)
            return
        rail = work.rail
        fuse = work.fuse(f"{self.name} input fuse", rail.place, self.id, rail.full_v)
        work.wire(rail.live, fuse.at("a"), MAIN_COLOUR, self.id)
        work.wire(fuse.at("b"), self.at("inp"), MAIN_COLOUR, self.id)
        work.wire(self.at("inn"), rail.back, RETURN_COLOUR, self.id)

    def back(self, work: Work) -> TerminalRef:
        """Its own negative."""
        return self.at("neg")

    def hang(self, work: Work, load: Wanted) -> Ends:
        """A switch at the load; the converter limits by itself."""
        return Ends(work.switched(self.at("pos"), load, LIVE_COLOUR[load.live]), self.at("neg"))
