"""The one view of every station: resolve the plan, take at most one edit, render the page."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from loadstar.core.plan.errors import PlanError

from ..plans import store
from ..workshop.access import member_view, require_edit
from ..workshop.models import Membership
from .forms import OpenForm, edit_of, open_form
from .frame import Frame, frame_for
from .pages import PAGES


@member_view
def station(request: HttpRequest, membership: Membership, plan: int, station: str) -> HttpResponse:
    """GET shows the station; POST takes the form of one element."""
    frame = frame_for(request, membership, plan, station)
    if request.method == "POST":
        return _submit(frame)
    opened = open_form(frame.plan, frame.units, add=request.GET.get("add", ""),
                       element=frame.select) if station in ("survey", "loads", "circuits") else None
    return page(frame, opened)


def page(frame: Frame, opened: OpenForm | None, status: int = 200) -> HttpResponse:
    """The station's page with an open form, if any."""
    if opened is not None and not frame.may_edit:
        opened = None
    context: dict[str, Any] = {"frame": frame, "opened": opened, **PAGES[frame.station](frame)}
    return render(frame.request, f"stations/{frame.station}.html", context, status=status)


def _submit(frame: Frame) -> HttpResponse:
    require_edit(frame.membership)
    post = frame.request.POST
    kind, element = post.get("form", ""), post.get("id", "")
    opened = open_form(frame.plan, frame.units, add="" if element or kind in ("machine", "rules") else kind,
                       element=element or kind, data=post)
    if opened is None or opened.kind != kind:
        if element:
            frame.notice = f"{element} is no longer in this plan: somebody took it out. Nothing has been changed."
            return page(frame, None, 409)
        raise Http404
    if not opened.form.is_valid():
        return page(frame, opened, 422)
    try:
        base = int(post.get("base", ""))
        before = {e.id for e in (*frame.plan.places, *frame.plan.runs, *frame.plan.parts)}
        frame.loaded = store.edit(frame.row, frame.membership.person, base, edit_of(opened))
    except ValueError as error:
        if isinstance(error, PlanError):
            opened.form.place_faults(error.faults)
            return page(frame, opened, 422)
        raise Http404 from error
    except store.Conflict as conflict:
        # The input stays in the form; sending it again applies it to what the other has made.
        frame.conflict, frame.loaded = conflict, store.load(frame.row)
        return page(frame, open_form(frame.plan, frame.units, add="" if element else kind, element=element or kind,
                                     data=post) or opened, 409)
    new = next((p.id for p in (*frame.loaded.plan.loads, *frame.loaded.plan.places, *frame.loaded.plan.parts)
                if p.id not in before), "")
    return redirect(frame.link(sel=element or new))
