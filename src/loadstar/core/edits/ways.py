"""Edits of ways: the points that a run passes on the map, and the runs that wires are told to take."""

from typing import Annotated, Literal

from pydantic import Field

from ..doc.places import Point, Run
from ..doc.types import Id
from ..errors import refuse
from ..plan.bodies import drawn_m
from ..plan.model import Plan
from ..plan.ways import why_not
from .base import EditBase, checked

MAX_WIRES = 400


class PutPoint(EditBase):
    """Put a point of a run elsewhere, or a `new` one in at that number. Of a run whose length nobody measured, the
    length goes with the drawing."""

    kind: Literal["put_point"] = "put_point"
    id: str
    at: Annotated[int, Field(ge=0, le=20)]
    x_mm: float
    y_mm: float
    new: bool = False

    def run(self, plan: Plan) -> Plan:
        run = _run(plan, self.id)
        points = list(run.points)
        if self.at > len(points) - (not self.new):
            raise refuse(run.id, "points", f"{run.id} has no way point {self.at + 1} (any more).")
        point = checked(Point, run.id, {"x_mm": round(self.x_mm), "y_mm": round(self.y_mm)})
        points[self.at:self.at + (not self.new)] = [point]
        return _with_points(plan, run, points)

    def label(self, plan: Plan) -> str:
        return f"way point {self.at + 1} of {self.id} {'put in' if self.new else 'moved'}"


class DropPoint(EditBase):
    """Take a point out of a run."""

    kind: Literal["drop_point"] = "drop_point"
    id: str
    at: Annotated[int, Field(ge=0, le=20)]

    def run(self, plan: Plan) -> Plan:
        run = _run(plan, self.id)
        if self.at >= len(run.points):
            raise refuse(run.id, "points", f"{run.id} has no way point {self.at + 1} (any more).")
        return _with_points(plan, run, [p for n, p in enumerate(run.points) if n != self.at])

    def label(self, plan: Plan) -> str:
        return f"way point {self.at + 1} of {self.id} taken out"


class TellWay(EditBase):
    """Tell wires the runs to take, in turn, from either end; none: the shortest way again."""

    kind: Literal["tell_way"] = "tell_way"
    ids: tuple[Id, ...] = Field(min_length=1, max_length=MAX_WIRES)
    way: tuple[Id, ...] = Field(default=(), max_length=40)

    def run(self, plan: Plan) -> Plan:
        at = {p.id: p.place for p in plan.parts}
        told = {}
        for wire_id in self.ids:
            if wire_id not in plan.wire_by_id:
                raise refuse(wire_id, "ids", f"There is no wire {wire_id} in this plan.")
            wire = plan.wire(wire_id)
            a, b = at[wire.a.part], at[wire.b.part]
            way = self.way if not why_not(plan, self.way, a, b) else tuple(reversed(self.way))
            if way and why_not(plan, way, a, b):
                raise refuse(wire_id, "way", f"{wire_id} cannot go that way: {why_not(plan, self.way, a, b)}")
            told[wire_id] = wire.model_copy(update={"way": way})
        return plan.model_copy(update={"wires": tuple(told.get(w.id, w) for w in plan.wires)})

    def label(self, plan: Plan) -> str:
        who = self.ids[0] if len(self.ids) == 1 else f"{len(self.ids)} wires"
        return f"{who} by way of {', '.join(self.way)}" if self.way else f"{who} by the shortest way"


def forgotten(plan: Plan, run: str) -> Plan:
    """The plan with no wire told to take a run, as that is taken out or not to be used."""
    return plan.model_copy(update={"wires": tuple(
        w.model_copy(update={"way": ()}) if run in w.way else w for w in plan.wires)})


def parted(plan: Plan, way: tuple[str, ...], begin: str, place: str) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """A told way cut at a place on it, both pieces; two shortest ways where it does not pass there."""
    at = begin
    for n, run_id in enumerate(way):
        if at == place:
            return way[:n], way[n:]
        run = _run(plan, run_id)
        at = run.b if at == run.a else run.a
    return (way, ()) if at == place else ((), ())


def _run(plan: Plan, run_id: str) -> Run:
    try:
        return plan.run(run_id)
    except KeyError:
        raise refuse(run_id, "id", f"There is no run {run_id} in this plan (any more).") from None


def _with_points(plan: Plan, run: Run, points: list[Point]) -> Plan:
    values = {**run.model_dump(), "points": [p.model_dump() for p in points]}
    if run.standing_of("length_m") == "typical":
        a, b = ((end.x_mm, end.y_mm) for end in (plan.place(run.a), plan.place(run.b)))
        values["length_m"] = drawn_m([a, *((p.x_mm, p.y_mm) for p in points), b])
    new = checked(Run, run.id, values)
    return plan.model_copy(update={"runs": tuple(new if r.id == run.id else r for r in plan.runs)})
