"""Edits of the survey: scale and places, connectors with their pins, readings, and what is taken over from another
machine."""

import math
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from ..doc.places import Place, Run
from ..doc.survey import Plug, Reading, Removed
from ..doc.types import Marks
from ..errors import refuse
from ..parts.tap import Tap
from ..plan.bodies import BODY_KINDS, way_m
from ..plan.model import Plan
from .base import EditBase, checked, checked_part, name_of, restated
from .standing import set_figure
from .workpiece import Workpiece

MOST_ROWS, MOST_WAYS = 400, 60


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


MOST_MM = 10_000  # longer than any machine


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


class PutPlug(EditBase):
    """Write down a connector with its pins at once, or change one. Pins whose number is not named stay as they are."""

    kind: Literal["put_plug"] = "put_plug"
    id: str = ""
    values: dict[str, Any]
    pins: tuple[dict[str, Any], ...] = Field(default=(), max_length=MOST_WAYS)

    def run(self, plan: Plan) -> Plan:
        work = Workpiece.of(plan)
        if self.id:
            try:
                old = plan.plug(self.id)
            except KeyError:
                raise refuse(self.id, "id", f"There is no connector {self.id} in this plan (any more).") from None
            plug = checked(Plug, old.id, {**old.model_dump(), **self.values})
            plugs = tuple(plug if p.id == old.id else p for p in plan.plugs)
        else:
            plug = checked(Plug, "", {**self.values, "id": work.new_id("plug")})
            plugs = (*plan.plugs, plug)
        there = {p.way: p for p in plan.pins(plug.id)}
        parts: dict[str, Any] = {p.id: p for p in plan.parts}
        for pin in there.values():  # whatever else happens, pins sit where their connector does
            parts[pin.id] = pin.model_copy(update={"place": plug.place, "name": f"{plug.name} pin {pin.way}"})
        for values in self.pins:
            way = _way(values)
            before, name = there.get(way), f"{plug.name} pin {way}"
            base = parts[before.id].model_dump() if before else {
                "id": work.new_id("tap"), "plug": plug.id, "place": plug.place, "function": "unknown", "fused_a": None}
            values = {**values, "marks": _pin_marks(before, values)}
            made = checked_part(name, {**base, "name": name, **values, "kind": "tap"})
            if before and isinstance(made, Tap):
                check_hangers(plan, before, made)
            parts[made.id] = made
        return plan.model_copy(update={"plugs": plugs, "parts": tuple(parts.values()), "counters": work.counters})

    def label(self, plan: Plan) -> str:
        name = self.values.get("name") or name_of(plan, self.id)
        return f"{name} {'changed' if self.id else 'written down'}"


class PutPins(EditBase):
    """Write down pins of several connectors at once, by connector id; a connector grows where a pin lies beyond its
    ways."""

    kind: Literal["put_pins"] = "put_pins"
    pins: dict[str, tuple[dict[str, Any], ...]] = Field(min_length=1, max_length=400)

    def run(self, plan: Plan) -> Plan:
        for plug_id, pins in self.pins.items():
            try:
                ways = plan.plug(plug_id).ways
            except KeyError:
                raise refuse(plug_id, "id", f"There is no connector {plug_id} in this plan (any more).") from None
            most = max((_way(p) for p in pins), default=0)
            plan = PutPlug(id=plug_id, values={"ways": max(ways, most)}, pins=pins).run(plan)
        return plan

    def label(self, plan: Plan) -> str:
        return f"pins of connectors written down: {sum(len(p) for p in self.pins.values())}"


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


