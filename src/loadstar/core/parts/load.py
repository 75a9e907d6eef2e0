"""An accessory."""

import math
from collections.abc import Iterator, Mapping
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from ..doc.machine import Machine
from ..doc.states import OCCASIONS, Live, States
from ..doc.types import ONE_LINE, AreaMm2, BladeRating, Id, Note
from ..materials import fuses
from ..physics import elements as net
from .asks import BEHAVES, LIVES, Ask, name, place
from .base import Part
from .inside import ASSUMED, FRAME, Branch, Inside
from .terminals import OWN_LEAD, PartTerminal, terminals

# Below this share of its stated voltage a regulated load is taken as a resistance: it keeps the solution defined, and
# every load
# that ends there is reported as not carried.
FLOOR_SHARE = 0.44
DIODE_V = 0.7  # of one diode of an accessory's own rectifier, usual
LIGHT_EXPONENT = 3.4  # of an incandescent lamp's light over its voltage
BODY_OHM = 0.010  # an accessory's negative through its mounting to the frame, assumed
CATEGORIES = (("lamp", "lamp"), ("heating", "heating"), ("electronics", "electronics, charger"),
              ("tracker", "tracker, alarm"), ("motor", "motor, pump"), ("other", "other"))


def in_words(values: Mapping[str, Any]) -> str:
    """What a load's fields say, in a line: "36 W at 13.5 V, constant power, 9-30 V, 8 A for 1 ms"."""
    behaves = dict(BEHAVES)[values["behaviour"]].partition(" (")[0]
    said = [f"{values['amount']:g} {values['unit']} at {values['at_v']:g} V", behaves,
            f"{values['window_low_v']:g}-{values['window_high_v']:g} V"]
    if values["inrush_a"]:
        said.append(f"{values['inrush_a']:g} A for {values['inrush_ms']:g} ms")
    if values["minutes_per_hour"] < 60:
        said.append(f"{values['minutes_per_hour']:g} min an hour")
    if values["standby_ma"]:
        said.append(f"{values['standby_ma']:g} mA on standby")
    return ", ".join(said)


