"""What the Budget station shows: what the supply gives against what is wanted, as the machine's supply has it."""

from collections.abc import Callable
from typing import Any

from django.utils.safestring import mark_safe

from loadstar.core.doc.states import JUDGED_STATES, RUNNING
from loadstar.core.figures.packs import converter_worst_in
from loadstar.core.figures.supply import battery_time_h
from loadstar.core.parts.converter import Converter
from loadstar.core.whatif.ways_out import ways_out
from loadstar.draw import lamps, packs, waterline

from ...frame.frame import Frame


def budget(frame: Frame) -> dict[str, Any]:
    """What the supply gives against what is wanted: the waterline, a pack's sag and range, or lamp volts over speed.
    Lamps on a coil beside a battery have a page beside the waterline."""
    key, beside = frame.analysis.source.key, frame.analysis.topology.side_coil
    lamps_asked = beside is not None and frame.request.GET.get("of") == "lamps"
    shown = _lamp_budget if lamps_asked else _BY_SUPPLY.get(key, _waterline)
    return {**shown(frame), "beside": beside and {"name": beside.name, "lamps": lamps_asked}}


def _waterline(frame: Frame) -> dict[str, Any]:
    a = frame.analysis
    off = frozenset(x for x in frame.request.GET.get("off", "").split(",") if x)
    sea = waterline.water(a, off)
    account = sea.account if sea else a.ledgers[frame.state]
    tones = {layer.id: layer.tone for layer in sea.layers} if sea else {}
    layers = [{"item": item, "watts": item.average_w, "tone": tones.get(item.id),
               "link": frame.link(off=",".join(sorted(off ^ {item.id})))} for item in account.items]
    ways = [{"way": w, "link": frame.link(off=w.off), "edit": w.edit and w.edit.model_dump(mode="json")}
            for w in (ways_out(frame.plan, a.account) if sea and not off else ())]
    spans = []
    for state in JUDGED_STATES:
        result = a.states.get(state)
        if result is not None and result.solution is not None:
            pays = result.battery_a > 0
            spans.append({"state": state, "pays": result.battery_a,
                          "hours": battery_time_h(a, state) if pays else None})
    return {"picture": mark_safe(waterline.draw(a, frame.state, off)), "layers": layers, "off": off, "sea": sea,
            "ways": ways, "spans": spans, "accounts": [a.ledgers[s] for s in a.ledgers]}


def _pack_budget(frame: Frame) -> dict[str, Any]:
    a = frame.analysis
    assert a.pack is not None
    costs = [{"name": i.name, "id": i.id, "watts": i.average_w,
              "km": a.pack.range_bare_km * i.average_w / (a.pack.assist_w + a.pack.accessories_w)}
             for i in a.ledgers["assist"].items if not i.own and a.pack.assist_w + a.pack.accessories_w > 0]
    boxes = [{"part": p, "amps": converter_worst_in(a, p)[0]} for p in frame.plan.of(Converter)]
    return {"picture": mark_safe(packs.draw(a)), "pack": a.pack, "costs": costs, "first": frame.plan.packs[0],
            "boxes": boxes,
            "part": "budget/_pack.html"}


def _lamp_budget(frame: Frame) -> dict[str, Any]:
    a, machine = frame.analysis, frame.plan.machine
    if a.lamps is None:  # no lamp hangs on the coil yet
        return _waterline(frame)
    gone = frame.request.GET.get("gone", "")
    running = [s for s in RUNNING if s in a.states]
    rows = []
    for lamp in (p for p in frame.plan.loads if p.id in a.lamps.lamps):
        volts = [(s, a.lamps.at(lamp.id, machine.rpm(s)) if not gone or gone == lamp.id
                  else a.lamps.at_failed(gone, lamp.id, machine.rpm(s))) for s in running]
        rows.append({"lamp": lamp, "volts": [] if gone == lamp.id else volts, "gone": gone == lamp.id,
                     "link": frame.link(gone="" if gone == lamp.id else lamp.id)})
    return {"picture": mark_safe(lamps.draw(a, gone if gone in a.lamps.lamps else "")), "rows": rows, "gone": gone,
            "running": running,
            "part": "budget/_lamps.html"}


_BY_SUPPLY: dict[str, Callable[[Frame], dict[str, Any]]] = {"pack": _pack_budget, "magneto": _lamp_budget}
