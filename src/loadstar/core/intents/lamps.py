"""Lamps that others see and are seen by: two beams, indicators, the brake lamp."""

from typing import Any, ClassVar, Literal

from ..doc.machine import SystemKind
from ..doc.types import Id
from ..edits.builder import Builder
from ..edits.stepped import stepped_down
from ..parts.asks import Ask
from ..plan.model import Plan
from .base import ANY, BULB, ENGINE, Intent, Lamps, Watts, at_place, fed, switch_of, switches

LEAST_V = 9.0  # of a machine whose head lamp is of 55 and 60 W


class HeadLamp(Intent):
    """A head lamp with two beams."""

    KEY: ClassVar[str] = "head lamp"
    TITLE: ClassVar[str] = "Head lamp with dip switch"
    SAYS: ClassVar[str] = "A switch that changes over between dipped and main beam: never both. Straight, or by relays."
    ASKS: ClassVar[tuple[Ask, ...]] = (
        at_place("lamp_at", "The lamp sits at"), Ask("by_switch", "Its switch", kind="choice", optional=True),
        at_place("switch_at", "A new one at"), fed("The switch is fed from"),
        Ask("has_off", "The switch has", kind="choice", choices=(("yes", "off, dip and main"), ("no", "dip and main"))),
        Ask("lamps", "Beams are", kind="choice", choices=BULB), Ask("dip_w", "Dipped beam", unit="W"),
        Ask("main_w", "Main beam", unit="W"),
        Ask("relays_from", "By relays, fed from", kind="choice", optional=True))
    FITS: ClassVar[tuple[SystemKind, ...]] = ANY
    PLACES: ClassVar[dict[str, str]] = {"lamp_at": "front", "switch_at": "handlebar"}

    OF_THE_PLAN: ClassVar[tuple[str, ...]] = ("by_switch",)

    lamp_at: Id
    by_switch: Id | None = None
    switch_at: Id
    feed: Id
    has_off: Literal["yes", "no"] = "yes"
    lamps: Literal["filament", "power"] = "filament"
    dip_w: Watts = 55
    main_w: Watts = 60
    relays_from: Id | None = None

    @classmethod
    def choices(cls, plan: Plan, ask: str) -> list[tuple[str, str]]:
        """Switches of the plan that do it."""
        return switches(plan, "dip", "main")

    @classmethod
    def usual(cls, plan: Plan) -> dict[str, Any]:
        """An e-bike's lamps are LED, a magneto's have its coil's watts, those of a 6 V battery are small."""
        by_system: dict[str, dict[str, Any]] = {"pack": {"lamps": "power", "dip_w": 12.0, "main_w": 20.0},
                                                "magneto": {"dip_w": 15.0, "main_w": 15.0}}
        small = {"dip_w": 25.0, "main_w": 25.0} if plan.machine.system_v < LEAST_V else {}
        return by_system.get(plan.machine.system, small)

    def make(self, b: Builder) -> None:
        """Switch and two beams."""
        off = "off; " if self.has_off == "yes" else ""
        most_w = max(self.dip_w, self.main_w)
        begins = stepped_down(b, self.feed, most_w)
        switch = switch_of(b, self.by_switch, begins, name="dip switch", place=self.switch_at,
                           positions=f"{off}dip: in+dip; main: in+main")
        feed = stepped_down(b, self.relays_from, most_w) if self.relays_from else switch
        beams = Lamps(b, self.lamps, feed)
        beams.add("Dipped beam", self.lamp_at, self.dip_w, "dip")
        beams.add("Main beam", self.lamp_at, self.main_w, "main")


