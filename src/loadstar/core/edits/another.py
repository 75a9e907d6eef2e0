"""What is taken over from another machine of the same kind."""

from typing import Any, Literal

from ..doc.machine import Machine
from ..doc.places import Place, Run
from ..doc.survey import Plug, Removed
from ..errors import refuse
from ..parts.base import Part
from ..plan.model import Plan
from .base import EditBase, checked, checked_part
from .workpiece import Workpiece

MOST_ROWS = 400


class TakeSurvey(EditBase):
    """Take over another machine's survey: its places, runs, connectors and found wires, all believed until confirmed
    here.

    `survey` is a document of the survey format; what this plan has under the same name already stays as it is.
    """

    kind: Literal["take_survey"] = "take_survey"
    survey: dict[str, Any]

    def run(self, plan: Plan) -> Plan:
        taken = _Taken(plan, self.survey)
        return plan.model_copy(update={
            "places": (*plan.places, *taken.places()), "runs": (*plan.runs, *taken.runs()),
            "plugs": (*plan.plugs, *taken.plugs()), "parts": taken.parts(),
            "removed": (*plan.removed, *taken.removed()), "machine": taken.machine(),
            "counters": taken.work.counters})

    def label(self, plan: Plan) -> str:
        return f"survey of {self.survey.get('name') or 'another machine'} taken over"


class _Taken:
    """A survey on its way into a plan: its ids become the plan's, in the order places, runs, connectors, pins and found
    wires, parts that are gone."""

    def __init__(self, plan: Plan, survey: dict[str, Any]) -> None:
        self.plan, self.survey, self.work = plan, survey, Workpiece.of(plan)
        self.at: dict[str, str] = {}  # the plan's place, by the survey's
        self.plug_of: dict[str, str] = {}  # likewise

    def places(self) -> list[Place]:
        """Those that the plan has not, and where the others are."""
        there, new = {p.name: p.id for p in self.plan.places}, []
        for one in _rows(self.survey, "places"):
            name = str(one.get("name"))
            if name not in there:
                new.append(checked(Place, name, {**one, "id": self.work.new_id("place"), "standing": "believed"}))
                there[name] = new[-1].id
            self.at[str(one.get("id"))] = there[name]
        return new

    def runs(self) -> list[Run]:
        """Those between places that no run joins yet."""
        joined = {frozenset((r.a, r.b)) for r in self.plan.runs}
        new = []
        for one in _rows(self.survey, "runs"):
            ends = {end: self.at.get(str(one.get(end)), str(one.get(end))) for end in ("a", "b")}
            if frozenset(ends.values()) not in joined:
                new.append(checked(Run, "run", {**one, **ends, "id": self.work.new_id("run"),
                                                "marks": {"length_m": "believed"}}))
        return new

    def plugs(self) -> list[Plug]:
        """Connectors of other names."""
        there, new = {p.name for p in self.plan.plugs}, []
        for one in _rows(self.survey, "plugs"):
            if one.get("name") not in there:
                new.append(checked(Plug, str(one.get("name")), {
                    **one, "id": self.work.new_id("plug"), "standing": "believed",
                    "place": self.at.get(str(one.get("place")), "")}))
                self.plug_of[str(one.get("id"))] = new[-1].id
        return new

    def parts(self) -> tuple[Part, ...]:
        """The plan's, and pins and found wires of other names; pins only with their connector."""
        names = {p.name for p in self.plan.parts}
        for one in _rows(self.survey, "taps"):
            if (one.get("plug") and str(one["plug"]) not in self.plug_of) or one.get("name") in names:
                continue
            self.work.parts.append(checked_part(str(one.get("name")), {
                **one, "kind": "tap", "id": self.work.new_id("tap"), "standing": "believed", "marks": {},
                "place": self.at.get(str(one.get("place")), ""), "plug": self.plug_of.get(str(one.get("plug"))),
                "made_for": None}))
        return tuple(self.work.parts)

    def removed(self) -> list[Removed]:
        """Parts that are gone there, of other names."""
        gone = {r.name for r in self.plan.removed}
        return [checked(Removed, str(one.get("name")), {**one, "id": self.work.new_id("removed"),
                                                        "place": self.at.get(str(one.get("place")))})
                for one in _rows(self.survey, "removed") if one.get("name") not in gone]

    def machine(self) -> Machine:
        """The plan's; where nothing has been put on the map yet, drawn as the one that the survey was made on."""
        machine = self.plan.machine
        if self.plan.places:
            return machine
        return checked(type(machine), "", {**machine.model_dump(), **{
            name: self.survey.get(asked, getattr(machine, name))
            for name, asked in (("kind", "machine_kind"), ("wheelbase_mm", "wheelbase_mm"))}})


def _rows(data: dict[str, Any], field: str) -> list[dict[str, Any]]:
    rows = data.get(field, [])
    if not isinstance(rows, list) or len(rows) > MOST_ROWS or not all(
            isinstance(r, dict) and isinstance(r.get("name", ""), str) for r in rows):
        raise refuse("", field, f"The survey's {field} are not a list of at most {MOST_ROWS} entries with names.")
    return rows
