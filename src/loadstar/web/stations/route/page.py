"""What the Route station shows: the runs with what lies in them, the section of one, and the board."""

from collections.abc import Callable
from typing import Any

from django.utils.safestring import mark_safe

from loadstar.core.doc.places import Run
from loadstar.core.doc.wires import Wire
from loadstar.core.edits import ChangeElement, TellWay
from loadstar.core.figures.registry import working
from loadstar.core.harness.board import Loop
from loadstar.core.harness.loom import Bundle, Loom
from loadstar.core.harness.tiling import BAR_MM, PAPERS_MM
from loadstar.core.materials.hazards import HAZARDS, OPEN
from loadstar.core.plan.ways import ways_between
from loadstar.core.whatif.places import movable
from loadstar.core.whatif.returns import joinable
from loadstar.draw import board, section

from ...frame.frame import Frame
from ...papers.board import Print, plot_of
from ...plans.known import Tried
from .. import on_map
from .weigh import weighed

VIEWS = (("runs", "Runs"), ("board", "Board, 1:1"), ("places", "Best place"), ("returns", "Join returns"),
         ("weigh", "Weigh"))
ZOOMS = (1, 2, 4)
USUAL_PAPER = "A4"
MOST_CUTS = 3


def route(frame: Frame) -> dict[str, Any]:
    """The runs on the map and as a list, or the board."""
    view = frame.kept["view"] if frame.kept["view"] in PARTS else "runs"
    loom = frame.analysis.loom
    tabs = [{"key": k, "name": n, "here": k == view, "link": frame.link(view="" if k == "runs" else k)}
            for k, n in VIEWS]
    shown: dict[str, Any] = {"tabs": tabs, "loom": loom, "part": f"route/{view}.html"}
    if loom is None or not loom.bundles:
        return {**shown, "loom": None}
    return {**shown, **PARTS[view](frame, loom)}


def _runs(frame: Frame, loom: Loom) -> dict[str, Any]:
    plan = frame.plan
    names = {p.id: p.name for p in plan.places}
    rows = [{"run": r, "from": names[r.a], "to": names[r.b], "here": loom.by_run.get(r.id),
             "ties": len(loom.ties_mm(r.id)) if r.id in loom.by_run else 0,
             "findings": frame.analysis.by_element.get(r.id, ()), "chosen": r.id == frame.select} for r in plan.runs]
    chosen = loom.by_run.get(frame.select)
    wire = plan.wire_by_id.get(frame.select)
    return {
        **on_map.shown(frame, frame.analysis.topology.geometry[wire.id].runs if wire else ()), "rows": rows,
        "chosen": chosen, **(_chosen(frame, chosen) if chosen else {}), **(_ways(frame, wire) if wire else {}),
        "sleeves": sorted(loom.sleeve_m.items())}


def _ways(frame: Frame, wire: Wire) -> dict[str, Any]:
    """Every way that a wire could take, and which it does; told to it alone, or to all of its circuit beside it."""
    plan, geometry = frame.plan, frame.analysis.topology.geometry
    at = {p.id: p.place for p in plan.parts}
    ends = {at[wire.a.part], at[wire.b.part]}
    beside = [w.id for w in plan.wires if {at[w.a.part], at[w.b.part]} == ends and w.made_for == wire.made_for]
    here = geometry[wire.id].runs
    ways = []
    for n, way in enumerate(ways_between(plan, at[wire.a.part], at[wire.b.part])):
        told = way.runs if n else ()  # the shortest is what it takes when it is told nothing
        ways.append({"runs": way.runs, "here": way.runs == here, "length_m": way.length_m,
                     "beside": [f"{r}: {words}" for r in way.runs for words in _beside(plan.run(r))],
                     "edits": [(words, TellWay(ids=tuple(ids), way=told).model_dump(mode="json"))
                               for words, ids in ((f"{wire.id} this way", [wire.id]),
                                                  (f"All {len(beside)} this way", beside)) if ids is not beside
                               or len(beside) > 1]})
    return {"wire": wire, "ways": ways, "ends": [plan.place(p).name for p in (at[wire.a.part], at[wire.b.part])],
            "told": wire.way, "beside": beside}


