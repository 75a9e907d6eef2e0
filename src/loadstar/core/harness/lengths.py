"""How long a wire has to be beyond its way: by its lay in the bundle, and where the steering moves it."""

import math
from dataclasses import dataclass

STEPS = 720
CUT_STEP_M = 0.01


def lay_factor(radius_mm: float, lay_mm: float) -> float:
    """How much longer a wire is than the bundle it winds around in: `radius_mm` its mean distance from the axis,
    `lay_mm` the length of one turn; straight wires (0): 1. 4 mm at 100 mm: 1.031."""
    return 1.0 if lay_mm <= 0 else math.hypot(1.0, 2 * math.pi * radius_mm / lay_mm)


def cut_m(length_m: float) -> float:
    """A length as it is cut: up to the next 10 mm."""
    return math.ceil(round(length_m / CUT_STEP_M, 6)) * CUT_STEP_M


@dataclass(frozen=True)
class Steering:
    """A wire past the headstock: it leaves at radius `above_mm` over the steering's axis and `below_mm` under it,
    `high_mm` apart along it, `start_deg` around it from one another straight ahead; the bars turn `lock_deg` either
    way."""

    above_mm: float
    below_mm: float
    high_mm: float
    start_deg: float
    lock_deg: float

    def length_mm(self, turned_deg: float) -> float:
        """The straight way between its two ends with the bars turned."""
        angle = math.radians(self.start_deg + turned_deg)
        return math.sqrt(self.high_mm**2 + self.above_mm**2 + self.below_mm**2
                         - 2 * self.above_mm * self.below_mm * math.cos(angle))


@dataclass(frozen=True)
class Sweep:
    """What the steering asks of a wire: its length straight ahead, the longest and shortest over the sweep, mm."""

    ahead_mm: float
    most_mm: float
    least_mm: float

    @property
    def slack_mm(self) -> float:
        """More than straight ahead."""
        return self.most_mm - self.ahead_mm

    @property
    def stow_mm(self) -> float:
        """What the harness gives and takes from lock to lock."""
        return self.most_mm - self.least_mm


def sweep(steering: Steering) -> Sweep:
    """Over the whole sweep; the way is longest and shortest at a lock, or where both ends lie in line with the axis."""
    low, high = -steering.lock_deg, steering.lock_deg
    in_line = (-steering.start_deg, 180 - steering.start_deg, -180 - steering.start_deg)
    looked_at = {low, high, *(turn for turn in in_line if low <= turn <= high)}
    lengths = [steering.length_mm(turn) for turn in looked_at]
    return Sweep(steering.length_mm(0.0), max(lengths), min(lengths))
