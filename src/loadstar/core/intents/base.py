"""What an intent is, and what those that make lamps and feeds have in common."""

from dataclasses import dataclass
from typing import Annotated, Any, ClassVar

from pydantic import Field

from ..doc.machine import SystemKind
from ..doc.states import Live
from ..doc.types import Doc
from ..edits.builder import Builder
from ..materials.conductors import AREAS_MM2
from ..parts.asks import Ask
from ..plan.model import Plan

Watts = Annotated[float, Field(gt=0, le=500)]
ENGINE: tuple[SystemKind, ...] = ("battery", "total_loss", "ignition_only")
ANY: tuple[SystemKind, ...] = (*ENGINE, "magneto", "pack")
# of what is done to a wire that is there
NO_WIRES = ("There is no wire on this plan yet that stays as it is. Put down the circuit first as it is wired now: "
            "“A circuit that is there”.")
SIZES = tuple((f"{a:g}", f"{a:g} mm²") for a in AREAS_MM2)  # of wires that are there
BULB = (("filament", "filament lamps"), ("power", "LED lamps"))


def at_place(field: str, label: str) -> Ask:
    return Ask(field, label, kind="choice")


def fed(label: str = "Fed from") -> Ask:
    return Ask("feed", label, kind="choice")

# What lamps, horns and the like hang on best, where there is a choice; by what is asked, or usually.
SUITS: dict[str, tuple[str, ...]] = {
    "memory_feed": ("battery", "block", "junction"), "horn_feed": ("block", "battery", "junction"), "plug": ("tap",)}
USUAL_ORDER = ("block", "converter", "port", "coil", "battery", "tap", "pack")  # a found wire may stand very little


def suits(key: str, ask: str) -> tuple[str, ...]:
    """The kinds of part that may feed what an intent asks for, what suits it best first."""
    return SUITS.get(ask, ("battery",) if key == "charging lead" else USUAL_ORDER)


class Intent(Doc):
    """What is wanted, with what was asked. A kind of it says what it is for, what it asks, and makes it."""

    KEY: ClassVar[str]
    TITLE: ClassVar[str]
    SAYS: ClassVar[str]  # what comes of it, in a line
    ASKS: ClassVar[tuple[Ask, ...]]
    FITS: ClassVar[tuple[SystemKind, ...]] = ENGINE
    PLACES: ClassVar[dict[str, str]] = {}  # for what each of its places is there: the use of a body's place

    ADDS: ClassVar[bool] = True  # whether an accessory comes with it, or a way to feed one; False: of what is there
    LEADS_TO: ClassVar[tuple[str, str]] = ("circuits", "")  # the page, and its view, where what it made is seen
    OF_THE_PLAN: ClassVar[tuple[str, ...]] = ()  # what it asks is chosen among, where that is neither place nor feed

    @classmethod
    def choices(cls, plan: Plan, ask: str) -> list[tuple[str, str]]:
        """What there is to choose from for one of `OF_THE_PLAN`."""
        return []

    @classmethod
    def lacks(cls, plan: Plan) -> str:
        """What has to be on the plan before it can be made, in a sentence; "" where nothing is missing."""
        return ""

    @classmethod
    def usual(cls, plan: Plan) -> dict[str, Any]:
        """What the form begins with on a machine, where that is not what the fields have."""
        return {}

    def make(self, b: Builder) -> None:
        """Make it, edit by edit."""
        raise NotImplementedError


def lamp_values(plan: Plan, behaves: str) -> dict[str, Any]:
    """How lamps behave on this machine, and their volts."""
    volts = plan.machine.system_v if plan.machine.system in ("magneto", *ENGINE) else 12
    if behaves == "power":  # on a magneto's AC each with a rectifier of its own
        return {"category": "lamp", "behaviour": "power", "at_v": volts, "window_low_v": round(0.7 * volts, 2),
                "window_high_v": round(1.35 * volts, 2), "rectified": plan.machine.system == "magneto"}
    return {"category": "lamp", "behaviour": "filament", "at_v": volts, "window_low_v": 0,
            "window_high_v": round(1.3 * volts, 2), "returns": "frame" if plan.machine.system == "magneto" else
            plan.rules.returns}


def inrush(watts: float, values: dict[str, Any]) -> dict[str, Any]:
    """A cold filament takes ten times its current for some ten milliseconds."""
    if values["behaviour"] != "filament":
        return {}
    return {"inrush_a": round(10 * watts / values["at_v"], 1), "inrush_ms": 10, "inrush_shape": "decay"}


def switches(plan: Plan, *lives: Live) -> list[tuple[str, str]]:
    """A new switch, or one of the plan's own that is made for all of these and whose feed is free."""
    found = [s for s in plan.of_kind("selector") if all(s.gives(live) for live in lives) and s.above is None]
    return [("", "a new one"), *((s.id, f"{s.name} ({s.id})") for s in found)]


def switch_of(b: Builder, there: str | None, feed: str, **new: Any) -> str:
    """A switch of the plan, fed from here; or a new one."""
    if there is None:
        return b.add("selector", feed=feed, live=b.lives(feed), **new)
    b.change(there, feed=feed, live=b.lives(feed))
    return there


@dataclass(frozen=True)
class Lamps:
    """Lamps to be made alike: how they behave, and on what they hang."""

    b: Builder
    behaves: str
    feed: str

    def add(self, name: str, place: str, watts: float, live: Live) -> str:
        """One more; its id."""
        values = lamp_values(self.b.plan, self.behaves)
        return self.b.add("load", name=name, place=place, amount=watts, feed=self.feed, live=live, **values,
                          **inrush(watts, values))
