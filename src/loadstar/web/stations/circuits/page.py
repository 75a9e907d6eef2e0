"""What the Circuits station shows: the descent of one circuit, its steps, and the candidates of what is selected."""

from typing import Any

from django.utils.safestring import mark_safe

from loadstar.core.analysis import Analysis
from loadstar.core.doc.states import States
from loadstar.core.doc.wires import SIDES
from loadstar.core.edits import CutWire, MoveEnd
from loadstar.core.edits.couplings import free_way
from loadstar.core.figures.mains import LEAST_A, Main, busiest
from loadstar.core.figures.ratings import fuse_candidates
from loadstar.core.figures.registry import exists
from loadstar.core.figures.sizes import wire_candidates
from loadstar.core.figures.touches import stages, worst_course
from loadstar.core.findings import worst
from loadstar.core.parts.asks import COLOURS
from loadstar.core.parts.base import Part
from loadstar.core.parts.can import as_accessory
from loadstar.core.parts.coupling import Coupling
from loadstar.core.parts.fuse import FusePart
from loadstar.core.parts.load import LoadPart
from loadstar.core.parts.way import Way
from loadstar.core.plan.model import Plan
from loadstar.core.refs import ElementRef, FigureKey
from loadstar.core.sizing.argument import Curves
from loadstar.core.sizing.drops import drop_limit_frac
from loadstar.core.wiring.references import Reference, references
from loadstar.core.wiring.results import StateResult
from loadstar.draw import coordination, descent
from loadstar.draw.svg import Look
from loadstar.draw.walk import walk as walk_of

from ...frame.frame import Frame
from ...records import store

SPLICE = "splice"
COLOUR_WORDS = dict(COLOURS)


def circuits(frame: Frame) -> dict[str, Any]:
    """The descent of the circuit that the selection belongs to, its steps, and the candidates of what is selected."""
    a, plan = frame.analysis, frame.plan
    shown = _circuit_of(frame) if a.states else None
    if shown is None:
        return {"rows": [], "shown": None}
    load, main = as_accessory(shown), a.mains.get(shown.id)
    path = main.path if main else a.path(shown.id)
    elements = [k.element for k in (*path.feed, *path.back)]
    selected = frame.select if frame.select in elements else _interesting(frame, shown, elements)
    state = (_state_of(frame, main) if main else None) or frame.state
    result = (None if main else a.volts.row(shown.id, state)) or a.states[state]
    fuse = plan.is_one(selected, FusePart)
    return {
        "shown_words": result.words, "couplings": _with_a_free_way(plan), "splice": SPLICE,
        "ends": [(p.at(t), f"{p.at(t)}, {p.name}") for p in plan.parts for t in p.ends] if selected in a.wires else [],
        "laid": plan.wire_by_id.get(selected), "rows": [_row(a, one, shown) for one in plan.loads],
        "mains": [_main_row(frame, one, shown) for one in a.mains.values()], "shown": shown, "load": load, "main": main,
        "elsewhere": state != frame.state,
        "limit": drop_limit_frac(plan, load) if load else None, "steps": _steps(a, shown, state, result),
        "selected": selected, "place_name": plan.place(shown.place).name,
        "feed_name": plan.part(load.feed).name if load else "",
        "picture": mark_safe(descent.draw(a, shown.id, state, Look(frame.element_link("circuits"), selected))),
        "wire": a.wires.get(selected), "wire_guard": _guard_name(a, selected),
        "wires": wire_candidates(a, selected) if selected in a.wires else [],
        "fuse": fuse, "fuse_words": fuse_words(a, selected),
        "fuses": fuse_candidates(a, selected) if fuse else [],
        "fuse_share": a.ratings.fuse_share_frac(selected) if fuse else None, "way": plan.is_one(selected, Way),
        **_protection(frame, selected, elements), "label": _label(frame) if frame.select in a.wires else None,
        "references": [(r, _by_place(frame, r)) for r in references(a.topology, frame.state, result.closed)],
        "selected_findings": frame.tried(f for f in frame.findings if selected in f.elements or shown.id in f.elements),
    }


