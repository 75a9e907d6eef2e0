"""Usual figures of machines by kind and size class: low, usual and high.

From general knowledge of such machines, of no make: a place to begin from where nothing has been measured yet. A plan
that takes a figure from here marks it typical, and what hangs on it can be asked (whatif/unknown.py).
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

Half = Literal["", "lower", "upper"]


@dataclass(frozen=True)
class Band:
    """A figure as such things have it: seldom below `low` or above `high`."""

    low: float
    usual: float
    high: float

    def half(self, which: Half) -> "Band":
        """The lower or upper half of it, with its middle as usual."""
        if which == "lower":
            return Band(self.low, _rounded((self.low + self.usual) / 2), self.usual)
        if which == "upper":
            return Band(self.usual, _rounded((self.usual + self.high) / 2), self.high)
        return self

    def times(self, factor: float) -> "Band":
        """The same in another unit, or of something that goes with it."""
        return Band(_rounded(self.low * factor), _rounded(self.usual * factor), _rounded(self.high * factor))


PARKED_V = 12.8  # at which a standing draw is turned to watts


def _rounded(value: float) -> float:
    """Three figures: more than anybody knows of a usual figure."""
    return float(f"{value:.3g}")


@dataclass(frozen=True)
class Engine:
    """What a machine with an engine has: supply figures by their usual names."""

    generator_w: Band  # at 5,000 rpm
    idle_share: Band
    phases: int
    regulator: str
    battery_ah: Band
    internal_mohm: Band
    engine_w: Band  # ignition, injection, pump
    lamps_w: Band  # head and tail lamp, instruments
    cranking_a: Band
    standing_ma: Band
    phase_ohm: float
    idle_rpm: int = 1300
    tied: str = "floating"
    rectifier: str = "full"

    def own_w(self, usual: str) -> Band:
        """What the machine itself uses, by the word for it in a plan."""
        return {"engine": self.engine_w, "lamps": self.lamps_w,
                "standing": self.standing_ma.times(PARKED_V / 1000)}[usual]


SMALL = Engine(Band(120, 180, 250), Band(0.2, 0.35, 0.5), 3, "shunt", Band(4, 5, 7), Band(17, 25, 40), Band(25, 40, 60),
               Band(25, 50, 75), Band(50, 70, 90), Band(0, 1, 3), 0.5, idle_rpm=1500)
MIDDLE = Engine(Band(250, 340, 420), Band(0.25, 0.35, 0.5), 3, "shunt", Band(7, 9, 11), Band(10, 15, 22),
                Band(55, 80, 110), Band(35, 75, 85), Band(80, 100, 130), Band(1, 3, 10), 0.25)
TOURING = Engine(Band(400, 500, 650), Band(0.25, 0.4, 0.55), 3, "shunt", Band(11, 12, 16), Band(8, 11, 18),
                 Band(80, 110, 150), Band(45, 85, 150), Band(110, 140, 190), Band(2, 8, 25), 0.15, idle_rpm=1100)
OFF_ROAD = Engine(Band(40, 70, 110), Band(0.15, 0.25, 0.35), 1, "shunt", Band(2, 4, 5), Band(25, 35, 60),
                  Band(10, 15, 40), Band(20, 35, 50), Band(0, 0, 0), Band(0, 0, 0), 0.5, idle_rpm=1700)
UTILITY = Engine(Band(18, 40, 60), Band(0.2, 0.3, 0.4), 1, "shunt", Band(4, 7, 9), Band(15, 22, 40), Band(4, 8, 15),
                 Band(10, 25, 40), Band(0, 0, 60), Band(0, 0, 0), 0.45, idle_rpm=1800, tied="frame", rectifier="half")


@dataclass(frozen=True)
class Electric:
    """What a machine with a traction pack has."""

    pack_wh: Band
    bms_a: Band
    assist_w: float
    full_w: Band
    light_port_w: Band | None
    cell_mohm: Band = field(default=Band(20, 35, 60))


TRAIL = Electric(Band(400, 500, 750), Band(15, 25, 30), 150, Band(450, 650, 850), Band(10, 17, 24))
CARGO = Electric(Band(500, 800, 1100), Band(20, 30, 40), 180, Band(500, 650, 900), Band(10, 17, 24))
DECK = Electric(Band(500, 900, 1500), Band(25, 40, 60), 250, Band(800, 1500, 2000), None)
CELLS: Mapping[int, int] = {36: 10, 48: 13, 52: 14, 60: 16}  # in series, by a pack's nominal volts
CELL_V = 3.6  # an NMC cell's nominal voltage, by which a pack's watt-hours are stated


@dataclass(frozen=True)
class Magneto:
    """A lighting coil on its own: EMF and reactance by the speed, and its winding's resistance."""

    emf_mv_per_rpm: Band
    reactance_mohm_per_rpm: Band
    winding_ohm: Band