class TakeSurvey(EditBase):
    """Take over another machine's survey: its places, runs, connectors and found wires, all believed until confirmed
    here.

    `survey` is a document of the survey format; what this plan has under the same name already stays as it is.
    """

    kind: Literal["take_survey"] = "take_survey"
    survey: dict[str, Any]

    def run(self, plan: Plan) -> Plan:
        work, data = Workpiece.of(plan), self.survey
        places = {p.name: p.id for p in plan.places}
        new_places, new_runs, new_plugs, new_removed = [], [], [], []
        at: dict[str, str] = {}
        for one in _rows(data, "places"):
            old, name = one.get("id"), one.get("name")
            if name not in places:
                place = checked(Place, str(name), {**one, "id": work.new_id("place"), "standing": "believed"})
                places[place.name] = place.id
                new_places.append(place)
            at[str(old)] = places[str(name)]
        joined = {frozenset((r.a, r.b)) for r in plan.runs}
        for one in _rows(data, "runs"):
            ends = {end: at.get(str(one.get(end)), str(one.get(end))) for end in ("a", "b")}
            if frozenset(ends.values()) not in joined:
                new_runs.append(checked(Run, "run", {**one, **ends, "id": work.new_id("run"),
                                                     "marks": {"length_m": "believed"}}))
        plugs, of = {p.name for p in plan.plugs}, {}
        for one in _rows(data, "plugs"):
            if one.get("name") not in plugs:
                plug = checked(Plug, str(one.get("name")), {**one, "id": work.new_id("plug"), "standing": "believed",
                                                            "place": at.get(str(one.get("place")), "")})
                of[str(one.get("id"))] = plug.id
                new_plugs.append(plug)
        names = {p.name for p in plan.parts}
        for one in _rows(data, "taps"):
            if (one.get("plug") and str(one["plug"]) not in of) or one.get("name") in names:
                continue
            work.parts.append(checked_part(str(one.get("name")), {
                **one, "kind": "tap", "id": work.new_id("tap"), "standing": "believed", "marks": {},
                "place": at.get(str(one.get("place")), ""),
                "plug": of.get(str(one.get("plug"))), "made_for": None}))
        gone = {r.name for r in plan.removed}
        for one in _rows(data, "removed"):
            if one.get("name") not in gone:
                new_removed.append(checked(Removed, str(one.get("name")), {**one, "id": work.new_id("removed"),
                                                                           "place": at.get(str(one.get("place")))}))
        machine = plan.machine
        # nothing has been put on the map yet: it is drawn as the machine that the survey was made on
        if not plan.places:
            drawn = {"kind": data.get("machine_kind", machine.kind),
                     "wheelbase_mm": data.get("wheelbase_mm", machine.wheelbase_mm)}
            machine = checked(type(machine), "", {**machine.model_dump(), **drawn})
        return plan.model_copy(update={
            "machine": machine, "places": (*plan.places, *new_places), "runs": (*plan.runs, *new_runs),
            "plugs": (*plan.plugs, *new_plugs),
            "removed": (*plan.removed, *new_removed), "parts": tuple(work.parts), "counters": work.counters})

    def label(self, plan: Plan) -> str:
        return f"survey of {self.survey.get('name') or 'another machine'} taken over"


def check_hangers(plan: Plan, old: Tap, new: Tap) -> None:
    """Refuse to change when a pin or found wire is live under accessories that hang on it as it was."""
    users = [load.name for load in plan.loads if load.feed == old.id]
    if users and (old.live, old.function) != (new.live, new.function):
        raise refuse(old.id, "live",
            f"{', '.join(users[:4])} hang on {old.name} as it was: give those another feed first, or let them live "
                                     "as it does.")


def wheelbase_mm(plan: Plan) -> float:
    """The machine's wheelbase, or the usual one of its kind."""
    return plan.machine.wheelbase_mm or BODY_KINDS[plan.machine.kind].wheelbase_mm


def _pin_marks(before: Tap | None, values: dict[str, Any]) -> Marks:
    """What a pin may give was stated by somebody, or is only what such a pin usually may."""
    if before is not None:
        return restated(before, values, {})
    return {} if "rated_a" in values else {"rated_a": "typical"}


def _way(pin: dict[str, Any]) -> int:
    way = pin.get("way")
    if not isinstance(way, int) or isinstance(way, bool) or not 1 <= way <= MOST_WAYS:
        raise refuse("", "way", f"A pin's number is a whole number from 1 to {MOST_WAYS}.")
    return way


def _rows(data: dict[str, Any], field: str) -> list[dict[str, Any]]:
    rows = data.get(field, [])
    if not isinstance(rows, list) or len(rows) > MOST_ROWS or not all(
            isinstance(r, dict) and isinstance(r.get("name", ""), str) for r in rows):
        raise refuse("", field, f"The survey's {field} are not a list of at most {MOST_ROWS} entries with names.")
    return rows