class LoadPart(Part):
    """An accessory: the intent it was added with, kept whole.

    `inrush_ms` is how long an inrush of shape "rectangle" lasts, or the time constant of a "decay" from its peak.
    `body` says whether its negative reaches the frame through its own mounting; `maker_fuse_a` the fuse its maker
    asks for. `runs_on_min` is how long a timer of its own or its feed's keeps it on once the key is off.
    `return_to` is a post, star point, splice or frame joint that its return goes to (null: where its feed's returns
    go). `never_with` names accessories that are said never to be on with it: a belief, that changes no figure.
    `lead_mm2` is the size of the wires that it comes with (a wire at it that is no longer than they are is of that
    size), `lead_box_m` how far from it a box in them sits, `lead_end` what they end in, `lead_plug_mm` the smallest
    round hole that their plug goes through, `lead_fuse_a` the fuse that sits in them by that plug, `live_wire`
    which of them is the live one ("": nobody has found out). `plugged`: the lead goes in where it is fed, by the
    plug that it came with; bare wires get the counterpart of what is there. `rectified`: on AC it has a rectifier
    of its own. `guest`: it stands for what somebody plugs in now and then, and takes away again: none of it is on
    the parked machine. `usual` is the entry of the list of usual accessories that its figures began with.
    """

    kind: Literal["load"] = "load"
    category: Literal["lamp", "heating", "electronics", "tracker", "motor", "other"] = "other"
    behaviour: Literal["resistor", "power", "current", "filament"] = "power"
    amount: Annotated[float, Field(gt=0, le=2000)]
    unit: Literal["W", "A"] = "W"
    at_v: Annotated[float, Field(ge=5, le=100)] = 13.5
    window_low_v: Annotated[float, Field(ge=0, le=100)] = 10.5
    window_high_v: Annotated[float, Field(ge=5, le=150)] = 16
    inrush_a: Annotated[float, Field(ge=0, le=1000)] = 0
    inrush_ms: Annotated[float, Field(ge=0, le=5000)] = 0
    inrush_shape: Literal["rectangle", "decay"] = "rectangle"
    standby_ma: Annotated[float, Field(ge=0, le=5000)] = 0
    minutes_per_hour: Annotated[float, Field(ge=0, le=60)] = 60
    runs_on_min: Annotated[float, Field(ge=0, le=600)] = 0
    live: Live = "key"
    feed: Id
    returns: Literal["own wire", "frame"] = "own wire"
    return_to: Id | None = None
    body: Literal["isolated", "on the frame"] = "isolated"
    maker_fuse_a: BladeRating | None = None
    supplied_lead: Note = ""
    lead_mm2: AreaMm2 | None = None
    lead_box_m: Annotated[float, Field(ge=0, le=5)] | None = None
    lead_end: Literal["", "bare", "plug"] = ""
    lead_plug_mm: Annotated[float, Field(ge=2, le=120)] | None = None
    lead_fuse_a: BladeRating | None = None
    live_wire: Annotated[str, Field(max_length=40), ONE_LINE] = ""
    plugged: bool = False
    rectified: bool = False
    guest: bool = False
    reason_always: Note = ""
    never_with: tuple[Id, ...] = ()
    usual: Annotated[str, Field(pattern=r"^[a-z0-9 -]{0,30}$")] = ""

    PREFIX: ClassVar[str] = "L"
    CONSUMES: ClassVar[bool] = True
    TITLE: ClassVar[str] = "Accessory"
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = terminals(OWN_LEAD, "pos", "neg")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        name("What it is"), Ask("category", "Kind", kind="choice", choices=CATEGORIES),
        Ask("amount", "Draws", unit=""),
        Ask("unit", "Given in", kind="choice", choices=(("W", "watts"), ("A", "amps"))),
        Ask("at_v", "Stated at", "The voltage that the maker states it for."),
        Ask("behaviour", "Behaves as", "LED drivers, chargers, converters: constant power. Heating: a resistor.",
            kind="choice", choices=BEHAVES),
        Ask("live", "Must live", kind="choice", choices=LIVES),
        place("Sits at"), Ask("feed", "Fed from", kind="choice"), Ask("minutes_per_hour", "On for, each hour",
                                                           "Empty: as is usual for when it lives.", optional=True),
        Ask("runs_on_min", "Stays on after the key", "By a timer: minutes.", unit="min"),
        Ask("window_low_v", "Lowest volts it takes"), Ask("window_high_v", "Highest volts it takes"),
        Ask("inrush_a", "Inrush peak", "0 if it has none."), Ask("inrush_ms", "Inrush lasts"),
        Ask("inrush_shape", "Inrush is", "Of a falling peak the time is its time constant.", kind="choice", choices=(
            ("rectangle", "even, for that long"), ("decay", "a peak that falls"))),
        Ask("standby_ma", "Standby draw"),
        Ask("returns", "Returns by", kind="choice",
            choices=(("own wire", "a wire of its own"), ("frame", "the frame"))),
        Ask("return_to", "Its return goes to", "Empty: where its feed's returns go.", kind="choice", optional=True),
        Ask("body", "Its body is", kind="choice",
            choices=(("isolated", "isolated"), ("on the frame", "its negative, on the frame"))),
        Ask("maker_fuse_a", "Maker asks for a fuse of", kind="choice", optional=True, choices=(
            ("", "no wish"), *((f"{a:g}", f"{a:g} A") for a in fuses.RATINGS_A))),
        Ask("supplied_lead", "In the maker's lead", "A step-down box, fuse or switch that stays in.", kind="note",
            optional=True),
        Ask("lead_mm2", "Its lead's wires are", "Empty: not said.", kind="choice", optional=True),
        Ask("lead_box_m", "The box sits from it", optional=True),
        Ask("lead_end", "Its lead ends in", kind="choice", optional=True,
            choices=(("", "not said"), ("bare", "bare wires"), ("plug", "a plug"))),
        Ask("lead_plug_mm", "That plug just passes a hole of", "Round; of a square one from corner to corner.",
            optional=True),
        Ask("plugged", "Its lead is plugged in where it is fed", "As it came, nothing cut and nothing bought; bare "
            "wires get the plug that fits there.", kind="yes"),
        Ask("lead_fuse_a", "Fuse in its lead", "Taken to sit 0.1 m from its plug.", kind="choice", optional=True,
            choices=(("", "none, or not said"), *((f"{a:g}", f"{a:g} A") for a in fuses.RATINGS_A))),
        Ask("live_wire", "Its live wire is", "Colour, stripe or pin: as its maker says, or as found. Empty: not found "
            "yet.", kind="text", optional=True),
        Ask("guest", "Put in now and then", "An outlet's user: not counted while parked.", kind="yes"),
        Ask("rectified", "Has a rectifier for AC", kind="yes"),
        Ask("never_with", "Never on together with", "As you know it. Nothing is left out for it: only a contact keeps "
            "two things apart.", kind="several", optional=True),
        Ask("reason_always", "Why always live", "Only if it must live with the key off.", kind="note", optional=True))

    @property
    def hangs_by(self) -> tuple[Any, ...]:
        """Its feed, when it lives, and how it returns; of a lead that is plugged in as it came, all of that."""
        as_it_came = (self.lead_mm2, self.own_lead_m, self.lead_fuse_a, self.lead_end) if self.plugged else ()
        return self.feed, self.live, self.returns, self.return_to, self.plugged, *as_it_came

    @property
    def ends_in_plug(self) -> bool:
        """Whether its own lead does."""
        return self.lead_end == "plug" or (self.plugged and self.lead_end != "bare")

    def as_led(self, watts: float) -> dict[str, Any]:
        """What is changed of a filament lamp where an LED lamp of so many watts takes its place."""
        return {"amount": watts, "unit": "W", "behaviour": "power", "inrush_a": 0, "inrush_ms": 0,
                "window_low_v": round(0.7 * self.at_v, 2), "window_high_v": round(1.35 * self.at_v, 2)}

    @property
    def own_return(self) -> str | None:
        """As told."""
        return self.return_to

    @property
    def listed_as(self) -> str:
        """What it is usually called."""
        return self.usual

    @property
    def own_figure(self) -> str:
        """What it draws."""
        return "amount"

    @property
    def own_switch(self) -> bool:
        """What lies before it switches it."""
        return False

    @property
    def power_w(self) -> float:
        """Watts at the stated voltage."""
        return self.amount if self.unit == "W" else self.amount * self.at_v

    @property
    def current_a(self) -> float:
        """Amps at the stated voltage."""
        return self.amount if self.unit == "A" else self.amount / self.at_v

    def draws_a(self, voltage_v: float) -> float:
        """What it draws at a voltage across it."""
        if self.behaviour == "resistor":
            return voltage_v * self.power_w / self.at_v**2
        if self.behaviour == "filament":
            return float(self.current_a * (voltage_v / self.at_v) ** net.FILAMENT_EXPONENT)
        return self.power_w / voltage_v if self.behaviour == "power" else self.current_a

    def effect_frac(self, voltage_v: float) -> float | None:
        """Light or warmth at a voltage as a share of that at its stated one; None where it regulates itself."""
        exponent = {"filament": LIGHT_EXPONENT, "resistor": 2.0}.get(self.behaviour)
        return None if exponent is None else float((voltage_v / self.at_v) ** exponent)

    def sees_v(self, across_v: float, *, on_ac: bool) -> float:
        """What it gets of the volts across it: behind a rectifier of its own on AC the peak less two diodes."""
        return max(0.0, math.sqrt(2) * across_v - 2 * DIODE_V) if on_ac and self.rectified else across_v

    @property
    def effect_words(self) -> str:
        """What it is that goes with its volts."""
        return "light" if self.behaviour == "filament" else "warmth" if self.category == "heating" else "power"

    def average_a(self, on_a: float) -> float:
        """Amps over the hour: on for its minutes (what flashes, half of them), on standby for the rest."""
        occasion = OCCASIONS.get(self.live)
        busy = self.minutes_per_hour / 60 * (occasion.duty if occasion else 1.0)
        return busy * on_a + (1 - busy) * self.standby_ma / 1000

    @property
    def net_load(self) -> net.Load:
        """Resistor by V^2/P at its stated voltage, lamp, or constant watts or amps. Behind a rectifier for AC it is
        taken as a resistance too: such lamps limit their current by one (assumed)."""
        plus, minus = self.at("pos"), self.at("neg")
        if self.behaviour == "resistor" or (self.rectified and self.behaviour != "filament"):
            return net.Load(self.id, plus, minus, net.RESISTIVE, self.at_v**2 / self.power_w)
        if self.behaviour == "filament":
            return net.Load(self.id, plus, minus, net.FILAMENT, self.power_w, 0.0, self.at_v)
        floor = FLOOR_SHARE * self.at_v
        if self.behaviour == "power":
            return net.Load(self.id, plus, minus, net.CONSTANT_POWER, self.power_w, floor)
        return net.Load(self.id, plus, minus, net.CONSTANT_CURRENT, self.current_a, floor)

    def inside(self, machine: Machine) -> Inside:
        """What it draws, and its mounting where its negative is on it."""
        body = Branch(self.element("body"), self.at("neg"), FRAME, BODY_OHM, "joint to the frame", ASSUMED,
                      joint=f"the mounting of {self.name} ({self.id})")
        return Inside(branches=(body,) if self.body == "on the frame" else (), elements=(self.net_load,),
                      shorted=((self.at("pos"), self.at("neg")),))

    def takes(self, state: States, machine: Machine) -> float | None:
        """Always the same, so far as its circuit feeds it; nothing of what is put in only while somebody is there."""
        return 0.0 if self.guest and state == "parked" else None

    def contradictions(self) -> Iterator[tuple[str, str]]:
        """Its window has a lower and an upper end; of a lead that is plugged in as it came everything is said."""
        if self.window_low_v >= self.window_high_v:
            yield "window_low_v", (
                f"{self.name} accepts from {self.window_low_v:g} V to {self.window_high_v:g} V: the lower limit "
                                   "must be the smaller.")
        if self.plugged and not self.own_lead_m:
            yield "lead_m", f"{self.name} is plugged in by its own lead: say how long that is."
        if self.plugged and self.lead_mm2 is None:
            yield "lead_mm2", f"{self.name} is plugged in by its own lead: say what size its wires are."
        if self.plugged and (self.return_to or self.returns == "frame"):
            yield "return_to" if self.return_to else "returns", (
                f"{self.name} is plugged in by its own lead: it returns by its plug, on a wire of its own.")
        if self.lead_fuse_a and not self.plugged:
            yield "lead_fuse_a", (f"A fuse in the lead of {self.name} counts where that is plugged in. Else say which "
                                  "fuse its maker asks for.")
