"""The smallest stock size of every wire that stands its duty; where none does, the smallest beyond which nothing is
gained."""

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from ..doc.rules import HouseRules
from ..materials.conductors import STOCKS
from ..plan.model import Plan
from ..wiring.conductor import Conductors, conductor
from ..wiring.topology import Topology
from .argument import PROTECTION_SPARE_K, SHORT_TERM_K, Heats, currents, late_course, late_from_a
from .openers import Guard
from .short import cranks_hot

Array = NDArray[np.float64]
IntArray = NDArray[np.int64]
LEAST_GAIN_K = 1.0  # a step that saves less, while its goal stays out of reach, is not taken


def stock_areas(rules: HouseRules) -> tuple[float, ...]:
    """The sizes that an own choice takes."""
    return tuple(a for a in STOCKS[rules.sizes] if a >= rules.least_area_mm2)


class Areas:
    """The search over sizes for the wires that are left to Loadstar."""

    def __init__(self, topology: Topology, free: list[str]) -> None:
        self.topology, self.plan, self.free = topology, topology.plan, free
        self.sizes = stock_areas(self.plan.rules)
        # Wires of one insulation and wall are alike but for their size.
        alike = {(w.wall, w.insulation): w for w in map(topology.wires.__getitem__, free)}
        ladders = {kind: [conductor(self.plan, wire, a) for a in self.sizes] for kind, wire in alike.items()}
        self._table = [ladders[w.wall, w.insulation] for w in map(topology.wires.__getitem__, free)]
        number = {kind: n for n, kind in enumerate(alike)}
        which = np.array([number[w.wall, w.insulation] for w in map(topology.wires.__getitem__, free)], int)
        self._every = Conductors(one for ladder in ladders.values() for one in ladder).take(
            (which[:, None] * len(self.sizes) + np.arange(len(self.sizes))).ravel())
        rules, shape = self.plan.rules, (len(free), len(self.sizes))
        self._limits_c = (self._every.class_c[:, None] + np.array([
            -rules.thermal_margin_k, -PROTECTION_SPARE_K, SHORT_TERM_K, 0.0])).reshape(*shape, 4)

    def least(self, current_a: Mapping[str, float], air_c: Mapping[str, float], guards: Mapping[str, Guard | None],
              before: Mapping[str, float] | None = None,
              short_a: Mapping[str, float] | None = None) -> dict[str, float]:
        """For each free wire its size. A thicker wire is never warmer at the same current: where `before` (the sizes of
        the round before) or a neighbour of it fits and the next smaller does not, it is found; for the others every
        size is tried."""
        if not self.free:
            return {}
        self._air = np.array([air_c[w] for w in self.free])
        self._short_a = [(short_a or {}).get(w, 0.0) for w in self.free]
        self._guard = [guards.get(w) for w in self.free]
        self._amps = currents([current_a.get(w, 0.0) for w in self.free], self._guard)
        count, last = len(self.free), len(self.sizes) - 1
        every = np.arange(count)
        if before is None:
            high = low = self._first(every)
        else:
            guess = np.array([self.sizes.index(before[w]) if before[w] in self.sizes else 0 for w in self.free])
            below, above = np.maximum(guess - 1, 0), np.minimum(guess + 1, last)
            fits = self._cool(np.concatenate([below, guess, above]), np.tile(every, 3)).reshape(3, count)
            # The smallest of the three that fits; beyond them the range stays open.
            high = np.where(fits[0], below, np.where(fits[1], guess, np.where(fits[2], above, last)))
            low = np.where(fits[0], 0, np.where(fits[1], guess, np.where(fits[2], above, np.minimum(above + 1, last))))
            low = np.where(fits[0] & (guess == 0), 0, low)
        if len(open_ := np.flatnonzero(low < high)):
            high[open_] = self._first(open_)
        lost = np.flatnonzero(high == last)
        lost = lost[~self._cool(high[lost], lost)]
        high[lost] = self._best(lost)
        at = self._every.take(every * (last + 1) + high)
        warm = at.temperature_c(self._amps[4], self._air)  # at rest before a fault
        return {w: self.sizes[self._in_time(i, int(high[i]), float(warm[i]))] for i, w in enumerate(self.free)}

    def _first(self, which: IntArray) -> IntArray:
        """Of the wires `which` the first size that keeps cool; the largest where none does."""
        count = len(self.sizes)
        fits = self._cool(np.tile(np.arange(count), len(which)), np.repeat(which, count)).reshape(len(which), count)
        return np.where(fits.any(axis=1), np.argmax(fits, axis=1), count - 1)

    def _cool(self, at: IntArray, which: IntArray) -> NDArray[np.bool_]:
        """Whether the wires `which` keep cool at sizes `at`: within their limits in use and in what their guards let
        through."""
        wires = self._every.take(which * len(self.sizes) + at)
        return np.asarray(wires.carry(self._amps[:4, which], self._limits_c[which, at].T, self._air[which]).all(axis=0))

    def _in_time(self, i: int, at: int, warm_c: float) -> int:
        """The first size from `at` on whose guard acts in time. The temperature at rest of the first serves the next
        ones too: it errs to the safe side."""
        guard, air_c = self._guard[i], float(self._air[i])
        while at < len(self.sizes) - 1 and (late_from_a(self._table[i][at], guard, air_c, warm_c) is not None
                                            or late_course(self._table[i][at], guard, air_c, warm_c) is not None
                                            or self._cranks_hot(i, at)):
            at += 1
        return at

    def _cranks_hot(self, i: int, at: int) -> bool:
        """Whether what a wire carries while the starter turns heats it over its class."""
        amps = self._short_a[i]
        return amps > self._amps[0, i] and cranks_hot(self._table[i][at], amps, float(self._air[i]))

    def _best(self, which: IntArray) -> list[int]:
        """Of the wires `which`, where no size keeps everything: the least that keeps each thing that can be kept, with
        its spare or without, and goes on for the others while a step still saves a kelvin."""
        if not len(which):
            return []
        count = len(self.sizes)
        wires = self._every.take((which[:, None] * count + np.arange(count)).ravel())
        heats = Heats.of(wires, np.repeat(self._amps[:, which], count, axis=1), np.repeat(self._air[which], count))
        reached = np.array([heats.use_c, heats.steady_c, heats.overload_c, heats.several_c])
        tops = wires.class_c[::count].tolist()
        return [self._goes_to(*each) for each in zip(
            reached.reshape(4, len(which), count).transpose(1, 0, 2), tops, self._air[which].tolist(), strict=True)]

    def _goes_to(self, reached_c: Array, top_c: float, air_c: float) -> int:
        """The size of one such wire, by what it reaches (in use, at 1.10 and 1.35 times its guard, several at once) at
        each size."""
        use, steady, overload, several = reached_c
        margin_k = self.plan.rules.thermal_margin_k
        # Where the air leaves the house margin no room, no more than the class itself is aimed at: rule wire.class-too-
        # low.
        cramped = air_c >= top_c - margin_k
        aims = ((use, (top_c,) if cramped else (top_c - margin_k, top_c)),
                (steady, (top_c,) if cramped else (top_c - PROTECTION_SPARE_K, top_c)),
                (overload, (top_c + SHORT_TERM_K,)), (several, (top_c,)))
        return max(_kept_at(reached, limits) for reached, limits in aims)


def _kept_at(reached_c: Array, limits_c: tuple[float, ...]) -> int:
    """The first size that keeps the tightest of some limits that any keeps; else the last that still saves a kelvin."""
    for limit in limits_c:
        if (reached_c <= limit).any():
            return int(np.argmax(reached_c <= limit))
    with np.errstate(invalid="ignore"):
        gain = np.append(reached_c[:-1] - reached_c[1:], 0.0)
    enough = ~(gain >= LEAST_GAIN_K) & np.isfinite(reached_c)
    return int(np.argmax(enough)) if enough.any() else len(reached_c) - 1


def no_size_helps(plan: Plan, topology: Topology, wire: str, use_a: float, air_c: float) -> bool:
    """Whether even the largest stock size misses the house margin to its class at this current in this air."""
    largest = Conductors([conductor(plan, topology.wires[wire], STOCKS[plan.rules.sizes][-1])])
    return bool(largest.temperature_c(use_a, air_c)[0] > largest.class_c[0] - plan.rules.thermal_margin_k + 1e-6)
