"""Across all plans of a workshop: what waits, and where a thing, a wire's colour, a trigger pin stood."""

from django.core.paginator import Paginator
from django.db.models import F, Q
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_safe

from ..records.models import Need, Thing
from ..workshop.access import member_view
from ..workshop.models import Membership

MOST_FOUND, A_PAGE, LEAST_LETTERS = 60, 50, 2


@require_safe
@member_view
def waiting(request: HttpRequest, membership: Membership) -> HttpResponse:
    """What waits for parts, work or readings, the longest touched last; and whatever is asked for."""
    plans = membership.workshop.plans.filter(archived=None)
    held = plans.filter(Q(work_all__gt=F("work_done")) | Q(proof_all__gt=F("proof_read")) | Q(proof_out__gt=0)
                        | Q(stops__gt=0)).order_by("-changed")
    asked = " ".join(request.GET.get("q", "").split())[:60]
    found: dict[str, object] = {}
    if len(asked) >= LEAST_LETTERS:
        words = asked.split(" ")[:5]
        things, needs = Q(), Q()
        for word in words:
            things &= Q(name__icontains=word) | Q(words__icontains=word)
            needs &= Q(what__icontains=word)
        found = {
            "things": list(Thing.objects.filter(things, plan__workshop=membership.workshop, plan__archived=None)
                           .select_related("plan").order_by("-plan__pk", "element")[:MOST_FOUND]),
            "needs": list(Need.objects.filter(needs, plan__workshop=membership.workshop, plan__archived=None)
                          .select_related("plan").order_by("-plan__pk", "what")[:MOST_FOUND]),
            "plans": list(plans.filter(Q(name__icontains=asked) | Q(machine__icontains=asked)).order_by("-pk")[
                :MOST_FOUND])}
    return render(request, "plans/waiting.html", {
        "membership": membership, "page": Paginator(held, A_PAGE).get_page(request.GET.get("page")), "asked": asked,
        "too_short": 0 < len(asked) < LEAST_LETTERS, "most": MOST_FOUND, **found})
