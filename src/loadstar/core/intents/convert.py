"""What becomes something else: a magneto's AC becomes DC with a battery, filament lamps become LED."""

import math
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..doc.machine import SystemKind
from ..doc.types import Id
from ..edits import RemoveElement
from ..edits.builder import Builder
from ..errors import refuse
from ..parts.asks import CHEMISTRIES, Ask
from ..parts.coil import Coil
from ..parts.load import LoadPart
from ..parts.own import OwnLoad
from ..physics.generator import Winding, rectified_a
from ..plan.model import Plan
from .base import ENGINE, Intent, at_place

Watts = Annotated[float, Field(gt=0, le=3000)]
Rpm = Annotated[float, Field(ge=500, le=15000)]
LOW_RPM, HIGH_RPM = 3000.0, 5000.0  # at which a winding is stated, where nobody says otherwise
CHARGE_FRAC = 14.2 / 12  # of a system's volts, what a regulator holds
DIODE_V = 0.95


def coil_w(coil: Coil, volts: float, rpm: float, *, half: bool = False) -> float:
    """Watts that a lighting coil gives into a battery at these volts, rectified: with its end off the frame by both
    halves of the wave, on it by one."""
    winding = Winding(coil.emf_mv_per_rpm * math.sqrt(2) / 1000, coil.reactance_mohm_per_rpm / 1000, coil.winding_ohm,
                      phases=1)
    return rectified_a(winding, rpm, volts, DIODE_V, half) * volts


class ToDc(Intent):
    """Lamps on a magneto's AC become lamps on a battery."""

    KEY: ClassVar[str] = "ac to dc"
    TITLE: ClassVar[str] = "AC lighting to DC with a battery"
    SAYS: ClassVar[str] = ("Rectifier with regulator, a battery with its main fuse, a main switch; every lamp is fed "
                           "from it then. The winding's end comes off the frame; where it stays on, only half of its "
                           "wave is used.")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        at_place("battery_at", "The battery sits at"), at_place("regulator_at", "Rectifier and regulator at"),
        at_place("main_switch_at", "The main switch at"),
        Ask("chemistry", "The battery's kind", kind="choice", choices=CHEMISTRIES),
        Ask("capacity_ah", "Its capacity", unit="Ah"),
        Ask("tied", "The winding's end on the frame", kind="choice", choices=(
            ("floating", "is lifted off it: it floats"), ("frame", "stays: half a wave"))),
        Ask("high_w", "The winding gives, as DC", "Empty: what the coil that is there gives. A stronger one: as its "
            "maker says.", unit="W", optional=True),
        Ask("high_rpm", "at", unit="rpm"),
        Ask("low_w", "and slower", "Empty: as much less as the coil that is there gives.", unit="W", optional=True),
        Ask("low_rpm", "at", unit="rpm"))
    FITS: ClassVar[tuple[SystemKind, ...]] = ("magneto",)
    ADDS: ClassVar[bool] = False
    PLACES: ClassVar[dict[str, str]] = {"battery_at": "battery", "regulator_at": "battery",
                                        "main_switch_at": "handlebar"}
    LEADS_TO: ClassVar[tuple[str, str]] = ("budget", "")

    battery_at: Id
    regulator_at: Id
    main_switch_at: Id
    chemistry: Literal["agm", "flooded", "lfp"] = "agm"
    capacity_ah: Annotated[float, Field(ge=0.5, le=200)] = 4
    tied: Literal["floating", "frame"] = "floating"
    high_w: Watts | None = None
    high_rpm: Rpm = HIGH_RPM
    low_w: Watts | None = None
    low_rpm: Rpm = LOW_RPM

    @classmethod
    def lacks(cls, plan: Plan) -> str:
        """The coil that the lamps hang on."""
        return "" if plan.one(Coil) else "Enter the lighting coil under Survey first."

    def make(self, b: Builder) -> None:
        """The machine gets a battery and a generator where the coil was; what hung on the coil hangs on a switch."""
        coil = b.plan.one(Coil)
        if coil is None:
            raise refuse("", "high_w", self.lacks(b.plan))
        volts = b.plan.machine.system_v
        held_v = round(volts * CHARGE_FRAC, 2)
        half = self.tied == "frame"
        now_low_w, now_high_w = (coil_w(coil, held_v, rpm, half=half) for rpm in (self.low_rpm, self.high_rpm))
        times = self.high_w / now_high_w if self.high_w and now_high_w > 0 else 1.0
        high_w, low_w = self.high_w or round(now_high_w, 1), self.low_w or round(times * now_low_w, 1)
        if low_w < 1 or high_w <= low_w:
            raise refuse("", "high_w" if high_w <= low_w else "low_w", (
                f"Rectified it gives {low_w:g} W at {self.low_rpm:g} rpm and {high_w:g} W at {self.high_rpm:g} rpm: "
                "not enough to charge a battery, or no more at the higher speed. Say what a stronger winding gives, or "
                "look at other speeds."))
        hung = [p for p in b.plan.parts if getattr(p, "feed", None) == coil.id]
        b.machine(system="battery", chassis="negative", size="")
        battery = b.add("battery", name="battery, to be added", place=self.battery_at, chemistry=self.chemistry,
                        nominal_v=volts, capacity_ah=self.capacity_ah, charge_a=round(self.capacity_ah / 10, 2),
                        internal_mohm=round(15 * volts / self.capacity_ah, 1), typical=("internal_mohm", "charge_a"))
        untold = [name for name, said in (("rating1_w", self.low_w), ("rating2_w", self.high_w)) if not said]
        charges = b.add(
            "generator", name="rectified winding", place=self.regulator_at, winding_at=coil.place, phases=1,
            rating1_w=low_w, rating1_rpm=self.low_rpm, rating2_w=high_w, rating2_rpm=self.high_rpm, rating_v=held_v,
            set_v=held_v, phase_ohm=max(0.005, round(coil.winding_ohm / times, 4)), diode_v=DIODE_V,
            regulator="shunt", tied=self.tied, rectifier="half" if half else "full",
            typical=("diode_v", "regulator", "set_v", "phase_ohm", *untold))
        fuse = b.add("fuse", name="charging fuse", place=self.battery_at)
        b.lay(f"{battery}.pos", f"{fuse}.a", colour="RD")
        b.lay(f"{fuse}.b", f"{charges}.pos", colour="RD")
        b.lay(f"{charges}.neg", f"{battery}.neg", colour="BK")
        main = b.add("selector", name="main switch", place=self.main_switch_at, feed=battery, live="always",
                     positions="off; on: in+out")
        for part in hung:
            b.change(part.id, feed=main, live="key")
        b.do(RemoveElement(id=coil.id))
        b.add("removed", name=f"AC wiring of the {coil.name}"[:80], place=coil.place)


