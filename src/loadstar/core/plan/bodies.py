"""What comes with each kind of machine: its usual wheelbase, where things usually sit, and the ways between.

All of our own making, of no particular make: starting points that are moved to where things really are. Millimetres,
rear axle 0, forward and up positive.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from math import dist


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
    """A kind of machine: usual wheelbase, given places, the ways between them (by the places' names), and where on it
    supplies and accessories go: by a word of use, a place's name."""

    wheelbase_mm: float
    places: tuple[Given, ...]
    runs: tuple[tuple[str, str], ...]
    goes: Mapping[str, str]


# A way along frame tubes is so much longer than the straight line, as a rule; than one drawn with its bends.
WAY_OVER_STRAIGHT, WAY_OVER_DRAWN = 1.25, 1.1
STEERING = "with the steering"


def way_m(a: Given, b: Given, scale: float) -> float:
    """The usual length of the way between two places, in steps of 0.05 m."""
    return drawn_m([(p.x_mm * scale, p.y_mm * scale) for p in (a, b)])


def drawn_m(points: Sequence[tuple[float, float]]) -> float:
    """The usual length of a way drawn through these points (mm), in steps of 0.05 m."""
    drawn_mm = sum(dist(one, two) for one, two in pairwise(points))
    over = WAY_OVER_DRAWN if len(points) > 2 else WAY_OVER_STRAIGHT
    return max(0.1, round(over * drawn_mm / 50) * 0.05)


def _motorcycle(wheelbase_mm: float, at: Mapping[str, tuple[float, float]]) -> BodyKind:
    """The usual places of one, where they are, mm from the rear axle: forwards, upwards."""
    return BodyKind(wheelbase_mm, (
        Given("battery", *at["battery"], "seat off", water="dry"),
        Given("fuse box", at["battery"][0] - 100, at["battery"][1] + 50, "seat off", water="dry"),
        Given("generator", *at["generator"], "left engine cover", "near the engine"),
        Given("regulator", *at["regulator"], "side panel off"),
        Given("headstock", *at["head"], "tank lifted", "under the tank", moves=STEERING),
        Given("under the seat", *at["seat"], "seat off", water="dry"),
        Given("side panel", *at["panel"], "two screws"),
        Given("handlebar", *at["bars"], moves=STEERING),
        Given("front", *at["front"], "front panel off", water="washed over"),
        Given("tail", *at["tail"], "grab rail off")),
        (("battery", "fuse box"), ("battery", "under the seat"), ("battery", "side panel"), ("battery", "regulator"),
         ("regulator", "generator"), ("under the seat", "tail"), ("battery", "headstock"), ("headstock", "handlebar"),
         ("headstock", "front")),
        {"battery": "battery", "generator": "regulator", "block": "under the seat", "trigger": "tail",
         "plug": "under the seat", "handlebar": "handlebar", "front": "front", "seat": "under the seat",
         "rider": "side panel", "tail": "tail", "panel": "side panel"})


BODY_KINDS: dict[str, BodyKind] = {
    "touring motorcycle": _motorcycle(
        1480, {"battery": (430, 330), "seat": (180, 420), "generator": (720, 60), "regulator": (570, 190),
               "panel": (500, 260), "head": (1140, 550), "bars": (1030, 700), "front": (1270, 500),
               "tail": (-290, 450)}),
    "motorcycle": _motorcycle(
        1420, {"battery": (400, 330), "seat": (150, 420), "generator": (690, 60), "regulator": (540, 180),
               "panel": (460, 250), "head": (1105, 520), "bars": (1000, 660), "front": (1205, 500),
               "tail": (-200, 450)}),
    "small motorcycle": BodyKind(1200, (
        Given("battery", 270, 250, "side panel off", water="dry"),
        Given("magneto", 530, 60, "engine cover off", "near the engine"),
        Given("headlamp shell", 1010, 480, "lamp rim off", moves=STEERING),
        Given("headstock", 925, 430, "tank off", "under the tank", moves=STEERING),
        Given("under the seat", 120, 340, "seat off", water="dry"),
        Given("handlebar", 820, 590, moves=STEERING),
        Given("tail", -200, 250)),
        (("magneto", "battery"), ("battery", "under the seat"), ("under the seat", "tail"), ("battery", "headstock"),
         ("magneto", "headstock"), ("headstock", "headlamp shell"), ("headlamp shell", "handlebar")),
        {"battery": "battery", "generator": "battery", "coil": "magneto", "block": "under the seat", "trigger": "tail",
         "plug": "headlamp shell", "handlebar": "handlebar", "front": "headlamp shell", "seat": "under the seat",
         "rider": "battery", "tail": "tail", "panel": "battery"}),
    "scooter": BodyKind(1300, (
        Given("battery", 700, 20, "footboard lid", water="dry"),
        Given("fuse box", 960, 420, "front panel off", water="dry"),
        Given("generator", 60, 40, "engine cowl off", "near the engine"),
        Given("regulator", 985, 320, "front panel off"),
        Given("headstock", 1000, 530, "front panel off", moves=STEERING),
        Given("under the seat", 150, 400, "seat up", water="dry"),
        Given("handlebar", 920, 740, moves=STEERING),
        Given("front", 1085, 470, "front panel off", water="washed over"),
        Given("tail", -260, 400)),
        (("generator", "battery"), ("battery", "under the seat"), ("under the seat", "tail"), ("battery", "fuse box"),
         ("battery", "regulator"), ("fuse box", "headstock"), ("headstock", "handlebar"), ("headstock", "front")),
        {"battery": "battery", "generator": "regulator", "block": "fuse box", "trigger": "fuse box",
         "plug": "fuse box", "handlebar": "handlebar", "front": "front", "seat": "under the seat", "rider": "fuse box",
         "tail": "tail", "panel": "fuse box"}),
    "utility bike": BodyKind(1180, (
        Given("engine cover", 540, 70, "starter cover off", "near the engine"),
        Given("headstock", 895, 490, moves=STEERING),
        Given("rack box", -170, 400, "lid", water="dry"),
        Given("under the seat", 230, 340, "seat off", water="dry"),
        Given("handlebar", 790, 690, moves=STEERING),
        Given("front", 985, 480, water="washed over", moves=STEERING),
        Given("rack end", -310, 330)),
        (("engine cover", "under the seat"), ("under the seat", "rack box"), ("rack box", "rack end"),
         ("engine cover", "headstock"), ("headstock", "handlebar"), ("headstock", "front")),
        {"battery": "rack box", "generator": "engine cover", "block": "rack box", "trigger": "handlebar",
         "plug": "rack box", "handlebar": "handlebar", "front": "front", "seat": "under the seat",
         "rider": "under the seat", "tail": "rack end", "panel": "rack box"}),
    "trail e-bike": BodyKind(1210, (
        Given("pack", 670, 230, "key, swing out", water="dry"),
        Given("drive unit", 430, -10, "cover off", water="washed over"),
        Given("headstock", 925, 510, "cable port plugs", moves=STEERING),
        Given("handlebar", 850, 660, moves=STEERING),
        Given("seat post", 270, 520)),
        (("pack", "drive unit"), ("pack", "headstock"), ("headstock", "handlebar"), ("drive unit", "seat post")),
        {"pack": "pack", "drive": "drive unit", "converter": "headstock", "handlebar": "handlebar",
         "front": "headstock", "seat": "pack", "rider": "seat post", "tail": "seat post", "panel": "headstock"}),
    "cargo e-bike": BodyKind(1940, (
        Given("pack", 360, 330, "key, lift out", water="dry"),
        Given("drive unit", 430, 0, "cover off", water="washed over"),
        Given("headstock", 830, 540, moves=STEERING),
        Given("cargo box", 1350, 260),
        Given("handlebar", 760, 830, moves=STEERING),
        Given("rear rack", -170, 400)),
        (("pack", "drive unit"), ("pack", "headstock"), ("headstock", "handlebar"), ("drive unit", "cargo box"),
         ("pack", "rear rack")),
        {"pack": "pack", "drive": "drive unit", "converter": "cargo box", "handlebar": "handlebar",
         "front": "cargo box", "seat": "pack", "rider": "pack", "tail": "rear rack", "panel": "cargo box"}),
    "e-scooter": BodyKind(880, (
        Given("pack", 430, 30, "deck lid", water="dry"), Given("controller", 150, 30, "deck lid", water="dry"),
        Given("headstock", 765, 520, "front cover off", moves=STEERING),
        Given("handlebar", 735, 880, moves=STEERING), Given("tail", -100, 110)),
        (("pack", "controller"), ("pack", "headstock"), ("headstock", "handlebar"), ("controller", "tail")),
        {"pack": "pack", "drive": "controller", "converter": "headstock", "handlebar": "handlebar",
         "front": "headstock", "seat": "pack", "rider": "pack", "tail": "tail", "panel": "pack"}),
}
