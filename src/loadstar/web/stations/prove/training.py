"""Practice: exercises that ship with Loadstar or are made on the plan, a go at one, its review, everybody's results."""

import secrets
from dataclasses import asdict
from functools import lru_cache
from typing import Any

from django.conf import settings
from django.http import Http404
from django.utils import timezone
from django.utils.safestring import mark_safe

from loadstar import practice
from loadstar.core import limits
from loadstar.core.analysis import Analysis, analyse
from loadstar.core.prove.diagnose import Diagnosis
from loadstar.core.prove.measure import Step
from loadstar.core.prove.predict import OPEN_BEGINS_OHM
from loadstar.core.prove.readings import UNPOWERED, Probe, Taken
from loadstar.core.prove.results import Shown
from loadstar.core.prove.trainer import Exercise, exercises, read, review, score, symptom
from loadstar.core.refs import TerminalRef
from loadstar.draw import descent

from ...evidence import proving as known
from ...frame.frame import Frame
from ...frame.station import Act, Again
from ...records import store
from ...records.models import TrainerRun
from ...workshop.models import Membership, Person, Workshop

MOST_READINGS, MADE, MADE_S = 40, 6, 6.0
RESULTS = 30


def has_meter() -> bool:
    """Whether a meter on a socket is there."""
    return bool(settings.METER)


@lru_cache(maxsize=len(practice.SET))
def _analysis(key: str) -> Analysis:
    """That of an exercise's plan."""
    return analyse(practice.BY_KEY[key].plan()[0])


def _of(run: TrainerRun) -> Analysis:
    if run.practice:
        return _analysis(run.practice)
    assert run.plan is not None
    return store.load(run.plan, run.revision).analysis


def opened(run: TrainerRun) -> tuple[Diagnosis, Exercise] | None:
    """A go's circuit and fault; None where the core that made it knew other faults."""
    if run.practice and run.practice not in practice.BY_KEY:
        return None
    analysis = _of(run)
    if run.load not in analysis.plan.part_by_id:
        return None
    diagnosis = known.diagnosis(analysis, run.load)
    keys = [f.key for f in diagnosis.faults]
    if run.fault not in keys:
        return None
    return diagnosis, Exercise(run.load, keys.index(run.fault), run.row, run.symptom, "simple", run.seed)


def _telling(run: TrainerRun) -> list[Taken]:
    """What of it tells something: volts with nothing powered never do."""
    return [t for t in _taken(run) if t.probe.quantity == "ohm" or t.probe.row != UNPOWERED]


def _taken(run: TrainerRun) -> list[Taken]:
    return [Taken(Probe(t["quantity"], t["row"], TerminalRef(t["red"]), TerminalRef(t["black"])),
                  float("inf") if t["value"] is None else t["value"]) for t in run.taken]


def as_row(taken: Taken) -> dict[str, Any]:
    """A reading as it is kept: an open circuit has no value."""
    return {**asdict(taken.probe), "value": None if taken.value == float("inf") else round(taken.value, 4)}


def page(frame: Frame, readings: list[Shown], plan: tuple[Step, ...]) -> dict[str, Any]:
    """The list, or one go."""
    person, shop = frame.membership.person, frame.membership.workshop
    asked = frame.kept["run"]
    if asked.isascii() and asked.isdigit():
        run = TrainerRun.objects.filter(workshop=shop, by=person, pk=int(asked)).first()
        if run is None:
            raise Http404
        return {"go": run, **_go(frame, run)}
    every = TrainerRun.objects.filter(workshop=shop).exclude(ended=None).select_related("by").order_by("-pk")
    mine = every if frame.membership.role == Membership.Role.OWNER else every.filter(by=person)
    best: dict[str, int] = {}
    for run in TrainerRun.objects.filter(workshop=shop, by=person, found=True):
        best[run.practice] = max(best.get(run.practice, 0), run.points)
    return {"go": None, "practices": [{"one": p, "best": best.get(p.key)} for p in practice.SET],
            "results": list(mine[:RESULTS]), "own": bool(frame.analysis.is_solved and frame.plan.loads),
            "told": frame.extra.get("told", "")}


