"""Edits of the survey: scale and places, readings, what is confirmed. Connectors stand in `plugs`, what is taken over
from another machine in `another`."""

import math
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from ..doc.places import Place, Run
from ..doc.survey import Reading
from ..errors import refuse
from ..plan.bodies import BODY_KINDS, way_m
from ..plan.model import Plan
from .base import EditBase, checked, name_of
from .standing import set_figure
from .workpiece import Workpiece

MOST_MM = 10_000  # longer than any machine


class BodyPlaces(EditBase):
    """Add the places that come with the machine's body and the ways between them, so far as they are not there yet, to
    scale."""

    kind: Literal["body_places"] = "body_places"

    def run(self, plan: Plan) -> Plan:
        body, work = BODY_KINDS[plan.machine.kind], Workpiece.of(plan)
        scale = wheelbase_mm(plan) / body.wheelbase_mm
        taken = {p.name for p in plan.places}
        new = [checked(Place, "", {"id": work.new_id("place"), "name": g.name, "x_mm": round(g.x_mm * scale),
                                   "y_mm": round(g.y_mm * scale), "reach": g.reach, "zone": g.zone, "water": g.water,
                                   "moves": g.moves, "standing": "believed"})
               for g in body.places if g.name not in taken]
        places = (*plan.places, *new)
        at, given = {p.name: p.id for p in places}, {g.name: g for g in body.places}
        joined, new_ids = {frozenset((r.a, r.b)) for r in plan.runs}, {p.id for p in new}
        # between places that were there already the ways are what somebody found
        runs = [checked(Run, "", {"id": work.new_id("run"), "a": at[a], "b": at[b], "marks": {"length_m": "typical"},
                                  "length_m": way_m(given[a], given[b], scale)})
                for a, b in body.runs if frozenset((at[a], at[b])) not in joined and {at[a], at[b]} & new_ids]
        return plan.model_copy(update={"places": places, "runs": (*plan.runs, *runs), "counters": work.counters})

    def label(self, plan: Plan) -> str:
        return f"places of a {plan.machine.kind} put on the map"


class SetScale(EditBase):
    """Set the machine's wheelbase, or a measured length between two places; every place and way point
    moves along."""

    kind: Literal["set_scale"] = "set_scale"
    wheelbase_mm: Annotated[float, Field(gt=0, le=MOST_MM)] | None = None
    a: str = ""
    b: str = ""
    length_mm: Annotated[float, Field(gt=0, le=MOST_MM)] | None = None

    def run(self, plan: Plan) -> Plan:
        now = wheelbase_mm(plan)
        if self.wheelbase_mm is not None:
            factor = self.wheelbase_mm / now
        else:
            try:
                a, b = plan.place(self.a), plan.place(self.b)
            except KeyError:
                raise refuse("", "a", "Choose the two places that the length was measured between.") from None
            drawn = math.hypot(a.x_mm - b.x_mm, a.y_mm - b.y_mm)
            if drawn < 50 or not self.length_mm:
                raise refuse("", "length_mm",
                             "Choose two places that are at least 50 mm apart on the map, and the length between them.")
            factor = self.length_mm / drawn
        machine = checked(type(plan.machine), "", {**plan.machine.model_dump(), "wheelbase_mm": round(now * factor)})
        places = tuple(checked(Place, p.id,
                               {**p.model_dump(), "x_mm": round(p.x_mm * factor), "y_mm": round(p.y_mm * factor)})
                       for p in plan.places)
        runs = tuple(checked(Run, r.id, {**r.model_dump(), "points": [
            {"x_mm": round(p.x_mm * factor), "y_mm": round(p.y_mm * factor)} for p in r.points]}) if r.points else r
            for r in plan.runs)
        return plan.model_copy(update={"machine": machine, "places": places, "runs": runs})

    def label(self, plan: Plan) -> str:
        return "map set to scale"


class MovePlace(EditBase):
    """Move a place by so many millimetres."""

    kind: Literal["move_place"] = "move_place"
    id: str
    dx_mm: float = 0
    dy_mm: float = 0

    def run(self, plan: Plan) -> Plan:
        try:
            old = plan.place(self.id)
        except KeyError:
            raise refuse(self.id, "id", f"There is no place {self.id} in this plan (any more).") from None
        new = checked(Place, old.id,
                      {**old.model_dump(), "x_mm": round(old.x_mm + self.dx_mm), "y_mm": round(old.y_mm + self.dy_mm)})
        return plan.model_copy(update={"places": tuple(new if p.id == old.id else p for p in plan.places)})

    def label(self, plan: Plan) -> str:
        return f"{name_of(plan, self.id)} moved"


class TakeReadings(EditBase):
    """Enter what an instrument showed, one reading or several."""

    POSTED: ClassVar[bool] = False
    kind: Literal["take_readings"] = "take_readings"
    readings: tuple[dict[str, Any], ...] = Field(min_length=1, max_length=500)

    def run(self, plan: Plan) -> Plan:
        work = Workpiece.of(plan)
        new = tuple(checked(Reading, "", {**r, "id": work.new_id("reading")}) for r in self.readings)
        plan = plan.model_copy(update={"readings": (*plan.readings, *new), "counters": work.counters})
        for reading in new:
            if reading.quantity == "figure":
                plan = set_figure(plan, reading.element, reading.field, reading.value, "found")
        return plan

    def label(self, plan: Plan) -> str:
        first = name_of(plan, str(self.readings[0].get("element", "")))
        return f"reading at {first}" if len(self.readings) == 1 else f"{len(self.readings)} readings, {first} first"


class Confirm(EditBase):
    """Say of believed facts that they were found so on this machine."""

    kind: Literal["confirm"] = "confirm"
    ids: tuple[str, ...] = Field(min_length=1, max_length=3000)

    def run(self, plan: Plan) -> Plan:
        wanted = set(self.ids)

        def settled(elements: tuple[Any, ...]) -> tuple[Any, ...]:
            return tuple(_confirmed(e) if e.id in wanted else e for e in elements)
        return plan.model_copy(update={f: settled(getattr(plan, f)) for f in ("places", "plugs", "parts", "runs")})

    def label(self, plan: Plan) -> str:
        return f"{name_of(plan, self.ids[0])} confirmed" if len(self.ids) == 1 else f"{len(self.ids)} facts confirmed"


def _confirmed(element: Any) -> Any:
    """An element of which all that was believed has been found so."""
    changes: dict[str, Any] = {"standing": "found"} if hasattr(element, "standing") else {}
    if marks := getattr(element, "marks", None):
        changes["marks"] = {f: "found" if standing == "believed" else standing for f, standing in marks.items()}
    return element.model_copy(update=changes)


def wheelbase_mm(plan: Plan) -> float:
    """The machine's wheelbase, or the usual one of its kind."""
    return plan.machine.wheelbase_mm or BODY_KINDS[plan.machine.kind].wheelbase_mm
