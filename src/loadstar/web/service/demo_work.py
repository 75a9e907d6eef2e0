"""The demonstration's work: the fit-out half built, one joint of it bad and found by the probes, two circuits proved,
the winter plan built and proved whole, three goes at practice."""

from itertools import takewhile

from loadstar.core.analysis import Analysis
from loadstar.core.prove.predict import Prediction
from loadstar.core.prove.readings import Probe, Taken
from loadstar.core.prove.results import latest
from loadstar.core.prove.trainer import Exercise, at_load, par, read, score
from loadstar.practice import SET

from ..evidence import proving as known
from ..evidence.sheet import made, note
from ..plans.models import PlanHead
from ..records import store
from ..records import work as records
from ..records.models import AsBuilt, TrainerRun
from ..stations.prove import training
from ..workshop.models import Person

BEGUN = "beep"  # the fit-out is built up to there
BAD = "W8 +0.8"  # a crimp of the grips' feed
SOUND_S = 0.4  # of what the meter may be off by, that these readings are


def work_on(fit_out: PlanHead, winter: PlanHead, person: Person) -> None:
    """Everything that was done on two of the demonstration's plans."""
    _built(fit_out, person, BEGUN)
    _built(winter, person, "")
    _measured(fit_out, person, ("Left fog lamp", "Right fog lamp"))
    _looked_for(fit_out, person, "Heated grips")
    _measured(winter, person, ())
    _practised(fit_out, person)
    AsBuilt.objects.create(plan=winter, revision=winter.head, by=person, note="Ridden on the long sands, nothing warm.")


def _built(row: PlanHead, person: Person, until: str) -> None:
    """The goes ticked before the first of a sitting ("": all), some crimps made twice."""
    sheet = made(store.load(row).analysis)
    before = takewhile(lambda go: not until or go.sitting != until, sheet.goes)
    for n, operation in enumerate(o for go in before for o in go.operations):
        if operation.kind == "crimp core" and n % 40 == 7:
            records.write(row, person, row.head, operation, records.Line("again", note="a strand beside the wings"))
        pull = operation.pull_n
        records.write(row, person, row.head, operation,
                      records.Line("done", pull_n=None if pull is None else pull + 12.0))
    note(row, sheet)


def _measured(row: PlanHead, person: Person, loads: tuple[str, ...]) -> None:
    """Every step of these circuits read (none named: of all), a little off what was expected."""
    analysis = store.load(row).analysis
    plan = known.plan_of_analysis(analysis)
    wanted = {p.id for p in analysis.plan.loads if not loads or p.name in loads}
    for n, step in enumerate(plan):
        if not step.proves or wanted & set(step.proves):
            off = (-1) ** n * SOUND_S * step.expects.spread
            value = step.expects.value if step.expects.value == records.OPEN else step.expects.value + off
            probe = Probe(step.quantity, step.row, step.red, step.black)
            _keep(row, person, step.key, Taken(probe, max(0.0, value) if step.quantity != "V" else value),
                  step.expects)
    _noted(row, analysis)


def _looked_for(row: PlanHead, person: Person, name: str) -> None:
    """A circuit that read too little: probed as advised until one class is sure."""
    analysis = store.load(row).analysis
    load = next(p.id for p in analysis.plan.loads if p.name == name)
    diagnosis = known.diagnosis(analysis, load)
    fault = [f.key for f in diagnosis.faults].index(BAD)
    hidden = Exercise(load, fault, diagnosis.usual, "", "simple", 11)
    step = next(s for s in known.plan_of_analysis(analysis) if s.key == f"at.{load}.{diagnosis.usual}")
    for n, taken in enumerate(par(diagnosis, hidden)):
        if n == 0:
            _keep(row, person, step.key, read(diagnosis, hidden, at_load(diagnosis, hidden.row)),
                  step.expects)
            continue
        expected = known.expected(analysis, taken.probe)
        assert expected is not None
        _keep(row, person, "", taken, expected, load)
    _noted(row, analysis)


def _noted(row: PlanHead, analysis: Analysis) -> None:
    readings, plan = records.readings(row), known.plan_of_analysis(analysis)
    last = latest(readings)
    found = [last[s.key] for s in plan if s.key in last]
    records.note_proof(row, len(found), len(plan), sum(r.verdict == "out" for r in found))


def _keep(row: PlanHead, person: Person, step: str, taken: Taken, expects: Prediction, load: str = "") -> None:
    records.keep(row, person, row.head, step=step, load=load, quantity=taken.probe.quantity, row=taken.probe.row,
                 red=taken.probe.red, black=taken.probe.black, value=taken.value, expected=expects.value,
                 spread=expects.spread, plain=expects.value, instrument="pocket meter")


def _practised(row: PlanHead, person: Person) -> None:
    """Three goes: one at par, one with a reading too many, one given up."""
    for n, one in enumerate(SET[2:5]):
        run = training.from_set(row.workshop, person, one.key)
        run.seed = 40 + n
        run.save()
        opened = training.opened(run)
        assert opened is not None
        diagnosis, exercise = opened
        taken = par(diagnosis, exercise)
        black = diagnosis.points[-1].terminal
        extra = [read(diagnosis, exercise, Probe("V", run.row, p.terminal, black)) for p in diagnosis.points[:n]]
        run.taken = [training.as_row(t) for t in (*extra, *taken)][:2 if n == 2 else None]
        result = score(diagnosis, exercise, [*extra, *taken])
        TrainerRun.objects.filter(pk=run.pk).update(
            taken=run.taken, ended=run.begun, found=n < 2, seconds=result.seconds, par_probes=result.par_probes,
            par_seconds=result.par_seconds, points=result.points if n < 2 else 0)
