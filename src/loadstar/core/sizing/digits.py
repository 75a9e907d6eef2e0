"""Figures rounded where they are compared, so that of alike ones the first is taken, whatever their last digit says."""

import numpy as np
from numpy.typing import ArrayLike, NDArray

KEPT = 2.0**30


def in_nine_digits(values: ArrayLike) -> NDArray[np.float64]:
    """Values rounded to thirty binary digits; infinite ones as they are."""
    part, power = np.frexp(np.asarray(values, float))
    return np.asarray(np.ldexp(np.round(part * KEPT) / KEPT, power))
