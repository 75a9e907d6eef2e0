"""What the Ends station shows: every end with its terminal, connectors from both sides, fewest pins, the order list."""

from collections.abc import Callable
from itertools import groupby
from typing import Any

from django.utils.safestring import mark_safe

from loadstar.core.edits import SetRules
from loadstar.core.ends.choose import End, Ends
from loadstar.core.ends.families import compare
from loadstar.core.ends.joints import joints
from loadstar.core.figures.ways import feeding_side
from loadstar.core.leads import gather
from loadstar.core.materials.terminals import FAMILIES, SEALED
from loadstar.core.order import connector_name, half_of, order
from loadstar.core.parts.coupling import Coupling
from loadstar.core.reels import cut_from
from loadstar.core.schools import compared, has_leads
from loadstar.core.shelf import against, pair_cost
from loadstar.draw import crimp, mouth
from loadstar.draw.svg import Look
from loadstar.exchange import leads

from ...frame.frame import Frame
from ...records.models import Reserved
from ...records.shelf import stock_of

VIEWS = (("ends", "Ends"), ("connectors", "Connectors"), ("leads", "Own leads"), ("pins", "Fewest pins"),
         ("buy", "To buy"), ("cut", "Cut list"))
OTHER_HALF = {"": "its other half", "tabs": "receptacles", "receptacles": "tabs"}
TYPED = {"most_a": "10", "barrel_mm2": "1.5", "shared_mohm": "35", "spare": "1", "at": "", "together": ""}


def ends(frame: Frame) -> dict[str, Any]:
    """The part of the station that is open."""
    view = frame.kept["view"] if frame.kept["view"] in PARTS else _view_of(frame)
    tabs = [{"key": k, "name": n, "here": k == view, "link": frame.link(view="" if k == "ends" else k, sel="")}
            for k, n in VIEWS]
    found = frame.analysis.ends
    shown: dict[str, Any] = {"tabs": tabs, "part": f"ends/{view}.html"}
    if found is None or not found.every:
        return {**shown, "ends": None, **(_pins(frame) if view == "pins" else {})}
    return {**shown, "ends": found, **PARTS[view](frame, found)}


def _view_of(frame: Frame) -> str:
    """A connector is shown with the connectors."""
    return "connectors" if frame.plan.is_one(frame.select, Coupling) else "ends"


def _ends(frame: Frame, found: Ends) -> dict[str, Any]:
    """Every end by its place, and the chosen wire's two in full."""
    plan, ratings = frame.plan, frame.analysis.ratings
    rows = sorted(({"end": e, "part": plan.part(e.at.part), "place": plan.place(e.place).name,
                    "cranking_a": ratings.cranking_a(e.wire),
                    "findings": [f for f in frame.findings if f.subject == "ends" and e.key in f.key],
                    "chosen": e.wire == frame.select} for e in found.every),
                  key=lambda r: (r["place"], r["part"].name, r["end"].at))
    places = [(place, list(group)) for place, group in groupby(rows, key=lambda r: r["place"])]
    mine = [e for e in found.every if e.wire == frame.select]
    return {"places": places, "mine": [_whole(frame, e) for e in mine],
            "nothing": sum(e.chosen is None and not e.kept for e in found.every)}


def _whole(frame: Frame, end: End) -> dict[str, Any]:
    """One end with its picture, and the choice of what it ends in."""
    part = frame.plan.part(end.at.part)
    usual = "as usual there" if not part.termination else "as usual"
    picture = crimp.draw(end, frame.plan.wire(end.wire).colour, half_of(frame.plan, end)) if end.chosen else ""
    return {"end": end, "part": part, "picture": mark_safe(picture),
            "choices": [("", usual, not part.termination), *((f, f, f == part.termination) for f in FAMILIES)]}


