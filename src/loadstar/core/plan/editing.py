"""What every edit is built from: its base, and values checked into elements or refused in words."""

from typing import Any, TypeVar

from pydantic import BaseModel, ConfigDict, TypeAdapter, ValidationError

from .errors import PlanError, refuse
from .model import AnyPart, Part, Plan
from .speech import validation_faults

M = TypeVar("M", bound=BaseModel)
_PARTS: TypeAdapter[AnyPart] = TypeAdapter(Part)


class EditBase(BaseModel):
    """Base of every edit: frozen, nothing unknown, no NaN."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


def checked(model: type[M], element: str, values: dict[str, Any]) -> M:
    """An element from plain values; PlanError naming it and the field when they will not do."""
    try:
        return model.model_validate(values)
    except ValidationError as error:
        raise PlanError(*validation_faults(error, element)) from error


def checked_part(element: str, values: dict[str, Any]) -> AnyPart:
    """The same for a part of any kind."""
    try:
        return _PARTS.validate_python(values)
    except ValidationError as error:
        raise PlanError(*validation_faults(error, element)) from error


def existing(plan: Plan, part_id: str) -> AnyPart:
    """A part of the plan; PlanError when it is not there (any more)."""
    try:
        return plan.part(part_id)
    except KeyError:
        raise refuse(part_id, "id", f"There is no {part_id} in this plan (any more).") from None


def name_of(plan: Plan, element: str) -> str:
    """An element's name, or its id where it has none."""
    for one in (*plan.parts, *plan.places, *plan.plugs, *plan.tables, *plan.removed):
        if one.id == element:
            return one.name
    return element
