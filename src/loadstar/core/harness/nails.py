"""Where a board has nails: in every corner between two stretches, and either side of an end."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

NAIL_MM = 3.0  # across
STRAIGHT_DEG = 175.0  # a corner as wide as that holds nothing


@dataclass(frozen=True)
class Leaving:
    """A stretch as it leaves a place: which way (radians), and half its thickness, mm."""

    way_rad: float
    half_mm: float


def nails(leaving: Sequence[Leaving]) -> tuple[tuple[float, float], ...]:
    """Nails around a place in mm from it. Each touches the thicker stretch of its corner, and the other unless what
    goes straight on from there is thicker; at an end one stands either side of the only one."""
    if len(leaving) == 1:
        (one,) = leaving
        off = one.half_mm + NAIL_MM / 2
        side = one.way_rad + math.pi / 2
        return tuple((turn * off * math.cos(side), turn * off * math.sin(side)) for turn in (1, -1))
    round_ = sorted((replace(one, half_mm=max(two.half_mm for two in leaving if two is one or _goes_on(one, two)))
                     for one in leaving), key=lambda one: one.way_rad)
    found = []
    for one, two in pairwise([*round_, round_[0]]):
        corner = (two.way_rad - one.way_rad) % (2 * math.pi)
        if math.degrees(corner) < STRAIGHT_DEG:
            found.append(_between(one, two, corner))
    return tuple(found)


def _goes_on(one: Leaving, two: Leaving) -> bool:
    """Whether one is the other's straight continuation."""
    return abs(math.degrees((two.way_rad - one.way_rad) % (2 * math.pi)) - 180) <= 180 - STRAIGHT_DEG


def _between(one: Leaving, two: Leaving, corner_rad: float) -> tuple[float, float]:
    """The middle of a nail that touches both: so far from each one's centre line, on the side of the other."""
    off_one, off_two = one.half_mm + NAIL_MM / 2, two.half_mm + NAIL_MM / 2
    along = (off_two + off_one * math.cos(corner_rad)) / math.sin(corner_rad)  # along the first one's centre line
    x, y = math.cos(one.way_rad), math.sin(one.way_rad)
    return along * x - off_one * y, along * y + off_one * x