def _connectors(frame: Frame, found: Ends) -> dict[str, Any]:
    """Every connector in the harness; of the chosen one both halves from both sides, and its ways."""
    plan = frame.plan
    every = plan.of(Coupling)
    chosen = plan.is_one(frame.select, Coupling) or (every[0] if every else None)
    plugs = [{"plug": p, "place": plan.place(p.place).name, "other": OTHER_HALF[p.half],
              "taken": next((t.termination for t in plan.pins(p.id)), ""), "pins": len(plan.pins(p.id))}
             for p in plan.plugs]
    shown: dict[str, Any] = {
        "plugs": plugs, "families": FAMILIES, "coupling": chosen,
        "couplings": [(c, plan.place(c.place).name, found.family(c.at("a1")), c is chosen) for c in every]}
    if chosen is None:
        return shown
    link = frame.link("circuits", sel="XX").replace("sel=XX", "sel={}")
    faces = [(f"Side {side}", mark_safe(mouth.half(plan, chosen, side, seen, Look(link))))
             for side in "ab" for seen in ("mouth", "wires")]
    by_end = {e.at: e for e in found.every}
    ways = [{"way": n, "a": by_end.get(chosen.at(f"a{n}")), "b": by_end.get(chosen.at(f"b{n}"))}
            for n in range(1, chosen.ways + 1)]
    prices = {s.what: s.price for s in stock_of(frame.membership.workshop)}
    kinds = [{"option": o, "here": o.family == found.family(chosen.at("a1")),
              "cost": pair_cost(prices, connector_name(o.family, chosen), [t.name for t in o.terminals])}
             for o in compare(found, chosen)]
    return {**shown, "faces": faces, "ways": ways, "family": found.family(chosen.at("a1")), "kinds": kinds,
            "sealed": found.family(chosen.at("a1")) in SEALED,
            "feeding": feeding_side(frame.analysis, chosen), "place": plan.place(chosen.place)}


def _leads(frame: Frame, found: Ends) -> dict[str, Any]:
    """What joins accessories' own leads to the harness: every way set against the house's."""
    if not has_leads(frame.analysis):
        return {"ways": ()}
    return {"ways": [{"way": way, "edit": SetRules(values={"leads": way.family}).model_dump(mode="json")}
                     for way in compared(frame.analysis)]}


def _pins(frame: Frame, found: Ends | None = None) -> dict[str, Any]:
    """The leads as they were typed, or as the plan has them at a place, and the fewest pins for them."""
    typed = {**TYPED, "leads": leads.EXAMPLE if frame.request.GET.get("example") else ""}
    typed |= frame.extra.get("typed", {})
    place = frame.plan.place_by_id.get(frame.request.GET.get("at", typed["at"]))
    if place is not None and not frame.extra.get("typed"):
        gathered = gather(frame.analysis, place.id)
        typed["leads"] = leads.write(gathered.leads)
        if gathered.shared_ohm is not None:
            typed["shared_mohm"] = f"{gathered.shared_ohm * 1000:.3g}"
    told = frame.extra.get("pins")
    return {"typed": typed, "told": frame.extra.get("told", {}), "columns": leads.COLUMNS,
            "example": frame.link(view="pins", example="1"), "found": told, "places": frame.plan.places, "at": place,
            "connectors": joints(told, int(typed["spare"]), together=bool(typed["together"])) if told else ()}


def _buy(frame: Frame, found: Ends) -> dict[str, Any]:
    """The order list by groups."""
    listed = order(frame.analysis)
    needs = against(listed, stock_of(frame.membership.workshop, frame.row))
    reserved = dict(Reserved.objects.filter(plan=frame.row).values_list("what", "amount"))
    return {"groups": [(name, list(lines)) for name, lines in groupby(needs.lines, key=lambda line: line.item.group)],
            "needs": needs, "unknown": listed.unknown, "reserved": reserved,
            "takes": sum(line.taken > 0 for line in needs.lines)}


def _cut(frame: Frame, found: Ends) -> dict[str, Any]:
    """Every wire as it is cut, the longest first, from what is on the shelf or on a new reel."""
    shelf = {stock.what: stock for stock in stock_of(frame.membership.workshop, frame.row)}
    rows = []
    for item in order(frame.analysis).items:
        if not item.pieces:
            continue
        stock = shelf.get(item.what)
        cuts = cut_from(dict(item.pieces), stock.lengths if stock else ())
        rows.append({"what": item.what, "reels": [r for r in cuts.reels if r.pieces], "short": cuts.short,
                     "short_m": cuts.short_m})
    return {"rows": rows}


PARTS: dict[str, Callable[[Frame, Ends], dict[str, Any]]] = {
    "ends": _ends, "connectors": _connectors, "leads": _leads, "pins": _pins, "buy": _buy, "cut": _cut}
