"""What the Prove station shows: the plan of measurement, a circuit's fault looked for, results, practice."""

from collections.abc import Callable, Mapping, Sequence
from itertools import groupby
from typing import Any

from django.conf import settings
from django.utils.safestring import mark_safe

from loadstar.core import limits
from loadstar.core.parts.load import LoadPart
from loadstar.core.prove.diagnose import ELSEWHERE, SURE, Diagnosis, tied
from loadstar.core.prove.measure import Step
from loadstar.core.prove.points import ground
from loadstar.core.prove.readings import UNPOWERED, row_of
from loadstar.core.prove.results import Shown, holds, latest, proofs, wavering
from loadstar.core.prove.set import on_then, with_off
from loadstar.core.prove.told import told as of_machine
from loadstar.core.survey.shows import state_words
from loadstar.draw import descent
from loadstar.draw.bars import bars

from ...evidence import proving as known
from ...frame.frame import Frame
from ...records import work as records
from . import training

VIEWS = (("plan", "Measure"), ("find", "Find a fault"), ("result", "Results"), ("train", "Practice"))
QUANTITY = {"V": "volts", "ohm": "ohms", "A": "amps"}
UNIT = {"V": "V", "ohm": "Ω", "A": "A"}
BELIEVED = 6
LEAST_SHOWN = 0.005  # of what is believed: less is no bar
MOST_PAIRS = 3
DECIMALS = {"V": 2, "ohm": 1, "A": 3}  # as a pocket meter has them


def prove(frame: Frame) -> dict[str, Any]:
    """The part of the station that is open."""
    view = frame.kept["view"] if frame.kept["view"] in PARTS else "plan"
    tabs = [{"key": k, "name": n, "here": k == view, "link": frame.link(view="" if k == "plan" else k, n="", run="")}
            for k, n in VIEWS]
    shown: dict[str, Any] = {"tabs": tabs, "part": f"prove/{view}.html"}
    if not frame.analysis.is_solved and view != "train":
        return {**shown, "empty": True}
    with limits.at_most(settings.COMPUTE_S):
        readings = records.readings(frame.row)
        plan = known.plan_of(frame, readings) if view != "train" else ()
        return {**shown, **PARTS[view](frame, readings, plan)}


def _where(frame: Frame, terminal: str) -> str:
    """A point in words."""
    part = frame.plan.part_by_id.get(terminal.partition(".")[0])
    return f"{part.name}, {terminal.partition('.')[2]}" if part else "bare frame" if terminal == "frame" else terminal


def _plan(frame: Frame, readings: list[Shown], plan: tuple[Step, ...]) -> dict[str, Any]:
    """Every step by its stage, and the one that is next."""
    last = latest(readings)
    asked = frame.kept["n"]
    shut = next((n for n, s in enumerate(plan) if s.gate and s.key in last and last[s.key].verdict != "in"), None)
    number = int(asked) if asked.isascii() and asked.isdigit() and int(asked) < len(plan) else (
        shut if shut is not None else next((n for n, s in enumerate(plan) if not _is_read(s, last)), -1))
    closed = shut is not None and number >= shut
    rows = [_row(frame, s, last.get(s.key), n, here=n == number) for n, s in enumerate(plan)]
    stages = [(name, list(group)) for name, group in groupby(rows, key=lambda r: r["step"].stage)]
    step, on = (plan[number], on_then(frame.analysis, plan[number])) if number >= 0 else (None, ())
    off = _off(frame, on)
    if step is not None and off:
        step = with_off(frame.analysis, step, off)
        rows[number] |= {"step": step}
    newest = readings[-1].step if readings else ""
    left = (n for n in (*range(number + 1, len(plan)), *range(max(number, 0))) if not _is_read(plan[n], last))
    return {"stages": stages, "next": step, "newest": newest,
            "just": next((r for r in rows if r["step"].key == newest), None),
            "onward": next((rows[n]["link"] for n in left), ""), "on": [(p, p.id not in off) for p in on],
            "on_words": ", ".join(p.name for p in on if p.id not in off), "closed": closed, "off": " ".join(off),
            "asked": frame.extra.get("asked", ""), "number": number, "read": sum(_is_read(s, last) for s in plan),
            "all": len(plan), "current": rows[number] if step else None, "typed": frame.extra.get("typed", {}),
            "told": frame.extra.get("told", ""), "meter": training.has_meter(), "quantity": QUANTITY}


def _is_read(step: Step, last: Mapping[str, Shown]) -> bool:
    """Whether it was read on the plan as it is."""
    return step.key in last and holds(step, last[step.key])


def _row(frame: Frame, step: Step, shown: Shown | None, number: int, *, here: bool) -> dict[str, Any]:
    """A line of the plan: where the probes go, and what its meter shows, in the unit that it shows it in."""
    lead = "" if step.quantity != "A" else "in the supply's negative lead" if step.red == step.black else (
        f"in the place of {_where(frame, step.red).partition(',')[0]}")
    return {"step": step, "shown": shown, "here": here,
            "older": shown is not None and not holds(step, shown), "link": frame.link(n=str(number)), "lead": lead,
            "red": _where(frame, step.red), "black": _where(frame, step.black), "unit": step.unit,
            "digits": 1 if step.unit == "mA" else DECIMALS[step.quantity],
            "off": [frame.plan.part(p).name for p in shown.off if p in frame.plan.part_by_id] if shown else []}