MAGNETO_6V = Magneto(Band(6.5, 7.8, 9), Band(1.1, 1.38, 1.7), Band(0.2, 0.3, 0.5))
# the same power at twice the volts: twice the turns, four times reactance and resistance
MAGNETO_12V = Magneto(Band(13, 15.6, 18), Band(4.4, 5.5, 6.8), Band(0.8, 1.2, 2.0))


@dataclass(frozen=True)
class SizeClass:
    """A size class of a kind of machine: its words, what it runs on, and its figures."""

    key: str
    words: str
    system: str
    system_v: int
    figures: Engine | Electric | Magneto
    half: Half = ""

    @property
    def series(self) -> int:
        """Cells in series of its pack."""
        return CELLS[self.system_v]


def _packs(figures: Electric, *volts: int) -> tuple[SizeClass, ...]:
    return tuple(SizeClass(f"{v} v", f"{v} V ({CELLS[v]} cells)", "pack", v, figures) for v in volts)


_OFF_ROAD = SizeClass("off-road", "off-road, kick start", "battery", 12, OFF_ROAD)
SIZES: Mapping[str, tuple[SizeClass, ...]] = {
    "touring motorcycle": (SizeClass("middle", "up to 900 cm³", "battery", 12, TOURING, "lower"),
                           SizeClass("large", "over 900 cm³", "battery", 12, TOURING, "upper")),
    "motorcycle": (SizeClass("middle", "up to 500 cm³", "battery", 12, MIDDLE, "lower"),
                   SizeClass("large", "over 500 cm³", "battery", 12, MIDDLE, "upper"), _OFF_ROAD),
    "small motorcycle": (SizeClass("small", "battery and starter", "battery", 12, SMALL),
                         SizeClass("magneto 6", "magneto lighting, 6 V", "magneto", 6, MAGNETO_6V),
                         SizeClass("magneto 12", "magneto lighting, 12 V", "magneto", 12, MAGNETO_12V), _OFF_ROAD),
    "scooter": (SizeClass("small", "up to 125 cm³", "battery", 12, SMALL, "lower"),
                SizeClass("large", "over 125 cm³", "battery", 12, SMALL, "upper")),
    "utility bike": (SizeClass("pull start", "pull start, no battery", "ignition_only", 12, UTILITY),
                     SizeClass("starter", "with a battery", "battery", 12, UTILITY)),
    "trail e-bike": _packs(TRAIL, 36, 48, 52),
    "cargo e-bike": _packs(CARGO, 36, 48, 52),
    "e-scooter": _packs(DECK, 48, 60),
}


def size_class(kind: str, key: str) -> SizeClass | None:
    """A size class of a kind of machine; None where none was chosen."""
    return next((size for size in SIZES[kind] if size.key == key), None)


def starter_a(kind: str) -> float:
    """What the starter of a kind of machine usually draws while cranking, A, of its largest engine; of a kind that
    seldom has one, the most that one draws."""
    bands = [size.figures.cranking_a.half(size.half)
             for size in SIZES.get(kind, ()) if isinstance(size.figures, Engine)]
    return max((band.usual or band.high for band in bands), default=0.0) or TOURING.cranking_a.usual