def _label(frame: Frame) -> dict[str, Any]:
    """A wire as somebody who holds it asks of it: what it is, from where to where, how it ends, and where it lies."""
    a, plan = frame.analysis, frame.plan
    wire, way = plan.wire_by_id[frame.select], a.topology.geometry[frame.select]
    ends = [a.ends.by_key.get(f"{wire.id}.{side}") if a.ends else None for side in SIDES]
    names = {run.id: run for run in plan.runs}
    return {"wire": wire, "colours": " with ".join(COLOUR_WORDS[c] for c in (wire.colour, wire.stripe) if c),
            "length_m": way.length_m, "area_mm2": a.wires[wire.id].area_mm2,
            "runs": [f"{plan.place(names[r].a).name} to {plan.place(names[r].b).name}" for r in way.runs],
            "ends": [{"at": wire.end(side), "part": plan.part(wire.end(side).part).name,
                      "terminal": end.chosen.name if end and end.chosen else ""}
                     for side, end in zip(SIDES, ends, strict=True)]}


def _state_of(frame: Frame, main: Main) -> States | None:
    """The state that is chosen, where anything flows in a circuit then; else the one in which most does."""
    now = frame.analysis.states.get(frame.state)
    if now is not None and now.solution is not None and main.amps(now) > LEAST_A:
        return frame.state
    return busiest(main, frame.analysis.states)


def _main_row(frame: Frame, one: Main, shown: Part) -> dict[str, Any]:
    """A circuit's line that no accessory has: its amps where most flows, the worst that is found of it."""
    a, state = frame.analysis, busiest(one, frame.analysis.states)
    near = [f for e in (one.part.id, *(k.element for k in one.path.links)) for f in a.by_element.get(e, ())]
    return {"main": one, "amps": one.amps(a.states[state]) if state else None, "here": one.part.id == shown.id,
            "state": a.states[state].words if state else "", "worst": worst(near)}


def _steps(a: Analysis, load: Part, state: States, result: StateResult) -> list[dict[str, Any]]:
    """Every step of the circuit in a state, there and back."""
    walk = walk_of(a, load.id, state)
    if walk is None:
        return []
    return [{"id": stride.element, "select": stride.element.part, "kind": stride.kind,
             "rated": a.ratings.rating_or_none_a(stride.element), "drop_mv": stride.drop_v * 1000,
             "amps": abs(result.current(stride.element)), "wire": a.wires.get(stride.element), "v1": stride.v1,
             "back": stride in walk.back, "probe": _probe(a, stride.element, stride.kind),
             "findings": a.by_element.get(stride.element, ()), "key": f"step/{stride.element}/{state}"}
            for stride in (*walk.feed, *walk.back)]


def _row(a: Analysis, one: LoadPart, shown: Part) -> dict[str, Any]:
    """A circuit's line in the list: its fuse, its amps, what it loses at most, the worst that is found of it."""
    _, lost = a.volts.worst_drop(one)
    nearest = a.topology.nearest_protection(one.id)
    fuse = nearest[0].id if nearest and not nearest[1] and nearest[0].protection.chosen else ""
    made = {e for k in (*a.path(one.id).feed, *a.path(one.id).back) for e in [k.element]
            if a.topology.wires.get(e) and a.topology.wires[e].made_for == one.id} | {fuse}
    near = [f for e in (one.id, *made) for f in a.by_element.get(e, ())]
    return {"load": one, "fuse": fuse, "rating": a.ratings.rating_a(fuse) if fuse else None,
            "amps": a.ratings.peak_a(one.id), "lost": lost, "here": one.id == shown.id, "worst": worst(near)}


def fuse_words(a: Analysis, part: str) -> str:
    """A fuse as it is bought; "" for what is none."""
    fuse = a.plan.is_one(part, FusePart)
    return fuse.words(a.ratings.rating_a(part)) if fuse else ""


def _with_a_free_way(plan: Plan) -> list[Coupling]:
    return [c for c in plan.of(Coupling) if free_way(plan, c) is not None]