def _off(frame: Frame, on: Sequence[LoadPart]) -> tuple[str, ...]:
    """What was said to be off, of what the reading's state has on: by the page's ticks, or with the form that is shown
    again."""
    typed = frame.extra.get("typed", {}).get("off", "").split()
    chosen = frame.request.GET
    asked = {p.id for p in on} - set(chosen.getlist("on")) if "said" in chosen else set(typed)
    return tuple(p.id for p in on if p.id in asked)


def _circuit(frame: Frame, readings: list[Shown], plan: tuple[Step, ...]) -> LoadPart | None:
    """The circuit that is looked at: the one chosen, or the first with a reading that is out."""
    complete = [p for p in frame.plan.loads if frame.analysis.path(p.id).complete]
    chosen = frame.plan.is_one(frame.select, LoadPart)
    if chosen in complete:
        return chosen
    found = proofs(frame.analysis, plan, readings)
    return next((p for p in complete if found[p.id].out), complete[0] if complete else None)


def _find(frame: Frame, readings: list[Shown], plan: tuple[Step, ...]) -> dict[str, Any]:
    """One circuit: what has been read on it, what that means, where to probe next."""
    load = _circuit(frame, readings, plan)
    loads = [{"load": p, "here": p is load, "link": frame.link(sel=p.id)} for p in frame.plan.loads
             if frame.analysis.path(p.id).complete]
    if load is None:
        return {"load": None, "loads": loads}
    diagnosis = known.diagnosis(frame.analysis, load.id, known.of_log(frame))
    row = row_of(frame.analysis.volts.rows, diagnosis.usual)
    mine = known.on_circuit(frame, load, readings, plan)
    taken = [r.taken for r in mine]
    every = diagnosis.beliefs(taken)[:BELIEVED]
    beliefs = tuple(b for b in every if b.share >= LEAST_SHOWN) or every[:1]
    advice = diagnosis.next(taken)
    unexplained = diagnosis.unexplained(taken)
    pairs = diagnosis.pairs(taken)[:MOST_PAIRS] if unexplained else ()
    outside = bool(taken) and beliefs[0].about == ELSEWHERE
    allowed = outside and all(r.verdict == "in" for r in mine)  # by what parts and joints scatter
    dots = [(frame.analysis.topology.node(r.red), frame.analysis.topology.node(r.black), r.value, r.verdict)
            for r in mine if r.quantity == "V" and r.row == diagnosis.usual]
    state = row.state if row is not None else frame.state
    picture = descent.draw(frame.analysis, load.id, state, dots=dots)
    waver = [{"low": low, "high": high, "red": _where(frame, low.red), "black": _where(frame, low.black),
              "unit": UNIT[low.quantity]} for low, high in wavering(known.since_mended(load, readings, plan))]
    return {"load": load, "loads": loads, "state": state, "waver": waver, "picture": mark_safe(picture),
            "mine": [{"shown": r, "red": _where(frame, r.red), "black": _where(frame, r.black),
                      "unit": UNIT[r.quantity]} for r in mine],
            "beliefs": beliefs, "bars": mark_safe(bars([(b.words, b.share) for b in beliefs])),
            "sure": bool(taken) and beliefs[0].share >= SURE and not (allowed or unexplained), "first": beliefs[0],
            "advice": advice, "red": _where(frame, advice.probe.red) if advice else "",
            "black": _where(frame, advice.probe.black) if advice else "",
            "tied": () if advice else tied(every),
            "outside": outside, "allowed": allowed, "unexplained": unexplained,
            "pairs": [b for b in pairs if b.share >= LEAST_SHOWN],
            "points": _points(frame, diagnosis), "ground": ground(frame.analysis),
            "row": diagnosis.usual, "row_words": row.words if row else "",
            "unpowered": UNPOWERED, "typed": frame.extra.get("typed", {}), "told": frame.extra.get("told", ""),
            "meter": training.has_meter(), "unit": UNIT.get(advice.probe.quantity, "") if advice else ""}


def _points(frame: Frame, diagnosis: Diagnosis) -> list[tuple[str, str]]:
    """Where a probe can be put, in words."""
    return [(p.terminal, f"{_where(frame, p.terminal)} ({p.terminal})") for p in diagnosis.points]


def _result(frame: Frame, readings: list[Shown], plan: tuple[Step, ...]) -> dict[str, Any]:
    """Every circuit's proof, and every reading."""
    found = proofs(frame.analysis, plan, readings)
    rows = [{"load": p, "proof": found[p.id], "find": frame.link(view="find", sel=p.id)} for p in frame.plan.loads]
    words = {s.key: s.what for s in plan}
    told = [{"shown": r, "what": words.get(r.step, "on the way to a fault"), "unit": UNIT.get(r.quantity, "")}
            for r in reversed(readings) if r.step != known.MENDED]
    words = state_words(frame.plan)
    survey = [{"told": one, "state": words.get(one.state, one.state), "unit": "mA" if one.quantity == "A" else "V",
               "digits": 1 if one.quantity == "A" else DECIMALS["V"]} for one in of_machine(frame.plan, readings)]
    return {"rows": rows, "told": told, "proved": sum(f.is_proved for f in found.values()), "survey": survey,
            "refused": frame.extra.get("told", "")}


PARTS: dict[str, Callable[[Frame, list[Shown], tuple[Step, ...]], dict[str, Any]]] = {
    "plan": _plan, "find": _find, "result": _result, "train": training.page}
