"""What each station shows beyond the frame: one function per station, analysis to template context."""

from typing import Any

from django.utils.safestring import mark_safe

from loadstar.core.budget.ledger import break_even_rpm
from loadstar.core.candidates import fuse_candidates, wire_candidates
from loadstar.core.plan.model import LIVE_STATES, FusePart, LoadPart, OwnLoad
from loadstar.core.sizing.choose import drop_limit_frac
from loadstar.draw import bikemap, descent, waterline

from .frame import Frame


def survey(frame: Frame) -> dict[str, Any]:
    """The map, and lists of what has been entered."""
    plan = frame.plan
    names = {p.id: p.name for p in plan.places}
    return {
        "map": mark_safe(bikemap.draw(frame.analysis, selected=frame.select,
                                      link=frame.element_link("survey"))) if plan.places else "",
        "place_names": names, "groups": [
            {"kind": "place", "title": "Places", "add": "Add a place", "rows": [
                (p.id, p.name, "", p.ambient_c, "°C") for p in plan.places]},
            {"kind": "run", "title": "Runs", "add": "Add a run", "rows": [
                (r.id, f"{names.get(r.a)} to {names.get(r.b)}", "", r.length_m, "m") for r in plan.runs]},
            {"kind": "battery", "title": "Battery", "add": "" if plan.battery else "Enter the battery", "rows": [
                (p.id, p.name, "", p.capacity_ah, "Ah") for p in plan.parts if p.kind == "battery"]},
            {"kind": "generator", "title": "Generator", "add": "" if plan.generator else "Enter the generator", "rows": [
                (p.id, p.name, f"at {p.rating2_rpm:g} rpm", p.rating2_w, "W") for p in plan.parts
                if p.kind == "generator"]},
            {"kind": "own", "title": "The machine's own use", "add": "Add own use", "rows": [
                (p.id, p.name, "", p.power_w, "W") for p in plan.parts if isinstance(p, OwnLoad)]},
            {"kind": "tap", "title": "Plugs and switched wires", "add": "Add a plug or wire", "rows": [
                (p.id, p.name, {"always": "always", "key": "key", "engine": "engine"}[p.live], p.rated_a, "A")
                for p in plan.parts if p.kind == "tap"]},
            {"kind": "block", "title": "Blocks with fuses", "add": "Add a block", "rows": [
                (p.id, p.name, "ways", float(p.ways), "") for p in plan.parts if p.kind == "block"]},
        ]}


def loads(frame: Frame) -> dict[str, Any]:
    """Every accessory with what it draws, where it lives and how it fares."""
    a = frame.analysis
    rows = []
    for load in frame.plan.loads:
        live = frame.state in LIVE_STATES[load.live]
        item = next((i for i in a.ledgers[frame.state].items if i.id == load.id), None)
        rows.append({"load": load, "live": live, "volts": a.across_v(load.id, frame.state),
                     "average": item.average_a if item else None, "place": frame.plan.place(load.place).name,
                     "feed": frame.plan.part(load.feed).name, "findings": a.by_element.get(load.id, ())})
    account = a.ledgers[frame.state]
    return {"rows": rows, "account": account,
            "can_add": bool(frame.plan.battery and frame.plan.places)}


def budget(frame: Frame) -> dict[str, Any]:
    """The waterline with its layers, what switching one off would do, and the engine-off times."""
    a, off = frame.analysis, frozenset(x for x in frame.request.GET.get("off", "").split(",") if x)
    sea = waterline.water(a, off)
    layers = []
    account = sea.account if sea else a.ledgers[frame.state]
    tones = {layer.id: layer.tone for layer in sea.layers} if sea else {}
    for item in account.items:
        toggled = off ^ {item.id}
        layers.append({"item": item, "watts": item.average_w, "tone": tones.get(item.id),
                       "link": frame.link(off=",".join(sorted(toggled)))})
    advice = None
    if sea and not off:
        heavy = max((i for i in account.items if not i.own), key=lambda i: i.average_a, default=None)
        if heavy and heavy.average_a > 0:
            advice = {"name": heavy.name, "rpm": break_even_rpm(frame.plan, frozenset({heavy.id})),
                      "link": frame.link(off=heavy.id)}
    spans = []
    for state in ("key_on", "idle", "town", "cruise"):
        result = a.states.get(state)  # type: ignore[call-overload]
        if result is not None and result.solution is not None:
            pays = result.battery_a > 0
            spans.append({"state": state, "pays": result.battery_a, "hours": a.hours(state) if pays else None})  # type: ignore[arg-type]
    return {"picture": mark_safe(waterline.draw(a, frame.state, off)), "layers": layers, "off": off, "sea": sea,
            "advice": advice, "spans": spans, "accounts": [a.ledgers[s] for s in a.ledgers]}


