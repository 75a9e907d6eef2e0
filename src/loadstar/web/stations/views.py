"""The one view of every station: resolve the plan, take at most one edit, render the page."""

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from loadstar.core.doc.rules import HouseRules
from loadstar.core.errors import PlanError

from ..plans import store
from ..workshop.access import member_view, require_edit, require_owner
from ..workshop.models import Membership
from .fields import ModelForm
from .forms import OpenForm, edit_of, open_form
from .frame import Frame, frame_for
from .pages import PAGES, grouped
from .specs import RULES
from .units import Units

FORMS = ("survey", "loads", "circuits", "rules")


@member_view
def station(request: HttpRequest, membership: Membership, plan: int, station: str) -> HttpResponse:
    """GET shows the station; POST takes the form of one element."""
    frame = frame_for(request, membership, plan, station)
    if request.method == "POST":
        return _submit(frame)
    opened = open_form(frame.plan, frame.units, add=request.GET.get("add", ""),
                       element="rules" if station == "rules" else frame.select) if station in FORMS else None
    return page(frame, opened)


def page(frame: Frame, opened: OpenForm | None, status: int = 200) -> HttpResponse:
    """The station's page with an open form, if any."""
    if opened is not None and not frame.may_edit:
        opened = None
    context: dict[str, Any] = {"frame": frame, "opened": opened, **PAGES[frame.station](frame)}
    if opened is not None and opened.kind == "rules":
        context["groups"] = grouped(opened.form, frame.plan)
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
        before = {e.id for e in (*frame.plan.places, *frame.plan.runs, *frame.plan.parts)}
        frame.loaded = store.edit(frame.row, frame.membership.person, frame.made_on, edit_of(opened))
    except PlanError as error:
        opened.form.place_faults(error.faults)
        return page(frame, opened, 422)
    except store.Conflict as conflict:
        # The input stays in the form; sending it again applies it to what the other has made.
        frame.conflict, frame.loaded = conflict, store.load(frame.row)
        return page(frame, open_form(frame.plan, frame.units, add="" if element else kind, element=element or kind,
                                     data=post) or opened, 409)
    new = next((p.id for p in (*frame.loaded.plan.loads, *frame.loaded.plan.places, *frame.loaded.plan.parts)
                if p.id not in before), "")
    return redirect(frame.link(sel=element if element != "rules" else "") if element else frame.link(sel=new))


@member_view
def workshop_rules(request: HttpRequest, membership: Membership) -> HttpResponse:
    """The workshop's house rules, which new plans begin with; owners change them."""
    workshop = membership.workshop
    stored = workshop.rules.model_dump()
    form = ModelForm(request.POST or None, model=HouseRules, specs=RULES, units=Units.of(membership.person), initial=stored)
    if request.method == "POST":
        require_owner(membership)
        if form.is_valid():
            values = form.values() | {"least_area_mm2": float(form.values()["least_area_mm2"])}
            workshop.house_rules = HouseRules.model_validate({**stored, **values}).model_dump(mode="json")
            workshop.save(update_fields=["house_rules"])
            messages.success(request, "Kept. Plans begun from now on take these rules; those that exist keep theirs.")
            return redirect("workshop-rules", workshop.slug)
    return render(request, "workshop/rules.html", {"membership": membership, "form": form, "groups": grouped(form)},
                  status=422 if form.is_bound and form.errors else 200)
