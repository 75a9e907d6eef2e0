"""What is known of a plan's proof: its steps, predictions, the diagnosis of each circuit. Kept for each revision."""

from collections.abc import Sequence
from functools import lru_cache

from django.conf import settings

from loadstar.core import limits
from loadstar.core.analysis import Analysis
from loadstar.core.build.log import weights
from loadstar.core.build.whole import work
from loadstar.core.parts.load import LoadPart
from loadstar.core.prove.diagnose import Diagnosis
from loadstar.core.prove.measure import Step, steps
from loadstar.core.prove.predict import Prediction, Predictor
from loadstar.core.prove.readings import Probe, row_of
from loadstar.core.prove.results import Shown, posts_v
from loadstar.core.refs import TerminalRef

from ..frame.frame import Frame
from ..records import work as records
from .kept import ByIdentity

MENDED = "mended"  # what parts the readings of a circuit: those before it were of a fault that is mended
AS_BEFORE = 0.02  # share, and volts, by which a prediction may have moved and a reading still be of this plan


@lru_cache(maxsize=24)
def _diagnosis(key: ByIdentity, load: str, more: tuple[tuple[str, float], ...]) -> Diagnosis:
    return Diagnosis(key.analysis, load, dict(more))


@lru_cache(maxsize=16)
def _predictor(key: ByIdentity) -> Predictor:
    return Predictor(key.analysis)


def diagnosis(analysis: Analysis, load: str, more: dict[str, float] | None = None) -> Diagnosis:
    """That of a circuit."""
    return _diagnosis(ByIdentity(analysis), load, tuple(sorted((more or {}).items())))


def of_log(frame: Frame) -> dict[str, float]:
    """How much likelier than usual faults are, as the log of the work shows."""
    entries = records.entries(frame.row)
    return weights(work(frame.analysis), entries) if entries else {}


def plan_of(frame: Frame, readings: Sequence[Shown]) -> tuple[Step, ...]:
    """The plan of measurement, with the posts as they were measured."""
    with limits.at_most(settings.COMPUTE_S):
        return steps(frame.analysis, posts_v(readings))


def plan_of_analysis(analysis: Analysis) -> tuple[Step, ...]:
    """The plan of measurement before anything has been read."""
    return steps(analysis)


def expected(analysis: Analysis, probe: Probe) -> Prediction | None:
    """What a sound circuit shows; None where there is no such state."""
    predictor = _predictor(ByIdentity(analysis))
    if probe.quantity == "ohm":
        return predictor.ohms(probe.red, probe.black)
    row = row_of(analysis.volts.rows, probe.row)
    return None if row is None else predictor.volts(row, probe.red, probe.black)


def since_mended(load: LoadPart, readings: Sequence[Shown], plan: Sequence[Step]) -> list[Shown]:
    """The readings of a circuit and of its steps that are of its network, since it was last mended."""
    steps_of = {s.key for s in plan if load.id in s.proves and s.quantity != "A" and not s.key.startswith("delay.")}
    found: list[Shown] = []
    for r in readings:
        if r.step == MENDED and r.load == load.id:
            found.clear()
        elif r.load == load.id or r.step in steps_of:
            found.append(r)
    return found


def on_circuit(frame: Frame, load: LoadPart, readings: Sequence[Shown], plan: Sequence[Step]) -> list[Shown]:
    """Those that say something of the circuit as it is now, with everything on that its state has, as far as what was
    expected of them still is; of several at one point the last."""
    found: dict[Probe, Shown] = {}
    for r in since_mended(load, readings, plan):
        now = expected(frame.analysis, r.taken.probe) if not r.off and _points_stand(frame, r) else None
        if now is not None and _same(now.value, r.plain):
            found.pop(r.taken.probe, None)
            found[r.taken.probe] = r
    return list(found.values())


def _points_stand(frame: Frame, reading: Shown) -> bool:
    return all(terminal_of(frame, t) is not None for t in (reading.red, reading.black))


def terminal_of(frame: Frame, text: str) -> TerminalRef | None:
    """A terminal of the plan by its address; None for no such one."""
    part, _, name = text.partition(".")
    found = frame.plan.part_by_id.get(part)
    return found.at(name) if found is not None and name in found.ends else None


def _same(now: float, then: float) -> bool:
    if float("inf") in (now, then):
        return now == then
    return abs(now - then) <= AS_BEFORE * max(1.0, abs(now))
