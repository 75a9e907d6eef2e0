"""What the bench shows of a plan without opening it: worked out of its newest revision, and never the truth itself."""

from collections import Counter
from datetime import datetime

from django.db.models import F

from loadstar.core.analysis import CORE_VERSION

from ..plans.known import Known
from ..plans.models import PlanHead, PlanSummary


def summarise(row: PlanHead, number: int, found: Known, changed: datetime) -> None:
    """What the bench shows; only for who holds the head."""
    plan, analysis = found.plan, found.analysis
    counts = Counter(f.severity for f in analysis.findings)
    days = analysis.parked.days if analysis.parked else None
    PlanSummary.objects.update_or_create(plan=row, defaults={
        "workshop_id": row.workshop_id, "revision": number, "core_version": CORE_VERSION, "name": plan.name,
        "machine": plan.machine.name, "machine_kind": plan.machine.kind, "changed": changed, "loads": len(plan.loads),
        "stops": counts["stop"], "cautions": counts["caution"],
        "worst": analysis.findings[0].sentence[:300] if analysis.findings else "",
        "idle_margin_a": analysis.ledgers["idle"].margin_a if plan.generator else None,
        "parked_days": days if days is not None and days < 1e5 else None,
        "range_km": analysis.pack.range_km if analysis.pack else None})


def is_stale(row: PlanHead) -> bool:
    """Whether a plan's summary is not of its newest revision and this version of the core, or is gone."""
    return not PlanSummary.objects.filter(plan=row, core_version=CORE_VERSION, revision=F("plan__head")).exists()


def stale() -> list[int]:
    """Plans whose summary is so; the bench's first."""
    fresh = PlanSummary.objects.filter(core_version=CORE_VERSION, revision=F("plan__head"))
    found = PlanHead.objects.exclude(pk__in=fresh.values("pk")).order_by("archived", "-pk")
    return list(found.values_list("pk", flat=True))
