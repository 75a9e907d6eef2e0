"""How many digits an amount is given with: three where it is computed to a per cent, two where it is good to a tenth.

The one rule for sentences, pages, pictures and papers. A figure that somebody typed is shown as it was typed.
"""

import math

WHOLE = ("°C", "°F", "rpm")
SMALL_A = 0.0995  # below it a current is told in milliamperes
NOTHING_A = 1e-7  # less than any meter of the trade shows, and than a state is solved to
MOST_DECIMALS = 3  # of a percentage
TWO_FIGURES_A = 0.995  # below it a current is good to a tenth: standby, trickles and leaks


def suited(value: float, unit: str) -> tuple[float, str]:
    """An amount in the unit that suits its size; a current that is only what a solution leaves over is none."""
    if unit == "A" and 0 < abs(value) < NOTHING_A:
        return 0.0, unit
    return (value * 1000, "mA") if unit == "A" and 0 < abs(value) < SMALL_A else (value, unit)


def percent(share: float, decimals: int = 0) -> str:
    """A share as per cent."""
    return f"{share * 100:.{decimals}f} %"


def apart(share: float, limit: float, decimals: int = 0) -> tuple[str, str]:
    """Two shares as per cent, with as many decimals as tell the one from the other, if three do."""
    while decimals < MOST_DECIMALS and share != limit and percent(share, decimals) == percent(limit, decimals):
        decimals += 1
    return percent(share, decimals), percent(limit, decimals)


def decimals_for(value: float, unit: str) -> int:
    """Decimals that an amount in its unit is shown with."""
    if value == 0 or unit in WHOLE:
        return 0
    if unit in ("K", "mV", "mΩ"):
        return 0 if abs(value) >= 10 else 1
    if unit == "V":  # as a meter's range shows them
        return 1 if abs(value) >= 20 else 2
    if unit == "×":
        return 2 if abs(value) < 10 else 1
    two = unit in ("mA", "s") or (unit == "A" and abs(value) < TWO_FIGURES_A)
    return max(0, (1 if two else 2) - math.floor(math.log10(abs(value)))) if abs(value) < 1000 else 0