def circuits(frame: Frame) -> dict[str, Any]:
    """The descent of the circuit that the selection belongs to, its steps, and the candidates of what is selected."""
    a, plan = frame.analysis, frame.plan
    if not plan.loads or not a.states:
        return {"rows": [], "load": None}
    load = _circuit_of(frame)
    path = a.path(load.id)
    elements = [k.element for k in (*path.feed, *path.back)]
    selected = frame.select if frame.select in elements else _interesting(frame, load, elements)
    result = a.states[frame.state]
    walk = descent.walk(a, load.id, frame.state)
    steps = []
    for stride in (*walk.feed, *walk.back) if walk else ():
        steps.append({"id": stride.element, "select": stride.element.split(".")[0], "kind": stride.kind,
                      "drop_mv": stride.drop_v * 1000, "amps": abs(result.current(stride.element)),
                      "wire": a.wires.get(stride.element), "v1": stride.v1,
                      "back": stride in walk.back if walk else False,
                      "probe": _probe(stride.element, stride.kind), "findings": a.by_element.get(stride.element, ()),
                      "key": f"step/{stride.element}/{frame.state}"})
    rows = []
    for one in plan.loads:
        _, lost = a.worst_drop(one)
        fuse = next((k.element for k in reversed(a.path(one.id).feed) if k.element.startswith("F")), "")
        near = a.by_element.get(one.id, ())
        made = {e for k in (*a.path(one.id).feed, *a.path(one.id).back) for e in [k.element]
                if a.topology.wires.get(e) and a.topology.wires[e].made_for == one.id} | {fuse}
        near = (*near, *(f for e in made for f in a.by_element.get(e, ())))
        rows.append({"load": one, "fuse": fuse, "rating": a.rating_a(fuse) if fuse else None,
                     "amps": a.peak_a(one.id), "lost": lost, "here": one.id == load.id,
                     "worst": min((f.severity for f in near), key=("stop", "caution", "advice", "note").index,
                                  default="")})
    part = a.topology.parts.get(selected)
    return {
        "rows": rows, "load": load, "limit": drop_limit_frac(plan, load), "steps": steps, "selected": selected,
        "place_name": plan.place(load.place).name, "feed_name": plan.part(load.feed).name,
        "picture": mark_safe(descent.draw(a, load.id, frame.state, selected=selected,
                                          link=frame.element_link("circuits"))),
        "wire": a.wires.get(selected), "wires": wire_candidates(a, selected) if selected in a.wires else [],
        "fuse": part if isinstance(part, FusePart) else None,
        "fuses": fuse_candidates(a, selected) if isinstance(part, FusePart) else [],
        "fuse_share": _fuse_share(frame, selected) if isinstance(part, FusePart) else None,
        "selected_findings": [f for f in frame.findings if selected in f.elements or load.id in f.elements],
    }


def _circuit_of(frame: Frame) -> LoadPart:
    """The load that is selected, or whose circuit the selected wire or part was made for or lies in."""
    loads, a = frame.plan.loads, frame.analysis
    for load in loads:
        if load.id == frame.select:
            return load
    for load in loads:
        mine = {w.id for w in frame.plan.wires if w.made_for == load.id} | {
            p.id for p in frame.plan.parts if p.made_for == load.id}
        if frame.select in mine:
            return load
    for load in loads:
        if any(k.element == frame.select for k in (*a.path(load.id).feed, *a.path(load.id).back)):
            return load
    return loads[0]


def _interesting(frame: Frame, load: LoadPart, elements: list[str]) -> str:
    """What is worth showing when nothing is selected: a wire with a finding, else the load's own feed wire."""
    with_finding = [e for e in elements if frame.analysis.by_element.get(e)]
    mine = [w.id for w in frame.plan.wires if w.made_for == load.id and w.id in elements]
    wires = [e for e in elements if e in frame.analysis.wires]
    return next(iter([*with_finding, *mine, *wires]), "")


def _fuse_share(frame: Frame, fuse: str) -> float | None:
    row = next((c for c in fuse_candidates(frame.analysis, fuse) if c.chosen), None)
    return row.share_frac if row else None


def _probe(element: str, kind: str) -> str:
    if kind == "wire":
        return "end to end"
    return {"fuse": "test points", "relay": "30 to 87", "switch": "contact", "tap": "post to pin"}.get(kind, "across")


def handover(frame: Frame) -> dict[str, Any]:
    """The papers: a card for each circuit, the plan as a file, its history."""
    cards = [{"load": load, "url": frame.url("plan") + f"card/{load.id}.pdf"} for load in frame.plan.loads]
    return {"cards": cards}


PAGES = {"survey": survey, "loads": loads, "budget": budget, "circuits": circuits, "handover": handover}
