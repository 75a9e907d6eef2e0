"""What parts usually measure and weigh, by kind: where nobody has said it of one. From general knowledge, rounded."""

from dataclasses import dataclass

SOURCE = "typical of its kind; check yours"


@dataclass(frozen=True)
class Usual:
    """Length, width and depth (mm), mass (g), and the length of its own leads (m)."""

    long_mm: float
    wide_mm: float
    deep_mm: float
    mass_g: float
    lead_m: float = 0.0


USUAL: dict[str, Usual] = {
    "battery": Usual(150, 87, 130, 3600), "pack": Usual(370, 90, 115, 3400, 0.2),
    "drive": Usual(230, 150, 120, 3200, 0.2),
    "combiner": Usual(80, 60, 30, 150, 0.15), "generator": Usual(95, 70, 30, 320, 0.3),
    "starter": Usual(150, 70, 70, 1400), "block": Usual(110, 75, 45, 180), "module": Usual(90, 65, 30, 150),
    "converter": Usual(65, 55, 25, 120, 0.2), "junction": Usual(60, 20, 20, 45), "fuse": Usual(45, 20, 25, 20, 0.15),
    "relay": Usual(30, 30, 45, 35), "solenoid": Usual(70, 55, 60, 260), "switch": Usual(30, 25, 30, 25, 0.3),
    "selector": Usual(55, 40, 35, 70, 0.5), "flasher": Usual(40, 30, 30, 40), "lead": Usual(35, 25, 25, 30),
    "coupling": Usual(45, 25, 20, 18), "second_battery": Usual(150, 87, 100, 3600),
    "charging_diode": Usual(70, 60, 40, 140), "cutoff": Usual(25, 15, 15, 12, 0.4), "load": Usual(80, 60, 40, 150, 0.4),
}