class Indicators(Intent):
    """Indicators left and right."""

    KEY: ClassVar[str] = "indicators"
    TITLE: ClassVar[str] = "Indicators with a flasher"
    SAYS: ClassVar[str] = "A flasher, a switch left and right, and two lamps on each side."
    ASKS: ClassVar[tuple[Ask, ...]] = (
        at_place("front_at", "Front lamps at"), at_place("rear_at", "Rear lamps at"),
        Ask("by_switch", "Their switch", kind="choice", optional=True), at_place("switch_at", "A new one at"),
        at_place("flasher_at", "The flasher at"), fed(),
        Ask("lamps", "Lamps", kind="choice", choices=BULB), Ask("watts", "Each draws", unit="W"),
        Ask("way", "The flasher works by", kind="choice", choices=(
            ("fixed rate", "electronics, any load"), ("load sensing", "electronics, sensing the lamps"),
            ("thermal", "heat of the lamps' current"))))
    FITS: ClassVar[tuple[SystemKind, ...]] = (*ENGINE, "pack")
    PLACES: ClassVar[dict[str, str]] = {"front_at": "front", "rear_at": "tail", "switch_at": "handlebar",
                                        "flasher_at": "block"}

    OF_THE_PLAN: ClassVar[tuple[str, ...]] = ("by_switch",)

    front_at: Id
    rear_at: Id
    by_switch: Id | None = None
    switch_at: Id
    flasher_at: Id
    feed: Id
    lamps: Literal["filament", "power"] = "power"
    watts: Watts = 1.5
    way: Literal["thermal", "load sensing", "fixed rate"] = "fixed rate"

    @classmethod
    def choices(cls, plan: Plan, ask: str) -> list[tuple[str, str]]:
        """Switches of the plan that do it."""
        return switches(plan, "left", "right")

    def make(self, b: Builder) -> None:
        """Flasher, switch, four lamps."""
        feed = stepped_down(b, self.feed, 4 * self.watts)
        flasher = b.add("flasher", name="flasher", place=self.flasher_at, way=self.way, feed=feed,
                        live=b.lives(feed), made_for_w=42 if self.lamps == "power" else 2 * self.watts)
        switch = switch_of(b, self.by_switch, flasher, name="indicator switch", place=self.switch_at,
                           positions="off; left: in+left; right: in+right")
        for live in ("left", "right"):
            for end, place in (("front", self.front_at), ("rear", self.rear_at)):
                Lamps(b, self.lamps, switch).add(f"Indicator {live} {end}", place, self.watts, live)


class BrakeLamp(Intent):
    """A brake lamp on lever and pedal."""

    KEY: ClassVar[str] = "brake lamp"
    TITLE: ClassVar[str] = "Brake lamp on lever and pedal"
    SAYS: ClassVar[str] = "Two switches beside one another, and the lamp on both."
    ASKS: ClassVar[tuple[Ask, ...]] = (
        at_place("lamp_at", "The lamp sits at"), at_place("lever_at", "The lever's switch at"),
        at_place("pedal_at", "The pedal's switch at"), fed(), Ask("lamps", "The lamp is", kind="choice", choices=BULB),
        Ask("watts", "Draws", unit="W"))
    FITS: ClassVar[tuple[SystemKind, ...]] = ANY
    PLACES: ClassVar[dict[str, str]] = {"lamp_at": "tail", "lever_at": "handlebar", "pedal_at": "generator"}

    lamp_at: Id
    lever_at: Id
    pedal_at: Id
    feed: Id
    lamps: Literal["filament", "power"] = "filament"
    watts: Watts = 21

    @classmethod
    def usual(cls, plan: Plan) -> dict[str, Any]:
        """An e-bike's is LED; a magneto gives less than a battery."""
        by_system: dict[str, dict[str, Any]] = {"pack": {"lamps": "power", "watts": 2.0}, "magneto": {"watts": 10.0}}
        return by_system.get(plan.machine.system, {})

    def make(self, b: Builder) -> None:
        """Lever, pedal, lamp."""
        feed = stepped_down(b, self.feed, self.watts)
        live = b.lives(feed)
        lever = b.add("selector", name="brake lever switch", use="brake switch", place=self.lever_at, feed=feed,
                      positions="off; brake: in+out", live=live)
        b.add("selector", name="brake pedal switch", use="brake switch", place=self.pedal_at, beside=lever, live=live,
              positions="off; brake: in+out")
        Lamps(b, self.lamps, lever).add("Brake lamp", self.lamp_at, self.watts, "brake")
