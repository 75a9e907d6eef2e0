"""Across all plans of a workshop: what waits, and where a thing, a wire's colour, a trigger pin stood."""

from django.core.paginator import Paginator
from django.db.models import F, Q
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_safe

from ..plans.models import PlanSummary
from ..records.models import Need, Thing
from ..workshop.access import member_view
from ..workshop.models import Membership, Workshop

MOST_FOUND, A_PAGE, LEAST_LETTERS, MOST_WORDS = 40, 40, 2, 5


@require_safe
@member_view
def waiting(request: HttpRequest, membership: Membership) -> HttpResponse:
    """What waits for parts, work or readings, the longest touched last; and whatever is asked for."""
    plans = PlanSummary.objects.filter(workshop=membership.workshop, plan__archived=None)
    held = plans.filter(Q(work_all__gt=F("work_done")) | Q(proof_all__gt=F("proof_read")) | Q(proof_out__gt=0)
                        | Q(stops__gt=0)).order_by("-changed")
    asked = " ".join(request.GET.get("q", "").split())[:60]
    found: dict[str, object] = {}
    if len(asked) >= LEAST_LETTERS:
        found = {**_found(membership.workshop, asked.lower().split(" ")[:MOST_WORDS]),
                 "plans": list(plans.filter(Q(name__icontains=asked) | Q(machine__icontains=asked)).order_by("-pk")[
                     :MOST_FOUND])}
    return render(request, "plans/waiting.html", {
        "membership": membership, "page": Paginator(held, A_PAGE).get_page(request.GET.get("page")), "asked": asked,
        "too_short": 0 < len(asked) < LEAST_LETTERS, "most": MOST_FOUND, **found})


def _found(workshop: Workshop, words: list[str]) -> dict[str, object]:
    """Parts, and lines of order lists, in which all these words are: those written last first. Which they are is read
    from the index alone, then only these are fetched."""
    holds = Q()
    for word in words:
        holds &= Q(text__contains=word)
    made = {}
    for name, model in (("things", Thing), ("needs", Need)):
        ids = list(model.objects.filter(holds, workshop=workshop).order_by("-pk").values_list("pk", flat=True)[
            :MOST_FOUND])
        made[name] = list(model.objects.filter(pk__in=ids).select_related("plan__summary").order_by("-plan_id", "pk"))
    return made
