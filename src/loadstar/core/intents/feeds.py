"""What feeds other things, or is fed in two ways: outlets, a block on a plug, navigation, a charging lead."""

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from ..doc.machine import SystemKind
from ..doc.states import Feeding
from ..doc.types import Id
from ..edits.builder import Builder
from ..edits.stepped import stepped_down
from ..errors import refuse
from ..parts.asks import LIVE, Ask
from ..plan.model import Plan
from .base import ENGINE, Intent, Watts, at_place, fed


class Outlet(Intent):
    """A socket that is unplugged."""

    KEY: ClassVar[str] = "outlet"
    TITLE: ClassVar[str] = "Outlet with a quick-disconnect"
    SAYS: ClassVar[str] = ("A lead that is live with its feed and ends in a connector: whatever is put in, up to so "
                           "much.")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        at_place("outlet_at", "It ends at"), fed(), Ask("live", "It lives", kind="choice", choices=LIVE),
        Ask("most_a", "For up to", unit="A"), Ask("rated_a", "Its connector carries", unit="A"),
        Ask("minutes", "Used in the hour", unit="min"))
    FITS: ClassVar[tuple[SystemKind, ...]] = (*ENGINE, "pack")
    PLACES: ClassVar[dict[str, str]] = {"outlet_at": "panel"}

    outlet_at: Id
    feed: Id
    live: Feeding = "key"
    most_a: Annotated[float, Field(gt=0, le=60)] = 5
    rated_a: Annotated[float, Field(gt=0, le=100)] = 10
    minutes: Annotated[float, Field(ge=0, le=60)] = 20

    def make(self, b: Builder) -> None:
        """Lead, connector, and what is put in."""
        feed = stepped_down(b, self.feed, 12 * self.most_a)
        lead = b.add("lead", name="outlet", place=self.outlet_at, feed=feed, live=self.live, rated_a=self.rated_a,
                     covered=self.live == "always")
        volts = 13.5 if b.plan.machine.system in ENGINE else 12
        b.add("load", name="Whatever is put in", category="other", guest=True, behaviour="current", unit="A",
              amount=self.most_a, at_v=volts, window_low_v=0, window_high_v=round(1.3 * volts, 2),
              place=self.outlet_at, feed=lead, live=self.live,
              minutes_per_hour=self.minutes, reason_always="an outlet for the parked machine"
              if self.live == "always" else "")


class BlockOnPlug(Intent):
    """A fuse block on a factory plug."""

    KEY: ClassVar[str] = "block on plug"
    TITLE: ClassVar[str] = "Fuse block on a plug"
    SAYS: ClassVar[str] = "Nothing is cut: the block lives as the plug does, and the plug's rating is what there is."
    ASKS: ClassVar[tuple[Ask, ...]] = (
        at_place("block_at", "The block sits at"), Ask("plug", "Fed from", kind="choice"),
        Ask("ground", "Its ground goes to", kind="choice", choices=(
            ("battery", "battery negative"), ("plug", "the plug"), ("star", "a star point beside it"))),
        Ask("ways", "Ways", kind="whole", choices=tuple((str(n), str(n)) for n in (4, 6, 8))))
    PLACES: ClassVar[dict[str, str]] = {"block_at": "block"}

    block_at: Id
    plug: Id
    ground: Literal["battery", "plug", "star"] = "battery"
    ways: Literal[4, 6, 8] = 4

    def make(self, b: Builder) -> None:
        """The block, its feed and its ground."""
        back = None
        if self.ground == "battery":
            back = b.plan.battery.id if b.plan.battery else None
        elif self.ground == "star":
            back = b.add("junction", name="star point", place=self.block_at, form="star point")
        b.add("block", name="fuse block on the plug", place=self.block_at, ways=self.ways, feed=self.plug,
              live=b.lives(self.plug), return_to=back)