def _words(analysis: Analysis, terminal: str) -> str:
    part = analysis.plan.part_by_id.get(terminal.partition(".")[0])
    return f"{part.name}, {terminal.partition('.')[2]} ({terminal})" if part else terminal


def _go(frame: Frame, run: TrainerRun) -> dict[str, Any]:
    """One go: the symptom, the meter, what it showed; once it has ended, the review."""
    found = opened(run)
    if found is None:
        return {"lost": True}
    diagnosis, exercise = found
    analysis, taken = diagnosis.figures, _taken(run)
    row = diagnosis.rows.get(run.row)
    assert isinstance(analysis, Analysis)
    dots = [(analysis.topology.node(t.probe.red), analysis.topology.node(t.probe.black), t.value, "near")
            for t in taken if t.probe.quantity == "V" and t.probe.row == run.row]
    picture = descent.draw(analysis, run.load, row.state if row else "idle", dots=dots)
    classes = {f.about: f.words for f in diagnosis.faults if f.about != "none"}
    shown: dict[str, Any] = {
        "load": analysis.plan.part(run.load), "picture": mark_safe(picture), "row_words": row.words if row else "",
        "points": [(p.terminal, _words(analysis, p.terminal)) for p in diagnosis.points],
        "taken": [_line(analysis, t) for t in taken], "classes": sorted(classes.items(), key=lambda c: c[1]),
        "typed": frame.extra.get("typed", {}), "told": frame.extra.get("told", ""),
        "machine": analysis.plan.machine.name, "last": _line(analysis, taken[-1]) if taken else None}
    if run.ended:
        worth = review(diagnosis, exercise, _telling(run))
        shown |= {"was": diagnosis.faults[exercise.fault].words,
                  "worth": [{**_line(analysis, w.taken), "share": round(100 * w.bits / max(w.best_bits, w.bits, 1e-9)),
                             "better": _line(analysis, Taken(w.better, 0.0)) if w.better else None} for w in worth]}
    return shown


def _line(analysis: Analysis, taken: Taken) -> dict[str, Any]:
    p = taken.probe
    is_open = p.quantity == "ohm" and taken.value >= OPEN_BEGINS_OHM
    return {"red": _words(analysis, p.red), "black": _words(analysis, p.black), "quantity": p.quantity,
            "value": None if is_open else taken.value, "unit": "Ω" if p.quantity == "ohm" else "V",
            "powered": p.row != UNPOWERED}


def _begin(frame: Frame) -> str:
    """A go begun: one of the set, or a fault on this plan."""
    frame.kept["view"] = "train"
    key = frame.request.POST.get("practice", "")
    if key and key not in practice.BY_KEY:
        raise Http404
    run = from_set(frame.membership.workshop, frame.membership.person, key) if key else _from_plan(frame)
    run.save()
    return frame.link(view="train", run=str(run.pk), sel="")


def from_set(workshop: Workshop, person: Person, key: str) -> TrainerRun:
    """A go at one of the set, not saved yet."""
    one = practice.BY_KEY[key]
    analysis = _analysis(key)
    load = next(p.id for p in analysis.plan.loads if p.name == one.load)
    diagnosis = known.diagnosis(analysis, load)
    fault = [f.key for f in diagnosis.faults].index(one.fault)
    row = diagnosis.usual
    return TrainerRun(workshop=workshop, by=person, practice=key, title=one.title, load=load, fault=one.fault, row=row,
                      symptom=symptom(diagnosis, fault, row), level=one.level,
                      seed=secrets.randbelow(10**6))


