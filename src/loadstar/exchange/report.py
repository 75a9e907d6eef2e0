"""An analysis as plain data, for `./loadstar check --json` and for other programs. Units are in the names."""

import math
from typing import Any

from loadstar.core.analysis import CORE_VERSION, Analysis
from loadstar.core.budget.packs import PackBudget
from loadstar.core.figures.extremes import hottest_wire, weakest_wire
from loadstar.core.figures.packs import bms_margin_a
from loadstar.core.figures.wires import WireResult
from loadstar.core.parts.tap import Tap
from loadstar.core.plan.document import content_hash
from loadstar.core.plan.model import Plan
from loadstar.core.plan.standing import resting_on
from loadstar.core.survey.continuity import understand
from loadstar.core.survey.health import judged
from loadstar.core.survey.measures import figure_unit, figure_words
from loadstar.core.survey.pins import classify
from loadstar.core.whatif.cures import Cures
from loadstar.core.whatif.outlook import Outlook
from loadstar.core.wiring.results import StateResult


def report(analysis: Analysis) -> dict[str, Any]:
    """Everything computed: findings, headline, wires, fuses, states, budget. Infinite and unknown are null."""
    cures = Cures(analysis)
    return _clean({
        "plan": {"name": analysis.plan.name, "machine": analysis.plan.machine.name,
                 "hash": content_hash(analysis.plan), "tables_edition": analysis.plan.tables_edition},
        "core_version": CORE_VERSION,
        "headline": headline(analysis),
        "rests_on": [{"figure": f"{element}.{field}", "standing": standing}
                     for element, field, standing in resting_on(analysis.whole_plan)],
        "findings": [{"rule": f.rule, "severity": f.severity, "elements": list(f.elements), "sentence": f.sentence,
                      "cure": cure.edit.model_dump(mode="json") if (cure := cures.of(f)) else None}
                      for f in analysis.findings],
        "wires": {w.id: _wire(w) for w in analysis.wires.values()},
        "fuses": {p.id: {"rating_a": analysis.ratings.rating_a(p.id), "peak_a": analysis.ratings.peak_a(p.id)}
                  for p in (*analysis.plan.of_kind("fuse"), *analysis.plan.of_kind("way"))} if analysis.sized else {},
        "touches": {w: {"near_a": c.near_a, "far_a": c.far_a, "opens_s": c.opens_s, "damage_s": c.damage_s,
                        "survives": c.survives} for w, c in analysis.chafes.items()},
        "pack": _pack(analysis.pack) if analysis.pack else None,
        "lamps": {lamp: {"volts_v": analysis.lamps.volts[:, i].tolist(), "rpm": list(analysis.lamps.rpm)}
                  for i, lamp in enumerate(analysis.lamps.lamps)} if analysis.lamps else {},
        "total_loss": vars(analysis.total_loss) if analysis.total_loss else None,
        "states": {s: {**_state(r), "loads_v": {x.id: analysis.volts.across_v(x.id, s) for x in analysis.plan.loads}}
                   for s, r in analysis.states.items()},
        "survey": _survey(analysis.plan),
        "budget": {
            "break_even_rpm": analysis.break_even_rpm,
            "states": {s: {"given_a": x.given_a, "demand_a": x.demand_a, "margin_a": x.margin_a, "at_v": x.at_v,
                           "all_at_once_a": x.all_at_once_a} for s, x in analysis.ledgers.items()},
        },
    })


def _wire(w: WireResult) -> dict[str, Any]:
    return {"area_mm2": w.area_mm2, "fixed": w.fixed, "length_m": w.length_m, "peak_a": w.peak_a,
            "hottest_c": w.hottest_c, "hottest_state": w.hottest_state, "class_c": w.class_c,
            "fuse": w.guard.fuse if w.guard else None, "protection": w.strength, "fault_a": w.fault_a,
            "judged_by": w.judged_by.fuse if w.judged_by else None,
            "at_1_10_of_fuse_c": w.coordination.steady_c if w.judged_by else None}


