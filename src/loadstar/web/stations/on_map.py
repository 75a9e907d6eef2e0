"""The bike map as stations show it, and what is put elsewhere on it: places, and the way points of runs."""

import re
from typing import Any

from django.http import Http404
from django.utils.safestring import mark_safe

from loadstar.core.edits import AddElement, ChangeElement, DropPoint, Edit, PutPoint
from loadstar.core.plan.model import Plan
from loadstar.draw import bikemap
from loadstar.draw.svg import Look

from ..frame.frame import Frame
from ..records import store

SPOT = re.compile(r"(R\d{1,6})([+.])(\d{1,2})")  # a run's way point by its number, or a new one in that stretch
NUDGES = (("←", -10, 0), ("↑", 0, 10), ("↓", 0, -10), ("→", 10, 0))


def shown(frame: Frame, along: tuple[str, ...] = ()) -> dict[str, Any]:
    """The map with the sides it is seen from, and what moves what is selected by keys; `along` are runs to show up."""
    plan, side = frame.plan, _side(frame)
    place = next((p for p in plan.places if p.id == frame.select), None)
    run = next((r for r in plan.runs if r.id == frame.select), None)
    nudges = [(word, {"kind": "move_place", "id": frame.select, "dx_mm": dx if side == "right" else -dx, "dy_mm": dy})
              for word, dx, dy in NUDGES]
    picture = bikemap.draw(frame.analysis, Look(frame.element_link(frame.station), frame.select), side=side,
                           bends=frame.may_edit, along=along) if plan.places else ""
    return {"map": mark_safe(picture), "side": side, "place": place, "nudges": nudges if place else [],
            "sides": [(s, f"From the {s}", frame.link(side=s), s == side) for s in ("left", "right")],
            "ten_mm": f"{bikemap.step(frame.analysis):.4f}" if plan.places else "", "bent": run,
            "drops": [(f"{run.id}.{n}", f"Remove way point {n + 1}",
                       DropPoint(id=run.id, at=n).model_dump(mode="json"))
                      for n in range(len(run.points))] if run else []}


def _side(frame: Frame) -> bikemap.Side:
    return "left" if frame.kept["side"] == "left" else "right"


def put(frame: Frame) -> str:
    """Something put elsewhere on the picture: its point there becomes millimetres."""
    post = frame.request.POST
    try:
        x, y = float(post.get("x", "")), float(post.get("y", ""))
    except ValueError as error:
        raise Http404 from error
    if not (abs(x) < 5000 and abs(y) < 5000):
        raise Http404
    x_mm, y_mm = bikemap.mm_at(frame.analysis, x, y, side=_side(frame))
    what = post.get("id", "")
    if spot := SPOT.fullmatch(what):
        _edit(frame, PutPoint(id=spot[1], at=int(spot[3]), x_mm=x_mm, y_mm=y_mm, new=spot[2] == "+"))
        return frame.link(sel=spot[1])
    if what:
        _edit(frame, ChangeElement(id=what, values={"x_mm": x_mm, "y_mm": y_mm}))
        return frame.link(sel=what)
    before = {p.id for p in frame.plan.places}
    number = len(frame.plan.places) + 1
    made = _edit(frame, AddElement(what="place", values={"name": f"place {number}", "x_mm": x_mm, "y_mm": y_mm}))
    return frame.link(sel=next(p.id for p in made.places if p.id not in before))


def _edit(frame: Frame, change: Edit) -> Plan:
    return store.edit(frame.row, frame.membership.person, frame.made_on, change).plan