def _from_plan(frame: Frame) -> TrainerRun:
    seed = secrets.randbelow(10**6)
    with limits.at_most(MADE_S):
        made = exercises(frame.analysis, seed, MADE)
    if not made:
        raise Again(422, told="No fault on this plan can be told from the others by its meter: add a circuit first.")
    one = made[secrets.randbelow(len(made))]
    load = frame.plan.part(one.load)
    diagnosis = known.diagnosis(frame.analysis, one.load)
    return TrainerRun(workshop=frame.membership.workshop, by=frame.membership.person, plan=frame.row,
                      revision=frame.loaded.number, title=f"{load.name}, {frame.plan.name}"[:160], load=one.load,
                      fault=diagnosis.faults[one.fault].key, row=one.row, symptom=one.symptom, level=one.level,
                      seed=one.seed)


def _run(frame: Frame) -> tuple[TrainerRun, Diagnosis, Exercise]:
    """The member's go that is still open."""
    frame.kept["view"] = "train"
    number = frame.request.POST.get("run", "")
    run = TrainerRun.objects.filter(workshop=frame.membership.workshop, by=frame.membership.person, ended=None,
                                    pk=int(number) if number.isascii() and number.isdigit() else 0).first()
    if run is None:
        raise Http404
    frame.kept["run"] = str(run.pk)
    found = opened(run)
    if found is None:
        raise Again(422, told="This exercise was made by another version of Loadstar: begin another one.")
    return (run, *found)


def _measure(frame: Frame) -> str:
    """A reading of the machine with the hidden fault. Ohms on a live circuit cost the meter its fuse."""
    run, diagnosis, exercise = _run(frame)
    post = frame.request.POST
    points = {str(p.terminal): p.terminal for p in diagnosis.points}
    red, black = points.get(post.get("red", "")), points.get(post.get("black", ""))
    if red is None or black is None or red == black:
        raise Again(422, told="Put the two probes on two points.", typed=post.dict())
    if len(run.taken) >= MOST_READINGS:
        raise Again(422, told=f"{MOST_READINGS} readings are enough: name the fault.", typed=post.dict())
    quantity, powered = post.get("quantity", "V"), post.get("power", "on") == "on"
    if quantity == "ohm" and powered:
        run.meter_fuses += 1
        run.save(update_fields=["meter_fuses"])
        raise Again(422, told="Ohms on a live circuit: the meter's fuse went, and changing it took time. Supply off "
                    "first.", typed=post.dict())
    if quantity == "V" and not powered:
        shown = Taken(Probe("V", UNPOWERED, red, black), 0.0)
    else:
        probe = Probe("ohm" if quantity == "ohm" else "V", run.row if powered else UNPOWERED, red, black)
        shown = read(diagnosis, exercise, probe)
    run.taken = [*run.taken, as_row(shown)]
    run.save(update_fields=["taken"])
    return frame.link(view="train", run=str(run.pk), sel="")


def _name(frame: Frame) -> str:
    """The fault named: right ends the go, wrong costs a part and goes on."""
    run, diagnosis, exercise = _run(frame)
    about = frame.request.POST.get("about", "")
    if about not in diagnosis.classes:
        raise Again(422, told="Choose what is wrong.", typed=frame.request.POST.dict())
    right = about == diagnosis.faults[exercise.fault].about
    if not right:
        run.wrong_parts += 1
        run.save(update_fields=["wrong_parts"])
        raise Again(422, told="That was changed, and nothing is better: it was good. Go on.")
    return _end(frame, run, diagnosis, exercise, found=True)


def _give_up(frame: Frame) -> str:
    """The go ended without the fault."""
    return _end(frame, *_run(frame), found=False)


def _end(frame: Frame, run: TrainerRun, diagnosis: Diagnosis, exercise: Exercise, *, found: bool) -> str:
    result = score(diagnosis, exercise, _telling(run), run.wrong_parts, run.meter_fuses)
    run.ended, run.found, run.seconds = timezone.now(), found, result.seconds
    run.par_probes, run.par_seconds, run.points = result.par_probes, result.par_seconds, result.points if found else 0
    run.save()
    return frame.link(view="train", run=str(run.pk), sel="")


ACTS: dict[str, Act] = {"begin": _begin, "measure": _measure, "name": _name, "give-up": _give_up}
