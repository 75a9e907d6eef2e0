"""What has been proved: each step's last reading against what was expected of it, and what that makes of a circuit."""

import math
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from ..figures.figures import Figures
from ..refs import TerminalRef
from .measure import Step
from .predict import Prediction, Quantity, Verdict
from .readings import Probe, Taken, meter_sigma
from .shorts import SHORT

WAVERS_SIGMAS = 8.0


@dataclass(frozen=True)
class Shown:
    """A reading as it was taken: for which step or circuit ("": none), between which points in which row, what it
    showed, what was expected then and within what, in which revision, by whom, when, with what."""

    step: str
    load: str
    quantity: Quantity
    row: str
    red: str
    black: str
    value: float
    expected: float
    spread: float
    revision: int = 0
    by: str = ""
    at: str = ""
    instrument: str = ""
    number: int = 0
    plain: float = math.nan  # what was expected before anything had been measured
    off: tuple[str, ...] = ()  # what was switched off for it, though the state has it on

    @property
    def verdict(self) -> Verdict:
        """In order, near, or out, by what was expected when it was taken."""
        spread = math.inf if math.isinf(self.expected) else self.spread
        at_least = self.step.startswith(SHORT)
        return Prediction(self.quantity, self.expected, spread, at_least).verdict(self.value)

    @property
    def taken(self) -> Taken:
        """As the diagnosis takes it."""
        return Taken(Probe(self.quantity, self.row, TerminalRef(self.red), TerminalRef(self.black)), self.value)


@dataclass(frozen=True)
class Proof:
    """A circuit's: its steps that were read and in order, those that were out, those not read, who read last.
    `older`: something was read on another revision whose prediction has changed since."""

    load: str
    good: int
    out: tuple[Step, ...]
    missing: tuple[Step, ...]
    older: tuple[Step, ...]
    by: tuple[str, ...]

    @property
    def is_proved(self) -> bool:
        """Whether every step of it was read and is in order, on the plan as it is."""
        return self.good > 0 and not (self.out or self.missing or self.older)


def latest(readings: Iterable[Shown]) -> dict[str, Shown]:
    """Each step's last reading."""
    return {r.step: r for r in readings if r.step}


def holds(step: Step, shown: Shown) -> bool:
    """Whether what was expected then is what is expected now: the plan has not changed what is read there."""
    now, then = step.plain, shown.plain
    if math.isinf(now) or math.isinf(then):
        return now == then
    return abs(now - then) <= max(0.5 * step.expects.spread, 1e-6)


def proofs(figures: Figures, steps: Sequence[Step], readings: Iterable[Shown]) -> Mapping[str, Proof]:
    """Every circuit's proof, by load."""
    last = latest(readings)
    of: dict[str, list[Step]] = defaultdict(list)
    for step in steps:
        for proved in dict.fromkeys(step.proves):
            of[proved].append(step)
    found = {}
    for load in figures.plan.loads:
        mine = of[load.id]
        read = [(s, last[s.key]) for s in mine if s.key in last]
        out = tuple(s for s, r in read if r.verdict == "out")
        older = tuple(s for s, r in read if not holds(s, r))
        good = [r for s, r in read if r.verdict != "out" and holds(s, r)]
        found[load.id] = Proof(load.id, len(good), out, tuple(s for s in mine if s.key not in last), older,
                               tuple(dict.fromkeys(r.by for r in good)))
    return found


def wavering(readings: Iterable[Shown]) -> tuple[tuple[Shown, Shown], ...]:
    """Readings of one point, under the same conditions and with the same expected, that disagree by more than any meter
    does: of each the one that showed least and the one that showed most."""
    by_point: dict[object, list[Shown]] = defaultdict(list)
    for r in readings:
        if r.quantity in ("V", "ohm") and math.isfinite(r.value):
            by_point[r.taken.probe, r.off, round(r.plain, 1)].append(r)
    pairs = ((min(some, key=lambda r: r.value), max(some, key=lambda r: r.value)) for some in by_point.values())
    return tuple((low, high) for low, high in pairs
                 if high.value - low.value > WAVERS_SIGMAS * float(meter_sigma(high.value, high.quantity)))


def posts_v(readings: Iterable[Shown]) -> dict[str, float]:
    """Volts at the posts as last measured with everything on that the state has, by state."""
    return {r.row: r.value for r in readings
            if r.step == f"posts.{r.row}" and math.isfinite(r.value) and not r.off}