def _state(r: StateResult) -> dict[str, Any]:
    return {"solved": r.solution is not None, "failure": r.failure, "source": r.source, "posts_v": r.posts_v,
            "generator_a": r.available_a, "battery_a": r.battery_a,
            "relays_closed": sorted(k for k, shut in r.closed.items() if shut),
            "node_v": r.solution.potential_v if r.solution else {},
            "element_a": r.solution.current_a if r.solution else {}, "wires_c": r.wire_c}


def _survey(plan: Plan) -> dict[str, Any]:
    """What the readings say: of the supply, of every pin that was read, of every continuity table."""
    read = {r.element for r in plan.readings}
    verdicts = [classify(plan, p) for p in plan.of(Tap) if p.id in read]
    return {
        "readings": [{"what": j.what, "reading": j.reading.id, "severity": j.severity, "sentence": j.sentence}
                     for j in judged(plan)],
        "pins": {v.pin: {"kind": v.kind, "sure_frac": v.sure_frac, "conflicts": list(v.conflicts),
                         "off_delay_s": v.off_delay_s,
                         "settle": list(v.settle) if v.settle else None, "not_as_trigger": v.trigger,
                         "not_as_feed": v.feed} for v in verdicts},
        "tables": {t.id: list(understand(t).sentences) for t in plan.tables}}


def _pack(found: PackBudget) -> dict[str, Any]:
    return {"packs": [vars(p) for p in found.packs], "assist_w": found.assist_w, "accessories_w": found.accessories_w,
            "range_km": found.range_km, "range_bare_km": found.range_bare_km, "full_power_a": found.full_power_a,
            "full_power_v": found.full_power_v, "cuts_out_frac": found.cuts_out_frac,
            "joining": {**vars(found.joining), "share_a": list(found.joining.share_a)} if found.joining else None}


def headline(analysis: Analysis) -> dict[str, Any]:
    """The five figures, over all states where they depend on one."""
    idle = analysis.ledgers.get("idle")
    lowest, hottest, weakest = analysis.volts.lowest_load(), hottest_wire(analysis), weakest_wire(analysis)
    return {
        "idle_margin_a": idle.margin_a if idle and analysis.plan.generator else None,
        "pack_margin_a": bms_margin_a(analysis) if analysis.pack else None,
        "range_km": analysis.pack.range_km if analysis.pack else None,
        "lowest_load": {"id": lowest[0].id, "state": lowest[1], "volts_v": lowest[2]} if lowest else None,
        "hottest_wire": {"id": hottest[0], "hottest_c": hottest[1]} if hottest else None,
        "weakest_protection": {"wire": weakest[0], "ratio": weakest[1]} if weakest else None,
        "parked_days": analysis.parked.days if analysis.parked else None,
    }


def _clean(value: Any) -> Any:
    if isinstance(value, dict):
        return {k: _clean(v) for k, v in value.items()}
    if isinstance(value, list):
        return [_clean(v) for v in value]
    if isinstance(value, float) and not math.isfinite(value):
        return None
    return value


def outlook_report(outlook: Outlook, plan: Plan) -> dict[str, Any]:
    """What to measure next as plain data: each figure with what hangs on it, and the bands of the headline."""
    return {
        "figures": [{
            "figure": h.unknown.key, "words": figure_words(plan, h.unknown.element, h.unknown.field),
            "standing": h.unknown.standing, "value": h.unknown.value, "low": h.unknown.band.low,
            "high": h.unknown.band.high, "unit": figure_unit(plan, h.unknown), "how": h.measure.how,
            "tool": h.measure.tool, "minutes": h.measure.minutes, "movement": h.movement,
            "flips": [{"rule": f.finding.rule, "severity": f.finding.severity, "elements": list(f.finding.elements),
                       "sentence": f.finding.sentence, "appears": f.appears, "end": f.end} for f in h.flips]}
            for h in outlook.ranked],
        "bands": {state: [[span.low, span.high] if span is not None and math.isfinite(span.high) else None
                          for span in spans] for state, spans in outlook.bands.items()}}
