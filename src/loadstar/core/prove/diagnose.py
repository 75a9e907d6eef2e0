"""What a wrong reading means: how likely each fault is after what has been read, and where to probe next.

Every fault's readings are known from one batched solution a state (bench.py). A reading is normal about what a fault
would show, with the meter's uncertainty, or with a small share anything at all; what is believed of a class is the sum
over its amounts. What is wrong outside the circuit is believed too: it moves volts a little, to where no fault of the
circuit would. The next probe is the one that is expected to narrow the classes most for the seconds it takes.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import combinations

import numpy as np

from ..figures.figures import Figures
from ..wiring.results import StateResult
from .amounts import Amounts
from .bench import Bench, Solved, volts
from .faults import NONE, PRIORS, Fault, candidates, ghosts, scope
from .points import Point, ground, of_element, points
from .readings import SOUND, UNPOWERED, Array, Probe, Taken, likelihood, moved, off_sigmas, on_scale, row_key

SURE, LEAST_BITS = 0.90, 0.02
PROBE_S, PLACE_S, REACH_S, STATE_S, OHMS_S = 10.0, 8.0, 30.0, 15.0, 40.0
BIN_SIGMAS = 2.5
MOST_PARTED = 8  # causes, of which two are named that a probe parts
TIED = 0.05  # what is believed this much belongs to a tie
UNEXPLAINED_SIGMAS = 4.0
ELSEWHERE = "elsewhere"
ELSEWHERE_WORDS = "something outside this circuit: another accessory off, or drawing other than planned"
MOST_OTHERS = 10
PAIRED = 10  # classes that are combined where no single fault explains what was read


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
        self._without: dict[str, Solved] = {}  # the same, with other accessories off
        self._shown: dict[Probe, Array] = {}
        prior = np.array([f.prior for f in self.faults])
        self.prior = prior / prior.sum()
        self._elsewhere = 0.0 if faults else PRIORS[ELSEWHERE] / prior.sum()  # of pairs it is no question
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
        found, _ = self._weighed(readings)
        found = np.exp(found - found.max())
        return np.asarray(found / found.sum())

    def _weighed(self, readings: Sequence[Taken]) -> tuple[Array, Array]:
        return self._amounts.weighed(np.log(self.prior), readings, [self.shown(r.probe) for r in readings])

    def beliefs(self, readings: Sequence[Taken]) -> tuple[Belief, ...]:
        """Classes of faults, and what lies outside the circuit, the most believed first."""
        outside = self.elsewhere(readings)
        found = [replace(b, share=b.share * (1 - outside)) for b in self._ranked(self.posterior(readings))]
        if outside:
            found.append(Belief(ELSEWHERE, ELSEWHERE_WORDS, outside, ()))
        return tuple(sorted(found, key=lambda b: (-b.share, b.about)))

    def elsewhere(self, readings: Sequence[Taken]) -> float:
        """How strongly it is believed that what is wrong lies outside the circuit; 0 before anything is read."""
        if not readings or not self._elsewhere or self.faults[0] is not NONE:
            return 0.0
        inside, _ = self._weighed(readings)
        # One part for what nobody can say beforehand, one for each other accessory that may be off.
        parts = np.full(1 + len(self._others), math.log(self._elsewhere / (1 + len(self._others))))
        for reading in readings:
            shown = self.shown(reading.probe)
            likely = likelihood(shown[:1], reading)
            parts[0] += math.log(0.5 * float(likely[0]) + 0.5 * moved(float(shown[0]), reading))
            parts[1:] += np.log(likelihood(self._shown_by_others(reading.probe), reading))
        odds = np.logaddexp.reduce(inside) - np.logaddexp.reduce(parts)
        return float(1 / (1 + np.exp(np.clip(odds, -500, 500))))

    @cached_property
    def _others(self) -> tuple[Fault, ...]:
        """The accessories outside the circuit that draw most, each off."""
        other = [p for p in self.figures.plan.loads if p.id not in self.within]
        most = sorted(other, key=lambda p: -self.figures.ratings.peak_a(p.id))[:MOST_OTHERS]
        return tuple(Fault(f"dead {p.id}", ELSEWHERE, ELSEWHERE_WORDS, 1.0, (p.id,), dead=frozenset((p.id,)))
                     for p in most)

    def _shown_by_others(self, probe: Probe) -> Array:
        """What each of them would show; unpowered what the sound circuit does."""
        if not self._others or probe.quantity == "ohm":
            return np.full(len(self._others), float(self.shown(probe)[0]))
        if probe.row not in self._without:
            self._without[probe.row] = self._bench.solve(self.rows[probe.row], self._others)
        return volts(self._without[probe.row], self._bench.node(probe.red), self._bench.node(probe.black))

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
        found, amounts = self._weighed(readings)
        best = int(np.argmax(found))
        series, _ = self._amounts.of.get(best, (None, 0))
        shown = (self.shown(r.probe) for r in readings)
        values = [s[best] if series is None else self._amounts.between(series, amounts[series], s) for s in shown]
        return any(off_sigmas(value, r) > UNEXPLAINED_SIGMAS for value, r in zip(values, readings, strict=True))

    def pairs(self, readings: Sequence[Taken]) -> tuple[Belief, ...]:
        """Two faults at once, for what no single one explains: the classes that explain some of it, two by two."""
        fits = np.zeros(len(self.faults))
        for reading in readings:
            fits += np.log(likelihood(self.shown(reading.probe), reading))
        best: dict[str, int] = {}
        for n in np.argsort(-fits).tolist():
            if self.faults[n] is not NONE:
                best.setdefault(self.faults[n].about, n)
        chosen = [self.faults[n] for n in list(best.values())[:PAIRED]]
        both = [_together(a, b) for a, b in combinations(chosen, 2)]
        return Diagnosis(self.figures, self.load, faults=tuple(both)).beliefs(readings) if both else ()

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
        """The probe that is worth most for its seconds; None where one class is sure, or nothing would tell more."""
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
                 a.emf_times * b.emf_times, a.ohm_times * b.ohm_times, {**a.draws, **b.draws})
