"""Ends that cannot be made: what has to come over a wire's end and does not go over what is already there.

An item reaches its spot only from an open end; a closed end lets it pass where it is no larger than the item's opening.
"""

import math
from dataclasses import dataclass


@dataclass(frozen=True)
class Closed:
    """What an end is closed by, as it passes through a hole: round, or with two sides (mm)."""

    wide_mm: float
    high_mm: float | None = None

    @property
    def passes_mm(self) -> float:
        """The smallest round opening it goes through."""
        return self.wide_mm if self.high_mm is None else math.hypot(self.wide_mm, self.high_mm)


def goes_on(opening_mm: float, ends: tuple[Closed | None, ...]) -> bool:
    """Whether an item of this opening comes on to a lead with these ends (None: open)."""
    return any(end is None or end.passes_mm <= opening_mm + 1e-9 for end in ends)


def cures(opening_mm: float, ends: tuple[Closed | None, ...]) -> tuple[str, ...]:
    """What may be done where it does not, the gentlest first."""
    if goes_on(opening_mm, ends):
        return ()
    smallest = min(end.passes_mm for end in ends if end is not None)
    return ("Use a wrapped or split covering: it goes on from the side.",
            f"Use one that opens to {smallest:.1f} mm.",
            "Take the pin out of its housing, put it on, push the pin back in.",
            "Open the other end, put it on there, and close it again.",
            "Cut the lead and splice it behind the item.")
