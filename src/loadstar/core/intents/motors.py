"""What turns or sounds: a horn, a starter, a fan."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..doc.types import Id
from ..edits import AddWire, MoveEnd
from ..edits.builder import Builder
from ..errors import refuse
from ..materials.typical import starter_a
from ..parts.asks import Ask
from ..parts.starter import Starter
from ..supply.choose import supply_of
from .base import Intent, Watts, at_place, fed


class Horn(Intent):
    """A horn on a button."""

    KEY: ClassVar[str] = "horn"
    TITLE: ClassVar[str] = "Horn on a button"
    SAYS: ClassVar[str] = ("A button at the bars, and the horn behind a relay that it pulls in; or straight on the "
                           "button, where that stands its current.")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        at_place("horn_at", "The horn sits at"), at_place("button_at", "The button at"),
        Ask("through", "Works", kind="choice", choices=(("relay", "through a relay"), ("button", "on the button"))),
        fed("The button is fed from"), Ask("horn_feed", "The horn is fed from", "Behind its relay.", kind="choice"),
        Ask("watts", "Draws", unit="W"))
    PLACES: ClassVar[dict[str, str]] = {"horn_at": "front", "button_at": "handlebar"}

    horn_at: Id
    button_at: Id
    through: Literal["relay", "button"] = "relay"
    feed: Id
    horn_feed: Id
    watts: Watts = 45

    def make(self, b: Builder) -> None:
        """Button, horn, and the relay between."""
        button = b.add("selector", name="horn button", use="button", place=self.button_at, feed=self.feed,
                       positions="off; horn: in+out", live=b.lives(self.feed))
        b.add("load", name="Horn", category="motor", behaviour="current", place=self.horn_at, amount=self.watts,
              at_v=13.5, window_low_v=10, live="horn", feed=button if self.through == "button" else self.horn_feed)


class StarterControl(Intent):
    """A starter with its button."""

    KEY: ClassVar[str] = "starter"
    TITLE: ClassVar[str] = "Starter with button and solenoid"
    SAYS: ClassVar[str] = ("The solenoid into the starter's lead, its coil on a button, and a neutral or clutch switch "
                           "before that.")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        at_place("solenoid_at", "The solenoid at"), at_place("button_at", "The button at"),
        at_place("starter_at", "The starter at"), fed("The button is fed from"),
        Ask("safety", "Before the button", kind="choice", choices=(
            ("neutral switch", "a neutral switch"), ("clutch switch", "a clutch switch"),
            ("stand switch", "a stand switch"), ("none", "nothing"))),
        at_place("safety_at", "That switch at"), Ask("coil_ohm", "The solenoid's coil"))
    PLACES: ClassVar[dict[str, str]] = {"solenoid_at": "battery", "button_at": "handlebar", "starter_at": "generator",
                                        "safety_at": "generator"}

    solenoid_at: Id
    button_at: Id
    starter_at: Id
    feed: Id
    safety: Literal["neutral switch", "clutch switch", "stand switch", "none"] = "neutral switch"
    safety_at: Id
    coil_ohm: Annotated[float, Field(ge=1, le=200)] = 4

    def make(self, b: Builder) -> None:
        """Solenoid in the lead, its coil's circuit."""
        if b.plan.machine.cranking_a <= 0:  # of one that had no starter yet: usual, until it is measured
            b.machine(cranking_a=starter_a(b.plan.machine.kind), typical=("cranking_a",))
        starter = b.plan.one(Starter)
        starter_id = starter.id if starter else b.add("starter", name="starter", place=self.starter_at)
        begins = supply_of(b.plan).ends
        lead = next((w for w in b.plan.wires if {w.a, w.b} == {begins[0], b.plan.part(starter_id).at("pos")}), None)
        if lead is None:
            raise refuse(starter_id, "id", "The starter's lead does not come straight from the battery: put the "
                                           "solenoid in yourself.")
        solenoid = b.add("solenoid", name="starter solenoid", place=self.solenoid_at, coil_ohm=self.coil_ohm,
                         pull_in_v=round(0.6 * b.plan.machine.system_v, 1), suppression="diode")
        b.do(MoveEnd(id=lead.id, end="a" if lead.a == begins[0] else "b", to=f"{solenoid}.b"))
        b.do(AddWire(a=begins[0], b=f"{solenoid}.a", values={"colour": "RD"}))
        feed, live = self.feed, b.lives(self.feed)
        if self.safety != "none":
            feed = b.add("selector", name=self.safety, use="safety switch", place=self.safety_at, feed=feed, live=live,
                         positions="may start: in+out; may not")
        button = b.add("selector", name="starter button", use="button", place=self.button_at, feed=feed, live=live,
                       positions="off; start: in+out")
        b.do(AddWire(a=f"{button}.out", b=f"{solenoid}.plus", values={"colour": "YE"}))
        b.do(AddWire(a=f"{solenoid}.minus", b=begins[1], values={"colour": "BK"}))


class Fan(Intent):
    """A fan that comes on by itself."""

    KEY: ClassVar[str] = "fan"
    TITLE: ClassVar[str] = "Fan by thermostat and switch"
    SAYS: ClassVar[str] = "A thermostat and a switch beside it; the fan on both, or behind a relay that they pull in."
    ASKS: ClassVar[tuple[Ask, ...]] = (
        at_place("fan_at", "The fan sits at"), at_place("thermostat_at", "The thermostat at"),
        at_place("switch_at", "The switch at"), fed("The switches are fed from"),
        Ask("relay_from", "By a relay, fed from", kind="choice", optional=True),
        Ask("watts", "Draws", unit="W"))
    PLACES: ClassVar[dict[str, str]] = {"fan_at": "front", "thermostat_at": "front", "switch_at": "handlebar"}

    fan_at: Id
    thermostat_at: Id
    switch_at: Id
    feed: Id
    relay_from: Id | None = None
    watts: Watts = 70

    def make(self, b: Builder) -> None:
        """Thermostat, switch, fan."""
        live = b.lives(self.feed)
        warm = b.add("selector", name="fan thermostat", use="thermostat", place=self.thermostat_at, feed=self.feed,
                     positions="off; hot: in+out", live=live)
        b.add("selector", name="fan switch", place=self.switch_at, beside=warm, positions="off; on: in+out", live=live)
        b.add("load", name="Fan", category="motor", behaviour="current", place=self.fan_at, amount=self.watts,
              at_v=13.5, window_low_v=9, live="hot", feed=self.relay_from or warm, inrush_a=round(self.watts / 4.5, 1),
              inrush_ms=200, inrush_shape="decay")
