"""Where a harness is tied: beside break-outs and connectors, then in equal steps."""

import math

BESIDE_MM = 50.0  # either side of a break-out or connector


def tie_points_mm(length_mm: float, most_mm: float) -> tuple[float, ...]:
    """Along a stretch between two break-outs or connectors: 50 mm from either, and between those in equal steps of at
    most `most_mm`. A stretch too short for two gets one in its middle, one under 50 mm none."""
    if length_mm < BESIDE_MM:
        return ()
    if length_mm <= 2 * BESIDE_MM:
        return (length_mm / 2,)
    inner_mm = length_mm - 2 * BESIDE_MM
    steps = max(1, math.ceil(inner_mm / most_mm - 1e-9))
    return tuple(BESIDE_MM + inner_mm * i / steps for i in range(steps + 1))
