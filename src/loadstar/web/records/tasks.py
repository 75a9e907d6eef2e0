"""Work on plans that nobody waits for: what the bench shows of them is worked out anew after an upgrade of the core."""

from django_tasks import task

from ..plans.models import PlanHead
from . import store, summary

LAST = -50  # in turn: behind everything that somebody waits for


@task(priority=LAST)
def refresh(plan: int) -> None:
    """One plan's summary, if it is still of an earlier version."""
    row = PlanHead.objects.filter(pk=plan).first()
    if row is not None and summary.is_stale(row):
        store.refresh(row)


def refresh_all() -> int:
    """Ask for every summary that is of an earlier version; how many."""
    found = summary.stale()
    for plan in found:
        refresh.enqueue(plan)
    return len(found)
