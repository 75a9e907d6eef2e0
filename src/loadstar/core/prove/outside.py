"""What lies outside a circuit and moves its volts: another accessory that is off or draws far more, or what nobody can
say beforehand."""

import math
from collections.abc import Mapping, Sequence
from functools import cached_property

import numpy as np

from ..figures.figures import Figures
from ..wiring.results import StateResult
from .amounts import Amounts
from .bench import Bench, Solved, volts
from .fault import Fault
from .readings import Array, Taken, likelihood, moved

WORDS = "cause outside this circuit: another accessory is off, or draws the wrong current"
MOST_OTHERS = 10
OTHERS_TIMES = (1.5, 2.5, 4.0, 6.0, 9.0)
VAGUE, MOSTLY = 0.3, 0.5  # of what lies outside: that nobody can say beforehand; from where one of it is named


class Outside:
    """The accessories outside a circuit, each off or drawing more; `weight` is how likely any of it is beforehand."""

    def __init__(self, figures: Figures, within: frozenset[str], bench: Bench, rows: Mapping[str, StateResult],
                 weight: float) -> None:
        self._figures, self._within, self._bench, self._rows, self._weight = figures, within, bench, rows, weight
        self._solved: dict[str, Solved] = {}
        self._last: tuple[tuple[Taken, ...] | None, Array] = (None, np.empty(0))

    def weighed(self, readings: Sequence[Taken], sound: Sequence[float]) -> float:
        """The logarithm of how likely it is together with some readings, where a sound circuit would show `sound`."""
        return float(np.logaddexp.reduce([self._vaguely(readings, sound), *self._by_each(readings, sound)]))

    def words(self, readings: Sequence[Taken], sound: Sequence[float]) -> str:
        """What it probably is, where one of them stands out."""
        share = np.exp(self._by_each(readings, sound) - self.weighed(readings, sound))
        of_each: dict[str, float] = {}
        for fault, one in zip(self._faults, share.tolist(), strict=True):
            of_each[fault.words] = of_each.get(fault.words, 0.0) + one
        best = max(of_each, key=lambda words: of_each[words], default="")
        return f"outside this circuit: {best}" if best and of_each[best] > MOSTLY else WORDS

    def _vaguely(self, readings: Sequence[Taken], sound: Sequence[float]) -> float:
        """By what nobody can say beforehand: as if sound, or volts moved a little."""
        found = math.log(self._weight * VAGUE)
        for reading, value in zip(readings, sound, strict=True):
            likely = likelihood(np.array([value]), reading)
            found += math.log(0.5 * float(likely[0]) + 0.5 * moved(value, reading))
        return found

    def _by_each(self, readings: Sequence[Taken], sound: Sequence[float]) -> Array:
        if self._faults and self._last[0] != tuple(readings):
            shown = [self._shown(r, value) for r, value in zip(readings, sound, strict=True)]
            prior = np.log([f.prior for f in self._faults])
            self._last = tuple(readings), self._amounts.weighed(prior, readings, shown)
        return self._last[1]

    @cached_property
    def _faults(self) -> tuple[Fault, ...]:
        """The accessories that draw most."""
        others = [p for p in self._figures.plan.loads if p.id not in self._within]
        most = sorted(others, key=lambda p: -self._figures.ratings.peak_a(p.id))[:MOST_OTHERS]
        prior = self._weight * (1 - VAGUE) / max(1, 2 * len(most))
        off = [Fault(f"dead {p.id}", f"dead {p.id}", f"{p.name} is off", prior, (p.id,), dead=frozenset((p.id,)))
               for p in most]
        more = [Fault(f"draws {p.id} {times:g}", f"draws {p.id}", f"{p.name} draws far more than planned",
                      prior / len(OTHERS_TIMES), (p.id,), draws={p.id: times}, amount=times)
                for p in most for times in OTHERS_TIMES]
        return (*off, *more)

    @cached_property
    def _amounts(self) -> Amounts:
        return Amounts(self._faults)

    def _shown(self, reading: Taken, sound: float) -> Array:
        """What each of them would show; unpowered what the sound circuit does."""
        probe = reading.probe
        if probe.quantity == "ohm":
            return np.full(len(self._faults), sound)
        if probe.row not in self._solved:
            self._solved[probe.row] = self._bench.solve(self._rows[probe.row], self._faults)
        return volts(self._solved[probe.row], self._bench.node(probe.red), self._bench.node(probe.black))
