"""Usual accessories, as they are sold for 12 V and for e-bikes: what they draw and how they behave.

From general knowledge of such things, of no make. Everything here is a place to begin from; what counts is the label.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Literal

from .typical import Band

Where = Literal["handlebar", "front", "seat", "rider", "tail", "panel"]  # where on a machine such a thing goes
Group = Literal["Warmth", "Lamps", "Charging and navigation", "Safety and tracking", "Sound and radio", "Motors",
                "Lamps of the machine", "E-bike"]
GRIPS_V = 14.2  # what heating is stated at


@dataclass(frozen=True)
class Usual:
    """One of them. `amount` in `unit`, stated at `at_v`; the rest as a load has it. `lead`
    says what its maker's lead usually contains, `label` what to read on it."""

    key: str
    name: str
    group: Group
    where: Where
    amount: Band
    category: str = "electronics"
    behaviour: str = "power"
    at_v: float = 13.5
    window_v: tuple[float, float] = (9, 16)
    inrush: tuple[float, float, str] = (0, 0, "rectangle")
    standby_ma: float = 0
    minutes_per_hour: float = 60
    live: str = "key"
    lead: str = ""
    label: str = "the watts, and at how many volts"
    unit: str = "W"
    systems: tuple[str, ...] = ("battery", "total_loss", "ignition_only")
    reason: str = ""
    by: Literal["", "horn", "brake"] = ""  # the occasion that it is worked by
    guest: bool = False  # put in now and then
    own: bool = False  # of a machine with magneto lighting, that comes with it

    def figures(self) -> dict[str, Any]:
        """The fields of a load that it stands for."""
        peak_a, lasts_ms, shape = self.inrush
        return {"category": self.category, "behaviour": self.behaviour, "amount": self.amount.usual, "unit": self.unit,
                "at_v": self.at_v, "window_low_v": self.window_v[0], "window_high_v": self.window_v[1],
                "inrush_a": peak_a, "inrush_ms": lasts_ms, "inrush_shape": shape, "standby_ma": self.standby_ma,
                "minutes_per_hour": self.minutes_per_hour}

    @property
    def feeds_from_port(self) -> bool:
        """Whether an e-bike's light port is where it belongs."""
        return self.category == "lamp" and "pack" in self.systems and self.amount.usual <= 17

    def bands(self) -> dict[str, Band]:
        """Its figures of which a band is known, by field."""
        return {"amount": self.amount}


def _heat(key: str, name: str, where: Where, watts: Band, **more: Any) -> Usual:
    return Usual(key, name, "Warmth", where, watts, category="heating", behaviour="resistor", at_v=GRIPS_V,
                 window_v=(9, 15.5), label="the watts at full heat", **more)


def _bulb(key: str, name: str, where: Where, watts: Band, at_v: float, group: Group = "Lamps", **more: Any) -> Usual:
    amps = watts.usual / at_v
    return Usual(key, name, group, where, watts, category="lamp", behaviour="filament", at_v=at_v,
                 window_v=(0, 1.3 * at_v), inrush=(round(10 * amps, 1), 10, "decay"), label="the watts on the cap",
                 **more)


def _led(key: str, name: str, where: Where, watts: Band, peak_a: float = 0, **more: Any) -> Usual:
    return Usual(key, name, "Lamps", where, watts, category="lamp", window_v=(9, 32),
                 inrush=(peak_a, 1, "rectangle") if peak_a else (0, 0, "rectangle"),
                 label="the watts of the pair or of one, and the inrush where it is told", **more)