def _beside(run: Run) -> list[str]:
    """What lies beside a run, in words, and what is done about it."""
    said = ((hazard, getattr(run, field)) for field, hazard in HAZARDS.items())
    return [f"{hazard.short}, {'nothing done yet' if done == OPEN else done}" for hazard, done in said if done]


def _chosen(frame: Frame, here: Bundle) -> dict[str, Any]:
    """The section of a run, its wires, and what goes around them."""
    plan = frame.plan
    wires = [{"wire": plan.wire(w), "area": frame.analysis.wires[w].area_mm2, "od_mm": od,
              "for": plan.part_by_id[owner].name if (owner := plan.wire(w).made_for) in plan.part_by_id else ""}
             for w, od in zip(here.wires, here.diameters_mm, strict=True)]
    weighs = working(frame.analysis, f"run_g/{here.run.id}")
    return {"chosen_g": weighs.value, "section": mark_safe(section.draw(frame.analysis, here.run.id)), "wires": wires}


def _board(frame: Frame, loom: Loom) -> dict[str, Any]:
    """The board, and what its print takes; or why it cannot lie flat, and what to leave out."""
    typed = frame.extra.get("print", {})
    paper = typed.get("paper") if typed.get("paper") in PAPERS_MM else USUAL_PAPER
    zoom = next((z for z in ZOOMS if str(z) == frame.kept["zoom"]), 1)
    try:
        picture = board.draw(frame.analysis, selected=frame.select, link=frame.element_link("route"), zoom=zoom)
    except Loop as loop:
        names = {p.id: p.name for p in frame.plan.places}
        cuts = [{"cut": cut, "edit": _left_out(cut.runs), "words": [
            f"{r}, {names[frame.plan.run(r).a]} to {names[frame.plan.run(r).b]}" for r in cut.runs]}
            for cut in loom.cuts[:MOST_CUTS]]
        return {"loop": loop.runs, "cuts": cuts}
    plot = plot_of(frame, Print(paper))
    return {"picture": mark_safe(picture), "pages": plot.pages, "papers": [(p, p == paper) for p in PAPERS_MM],
            "typed": {"across": f"{BAR_MM:g}", "along": f"{BAR_MM:g}", "bench": "", **typed},
            "told": frame.extra.get("told", {}),
            "zooms": [(z, frame.link(zoom="" if z == 1 else z), z == zoom) for z in ZOOMS],
            "sheet": plot.sheet, "zoom": zoom, "trunks": [b.trunk for b in loom.boards]}


def _places(frame: Frame, loom: Loom) -> dict[str, Any]:
    """Every place tried for the part that is asked about."""
    parts = movable(frame.plan)
    chosen = next((p for p in parts if p.id == frame.select), None)
    return {"parts": [(p, frame.link(sel=p.id), p is chosen) for p in parts], "asking": chosen,
            **_options(frame.loaded.known.places(chosen.id) if chosen else None)}


def _returns(frame: Frame, loom: Loom) -> dict[str, Any]:
    """Every place tried for joining the returns of the accessories that are ticked."""
    every = joinable(frame.plan)
    wanted = set(frame.request.GET.getlist("load"))
    chosen = tuple(p.id for p in every if p.id in wanted)
    return {"loads": [(p, frame.plan.place(p.place).name, p.id in wanted) for p in every],
            "chosen": chosen, "too_few": bool(wanted) and len(chosen) < 2,
            **_options(frame.loaded.known.returns(chosen) if len(chosen) > 1 else None)}


def _options(tried: Tried | None) -> dict[str, Any]:
    return {"tried": tried, "options": [
        {"option": o, "edit": o.edit.model_dump(mode="json") if o.edit else None} for o in tried.options] if tried
        else []}


def _left_out(runs: tuple[str, ...]) -> dict[str, Any]:
    edits = [ChangeElement(id=run, values={"used": False}).model_dump(mode="json") for run in runs]
    return edits[0] if len(edits) == 1 else {"kind": "several", "edits": edits, "words": "runs left out"}


PARTS: dict[str, Callable[[Frame, Loom], dict[str, Any]]] = {
    "runs": _runs, "board": _board, "places": _places, "returns": _returns, "weigh": weighed}
