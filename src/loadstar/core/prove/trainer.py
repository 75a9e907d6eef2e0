"""Practice: a hidden fault on a plan, a meter with two probes, and how well it was found.

The machine answers as the network with the fault would, with a meter's noise, seeded. Par is what the advice of
diagnose.py needs for the same fault; every probe is worth, afterwards, what it told then against the best there was.
"""

import math
import random
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from ..figures.figures import Figures
from .diagnose import Advice, Diagnosis
from .predict import METER_SIGMAS
from .readings import Probe, Taken, meter_sigma

NOISE_SHARE = 0.5  # of the meter's uncertainty that its readings really scatter by
MOST_PROBES = 30
WRONG_PART_S, METER_FUSE_S = 300.0, 120.0  # what a part changed in vain costs, and ohms on a live circuit
LEAST_SHOWN_SIGMAS = 3.0  # a fault that nobody could see at its load is none to practise on
Level = Literal["simple", "middling", "nasty"]
LEVELS: tuple[Level, ...] = ("simple", "middling", "nasty")
SYMPTOMS = {"dead": "does nothing at all", "weak": "works, but weakly", "reversed": "does nothing, though it is live",
            "stays": "does not go off", "same": "works now, and did not yesterday"}


@dataclass(frozen=True)
class Exercise:
    """A fault hidden on a circuit: its load, the fault's number among the candidates, the state it shows in, its
    symptom in the customer's words, how hard it is, the seed of the meter's noise."""

    load: str
    fault: int
    row: str
    symptom: str
    level: Level
    seed: int


@dataclass(frozen=True)
class Worth:
    """A probe in hindsight: what it told, what the best one then would have told (bits), and which that was (None: it
    was the best)."""

    taken: Taken
    bits: float
    best_bits: float
    better: Probe | None


@dataclass(frozen=True)
class Score:
    """How an exercise went: readings, seconds with what mistakes cost, and par for both."""

    probes: int
    seconds: float
    par_probes: int
    par_seconds: float

    @property
    def points(self) -> int:
        """A hundred at par or better, less in proportion to the seconds that it took longer."""
        return round(100 * min(1.0, self.par_seconds / self.seconds)) if self.seconds > 0 else 100


def exercises(figures: Figures, seed: int, count: int = 12) -> tuple[Exercise, ...]:
    """So many exercises on a plan, from simple to nasty, the same for the same seed: only faults that show at their
    load, and that can be told from all others by the meter."""
    dice = random.Random(seed)
    loads = [p.id for p in figures.plan.loads if figures.path(p.id).complete]
    found: list[Exercise] = []
    seen: set[tuple[str, str]] = set()
    for _ in range(8 * count if loads else 0):
        if len(found) == count:
            break
        load = dice.choice(loads)
        diagnosis = Diagnosis(figures, load)
        n = dice.choices(range(len(diagnosis.faults)), diagnosis.prior)[0]
        fault = diagnosis.faults[n]
        if (load, fault.about) in seen:
            continue
        seen.add((load, fault.about))
        if made := _exercise(diagnosis, n, dice.randrange(10**6)):
            found.append(made)
    return tuple(sorted(found, key=lambda e: LEVELS.index(e.level)))


def _exercise(diagnosis: Diagnosis, fault: int, seed: int) -> Exercise | None:
    """An exercise of a fault, where it shows and can be found."""
    row = diagnosis.usual
    shown = diagnosis.shown(at_load(diagnosis, row))
    if not math.isfinite(shown[fault]) or fault == 0:
        return None
    off = abs(shown[fault] - shown[0]) / float(meter_sigma(shown[0], "V"))
    if off < LEAST_SHOWN_SIGMAS:
        return None
    made = Exercise(diagnosis.load, fault, row, symptom(diagnosis, fault, row), "simple", seed)
    played = par(diagnosis, made)
    if not played or diagnosis.beliefs(played)[0].about != diagnosis.faults[fault].about:
        return None
    level: Level = "simple" if len(played) <= 3 else "middling" if len(played) <= 5 else "nasty"
    return replace(made, level=level)


def symptom(diagnosis: Diagnosis, fault: int, row: str) -> str:
    """What a customer would say."""
    shown = diagnosis.shown(at_load(diagnosis, row))
    sound = float(shown[0])
    share = float(shown[fault]) / sound if abs(sound) > 1e-9 else 1.0
    if diagnosis.load in diagnosis.faults[fault].dead:
        share = 0.0
    return SYMPTOMS["reversed" if share < -0.2 else "dead" if share < 0.35 else "weak" if share < 0.97 else "same"]


def at_load(diagnosis: Diagnosis, row: str) -> Probe:
    """Volts at the load itself."""
    part = diagnosis.figures.plan.part(diagnosis.load)
    return Probe("V", row, part.at("pos"), part.at("neg"))


def read(diagnosis: Diagnosis, exercise: Exercise, probe: Probe) -> Taken:
    """What the meter shows on the machine with the hidden fault; the same each time the same probe is taken."""
    shown = float(diagnosis.shown(probe)[exercise.fault])
    if not math.isfinite(shown):
        return Taken(probe, math.inf if probe.quantity == "ohm" else 0.0)
    dice = random.Random(f"{exercise.seed}/{probe.quantity}/{probe.row}/{probe.red}/{probe.black}")
    off = max(-METER_SIGMAS, min(METER_SIGMAS, dice.gauss(0, 1))) * NOISE_SHARE
    value = shown + off * float(meter_sigma(shown, probe.quantity))
    return Taken(probe, max(0.0, value) if probe.quantity == "ohm" else value)


def par(diagnosis: Diagnosis, exercise: Exercise) -> list[Taken]:
    """The readings that following the advice takes, from the symptom's own on."""
    taken = [read(diagnosis, exercise, at_load(diagnosis, exercise.row))]
    while len(taken) < MOST_PROBES and (advice := diagnosis.next(taken, (exercise.row,))):
        taken.append(read(diagnosis, exercise, advice.probe))
    return taken


def seconds(diagnosis: Diagnosis, taken: Sequence[Taken]) -> float:
    """How long some readings take, one after another."""
    before = [None, *taken][:len(taken)]
    return sum(diagnosis.seconds(t.probe, b) for t, b in zip(taken, before, strict=True))


def score(diagnosis: Diagnosis, exercise: Exercise, taken: Sequence[Taken], wrong_parts: int = 0,
          meter_fuses: int = 0) -> Score:
    """How an exercise went, against par."""
    played = par(diagnosis, exercise)
    return Score(len(taken), seconds(diagnosis, taken) + WRONG_PART_S * wrong_parts + METER_FUSE_S * meter_fuses,
                 len(played), seconds(diagnosis, played))


def review(diagnosis: Diagnosis, exercise: Exercise, taken: Sequence[Taken]) -> tuple[Worth, ...]:
    """Each probe's worth at its time, and a better one where there was one."""
    found = []
    for n, one in enumerate(taken):
        before = taken[:n]
        posterior = diagnosis.posterior(before)
        bits = diagnosis.bits(posterior, one.probe)
        best = _best(diagnosis, exercise, before)
        better = best is not None and best.bits > 1.1 * bits + 0.05
        found.append(Worth(one, bits, best.bits if best else bits, best.probe if best and better else None))
    return tuple(found)


def _best(diagnosis: Diagnosis, exercise: Exercise, before: Sequence[Taken]) -> Advice | None:
    return diagnosis.next(before, (exercise.row,))
