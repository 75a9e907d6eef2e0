"""What each part of the Survey shows: the map, connectors, the guided probe, readings, switches and leads, parts taken
off, reuse."""

from collections.abc import Callable
from typing import Any

from django.conf import settings
from django.utils.safestring import mark_safe

from loadstar.core.doc.survey import Continuity
from loadstar.core.edits.survey import wheelbase_mm
from loadstar.core.figures.ways import into_a, spare_ways
from loadstar.core.parts.base import Glance, Part
from loadstar.core.parts.combiner import Combiner
from loadstar.core.parts.registry import KINDS
from loadstar.core.parts.tap import Tap
from loadstar.core.plan.bodies import BODY_KINDS
from loadstar.core.plan.standing import resting_on
from loadstar.core.survey.continuity import as_positions, understand
from loadstar.core.survey.health import judged
from loadstar.core.survey.measures import figure_unit, figure_words
from loadstar.core.survey.pins import PinVerdict, classify, next_probe, run_on_ask, supply_volts
from loadstar.core.survey.shows import Ask, kind_words, with_state
from loadstar.core.whatif.outlook import Outlook
from loadstar.draw import mouth
from loadstar.draw.svg import Look

from ...frame.frame import Frame
from ...records.photos import left_behind
from .. import on_map
from .marks import marked
from .sheet import plug_form, reading_form

VIEWS = (("map", "Map"), ("measure", "Measure next"), ("plugs", "Connectors"), ("probe", "Find the trigger"),
         ("readings", "Readings"), ("tables", "Switches and leads"),
         ("removed", "Taken off"), ("reuse", "Reuse"))
BEGIN_WITH = ("place", "run")  # shown as empty lists, too
ASK_WORDS = {"V": "volts", "beep": "continuity to the frame", "ohm": "ohms to the frame", "A": "amps", "s": "seconds"}


def survey(frame: Frame) -> dict[str, Any]:
    """The part of the survey that is open."""
    view = frame.kept["view"] if frame.kept["view"] in PARTS else _view_of(frame)
    tabs = [{"key": k, "name": n, "here": k == view, "link": frame.link(view=k, sel="")} for k, n in VIEWS]
    return {"tabs": tabs, "part": f"survey/{view}.html", **PARTS[view](frame)}


def _view_of(frame: Frame) -> str:
    """Where what is selected is shown, when no part of the survey was asked for."""
    plan, chosen = frame.plan, frame.select
    pin = plan.is_one(chosen, Tap)
    if (pin and pin.plug) or any(p.id == chosen for p in plan.plugs):
        return "plugs"
    if any(t.id == chosen for t in plan.tables):
        return "tables"
    return "removed" if any(r.id == chosen for r in plan.removed) else "map"


def _map(frame: Frame) -> dict[str, Any]:
    plan = frame.plan
    names = {p.id: p.name for p in plan.places}
    kept = 0 if plan.places else frame.membership.workshop.surveys.count()
    listed = groups(frame, names)
    return {
        **on_map.shown(frame), "body_edit": {"kind": "body_places"}, "kept": kept,
        "typed": frame.extra.get("typed", {}),
        "wheelbase_mm": wheelbase_mm(plan),
        "groups": [g for g in listed if g["rows"] or g["kind"] in BEGIN_WITH],
        "missing": [g for g in listed if not g["rows"] and g["add"] and g["kind"] not in BEGIN_WITH]}


