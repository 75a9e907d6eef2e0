"""Of many faults in many wires the one that counts for each: vectorised, and the same whichever order they come in."""

import numpy as np
from numpy.typing import NDArray

from .digits import in_nine_digits

Array = NDArray[np.float64]
IntArray = NDArray[np.int64]


class Best:
    """For each wire the fault whose opener lets most through it."""

    def __init__(self, wires: int) -> None:
        self.limit = np.full(wires, -1.0)
        self.which, self.helps = np.zeros(wires, int), np.full(wires, -1)
        self.help_share = np.zeros(wires)

    def take(self, wire: IntArray, limit: Array, which: IntArray, helps: IntArray, help_limit: Array) -> None:
        """Keep what is worse than before; of alike ones the first. Limits are amps in the wire at the opener's
        rating."""
        order = np.lexsort((-np.arange(len(wire)), in_nine_digits(limit)))
        wire, limit, which, helps, help_limit = wire[order], limit[order], which[order], helps[order], help_limit[order]
        last = np.full(len(self.limit), -1)
        last[wire] = np.arange(len(wire))
        w = np.flatnonzero(last >= 0)
        at = last[w]
        worse = limit[at] > self.limit[w] * (1 + 1e-9)
        w, at = w[worse], at[worse]
        self.limit[w], self.which[w], self.helps[w] = limit[at], which[at], helps[at]
        self.help_share[w] = help_limit[at]

    def columns(self) -> tuple[list[float], list[int], list[int], list[float]]:
        """For each wire the amps that its opener lets through at its rating (0 or less: none), which opener, which
        helps it and how."""
        return self.limit.tolist(), self.which.tolist(), self.helps.tolist(), self.help_share.tolist()


def first_largest(values: Array, group: IntArray, groups: int) -> IntArray:
    """In each group the index of its largest value, the first of alike ones."""
    order = np.lexsort((-np.arange(len(values)), in_nine_digits(values)))
    found = np.zeros(groups, int)
    found[group[order]] = order
    return found
