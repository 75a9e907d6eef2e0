"""Readings: the row that is never rewritten, and the plan's frozen copy of it, in one step."""

from typing import Any

from django.utils import timezone

from loadstar.core.edits.survey import TakeReadings

from ..plans.models import PlanHead
from ..workshop.models import Person
from . import store


def take_readings(row: PlanHead, person: Person, base: int, readings: list[dict[str, Any]]) -> store.Loaded:
    """Enter readings (element, quantity, state, value, instrument) into the plan and the record. PlanError or Conflict
    as for any edit."""
    now = timezone.now().replace(microsecond=0)
    stamped = tuple({**r, "taken": now.isoformat(), "by": person.shown_name[:80]} for r in readings)
    return store.edit(row, person, base, TakeReadings(readings=stamped))
