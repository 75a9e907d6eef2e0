"""Readings: the row that is never rewritten, and the plan's frozen copy of it, in one step."""

from typing import Any

from django.db import transaction
from django.utils import timezone

from loadstar.core.plan.survey_edits import TakeReadings

from ..plans import store
from ..plans.models import PlanRow
from ..workshop.models import Person
from .models import TakenReading


def take_readings(row: PlanRow, person: Person, base: int, readings: list[dict[str, Any]]) -> store.Loaded:
    """Enter readings (element, quantity, state, value, instrument) into the plan and the record. PlanError or Conflict as for any edit."""
    now = timezone.now().replace(microsecond=0)
    stamped = tuple({**r, "taken": now.isoformat(), "by": person.shown_name[:80]} for r in readings)
    with transaction.atomic():
        before = {r.id for r in store.at_base(row, base).plan.readings}
        loaded = store.edit(row, person, base, TakeReadings(readings=stamped))
        TakenReading.objects.bulk_create(TakenReading(
            plan=row, reading=r.id, element=r.element, quantity=r.quantity, state=r.state, value=r.value, instrument=r.instrument,
            taken=now, by=person) for r in loaded.plan.readings if r.id not in before)
    return loaded
