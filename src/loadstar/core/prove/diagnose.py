"""What a wrong reading means: how likely each fault is after what has been read, and where to probe next.

Every fault's readings are known from one batched solution a state (bench.py). A reading is normal about what a fault
would show, with the meter's uncertainty, or with a small share anything at all; what is believed of a class is the sum
over its amounts. What is wrong outside the circuit is believed too: it moves volts a little, to where no fault of the
circuit would. The next probe is the one that is expected to narrow the classes most for the seconds it takes.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import combinations, product

import numpy as np

from ..figures.figures import Figures
from ..wiring.results import StateResult
from .amounts import Amounts
from .bench import Bench, Solved, volts
from .fault import NONE, PRIORS, Fault
from .faults import candidates, ghosts, scope
from .outside import Outside
from .points import Point, ground, of_element, points
from .readings import SOUND, UNPOWERED, Array, Probe, Taken, likelihood, off_sigmas, on_scale, row_key

SURE, LEAST_BITS = 0.90, 0.02
PROBE_S, PLACE_S, REACH_S, STATE_S, OHMS_S = 10.0, 8.0, 30.0, 15.0, 40.0
BIN_SIGMAS = 2.5
MOST_PARTED = 8  # causes, of which two are named that a probe parts
TIED = 0.05  # what is believed this much belongs to a tie
UNEXPLAINED_SIGMAS = 4.0
ELSEWHERE = "elsewhere"
PAIRED, PAIRED_AMOUNTS = 10, 4  # classes, and amounts of each, that are combined where no single fault explains it


@dataclass(frozen=True)
class Belief:
    """A class of faults, in words, how strongly it is believed, and what it touches."""

    about: str
    words: str
    share: float
    touches: tuple[str, ...]


@dataclass(frozen=True)
class Advice:
    """The probe that is worth most next: what it is expected to tell (bits), the seconds it takes, what a sound circuit
    would show there, and two causes in words that it tells from one another."""

    probe: Probe
    bits: float
    seconds: float
    sound: float
    parts: tuple[str, ...] = ()


class Diagnosis:
    """One circuit, and what may be wrong with it. Solved states are kept."""

    def __init__(self, figures: Figures, load: str, weights: Mapping[str, float] | None = None,
                 faults: tuple[Fault, ...] = ()) -> None:
        self.figures, self.load = figures, load
        self.within = scope(figures, load)
        self.faults = faults or candidates(figures, self.within, weights)
        self._amounts = Amounts(self.faults)
        self.rows: dict[str, StateResult] = {row_key(r, figures.volts.rows): r for r in figures.volts.rows
                                             if r.solution is not None}
        self._bench = Bench(figures, ghosts(figures, self.within))
        self._solved: dict[str, Solved] = {}
        self._shown: dict[Probe, Array] = {}
        self._last: tuple[tuple[Taken, ...] | None, Array] = (None, np.empty(0))
        prior = np.array([f.prior for f in self.faults])
        self.prior = prior / prior.sum()
        self._is_of_pairs = bool(faults)
        self._weighs_outside = 0.0 if faults else PRIORS[ELSEWHERE] / prior.sum()  # of pairs it is no question
        self.classes = tuple(dict.fromkeys(f.about for f in self.faults))
        number = {about: n for n, about in enumerate(self.classes)}
        self._class = np.array([number[f.about] for f in self.faults])

    @cached_property
    def points(self) -> tuple[Point, ...]:
        """Where it can be probed."""
        return points(self.figures, self.load, self.within)

    @cached_property
    def usual(self) -> str:
        """The row that the circuit is looked at in: on, in the machine's usual state, or in the first that it is on
        in."""
        states = [self.figures.source.usual_state, *self.figures.source.states]
        for state in states:
            row = self.figures.volts.row(self.load, state)
            if row is not None and row.solution is not None and self.figures.volts.across_v(self.load, state):
                return row_key(row, self.figures.volts.rows)
        return next(iter(self.rows))

    # -- what would be shown ----------------------------------------------------------------------------------------

    def shown(self, probe: Probe) -> Array:
        """What each fault would show."""
        if probe not in self._shown:
            red, black = self._bench.node(probe.red), self._bench.node(probe.black)
            if probe.quantity == "ohm":
                self._ohms([probe])
            else:
                self._shown[probe] = volts(self._at(probe.row), red, black)
        return self._shown[probe]

    def _ohms(self, probes: Sequence[Probe]) -> None:
        """Several ohm readings at once: they are of one network."""
        fresh = [p for p in probes if p not in self._shown]
        if not fresh:
            return
        pairs = [(self._bench.node(p.red), self._bench.node(p.black)) for p in fresh]
        for probe, values in zip(fresh, self._bench.ohms(self.faults, pairs).T, strict=True):
            self._shown[probe] = values

    def _at(self, row: str) -> Solved:
        if row not in self._solved:
            self._solved[row] = self._bench.solve(self.rows[row], self.faults)
        return self._solved[row]

    # -- beliefs ----------------------------------------------------------------------------------------------------

    def posterior(self, readings: Sequence[Taken]) -> Array:
        """How strongly each fault is believed after these readings."""
        found = self._weighed(readings)
        found = np.exp(found - found.max())
        return np.asarray(found / found.sum())

    def _weighed(self, readings: Sequence[Taken]) -> Array:
        """How likely each fault is together with these readings, logarithm; kept for the readings asked about last."""
        if self._last[0] != tuple(readings):
            shown = [self.shown(r.probe) for r in readings]
            self._last = tuple(readings), self._amounts.weighed(np.log(self.prior), readings, shown)
        return self._last[1]

    def beliefs(self, readings: Sequence[Taken]) -> tuple[Belief, ...]:
        """Classes of faults, and what lies outside the circuit, the most believed first."""
        outside = self.elsewhere(readings)
        found = [replace(b, share=b.share * (1 - outside)) for b in self._ranked(self.posterior(readings))]
        if outside:
            found.append(Belief(ELSEWHERE, self._outside.words(readings, self._sound(readings)), outside, ()))
        return tuple(sorted(found, key=lambda b: (-b.share, b.about)))

    def elsewhere(self, readings: Sequence[Taken]) -> float:
        """How strongly it is believed that what is wrong lies outside the circuit; 0 before anything is read."""
        if not readings or not self._weighs_outside or self.faults[0] is not NONE:
            return 0.0
        odds = np.logaddexp.reduce(self._weighed(readings)) - self._outside.weighed(readings, self._sound(readings))
        return float(1 / (1 + np.exp(np.clip(odds, -500, 500))))

    def _sound(self, readings: Sequence[Taken]) -> list[float]:
        """What a sound circuit shows where some readings were taken."""
        return [float(self.shown(r.probe)[0]) for r in readings]

    @cached_property
    def _outside(self) -> Outside:
        return Outside(self.figures, self.within, self._bench, self.rows, self._weighs_outside)

    def _ranked(self, posterior: Array) -> tuple[Belief, ...]:
        share = np.bincount(self._class, posterior, len(self.classes))
        first: dict[str, Fault] = {}
        for fault in self.faults:
            first.setdefault(fault.about, fault)
        found = [Belief(about, first[about].words, float(p), first[about].touches)
                 for about, p in zip(self.classes, share, strict=True)]
        return tuple(sorted(found, key=lambda b: (-b.share, b.about)))

    def unexplained(self, readings: Sequence[Taken]) -> bool:
        """Whether the most believed fault leaves a reading far from what it would show."""
        if not readings:
            return False
        best = int(np.argmax(self._weighed(readings)))
        values = self._amounts.best(best, readings, [self.shown(r.probe) for r in readings])
        return any(off_sigmas(value, r) > UNEXPLAINED_SIGMAS for value, r in zip(values, readings, strict=True))

    def pairs(self, readings: Sequence[Taken]) -> tuple[Belief, ...]:
        """Two faults at once, for what no single one explains."""
        both = self._paired(readings)
        return both.beliefs(readings) if both else ()

    def _paired(self, readings: Sequence[Taken]) -> "Diagnosis | None":
        """The classes that explain some of it, two by two."""
        fits = np.zeros(len(self.faults))
        for reading in readings:
            fits += np.log(likelihood(self.shown(reading.probe), reading))
        best: dict[str, list[Fault]] = {}
        for n in np.argsort(-fits).tolist():
            if self.faults[n] is not NONE:
                best.setdefault(self.faults[n].about, []).append(self.faults[n])
        both = [_together(a, b) for one, other in combinations(list(best.values())[:PAIRED], 2)
                for a, b in product(one[:PAIRED_AMOUNTS], other[:PAIRED_AMOUNTS])]
        return Diagnosis(self.figures, self.load, faults=tuple(both)) if both else None

    # -- where to probe next ----------------------------------------------------------------------------------------

    def probes(self, row: str) -> list[Probe]:
        """What could be read: every point against the supply's negative, each element from end to end, both in a state
        and (ohms) with nothing powered."""
        black = ground(self.figures)
        made = [Probe("V", row, p.terminal, black) for p in self.points if p.terminal != black] if row else []
        ends = [pair for e in sorted(self.within) if (pair := of_element(self.figures, e))]
        if row:
            made += [Probe("V", row, a, b) for a, b in ends]
        ohms = [Probe("ohm", UNPOWERED, a, b) for a, b in ends]
        ohms += [Probe("ohm", UNPOWERED, p.terminal, black) for p in self.points if p.terminal != black]
        part = self.figures.plan.part(self.load)
        ohms.append(Probe("ohm", UNPOWERED, part.at("pos"), part.at("neg")))
        self._ohms(ohms)
        return made + ohms

    def seconds(self, probe: Probe, before: Taken | None) -> float:
        """What a probe takes: itself, getting there, another state."""
        place = {p.terminal: p for p in self.points}
        found = PROBE_S
        last = before.probe if before else None
        ends = [place[t] for t in (probe.red, probe.black) if t in place]
        was = {place[t].place for t in (last.red, last.black) if t in place} if last else set()
        fresh = {p.place: p for p in ends if p.place not in was}
        found += sum(PLACE_S + (REACH_S if p.reach else 0.0) for p in fresh.values())
        if last is None or last.row != probe.row:
            found += OHMS_S if probe.row == UNPOWERED or (last and last.row == UNPOWERED) else STATE_S
        return found

    def next(self, readings: Sequence[Taken], rows: Sequence[str] = ()) -> Advice | None:
        """The probe that is worth most for its seconds; None where one class is sure, or nothing would tell more. Where
        no single fault explains what was read, the one that parts two at once."""
        if not self._is_of_pairs and self.unexplained(readings) and (both := self._paired(readings)):
            return both.next(readings, rows)
        posterior = self.posterior(readings)
        if self.beliefs(readings)[0].share >= SURE:
            return None
        last = readings[-1] if readings else None
        done = {r.probe for r in readings}
        states = rows or (self.usual,)
        every = [p for state in states for p in self.probes(state) if p not in done]
        worth = [(self.bits(posterior, p), self.seconds(p, last), p) for p in dict.fromkeys(every)]
        worth = [one for one in worth if one[0] >= LEAST_BITS]
        if not worth:
            return None
        bits, seconds, probe = max(worth, key=lambda w: (w[0] / w[1], w[2].quantity == "V", w[2].red, w[2].black))
        return Advice(probe, bits, seconds, float(self.shown(probe)[0]), self._parted(posterior, probe))

    def _parted(self, posterior: Array, probe: Probe) -> tuple[str, ...]:
        """Of what is most believed, the first two causes that would show otherwise there."""
        place = on_scale(self.shown(probe), probe.quantity)
        best: dict[int, int] = {}
        for n in np.argsort(-posterior, kind="stable").tolist():
            best.setdefault(int(self._class[n]), n)
        ranked = [best[b] for b in sorted(best, key=lambda c: -posterior[best[c]])][:MOST_PARTED]
        pair = next((one for one in combinations(ranked, 2) if abs(place[one[0]] - place[one[1]]) > BIN_SIGMAS), None)
        return tuple(self.faults[n].words for n in pair) if pair else ()

    def bits(self, posterior: Array, probe: Probe) -> float:
        """By how much a reading is expected to narrow the classes, bits."""
        place = on_scale(self.shown(probe), probe.quantity)
        before = entropy(np.bincount(self._class, posterior, len(self.classes)))
        left = 0.0
        for offset in (0.0, 0.5):  # so that an edge between two bins parts nothing by chance
            bins = np.floor(place / BIN_SIGMAS + offset)
            _, at = np.unique(bins, return_inverse=True)
            table = np.bincount(at * len(self.classes) + self._class, posterior,
                                (at.max() + 1) * len(self.classes)).reshape(-1, len(self.classes))
            total = table.sum(axis=1)
            left += 0.5 * sum(t * entropy(row / t) for t, row in zip(total, table, strict=True) if t > 0)
        return max(0.0, (before - left) * SOUND)


def tied(beliefs: Sequence[Belief]) -> tuple[Belief, ...]:
    """What no probe parts any more, where none of it is sure: the classes that are left."""
    return () if beliefs[0].share >= SURE else tuple(b for b in beliefs if b.share >= TIED)


def entropy(shares: Array) -> float:
    """Of shares that sum to one, bits."""
    some = shares[shares > 1e-15]
    return float(-(some * np.log2(some)).sum())


def _together(a: Fault, b: Fault) -> Fault:
    """Two faults at once."""
    return Fault(f"{a.key} and {b.key}", f"{a.about} and {b.about}", f"{a.words}; and {b.words}", a.prior * b.prior,
                 (*a.touches, *b.touches), {**a.adds, **b.adds}, a.opens | b.opens, {**a.joins, **b.joins},
                 a.dead | b.dead, a.off | b.off, {**a.stuck, **b.stuck}, {**a.conducts, **b.conducts},
                 a.emf_times * b.emf_times, a.ohm_times * b.ohm_times, {**a.draws, **b.draws},
                 held_times=a.held_times * b.held_times)
