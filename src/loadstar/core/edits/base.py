"""What every edit is built from: its base, and values checked into elements or refused in words."""

import math
from typing import Any, ClassVar, TypeVar

from pydantic import BaseModel, ConfigDict, ValidationError

from ..doc.types import Marked, Marks
from ..errors import PlanError, refuse
from ..parts.base import Part
from ..parts.registry import PARTS
from ..plan.model import Plan
from ..plan.speech import validation_faults, words_for
from ..plan.standing import MACHINE

M = TypeVar("M", bound=BaseModel)


class EditBase(BaseModel):
    """Base of every edit: frozen, nothing unknown, no NaN."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
    POSTED: ClassVar[bool] = True  # whether anybody may send it as data

    @property
    def may_be_posted(self) -> bool:
        """Whether anybody may send it as data: a figure as found comes with who found it, from the session."""
        return self.POSTED and "found" not in getattr(self, "marks", {}).values()

    def run(self, plan: Plan) -> Plan:
        """The plan with the edit carried out, unchecked as a whole; PlanError where it cannot be."""
        raise NotImplementedError

    def label(self, plan: Plan) -> str:
        """What the revision list says of it, given the plan before it."""
        raise NotImplementedError


def checked(model: type[M], element: str, values: dict[str, Any]) -> M:
    """An element from plain values; PlanError naming it and the field when they will not do."""
    try:
        return model.model_validate(values)
    except ValidationError as error:
        raise PlanError(*validation_faults(error, element)) from error


def checked_part(element: str, values: dict[str, Any]) -> Part:
    """The same for a part of any kind."""
    try:
        return PARTS.validate_python(values)
    except ValidationError as error:
        raise PlanError(*validation_faults(error, element)) from error


def existing(plan: Plan, part_id: str) -> Part:
    """A part of the plan; PlanError when it is not there (any more)."""
    try:
        return plan.part(part_id)
    except KeyError:
        raise refuse(part_id, "id", f"There is no {part_id} in this plan (any more).") from None


def name_of(plan: Plan, element: str) -> str:
    """An element's name, or its id where it has none."""
    if element == MACHINE:
        return plan.machine.name
    return next((str(getattr(one, "name", element)) for one in plan.elements() if one.id == element), element)


# What an element is and belongs to: given by the edit itself, never by the values that come with it.
_IDENTITY = frozenset({"id", "kind", "made_for", "marks"})


def free(element: str, values: dict[str, Any]) -> dict[str, Any]:
    """The values given, which say nothing of what the element is and belongs to; PlanError where they do."""
    if taken := sorted(_IDENTITY & values.keys()):
        raise refuse(element, taken[0], f"{words_for(taken[0]).capitalize()} cannot be set: Loadstar gives it.")
    return values


def restated(old: Marked, values: dict[str, Any], marks: Marks) -> Marks:
    """How the figures of an element are known once `values` are set: what is another figure now was stated, unless
    `marks` says more of it; what was sent back as it stood stays as it was known."""
    kept = {field: standing for field, standing in old.marks.items()
            if field not in values or _same(values[field], getattr(old, field))}
    return {**kept, **marks}


def _same(new: object, old: object) -> bool:
    """Whether a value is the one that stood there; a form shows six figures of a number."""
    if isinstance(new, int | float) and isinstance(old, int | float):
        return math.isclose(new, old, rel_tol=1e-5, abs_tol=1e-9)
    return new == old