def cut(frame: Frame) -> str:
    """A connector put into a wire, a new one at a place or one that has a way left; or a splice."""
    post = frame.request.POST
    into = post.get("into", "")
    edit = CutWire(id=post.get("id", ""), place=post.get("place", ""), into="" if into == SPLICE else into,
                   form="splice" if into == SPLICE else "connector")
    store.edit(frame.row, frame.membership.person, frame.made_on, edit)
    return frame.link(sel=post.get("id", ""))


def move(frame: Frame) -> str:
    """One end of a wire moved to another terminal."""
    post = frame.request.POST
    end = "a" if post.get("end") == "a" else "b"
    store.edit(frame.row, frame.membership.person, frame.made_on,
               MoveEnd(id=post.get("id", ""), end=end, to=post.get("to", "")))
    return frame.link(sel=post.get("id", ""))


def _by_place(frame: Frame, reference: Reference) -> list[tuple[str, str]]:
    """What shares a potential, in bench words: each place with the names of what is there."""
    plan = frame.plan
    found: dict[str, dict[str, None]] = {}
    for terminal in reference.terminals:
        part = plan.part(terminal.part)
        found.setdefault(plan.place(part.place).name, {})[part.name] = None
    return [(place, ", ".join(names)) for place, names in found.items()]


def _circuit_of(frame: Frame) -> Part | None:
    """The load that is selected, or whose circuit the selected wire or part was made for or lies in; else what has a
    circuit without being an accessory. None where nothing has one."""
    loads, a = frame.plan.loads, frame.analysis
    mains = [m.part for m in a.mains.values()]
    for one in (*loads, *mains):
        if one.id == frame.select:
            return one
    for load in loads:
        mine = {w.id for w in frame.plan.wires if w.made_for == load.id} | {
            p.id for p in frame.plan.parts if p.made_for == load.id}
        if frame.select in mine:
            return load
    for load in loads:
        if any(k.element == frame.select for k in (*a.path(load.id).feed, *a.path(load.id).back)):
            return load
    for part in mains:
        if any(k.element == frame.select for k in a.mains[part.id].path.links):
            return part
    return next(iter((*loads, *mains)), None)


def _interesting(frame: Frame, load: Part, elements: list[str]) -> str:
    """What is worth showing when nothing is selected: a wire with a finding, else the load's own feed wire."""
    with_finding = [e for e in elements if frame.analysis.by_element.get(e)]
    mine = [w.id for w in frame.plan.wires if w.made_for == load.id and w.id in elements]
    wires = [e for e in elements if e in frame.analysis.wires]
    return next(iter([*with_finding, *mine, *wires]), "")


def _protection(frame: Frame, selected: str, elements: list[str]) -> dict[str, Any]:
    """The selected wire (or the weakest that the selected fuse guards) against its fuse, and a touch to the frame."""
    a = frame.analysis
    behind = [w for e in elements if (w := a.wires.get(e)) and w.guard and w.guard.fuse == selected
              and w.strength is not None]
    wire = min(behind, key=lambda w: w.strength or 0.0).id if behind else selected
    result, touch = a.wires.get(wire), a.chafes.get(wire)
    explained = exists(a, FigureKey.of("chafe", wire))  # what never opens has no working
    if result is None or result.judged_by is None:
        return {"coordination": "", "touch": touch, "touch_explained": explained, "guarded": result}
    guard = result.judged_by
    drawn = Curves(result.coordination, touch.far_a if touch and result.guard else guard.fault_a)
    name = a.topology.parts[guard.fuse].name
    return {"coordination": mark_safe(coordination.draw(drawn, wire, name)), "touch": touch,
            "stages": [(s, " and ".join(a.topology.parts[p].name for p in s.opens))
                       for s in (stages(worst_course(result)) if guard.courses else ())],
            "touch_explained": explained, "guarded": result, "guard": guard,
            "guard_name": name, "touch_name": a.topology.parts[touch.guard.fuse].name if touch and touch.guard else ""}


def _guard_name(a: Analysis, wire: str) -> str:
    found = a.wires.get(wire)
    return a.topology.parts[found.guard.fuse].name if found and found.guard else ""


def _probe(a: Analysis, element: ElementRef, kind: str) -> str:
    if kind == "wire":
        return "end to end"
    part = a.topology.parts.get(element.part)
    return part.PROBED if part is not None else "across"