def groups(frame: Frame, names: dict[str, str]) -> list[dict[str, Any]]:
    """What has been entered, by kind; what a machine cannot have is left out while there is none of it."""
    plan = frame.plan
    listed = [
        {"kind": "place", "title": "Places", "add": "Add a place", "rows": [
            (p.id, p.name, "not confirmed" if p.standing == "believed" else p.reach or p.zone,
             plan.ambient_at(p.id), "°C")
            for p in plan.places]},
        {"kind": "run", "title": "Runs", "add": "Add a run", "rows": [
            (r.id, f"{names.get(r.a)} to {names.get(r.b)}", "", r.length_m, "m") for r in plan.runs]}]
    for name, kind in KINDS.items():
        found = [p for p in plan.of(kind) if not getattr(p, "plug", None)]  # a connector's pins are listed with it
        fits = plan.machine.system in kind.FITS and (kind is not Combiner or len(plan.packs) == 2)
        if kind.GROUP and (found or fits):
            listed.append({"kind": name, "title": kind.GROUP,
                           "add": kind.ADD_WORDS if fits and len(found) < kind.MOST else "", "rows": [
                (p.id, p.name, *(_ways_left(frame, p) or p.glance(plan.machine, names.get(p.place, ""))))
                for p in found]})
    return listed


def _ways_left(frame: Frame, part: Part) -> Glance | None:
    """Of what has ways: how many are spare, and what it may still give where its maker says so; None of the rest."""
    spare = spare_ways(frame.plan, part)
    if spare is None:
        return None
    total_a = getattr(part, "total_a", None)
    if total_a is None:
        return (f"spare of {part.ways} ways:", float(spare), "ways")
    left_a = total_a - into_a(frame.analysis, part)
    return (f"{spare} of {part.ways} ways spare, left", left_a, "A")


def _plugs(frame: Frame) -> dict[str, Any]:
    plan, chosen = frame.plan, frame.select
    pin = plan.is_one(chosen, Tap)
    plug = next((p for p in plan.plugs if p.id == (pin.plug if pin else chosen)), None)
    adding = frame.request.GET.get("add") == "plug" and frame.may_edit
    seen = "wires" if frame.request.GET.get("seen") == "wires" else "mouth"
    rows = [{"plug": p, "place": plan.place(p.place).name, "here": plug is not None and p.id == plug.id,
             "known": sum(pin.function != "unknown" for pin in plan.pins(p.id))} for p in plan.plugs]
    shown: dict[str, Any] = {"left_behind": left_behind(frame.row, plan),
                             "rows": rows, "plug": plug, "adding": adding, "sheet": frame.extra.get("sheet"),
                             "typed": frame.extra.get("typed", {})}
    if plug is not None:
        believed = [e.id for e in (plug, *plan.pins(plug.id)) if e.standing == "believed"]
        shown |= {"confirm": {"kind": "confirm", "ids": believed} if believed else None,
                  "remove_edit": {"kind": "remove", "id": plug.id},
                  "phases_edit": {"kind": "put_plug", "id": plug.id, "values": {}, "pins": [
                      {"way": n, "function": "other", "phase": True} for n in range(1, plug.ways + 1)]},
                  "pins": plan.pins(plug.id),
                  "face": mark_safe(mouth.draw(plan, plug, seen, Look(frame.element_link("survey"), chosen))),
                  "other": frame.link(seen="wires" if seen == "mouth" else ""),
                  "photos": (photos := list(frame.row.photos.filter(element=plug.id).defer("image"))),
                  "marked": marked(frame, plug, photos), "told": frame.extra.get("told", "")}
    if shown["sheet"] is None and frame.may_edit and (plug is not None or adding):
        shown["sheet"] = plug_form(plan, frame.units, plug)
    return shown


def _probe(frame: Frame) -> dict[str, Any]:
    plan = frame.plan
    chosen = next((p for p in plan.of(Tap) if p.id == frame.select and not plan.never(p)), None)
    wanted = next_probe(plan)
    if chosen is not None:
        wanted = (chosen, classify(plan, chosen).settle or run_on_ask(plan, chosen) or ("V", "key_off"))
    plugs = [{"plug": plug, "pins": [_pin_row(frame, pin) for pin in plan.pins(plug.id)]} for plug in plan.plugs]
    settled = {p["plug"].id: [{"way": r["pin"].way, **r["edit"]["values"]} for r in p["pins"] if r["edit"]]
               for p in plugs}
    settled = {plug: pins for plug, pins in settled.items() if pins}
    return {"wanted": _asked(plan, wanted) if wanted else None, "plugs": plugs, "meter": bool(settings.METER),
            "entry": frame.extra.get("entry"),
            "take_all": {"kind": "put_pins", "pins": settled}, "settled": sum(len(pins) for pins in settled.values())}