class ToLed(Intent):
    """A filament lamp becomes LED."""

    KEY: ClassVar[str] = "led"
    TITLE: ClassVar[str] = "LED in place of filament"
    SAYS: ClassVar[str] = ("What the lamp took and takes now: one of the plan's becomes LED; of what the machine "
                           "itself uses the difference is taken off.")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        Ask("lamp_of", "Which lamp", kind="choice"),
        Ask("was_w", "It took", "Of the machine's own; of a lamp of the plan that is known.", unit="W", optional=True),
        Ask("new_w", "It takes now", unit="W"))
    FITS: ClassVar[tuple[SystemKind, ...]] = ENGINE
    ADDS: ClassVar[bool] = False

    OF_THE_PLAN: ClassVar[tuple[str, ...]] = ("lamp_of",)
    LEADS_TO: ClassVar[tuple[str, str]] = ("budget", "")

    lamp_of: Id
    was_w: Watts | None = None
    new_w: Watts

    @classmethod
    def choices(cls, plan: Plan, ask: str) -> list[tuple[str, str]]:
        """Filament lamps of the plan, then what the machine itself uses."""
        lamps = [load for load in plan.loads if load.behaviour == "filament"]
        return [(p.id, f"{p.name} ({p.id}), {w:g} W") for p, w in (
            *((load, load.power_w) for load in lamps), *((own, own.power_w) for own in plan.of(OwnLoad)))]

    @classmethod
    def lacks(cls, plan: Plan) -> str:
        """A lamp, or what the machine itself uses."""
        there = cls.choices(plan, "lamp_of")
        return "" if there else ("There is neither a filament lamp on this plan nor anything that the machine itself "
                                 "uses: enter that under Survey.")

    def make(self, b: Builder) -> None:
        """One lamp's figures, or the machine's own use."""
        if lamp := b.plan.is_one(self.lamp_of, LoadPart):
            b.change(lamp.id, **lamp.as_led(self.new_w))
            return
        own = b.plan.is_one(self.lamp_of, OwnLoad)
        if own is None:
            raise refuse("", "lamp_of", "That is neither a lamp of the plan nor the machine's own use.")
        if self.was_w is None or self.was_w > own.power_w:
            raise refuse("", "was_w", f"Say what the old lamp took: up to {own.power_w:g} W, which is all of "
                                      f"{own.name}.")
        b.change(own.id, power_w=own.power_w - self.was_w + self.new_w)
