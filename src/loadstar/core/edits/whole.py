"""Edits of the plan as a whole: its name, the machine's figures, its house rules."""

from typing import Any, Literal

from pydantic import ValidationError

from ..doc.machine import JobKind, Machine
from ..doc.rules import HouseRules
from ..doc.types import Marks
from ..errors import PlanError
from ..plan.model import Plan
from ..plan.speech import validation_faults
from .base import EditBase, checked, free, restated


class Rename(EditBase):
    """Give the plan another name."""

    kind: Literal["rename"] = "rename"
    name: str

    def run(self, plan: Plan) -> Plan:
        return _rebuilt(plan, {"name": self.name})

    def label(self, plan: Plan) -> str:
        return f"renamed to {self.name}"


class SetJob(EditBase):
    """Say what the work is."""

    kind: Literal["set_job"] = "set_job"
    job: JobKind

    def run(self, plan: Plan) -> Plan:
        return plan.model_copy(update={"job": self.job})

    def label(self, plan: Plan) -> str:
        return f"the job is to {self.job}" if " " not in self.job else f"the job: {self.job}"


class SetMachine(EditBase):
    """Replace the machine's figures."""

    kind: Literal["set_machine"] = "set_machine"
    values: dict[str, Any]
    marks: Marks = {}

    def run(self, plan: Plan) -> Plan:
        old = plan.machine
        values = {name: value for name, value in self.values.items() if name == "kind"}  # its body, not what it is
        values |= free("machine", {name: value for name, value in self.values.items() if name != "kind"})
        values |= self._known_with(plan)
        return plan.model_copy(update={"machine": checked(Machine, "", {
            **old.model_dump(), **values, "marks": restated(old, values, self.marks)})})

    def _known_with(self, plan: Plan) -> dict[str, float]:
        """A range that is told anew is known with the pack as it is, unless another is told with it."""
        old = plan.machine
        told, of_wh = self.values.get("range_km", old.range_km), self.values.get("range_wh", old.range_wh)
        if told == old.range_km or of_wh != old.range_wh or not plan.packs:
            return {}
        return {"range_wh": round(plan.packs[0].energy_wh)}

    def label(self, plan: Plan) -> str:
        return "machine changed"


class SetRules(EditBase):
    """Replace house rules of this plan."""

    kind: Literal["set_rules"] = "set_rules"
    values: dict[str, Any]

    def run(self, plan: Plan) -> Plan:
        return plan.model_copy(update={"rules": checked(HouseRules, "", {**plan.rules.model_dump(), **self.values})})

    def label(self, plan: Plan) -> str:
        return "house rules changed"


def _rebuilt(plan: Plan, values: dict[str, Any]) -> Plan:
    try:
        return Plan.model_validate({**{f: getattr(plan, f) for f in Plan.model_fields}, **values})
    except ValidationError as error:
        raise PlanError(*validation_faults(error, "")) from error
