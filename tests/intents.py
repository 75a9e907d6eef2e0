"""What an intent asks, answered for a plan: for tests that make everything that is offered."""

from collections.abc import Callable, Iterable
from typing import Any

from loadstar.core.errors import PlanError
from loadstar.core.intents import Intent
from loadstar.core.plan.model import Plan

TYPED: dict[str, Any] = {"what": "Gauge", "power_w": 4.0, "high_w": 300.0, "was_w": 4.0, "new_w": 2.0,
                         "capacity_ah": 6.0}
LEADS = {1: "YE > WH, YE > WH", 3: "YE > WH, YE > WH, YE > WH"}


def answered(plan: Plan, intent: type[Intent], pick: Callable[[Iterable[str]], str]) -> dict[str, Any]:
    """Figures as somebody types them, and what is chosen among the plan's own. PlanError where the plan lacks it."""
    if intent.lacks(plan):
        raise PlanError()
    values = {name: TYPED[name] for name in intent.model_fields.keys() & TYPED.keys()}
    if "winding" in intent.model_fields and plan.generator:
        values["winding"] = LEADS[plan.generator.phases]
    if "fuse_kind" in intent.model_fields:  # a circuit that is there, as a careful maker would have it
        values |= {"fuse_a": 5.0, "fuse_kind": "blade, 80 V", "size_mm2": 1.0}
    chosen = {name: pick(key for key, _ in intent.choices(plan, name)) for name in intent.OF_THE_PLAN}
    return values | {name: key or None for name, key in chosen.items()}
