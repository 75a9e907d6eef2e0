"""The workshop's stock: what is there, what plans have set aside, and what they take."""

from dataclasses import replace

from django.db import transaction
from django.db.models import Sum

from loadstar.core.shelf import Stock

from ..plans.models import PlanHead
from ..workshop.models import Person, Workshop
from .models import Reserved, ShelfItem


def stock_of(workshop: Workshop, for_plan: PlanHead | None = None) -> list[Stock]:
    """Everything on a workshop's shelf, by name; set aside is what plans have reserved, but for the one it is looked
    at for."""
    others = Reserved.objects.filter(plan__workshop=workshop)
    if for_plan is not None:
        others = others.exclude(plan=for_plan)
    aside = {r["what"]: r["together"] for r in others.values("what").annotate(together=Sum("amount"))}
    return [replace(item.stock, set_aside=aside.get(item.what, 0.0))
            for item in ShelfItem.objects.filter(workshop=workshop).order_by("what")]


def reserve(row: PlanHead, person: Person, amounts: dict[str, float]) -> None:
    """Set so much aside for a plan, in place of what was."""
    with transaction.atomic():
        Reserved.objects.filter(plan=row).delete()
        Reserved.objects.bulk_create(Reserved(plan=row, what=what, amount=amount, by=person)
                                     for what, amount in amounts.items() if amount > 0)


def take(row: PlanHead) -> int:
    """Take what is reserved for a plan off the shelf; how many lines."""
    with transaction.atomic():
        reserved = list(Reserved.objects.select_for_update().filter(plan=row))
        items = {i.what: i for i in ShelfItem.objects.select_for_update().filter(
            workshop=row.workshop, what__in=[r.what for r in reserved])}
        for one in reserved:
            if item := items.get(one.what):
                item.here = round(max(0.0, item.here - one.amount), 4)
                item.reels = []  # which reel it came from is for the cut list; what is left is measured anew
        ShelfItem.objects.bulk_update(items.values(), ["here", "reels"])
        Reserved.objects.filter(plan=row).delete()
    return len(reserved)
