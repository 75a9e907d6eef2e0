"""The smallest stock size of every wire that stands its duty; where none does, the smallest beyond which nothing is gained."""

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from ..doc.rules import HouseRules
from ..materials.conductors import STOCK_AREAS_MM2
from ..plan.model import Plan
from ..wiring.conductor import Conductors, conductor
from ..wiring.topology import Topology
from .argument import PROTECTION_SPARE_K, SHORT_TERM_K, Heats, currents, late_from_a
from .openers import Guard

Array = NDArray[np.float64]
IntArray = NDArray[np.int64]
LEAST_GAIN_K = 1.0  # a step that saves less, while its goal stays out of reach, is not taken


def stock_areas(rules: HouseRules) -> tuple[float, ...]:
    """The sizes that an own choice takes."""
    return tuple(a for a in STOCK_AREAS_MM2 if a >= rules.least_area_mm2)


class Areas:
    """The search over sizes for the wires that are left to Loadstar."""

    def __init__(self, topology: Topology, free: list[str]) -> None:
        self.topology, self.plan, self.free = topology, topology.plan, free
        self.sizes = stock_areas(self.plan.rules)
        self._table = [[conductor(self.plan, topology.wires[w], a) for a in self.sizes] for w in free]
        self._every = Conductors(one for row in self._table for one in row)

    def least(self, current_a: Mapping[str, float], air_c: Mapping[str, float], guards: Mapping[str, Guard | None],
              before: Mapping[str, float] | None = None) -> dict[str, float]:
        """For each free wire its size. A thicker wire is never warmer at the same current: where `before` (the sizes of the round
        before) fits and the next smaller does not, it is found; for the others the range is halved."""
        if not self.free:
            return {}
        self._air = np.array([air_c[w] for w in self.free])
        self._guard = [guards.get(w) for w in self.free]
        self._amps = currents([current_a.get(w, 0.0) for w in self.free], self._guard)
        count, last = len(self.free), len(self.sizes) - 1
        every = np.arange(count)
        low, high = np.zeros(count, int), np.full(count, last)
        warm = np.zeros(count)
        if before is not None:
            guess = np.array([self.sizes.index(before[w]) if before[w] in self.sizes else 0 for w in self.free])
            fits, preload = self._cool(np.concatenate([np.maximum(guess - 1, 0), guess]), np.concatenate([every, every]))
            smaller, same = fits[:count] & (guess > 0), fits[count:]
            high = np.where(smaller, guess - 1, np.where(same, guess, high))
            low = np.where(smaller, 0, np.minimum(np.where(same, guess, guess + 1), high))
            warm = np.where(smaller, preload[:count], preload[count:])
        while len(which := np.flatnonzero(low < high)):
            middle = (low[which] + high[which]) // 2
            fits, preload = self._cool(middle, which)
            high[which] = np.where(fits, middle, high[which])
            low[which] = np.where(fits, low[which], np.minimum(middle + 1, high[which]))
            warm[which] = np.where(fits, preload, warm[which])
        out = np.flatnonzero(high == last)
        if len(out):
            lost = out[~self._cool(high[out], out)[0]]
            for i in lost.tolist():
                high[i], warm[i] = self._best(i)
        return {w: self.sizes[self._in_time(i, int(high[i]), float(warm[i]))] for i, w in enumerate(self.free)}

    def _heats(self, at: IntArray, which: IntArray) -> tuple[Conductors, Heats]:
        wires = self._every.take(which * len(self.sizes) + at)
        return wires, Heats.of(wires, self._amps[:, which], self._air[which])

    def _cool(self, at: IntArray, which: IntArray) -> tuple[NDArray[np.bool_], Array]:
        """Whether the wires `which` keep cool at sizes `at`, and how warm their preload makes them."""
        wires, heats = self._heats(at, which)
        return heats.cool(wires.class_c, self.plan.rules), heats.preload_c

    def _in_time(self, i: int, at: int, warm_c: float) -> int:
        """The first size from `at` on whose guard acts in time. The temperature at rest of the first serves the next ones too: it
        errs to the safe side."""
        while at < len(self.sizes) - 1 and late_from_a(self._table[i][at], self._guard[i], float(self._air[i]), warm_c) is not None:
            at += 1
        return at

    def _best(self, i: int) -> tuple[int, float]:
        """Where no size keeps everything: the least that keeps each thing that can be kept, with its spare or without, and goes on
        for the others while a step still saves a kelvin."""
        every = np.arange(len(self.sizes))
        wires, heats = self._heats(every, np.full(len(every), i))
        top, rules = float(wires.class_c[0]), self.plan.rules
        found = 0
        # Where the air leaves the house margin no room, no more than the class itself is aimed at: rule wire.class-too-low.
        cramped = float(self._air[i]) >= top - rules.thermal_margin_k
        aims = ((heats.use_c, (top,) if cramped else (top - rules.thermal_margin_k, top)),
                (heats.steady_c, (top,) if cramped else (top - PROTECTION_SPARE_K, top)),
                (heats.overload_c, (top + SHORT_TERM_K,)), (heats.several_c, (top,)))
        for reached, limits in aims:
            kept = next((np.flatnonzero(reached <= limit)[0] for limit in limits if (reached <= limit).any()), None)
            if kept is None:
                with np.errstate(invalid="ignore"):
                    gain = np.append(reached[:-1] - reached[1:], 0.0)
                kept = np.flatnonzero(~(gain >= LEAST_GAIN_K) & np.isfinite(reached))
                kept = kept[0] if len(kept) else len(every) - 1
            found = max(found, int(kept))
        return found, float(heats.preload_c[found])


def no_size_helps(plan: Plan, topology: Topology, wire: str, use_a: float, air_c: float) -> bool:
    """Whether even the largest stock size misses the house margin to its class at this current in this air."""
    largest = Conductors([conductor(plan, topology.wires[wire], STOCK_AREAS_MM2[-1])])
    return bool(largest.temperature_c(use_a, air_c)[0] > largest.class_c[0] - plan.rules.thermal_margin_k + 1e-6)