def _asked(plan: Any, wanted: tuple[Tap, Ask]) -> dict[str, Any]:
    pin, (quantity, state) = wanted
    plug = next((p for p in plan.plugs if p.id == pin.plug), None)
    return {"pin": pin, "plug": plug, "quantity": quantity, "state": state, "what": ASK_WORDS[quantity],
            "with": with_state(plan, state),
            "full_v": supply_volts(plan)[state], "is_run_on": quantity == "s"}


def _pin_row(frame: Frame, pin: Tap) -> dict[str, Any]:
    verdict, never = classify(frame.plan, pin), frame.plan.never(pin)
    words = kind_words(frame.plan)[verdict.kind] if verdict.kind else "not probed yet"
    return {"pin": pin, "verdict": verdict, "words": words,
            "settle": f"{ASK_WORDS[verdict.settle[0]]}, {with_state(frame.plan, verdict.settle[1])}" if verdict.settle
            and not never else "",
            "edit": _taken_so(pin, verdict), "link": "" if never else frame.link(sel=pin.id)}


def _taken_so(pin: Tap, verdict: PinVerdict) -> dict[str, Any] | None:
    """The edit that writes a settled verdict into the pin; None where it says so already, or is not settled."""
    if not verdict.is_sure or verdict.kind is None:
        return None
    values: dict[str, Any] = {"function": "feed", "live": verdict.live,
                              "off_delay_s": verdict.off_delay_s} if verdict.live else {
        "function": {"dead": "unused"}.get(verdict.kind, verdict.kind)}
    values["standing"] = "found"
    if all(getattr(pin, field) == value for field, value in values.items()):
        return None
    return {"kind": "change", "id": pin.id, "values": values}


def _readings(frame: Frame) -> dict[str, Any]:
    plan = frame.plan
    names = {p.id: p.name for p in (*plan.parts, *plan.plugs)} | {"machine": plan.machine.name}
    rows = [{"reading": r, "name": names.get(r.element, r.element),
             "with": figure_words(plan, r.element, r.field) if r.quantity == "figure" else with_state(plan, r.state)}
            for r in reversed(plan.readings)]
    return {"judged": judged(plan), "rows": rows,
            "entry": frame.extra.get("entry") or (reading_form(plan, frame.units) if frame.may_edit else None),
            "units": {"V": "V", "A": "A", "ohm": "Ω", "s": "s"}, "meter": bool(settings.METER), "supply": plan.supply}


def _tables(frame: Frame) -> dict[str, Any]:
    plan = frame.plan
    table = next((t for t in plan.tables if t.id == frame.select), None) or next(iter(plan.tables), None)
    if frame.request.GET.get("add") == "table":
        table = None
    positions = as_positions(table) if table else None
    bars = BODY_KINDS[plan.machine.kind].goes.get("handlebar")
    place = next((p.id for p in plan.places if p.name == bars), plan.places[0].id if plan.places else "")
    switch = {"kind": "add", "what": "selector", "values": {"name": table.name, "place": place, "positions": positions}
              } if table and positions and place else None
    return {"tables": plan.tables, "table": table, "switch_edit": switch,
            "adding": frame.request.GET.get("add") == "table" or not plan.tables,
            "grid": continuity_grid(table) if table else [], "result": understand(table) if table else None,
            "typed": frame.extra.get("typed", {}),
            "faults": frame.extra.get("faults", ())}


