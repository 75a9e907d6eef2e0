"""How a figure is known: set as measured, or vouched for as it stands."""

from typing import Annotated, Any, Literal

from pydantic import Field

from ..doc.places import Run
from ..doc.types import FieldStanding, Marked
from ..errors import refuse
from ..parts.base import Part
from ..plan.model import Plan
from ..plan.standing import MACHINE
from .base import EditBase, checked, checked_part, name_of


def set_figure(plan: Plan, element: str, field: str, value: float, standing: FieldStanding | None) -> Plan:
    """The plan with one figure of the machine, a run or a part set, and how it is known; None: it was stated."""
    old = marked(plan, element)
    if not isinstance(getattr(old, field, None), int | float) or isinstance(getattr(old, field), bool):
        raise refuse(element, "field", f"{name_of(plan, element)} has no figure {field[:40] or 'without a name'}.")
    marks = {name: known for name, known in old.marks.items() if name != field}
    if standing is not None:
        marks[field] = standing
    return _put(plan, old, {field: value, "marks": marks})


def marked(plan: Plan, element: str) -> Marked:
    """What has the figures: the machine, a run or a part; PlanError where there is none (any more)."""
    if element == MACHINE:
        return plan.machine
    found = plan.part_by_id.get(element) or next((run for run in plan.runs if run.id == element), None)
    if found is None:
        raise refuse(element, "id", f"There is no {element} in this plan (any more).")
    return found


def _put(plan: Plan, old: Marked, values: dict[str, Any]) -> Plan:
    whole = {**old.model_dump(), **values}
    if old is plan.machine:
        return plan.model_copy(update={"machine": checked(type(plan.machine), MACHINE, whole)})
    if isinstance(old, Run):
        run = checked(Run, old.id, whole)
        return plan.model_copy(update={"runs": tuple(run if r.id == old.id else r for r in plan.runs)})
    assert isinstance(old, Part)
    part = checked_part(old.id, whole)
    return plan.model_copy(update={"parts": tuple(part if p.id == old.id else p for p in plan.parts)})


class Vouch(EditBase):
    """Say of figures that they are so, as on the label: what was only usual or believed is stated from then on."""

    kind: Literal["vouch"] = "vouch"
    id: str
    fields: Annotated[tuple[str, ...], Field(min_length=1, max_length=60)]

    def run(self, plan: Plan) -> Plan:
        old = marked(plan, self.id)
        if unknown := [field for field in self.fields if field not in type(old).model_fields]:
            raise refuse(self.id, "fields", f"{name_of(plan, self.id)} has no figure {unknown[0][:40]}.")
        return _put(plan, old, {"marks": {f: known for f, known in old.marks.items() if f not in self.fields}})

    def label(self, plan: Plan) -> str:
        return f"{name_of(plan, self.id)}: as on the label"
