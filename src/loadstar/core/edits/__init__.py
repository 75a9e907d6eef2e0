"""Edits: pure functions from plan to plan, each a small model with a name, so that it can be stored, proposed by a
finding and posted by a form alike. `apply` checks the result as a whole and raises PlanError with nothing changed.
"""

from collections.abc import Iterator
from typing import Annotated, Literal

from pydantic import Field, TypeAdapter, ValidationError

from ..errors import PlanError, refuse
from ..plan.integrity import faults
from ..plan.model import Plan
from ..plan.speech import validation_faults
from .another import TakeSurvey
from .base import EditBase
from .elements import AddElement, ChangeElement, CopyLoad, RemoveElement
from .joint import MakeJoint
from .plugs import PutPins, PutPlug
from .standing import Vouch
from .survey import BodyPlaces, Confirm, MovePlace, SetScale, TakeReadings
from .ways import DropPoint, PutPoint, TellWay
from .whole import Rename, SetJob, SetMachine, SetRules
from .wires import AddWire, CutWire, MakeBusBar, MoveEnd, RemoveWire, SetWire

__all__ = [
    "AddElement", "AddWire", "BodyPlaces", "ChangeElement", "Confirm", "CopyLoad", "CutWire", "DropPoint", "Edit",
    "MakeBusBar", "MakeJoint", "MoveEnd", "MovePlace", "PutPins", "PutPlug", "PutPoint", "RemoveElement",
    "RemoveWire", "Rename", "SetJob", "SetMachine", "SetRules", "SetScale", "SetWire", "Several", "TakeReadings",
    "TakeSurvey", "TellWay", "Vouch", "apply", "parse_edit", "parse_posted"]
MOST_EDITS, MOST_DEEP = 3000, 4  # of a step of several: how many in all, how deep in one another


class Several(EditBase):
    """Some edits as one step: all of them, or none. `words` say what they amount to."""

    kind: Literal["several"] = "several"
    edits: Annotated[tuple["Edit", ...], Field(max_length=MOST_EDITS)]
    words: Annotated[str, Field(max_length=120)] = ""

    def run(self, plan: Plan) -> Plan:
        for edit in self.edits:
            plan = edit.run(plan)
        return plan

    def label(self, plan: Plan) -> str:
        return self.words or "; ".join(edit.label(plan) for edit in self.edits[:3])


Edit = Annotated[
    Rename | SetJob | SetMachine | SetRules | AddElement | ChangeElement | CopyLoad | RemoveElement | SetWire | AddWire
    | RemoveWire | CutWire
    | MoveEnd | MakeBusBar | MakeJoint | Several | BodyPlaces | Confirm | MovePlace | PutPins | PutPlug | SetScale
    | TakeReadings | TakeSurvey | Vouch | PutPoint | DropPoint | TellWay,
    Field(discriminator="kind"),
]
Several.model_rebuild()
_EDITS: TypeAdapter[Edit] = TypeAdapter(Edit)


def parse_edit(data: object) -> Edit:
    """An edit from plain data; PlanError when it is none."""
    try:
        return _EDITS.validate_python(data)
    except ValidationError as error:
        raise PlanError(*validation_faults(error, "")) from error


def parse_posted(data: object) -> Edit:
    """An edit that anybody may send as data. Readings are none: who took them and when is for the session to say."""
    edit = parse_edit(data)
    each = list(_each(edit, MOST_DEEP))
    if len(each) > MOST_EDITS:
        raise refuse("", "edits", f"These are {len(each):,} changes in one step; {MOST_EDITS:,} are the most.")
    if not all(one.may_be_posted for one in each):
        raise refuse("", "kind",
                     "Readings are entered where they are asked for, so that the record knows who took them and when.")
    return edit


def _each(edit: Edit, deep: int) -> Iterator[Edit]:
    """An edit, and all that it is made of."""
    yield edit
    if not isinstance(edit, Several):
        return
    if not deep:
        raise refuse("", "edits", f"Changes may stand in one another at most {MOST_DEEP} deep.")
    for one in edit.edits:
        yield from _each(one, deep - 1)


def apply(plan: Plan, edit: Edit) -> Plan:
    """The plan after an edit. Raises PlanError with the faults, by element and field; the plan given is unchanged."""
    changed = edit.run(plan)
    found = faults(changed)
    if found:
        raise PlanError(*found)
    return changed
