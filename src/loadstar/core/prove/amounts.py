"""Resistance is a continuum: between the amounts of a bad joint that are solved lie any number that are not.

What a joint of any amount would show is drawn smoothly through what those solved show, over the logarithm of the ohms
(a monotone cubic: what a meter shows runs one way). How likely the readings are is integrated along it, every octave as
likely as another: closely about the amount that fits best, as a voltmeter tells a hundredth of an ohm from the next.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator

from .faults import ADDED_OHM, Fault
from .readings import Array, Taken, likelihood

GRID = np.log(ADDED_OHM)
COARSE, FINE = 129, 41  # amounts looked at: over the whole range, and again about the best of them
LEAST = 1e-300


class Amounts:
    """The series of faults that differ by the ohms that they add only."""

    def __init__(self, faults: Sequence[Fault]) -> None:
        rows: dict[str, list[int]] = {}
        for n, fault in enumerate(faults):
            if len(fault.adds) == 1 and next(iter(fault.adds.values())) in ADDED_OHM:
                rows.setdefault(fault.about, []).append(n)
        series = [some for some in rows.values() if len(some) == len(GRID)]
        self.rows = np.array(series, int).reshape(len(series), len(GRID))
        self.of = {n: (s, k) for s, some in enumerate(series) for k, n in enumerate(some)}

    def weighed(self, log_prior: Array, readings: Sequence[Taken], shown: Sequence[Array]) -> tuple[Array, Array]:
        """The logarithm of how likely each fault is together with some readings, `shown` of each reading by fault; of a
        series all its amounts together, spread over those solved. And of each series the amount that fits best, as the
        logarithm of its ohms."""
        found = log_prior + sum((np.log(likelihood(s, r)) for r, s in zip(readings, shown, strict=True)),
                                start=np.zeros(len(log_prior)))
        if not len(self.rows) or not readings:
            return found, np.full(len(self.rows), GRID[0])
        curves = [_Curve(s[self.rows]) for s in shown]

        def fits(at: Array) -> Array:
            return sum((np.log(likelihood(curve.at(at).ravel(), r)).reshape(at.shape)
                        for curve, r in zip(curves, readings, strict=True)), start=np.zeros(at.shape))

        wide = np.broadcast_to(np.linspace(GRID[0], GRID[-1], COARSE), (len(self.rows), COARSE))
        step = wide[0, 1] - wide[0, 0]
        far = fits(wide)
        about = np.take_along_axis(wide, np.argmax(far, axis=1)[:, None], axis=1)
        close = np.clip(about + np.linspace(-step, step, FINE), GRID[0], GRID[-1])
        near = fits(close)
        far = np.where(np.abs(wide - about) <= step * 1.01, -np.inf, far)
        at = np.concatenate([wide, close], axis=1)
        logs = np.concatenate([far + np.log(step), near + np.log(2 * step / (FINE - 1))], axis=1)
        found[self.rows] = self._spread(log_prior, at, logs - np.log(GRID[-1] - GRID[0]))
        return found, np.take_along_axis(close, np.argmax(near, axis=1)[:, None], axis=1)[:, 0]

    def _spread(self, log_prior: Array, at: Array, logs: Array) -> Array:
        """What each series has, given to the solved amount that each of its own is nearest to."""
        nearest = np.argmin(np.abs(at[:, :, None] - GRID), axis=2)
        most = logs.max(axis=1, keepdims=True)
        mass = np.zeros(self.rows.shape)
        np.add.at(mass, (np.arange(len(mass))[:, None], nearest), np.exp(logs - most))
        whole = np.logaddexp.reduce(log_prior[self.rows], axis=1)[:, None]
        return np.asarray(whole + most + np.log(np.maximum(mass, LEAST)))

    def between(self, series: int, log_ohm: float, shown: Array) -> float:
        """What an amount of a series would show."""
        return float(_Curve(shown[self.rows[series:series + 1]]).at(np.array([[log_ohm]]))[0, 0])


class _Curve:
    """What every series shows at any amount, from what the solved ones show (series, amounts). Where one of these shows
    nothing that is finite, the nearest of them."""

    def __init__(self, known: Array) -> None:
        self.known, self.smooth = known, np.isfinite(known).all(axis=1, keepdims=True)
        self.parts: NDArray[np.float64] = PchipInterpolator(GRID, np.where(self.smooth, known, 0.0), axis=1).c

    def at(self, log_ohm: Array) -> Array:
        """By (series, amount)."""
        cell = np.clip(np.searchsorted(GRID, log_ohm, side="right") - 1, 0, len(GRID) - 2)
        series, off = np.arange(len(self.known))[:, None], log_ohm - GRID[cell]
        a, b, c, d = (self.parts[k, cell, series] for k in range(4))
        nearest = self.known[series, np.argmin(np.abs(log_ohm[:, :, None] - GRID), axis=2)]
        return np.asarray(np.where(self.smooth, ((a * off + b) * off + c) * off + d, nearest))
