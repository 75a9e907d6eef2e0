"""Most faults are a continuum: between the amounts of a bad joint that are solved lie any number that are not.

What one of any amount would show is drawn smoothly through what those solved show, over the logarithm of the amount
(a monotone cubic: what a meter shows runs one way). How likely the readings are is integrated along it, every octave as
likely as another: closely about the amount that fits best, as a voltmeter tells a hundredth of an ohm from the next.
"""

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator

from .fault import Fault
from .readings import Array, Probe, Taken, likelihood

COARSE, FINE = 129, 41  # amounts looked at: over the whole range, and again about the best of them
FEWEST = 3  # amounts that a line can be drawn through
LEAST = 1e-300


class Amounts:
    """The series of faults that differ by their amount only."""

    def __init__(self, faults: Sequence[Fault]) -> None:
        rows: dict[str, list[int]] = {}
        for n, fault in enumerate(faults):
            if not math.isnan(fault.amount):
                rows.setdefault(fault.about, []).append(n)
        alike: dict[tuple[float, ...], list[list[int]]] = {}
        for some in rows.values():
            if len(some) >= FEWEST:
                alike.setdefault(tuple(faults[n].amount for n in some), []).append(some)
        self.series = tuple(_Series(np.log(amounts), np.array(some)) for amounts, some in alike.items())
        self.of = {n: (series, row, k) for series in self.series for row, some in enumerate(series.rows.tolist())
                   for k, n in enumerate(some)}

    def weighed(self, log_prior: Array, readings: Sequence[Taken], shown: Sequence[Array]) -> Array:
        """The logarithm of how likely each fault is together with some readings, `shown` of each reading by fault; of a
        series all its amounts together, spread over those solved."""
        found = log_prior + sum((np.log(likelihood(s, r)) for r, s in zip(readings, shown, strict=True)),
                                start=np.zeros(len(log_prior)))
        for series in self.series if readings else ():
            found[series.rows] = series.spread(log_prior, readings, shown)
        return np.asarray(found)

    def best(self, fault: int, readings: Sequence[Taken], shown: Sequence[Array]) -> list[float]:
        """What a fault shows where some readings were taken: of its series the amount that fits them best."""
        if fault not in self.of:
            return [float(s[fault]) for s in shown]
        series, row, _ = self.of[fault]
        return series.best(row, readings, shown)


class _Series:
    """Faults of several amounts, the same for each (their logarithms): one row of faults for every one of them."""

    def __init__(self, grid: Array, rows: Array) -> None:
        self.grid, self.rows = grid, rows
        self._curves: dict[Probe, _Curve] = {}  # of each probe that something was read at
        self._far: dict[Taken, Array] = {}  # how likely each reading is over the whole range
        self._wide = np.broadcast_to(np.linspace(grid[0], grid[-1], COARSE), (len(rows), COARSE))

    def spread(self, log_prior: Array, readings: Sequence[Taken], shown: Sequence[Array]) -> Array:
        """How likely each is, every amount as likely as another, given to the solved amount that it is nearest to."""
        at, logs = self._looked(readings, shown)
        nearest = np.argmin(np.abs(at[:, :, None] - self.grid), axis=2)
        most = logs.max(axis=1, keepdims=True)
        mass = np.zeros(self.rows.shape)
        np.add.at(mass, (np.arange(len(mass))[:, None], nearest), np.exp(logs - most))
        whole = np.logaddexp.reduce(log_prior[self.rows], axis=1)[:, None]
        return np.asarray(whole + most + np.log(np.maximum(mass, LEAST)))

    def best(self, row: int, readings: Sequence[Taken], shown: Sequence[Array]) -> list[float]:
        """What one of them shows at its best amount."""
        one = _Series(self.grid, self.rows[row:row + 1])
        at, logs = one._looked(readings, shown, closely=True)
        found = at[0, int(np.argmax(logs[0]))]
        return [self.between(row, float(found), s) for s in shown]

    def between(self, row: int, log_amount: float, shown: Array) -> float:
        """What an amount of one of them would show."""
        curve = _Curve(self.grid, shown[self.rows[row:row + 1]])
        return float(curve.at(np.array([[log_amount]]))[0, 0])

    def _looked(self, readings: Sequence[Taken], shown: Sequence[Array], closely: bool = False) -> tuple[Array, Array]:
        """Amounts over the whole range and closely about the best, and the share of each in how likely the readings
        are; only those close to it where that is asked."""
        curves = [self._curve(r, s) for r, s in zip(readings, shown, strict=True)]
        wide = self._wide
        low, high, step = self.grid[0], self.grid[-1], wide[0, 1] - wide[0, 0]
        far = sum((self._over_all(r, curve) for r, curve in zip(readings, curves, strict=True)),
                  start=np.zeros(wide.shape))
        about = np.take_along_axis(wide, np.argmax(far, axis=1)[:, None], axis=1)
        close = np.clip(about + np.linspace(-step, step, FINE), low, high)
        near = sum((_fit(r, curve, close) for r, curve in zip(readings, curves, strict=True)),
                   start=np.zeros(close.shape))
        if closely:
            return close, near
        far = np.where(np.abs(wide - about) <= step * 1.01, -np.inf, far)
        logs = np.concatenate([far + np.log(step), near + np.log(2 * step / (FINE - 1))], axis=1)
        return np.concatenate([wide, close], axis=1), logs - np.log(high - low)

    def _curve(self, reading: Taken, shown: Array) -> "_Curve":
        if reading.probe not in self._curves:
            self._curves[reading.probe] = _Curve(self.grid, shown[self.rows])
        return self._curves[reading.probe]

    def _over_all(self, reading: Taken, curve: "_Curve") -> Array:
        if reading not in self._far:
            self._far[reading] = _fit(reading, curve, self._wide)
        return self._far[reading]


def _fit(reading: Taken, curve: "_Curve", at: Array) -> Array:
    """How likely a reading is by each amount of each series, logarithm."""
    return np.asarray(np.log(likelihood(curve.at(at).ravel(), reading)).reshape(at.shape))


class _Curve:
    """What every series shows at any amount, from what the solved ones show (series, amounts). Where one of these shows
    nothing that is finite, the nearest of them."""

    def __init__(self, grid: Array, known: Array) -> None:
        self.grid = grid
        self.known, self.smooth = known, np.isfinite(known).all(axis=1, keepdims=True)
        self.parts: NDArray[np.float64] = PchipInterpolator(grid, np.where(self.smooth, known, 0.0), axis=1).c

    def at(self, log_ohm: Array) -> Array:
        """By (series, amount)."""
        cell = np.clip(np.searchsorted(self.grid, log_ohm, side="right") - 1, 0, len(self.grid) - 2)
        series, off = np.arange(len(self.known))[:, None], log_ohm - self.grid[cell]
        a, b, c, d = (self.parts[k, cell, series] for k in range(4))
        nearest = self.known[series, np.argmin(np.abs(log_ohm[:, :, None] - self.grid), axis=2)]
        return np.asarray(np.where(self.smooth, ((a * off + b) * off + c) * off + d, nearest))
