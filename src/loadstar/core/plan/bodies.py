"""What comes with each kind of machine: its usual wheelbase, and where battery, generator and the like usually sit.

All of our own making, of no particular make: starting points that are moved to where things really are. Millimetres,
rear axle 0, forward and up positive.
"""

from dataclasses import dataclass


@dataclass(frozen=True)
class Given:
    """A place that comes with a body."""

    name: str
    x_mm: float
    y_mm: float
    reach: str = ""
    zone: str = "open"
    water: str = "splashed"
    moves: str = "still"


@dataclass(frozen=True)
class BodyKind:
    """A kind of machine: usual wheelbase and its given places."""

    wheelbase_mm: float
    places: tuple[Given, ...]


def _motorcycle(battery: tuple[float, float], head: tuple[float, float], regulator: tuple[float, float]) -> tuple[Given,
                                                                                                                  ...]:
    return (
        Given("battery", *battery, "seat off", water="dry"),
        Given("fuse box", battery[0] - 110, battery[1] + 60, "seat off", water="dry"),
        Given("generator", 760, 110, "left engine cover", "near the engine"),
        Given("regulator", *regulator, "side panel off"),
        Given("headstock", *head, "tank lifted", "under the tank", moves="with the steering"))


BODY_KINDS: dict[str, BodyKind] = {
    "touring motorcycle": BodyKind(1480, _motorcycle((400, 440), (1120, 760), (560, 330))),
    "motorcycle": BodyKind(1420, _motorcycle((360, 470), (1060, 740), (520, 300))),
    "small motorcycle": BodyKind(1200, (
        Given("battery", 260, 300, "side panel off", water="dry"),
        Given("magneto", 560, 90, "engine cover off", "near the engine"),
        Given("headlamp shell", 1000, 630, "lamp rim off", moves="with the steering"),
        Given("headstock", 880, 560, "tank off", "under the tank", moves="with the steering"))),
    "scooter": BodyKind(1300, (
        Given("battery", 760, 60, "footboard lid", water="dry"),
        Given("fuse box", 1080, 520, "front panel off", water="dry"),
        Given("generator", 60, 80, "engine cowl off", "near the engine"),
        Given("regulator", 1120, 420, "front panel off"),
        Given("headstock", 1120, 620, "front panel off", moves="with the steering"))),
    "utility bike": BodyKind(1180, (
        Given("engine cover", 560, 110, "starter cover off", "near the engine"),
        Given("headstock", 880, 620, moves="with the steering"),
        Given("rack box", -180, 470, "lid"))),
    "trail e-bike": BodyKind(1210, (
        Given("pack", 560, 320, "key, swing out", water="dry"),
        Given("drive unit", 440, 10, "cover off", water="washed over"),
        Given("headstock", 830, 600, "cable port plugs", moves="with the steering"))),
    "cargo e-bike": BodyKind(1940, (
        Given("pack", 400, 380, "key, lift out", water="dry"),
        Given("drive unit", 440, 40, "cover off", water="washed over"),
        Given("headstock", 880, 720, moves="with the steering"), Given("cargo box", 1350, 300))),
    "e-scooter": BodyKind(880, (
        Given("pack", 420, 60, "deck lid", water="dry"), Given("controller", 120, 60, "deck lid", water="dry"),
        Given("headstock", 830, 620, moves="with the steering"))),
}