class Navigation(Intent):
    """A navigation unit with two supply wires."""

    KEY: ClassVar[str] = "navigation"
    TITLE: ClassVar[str] = "Navigation with memory and wake wires"
    SAYS: ClassVar[str] = ("One wire that is always live keeps its memory, one with the key wakes it; each with its "
                           "fuse.")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        at_place("unit_at", "The unit sits at"), fed("The wake wire is fed from"),
        Ask("memory_feed", "The memory wire is fed from", kind="choice"), Ask("watts", "Draws awake", unit="W"),
        Ask("memory_ma", "Memory draws", unit="mA"))
    PLACES: ClassVar[dict[str, str]] = {"unit_at": "handlebar"}

    unit_at: Id
    feed: Id
    memory_feed: Id
    watts: Watts = 6
    memory_ma: Annotated[float, Field(gt=0, le=500)] = 4

    def make(self, b: Builder) -> None:
        """Two circuits of one unit."""
        common: dict[str, Any] = {"category": "electronics", "place": self.unit_at, "at_v": 13.5, "window_low_v": 10,
                  "window_high_v": 30, "supplied_lead": "A step-down box that stays in: do not cut it out."}
        b.add("load", name="Navigation", amount=self.watts, feed=self.feed, live=b.lives(self.feed), **common)
        b.add("load", name="Navigation, memory", behaviour="current", unit="A", amount=self.memory_ma / 1000,
              feed=self.memory_feed, live="always", reason_always="keeps its memory", **common)


class ChargingLead(Intent):
    """A lead to charge the battery by."""

    KEY: ClassVar[str] = "charging lead"
    TITLE: ClassVar[str] = "Charging lead"
    SAYS: ClassVar[str] = "Always live, with a fuse at the battery and a cap on its end: it is fed from outside."
    ASKS: ClassVar[tuple[Ask, ...]] = (
        at_place("end_at", "It ends at"), fed("It goes to"), Ask("most_a", "The charger gives up to", unit="A"),
        Ask("rated_a", "Its connector carries", unit="A"))
    PLACES: ClassVar[dict[str, str]] = {"end_at": "panel"}

    end_at: Id
    feed: Id
    most_a: Annotated[float, Field(gt=0, le=60)] = 4
    rated_a: Annotated[float, Field(gt=0, le=100)] = 10

    def make(self, b: Builder) -> None:
        """A lead with its fuse at the battery, and a cap."""
        b.add("lead", name="charging lead", place=self.end_at, feed=self.feed, live="always", use="charging",
              charger_a=self.most_a, covered=True, rated_a=self.rated_a)


class RunOutput(Intent):
    """The output of a regulator that lives only while the engine turns."""

    KEY: ClassVar[str] = "run output"
    TITLE: ClassVar[str] = "The regulator's run-only output"
    SAYS: ClassVar[str] = ("A wire of the regulator that lives while the engine turns and drops out some seconds "
                           "after: something to feed lamps from, or to pull a relay in. Not confirmed until it is "
                           "read.")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        at_place("output_at", "It is reached at"), Ask("rated_a", "Max. current", unit="A"),
        Ask("off_delay_s", "Drops out after", unit="s"),
        Ask("wire_colour", "Its wire is", kind="text", optional=True))
    FITS: ClassVar[tuple[SystemKind, ...]] = ("battery", "ignition_only")
    ADDS: ClassVar[bool] = False
    LEADS_TO: ClassVar[tuple[str, str]] = ("survey", "probe")
    PLACES: ClassVar[dict[str, str]] = {"output_at": "generator"}

    output_at: Id
    rated_a: Annotated[float, Field(gt=0, le=60)] = 10
    off_delay_s: Annotated[float, Field(ge=0, le=600)] = 5
    wire_colour: Annotated[str, Field(max_length=20)] = ""

    @classmethod
    def lacks(cls, plan: Plan) -> str:
        """The generator with its regulator."""
        return "" if plan.generator else "Enter the generator with its regulator under Survey first."

    def make(self, b: Builder) -> None:
        """A found wire that lives with the engine."""
        if b.plan.generator is None:
            raise refuse("", "output_at", self.lacks(b.plan))
        b.add("tap", name=f"run-only output of the {b.plan.generator.name}"[:80], place=self.output_at, live="engine",
              rated_a=self.rated_a, off_delay_s=self.off_delay_s, fused_a=None, wire_colour=self.wire_colour,
              standing="believed", typical=("source_mohm",))
