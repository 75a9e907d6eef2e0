"""A plan's past: every revision listed, looked at, compared, restored; the archive."""

from datetime import timedelta
from typing import Any

from django.contrib import messages
from django.core.paginator import Paginator
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from loadstar.core.errors import PlanError
from loadstar.core.plan import compare

from ..frame.frame import frame_for
from ..plans.models import PlanHead, Revision
from ..records import store
from ..workshop.access import member_view, require_edit, whole_number
from ..workshop.models import Membership, Trail
from ..workshop.trail import note

REVISIONS_A_PAGE = 50
ARCHIVE_KEEPS = timedelta(days=30)


@member_view
def history(request: HttpRequest, membership: Membership, plan: int) -> HttpResponse:
    """The plan's revisions, newest first, page by page."""
    frame = frame_for(request, membership, plan, "handover")
    revisions = Revision.objects.filter(plan=frame.row).select_related("author").defer("document").order_by("-number")
    page = Paginator(revisions, REVISIONS_A_PAGE).get_page(request.GET.get("page"))
    return render(request, "plans/history.html", {"frame": frame, "page": page})


@member_view
def compared(request: HttpRequest, membership: Membership, plan: int) -> HttpResponse:
    """What differs between two revisions."""
    frame = frame_for(request, membership, plan, "handover")
    a, b = (_revision(frame.row, request.GET.get(name, "")) for name in ("a", "b"))
    before, after = store.load(frame.row, a), store.load(frame.row, b)
    rows = compare.differences(before.plan, after.plan)
    said = [{f.key: f for f in loaded.analysis.findings} for loaded in (before, after)]
    return render(request, "plans/compared.html", {
        "frame": frame, "a": a, "b": b, "rows": rows,
        "gone": [f for key, f in said[0].items() if key not in said[1]],
        "come": [f for key, f in said[1].items() if key not in said[0]]})


def _revision(row: PlanHead, text: str) -> int:
    number = whole_number(text)
    if not 1 <= number <= row.head:
        raise Http404
    return number


@member_view
@require_POST
def restore(request: HttpRequest, membership: Membership, plan: int) -> HttpResponse:
    """Make a former revision the newest."""
    require_edit(membership)
    frame = frame_for(request, membership, plan, "handover")
    number = _revision(frame.row, request.POST.get("number", ""))
    try:
        store.restore(frame.row, membership.person, frame.made_on, number)
        messages.success(request, f"The plan is again as it was in revision {number}. Undo takes that back.")
    except PlanError as error:
        messages.error(request, " ".join(f.sentence for f in error.faults))
    except store.Conflict as conflict:
        messages.error(request, f"{conflict.by} has changed this plan in the meantime: look, and try again.")
    return redirect("history", membership.workshop.slug, plan)


@member_view
def archive(request: HttpRequest, membership: Membership) -> HttpResponse:
    """Plans that were put away, and when they are deleted for good."""
    rows: list[dict[str, Any]] = [
        {"plan": row, "goes": row.archived + ARCHIVE_KEEPS}
        for row in membership.workshop.plans.exclude(archived=None).select_related("summary").order_by("archived")]
    return render(request, "plans/archive.html", {"membership": membership, "rows": rows})


@member_view
@require_POST
def put_away(request: HttpRequest, membership: Membership, plan: int, back: bool) -> HttpResponse:
    """Put a plan into the archive, or take it out of there."""
    require_edit(membership)
    row = get_object_or_404(PlanHead.objects.select_related("summary"), pk=plan, workshop=membership.workshop)
    name = row.summary.name
    if (store.take_back if back else store.put_away)(row):
        note(Trail.What.RESTORED if back else Trail.What.ARCHIVED, membership.person, membership.workshop,
             f"plan {name}")
    messages.success(request, f"{name} is back on the bench." if back else
                     f"{name} is in the archive. In {ARCHIVE_KEEPS.days} days it is deleted for good.")
    return redirect("bench", membership.workshop.slug)


def delete_what_is_due() -> int:
    """Delete plans whose time in the archive is over; how many."""
    before = timezone.now() - ARCHIVE_KEEPS
    gone = 0
    for row in PlanHead.objects.filter(archived__lt=before).select_related("workshop", "summary"):
        if store.delete_for_good(row, before):
            note(Trail.What.DELETED, None, row.workshop, f"plan {row.summary.name}, {row.head} revisions")
            gone += 1
    return gone