def continuity_grid(table: Continuity) -> list[dict[str, Any]]:
    """Every pair of terminals with its test in each position: "beeps", "silent", or not tested."""
    known = {(b.position, min(b.a, b.b), max(b.a, b.b)): b.beeps for b in table.beeps}
    rows = []
    for a, first in enumerate(table.terminals):
        for b in range(a + 1, len(table.terminals)):
            cells = [{"name": f"t-{at}-{a}-{b}", "position": words,
                      "value": {True: "beeps", False: "silent"}.get(known.get((at, a, b)), "")}
                     for at, words in enumerate(table.positions)]
            rows.append({"pair": f"{first} to {table.terminals[b]}", "cells": cells})
    return rows


def _removed(frame: Frame) -> dict[str, Any]:
    names = {p.id: p.name for p in frame.plan.places}
    return {"rows": [{"part": r, "from": names.get(r.place or "", "")} for r in frame.plan.removed]}


def _reuse(frame: Frame) -> dict[str, Any]:
    kept = frame.membership.workshop.surveys.select_related("by").order_by("family", "-kept").defer("document")
    plan = frame.plan
    believed = [e.id for e in (*plan.places, *plan.plugs, *plan.parts) if getattr(e, "standing", "") == "believed"]
    return {"kept": list(kept), "believed": believed, "confirm": {"kind": "confirm", "ids": believed},
            "faults": frame.extra.get("faults", ()),
            "typed": frame.extra.get("typed", {}), "remarks": frame.extra.get("remarks", ())}


MOST_ROWS, MOST_FLIPS, MOST_LIKELY = 8, 3, 5


def _measure(frame: Frame) -> dict[str, Any]:
    """What to measure next, most telling first."""
    plan = frame.plan
    if not frame.loaded.known.rests_on:
        return {"ranked": [], "rests": len(resting_on(plan)), "typed": {}}
    found = frame.loaded.known.outlook()
    every = frame.request.GET.get("every") == "1"
    shown = found.ranked if every else found.ranked[:MOST_ROWS]
    rows = [{"hangs": h, "words": figure_words(plan, h.unknown.element, h.unknown.field),
             "unit": figure_unit(plan, h.unknown),
             "low": [f.finding for f in h.flips if f.end == "low" and f.appears][:MOST_FLIPS],
             "high": [f.finding for f in h.flips if f.end == "high" and f.appears][:MOST_FLIPS],
             "gone_low": [f.finding for f in h.flips if f.end == "low" and not f.appears][:MOST_FLIPS],
             "gone_high": [f.finding for f in h.flips if f.end == "high" and not f.appears][:MOST_FLIPS]}
            for h in shown]
    likely = [figure_words(plan, u.element, u.field) for u in found.likely or ()]
    if len(likely) > MOST_LIKELY:
        likely = [*likely[:MOST_LIKELY], f"and {len(likely) - MOST_LIKELY} more"]
    return {"ranked": rows, "rests": frame.rests_on, "typed": frame.extra.get("typed", {}),
            "faults": frame.extra.get("faults", ()), "more": len(found.ranked) - len(shown),
            "untried": len(found.untried), "likely": likely, "in_vain": len(found.in_vain), **_most(frame, found)}


def _most(frame: Frame, found: Outlook) -> dict[str, Any]:
    """The first headline figure that is left open, and what moves it most."""
    for i, (head, span) in enumerate(zip(frame.headline, found.bands[frame.state], strict=True)):
        if span is not None and span.is_open and (by := found.moves_most(i)) is not None:
            return {"head": head, "span": span,
                    "by": figure_words(frame.plan, by.unknown.element, by.unknown.field)}
    return {"head": None}


PARTS: dict[str, Callable[[Frame], dict[str, Any]]] = {
    "map": _map, "measure": _measure, "plugs": _plugs, "probe": _probe, "readings": _readings, "tables": _tables,
    "removed": _removed, "reuse": _reuse}
