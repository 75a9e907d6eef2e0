"""Charging voltages that a 12 V battery takes, by chemistry, at 25 C.

Usual makers' data: lead-acid absorbs at 14.4 V, flooded up to 14.8 V and absorbed glass mat up to 14.7 V, less about
0.02 V per kelvin above; below 13.4 V none of them is ever filled. Four LiFePO4 cells take up to 3.65 V each (14.6 V)
and want 3.45 V (13.8 V). A 6 V battery: half of it. Check the battery's own sheet.
"""

SET_POINTS = "usual makers' charging voltages at 25 °C, by chemistry (check the battery's sheet)"
MOST_V = {"flooded": 14.8, "agm": 14.7, "lfp": 14.6}
LEAST_V = {"flooded": 0.0, "agm": 0.0, "lfp": 13.8}
NEVER_FILLS_V = 13.4


def set_point_band_v(chemistry: str, nominal_v: float) -> tuple[float, float, float]:
    """Least and most that a battery wants, and the voltage below which none is ever filled, V."""
    scale = nominal_v / 12
    return LEAST_V[chemistry] * scale, MOST_V[chemistry] * scale, NEVER_FILLS_V * scale