MAGNETO = ("magneto",)
PACK = ("pack",)
ANY_12V = ("battery", "total_loss", "ignition_only", "pack")
_LISTED = (
    _heat("grips", "Heated grips", "handlebar", Band(30, 40, 56), minutes_per_hour=40,
          lead="A controller with its own button, often on a plug at the grip."),
    _heat("vest", "Heated vest", "rider", Band(45, 65, 90), minutes_per_hour=40,
          lead="A quick-disconnect and a fuse in its lead."),
    _heat("gloves", "Heated gloves", "rider", Band(22, 30, 44), minutes_per_hour=40,
          lead="A lead to the vest or a quick-disconnect of its own."),
    _heat("seat", "Heated seat", "seat", Band(25, 40, 55), minutes_per_hour=30,
          lead="A switch and a thermostat under the cover."),
    _led("lamp pair", "LED lamp pair", "front", Band(20, 36, 80), 8, lead="A relay, a switch and a fuse that the block "
         "makes needless."),
    _led("spot", "LED spot lamp", "front", Band(10, 18, 40), 4),
    _bulb("filament pair", "Filament lamp pair", "front", Band(70, 110, 110), 13.2),
    _led("running", "Running lights", "front", Band(4, 6, 12)),
    _led("brake strip", "Brake lamp strip", "tail", Band(2, 5, 8), minutes_per_hour=6),
    _led("number lamp", "Number plate lamp", "tail", Band(1, 2, 5)),
    _led("box lamp", "Lamp in the top box", "tail", Band(1, 3, 6), minutes_per_hour=5),
    _led("work lamp", "Work lamp", "tail", Band(10, 20, 30), 4, minutes_per_hour=10),
    _led("marker", "Marker lamps, amber", "tail", Band(2, 4, 8)),
    Usual("usb", "USB charger, one phone", "Charging and navigation", "handlebar", Band(6, 12, 15),
          window_v=(9, 24), standby_ma=10, inrush=(4, 1, "rectangle")),
    Usual("usb fast", "USB charger, fast", "Charging and navigation", "handlebar", Band(18, 27, 36), window_v=(9, 24),
          standby_ma=15, inrush=(6, 1, "rectangle")),
    Usual("usb laptop", "USB charger, 60 W", "Charging and navigation", "tail", Band(45, 60, 75), window_v=(10, 24),
          standby_ma=15, inrush=(10, 1, "rectangle"), minutes_per_hour=30),
    Usual("navigation", "Navigation unit", "Charging and navigation", "handlebar", Band(4, 6, 10), window_v=(10, 30),
          inrush=(3, 1, "rectangle"), lead="A 10-30 V step-down box that stays in: do not cut it out."),
    Usual("phone mount", "Charging phone mount", "Charging and navigation", "handlebar", Band(10, 15, 20),
          window_v=(9, 24), standby_ma=10, lead="A step-down box in its lead."),
    Usual("socket", "Auxiliary socket", "Charging and navigation", "panel", Band(5, 10, 12), category="other",
          behaviour="current", unit="A", minutes_per_hour=10, guest=True,
          label="the most that the socket and its plug can carry: it counts whatever is put in"),
    Usual("battery warmer", "Battery pad heater", "Warmth", "panel", Band(15, 25, 40), category="heating",
          behaviour="resistor", at_v=13.5, minutes_per_hour=20),
    Usual("camera", "Camera, front and rear", "Safety and tracking", "front", Band(3, 4, 7), window_v=(9, 30),
          standby_ma=20, live="always", reason="It records while parked, too.", lead="A box that cuts off at a low "
          "battery, if its wire is laid: look for it."),
    Usual("tracker", "Satellite tracker", "Safety and tracking", "tail", Band(1, 2.5, 4), category="tracker",
          at_v=12.8, window_v=(8, 30), standby_ma=12, minutes_per_hour=2, live="always",
          reason="It reports while parked.", label="what it draws asleep, mA, and how often it reports"),
    Usual("alarm", "Alarm", "Safety and tracking", "seat", Band(1, 2, 4), category="tracker", at_v=12.8,
          window_v=(9, 16), standby_ma=12, minutes_per_hour=1, live="always", reason="It guards the parked machine.",
          label="what it draws armed, mA"),
    Usual("tyre monitor", "Tyre pressure monitor", "Safety and tracking", "handlebar", Band(0.5, 1, 2)),
    Usual("radar", "Rear warning radar", "Safety and tracking", "tail", Band(3, 5, 8)),
    Usual("logger", "Survey logger", "Safety and tracking", "seat", Band(1, 3, 6), window_v=(9, 30), systems=ANY_12V),
    Usual("horn", "Horn", "Sound and radio", "front", Band(30, 45, 60), category="motor", behaviour="current",
          by="horn", minutes_per_hour=0.5, window_v=(10, 15.5)),
    Usual("loud horn", "Loud horn with compressor", "Sound and radio", "front", Band(120, 160, 220), category="motor",
          behaviour="current", inrush=(40, 60, "rectangle"), by="horn", minutes_per_hour=0.5, window_v=(10, 15.5),
          lead="A relay, that the circuit here makes needless."),
    Usual("radio", "Two-way radio", "Sound and radio", "tail", Band(40, 60, 90), minutes_per_hour=3, standby_ma=900,
          window_v=(11, 15.5), label="watts sending and receiving: between calls it draws the standby current"),
    Usual("intercom", "Intercom charger", "Sound and radio", "handlebar", Band(3, 5, 8), window_v=(9, 24)),
    Usual("speaker", "Amplifier for a speaker", "Sound and radio", "front", Band(15, 30, 60), minutes_per_hour=30,
          inrush=(10, 5, "decay")),
    Usual("inflator", "Tyre inflator", "Motors", "panel", Band(80, 120, 180), category="motor", behaviour="current",
          inrush=(30, 300, "decay"), minutes_per_hour=5, window_v=(10, 15.5)),
    Usual("fan", "Radiator fan", "Motors", "front", Band(45, 70, 110), category="motor", behaviour="current",
          inrush=(15, 200, "decay"), minutes_per_hour=15, window_v=(9, 15.5)),
    Usual("pump", "Fuel or water pump", "Motors", "seat", Band(20, 40, 70), category="motor", behaviour="current",
          inrush=(10, 100, "decay"), minutes_per_hour=10, window_v=(9, 15.5)),
    Usual("cooler", "Sample cooler", "Motors", "tail", Band(36, 45, 60), category="other", behaviour="resistor",
          at_v=13.5, window_v=(10.5, 15.5), minutes_per_hour=40),
    _bulb("magneto head", "Headlamp", "front", Band(15, 24, 35), 6, "Lamps of the machine", live="engine",
          systems=MAGNETO, own=True),
    _bulb("magneto tail", "Tail lamp", "tail", Band(3, 5, 10), 6, "Lamps of the machine", live="engine",
          systems=MAGNETO, own=True),
    _bulb("magneto speedo", "Speedometer lamp", "handlebar", Band(1.2, 1.8, 3), 6, "Lamps of the machine",
          live="engine", systems=MAGNETO, own=True),
    _bulb("magneto stop", "Brake lamp", "tail", Band(5, 10, 21), 6, "Lamps of the machine", live="engine",
          systems=MAGNETO, by="brake", minutes_per_hour=6),
    _bulb("magneto pilot", "Pilot lamp", "front", Band(2, 3, 5), 6, "Lamps of the machine", live="engine",
          systems=MAGNETO),
    Usual("bike lamp", "E-bike front lamp", "E-bike", "handlebar", Band(4, 7.5, 12), category="lamp", at_v=12,
          window_v=(6, 16), systems=PACK, label="the watts at the light port's volts"),
    Usual("bike lamp bright", "E-bike front lamp, bright", "E-bike", "handlebar", Band(15, 20, 30), category="lamp",
          at_v=12, window_v=(9, 16), systems=PACK),
    Usual("bike rear", "E-bike rear lamp", "E-bike", "tail", Band(0.5, 1, 2), category="lamp", at_v=12,
          window_v=(6, 16), systems=PACK),
    Usual("bike horn", "E-bike horn", "E-bike", "handlebar", Band(3, 5, 10), category="other", behaviour="current",
          at_v=12, window_v=(9, 16), by="horn", minutes_per_hour=0.5, systems=PACK),
    Usual("bike cooler", "Sample cooler for the cargo box", "E-bike", "front", Band(30, 40, 60), category="other",
          behaviour="resistor", at_v=12, window_v=(10, 14), systems=PACK, minutes_per_hour=40),
    Usual("bike usb", "USB charger on 12 V", "E-bike", "handlebar", Band(6, 12, 18), at_v=12, window_v=(9, 16),
          systems=PACK),
    Usual("bike tracker", "Tracker in the frame", "E-bike", "seat", Band(0.5, 1, 2), category="tracker", at_v=12,
          window_v=(8, 30), standby_ma=8, minutes_per_hour=2, systems=PACK),
)
ACCESSORIES: Mapping[str, Usual] = {usual.key: usual for usual in _LISTED}


def offered(system: str) -> dict[str, list[Usual]]:
    """The accessories that a machine may be given, by group."""
    groups: dict[str, list[Usual]] = {}
    for usual in _LISTED:
        if system in usual.systems:
            groups.setdefault(usual.group, []).append(usual)
    return groups
