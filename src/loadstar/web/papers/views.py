"""Papers: circuit cards and pin maps as PDF; plan and survey as files."""

from django.http import Http404, HttpRequest, HttpResponse

from loadstar.core.plan import document
from loadstar.exchange import survey as exchange

from ..frame.frame import frame_for
from ..workshop.access import member_view
from ..workshop.models import Membership, Trail
from ..workshop.trail import note
from .card import card_pdf
from .pinmaps import pin_maps_pdf


@member_view
def export_json(request: HttpRequest, membership: Membership, plan: int) -> HttpResponse:
    """The plan in the open format of docs/format."""
    frame = frame_for(request, membership, plan, "handover")
    note(Trail.What.EXPORTED, membership.person, membership.workshop, f"plan {frame.plan.name}, revision "
         f"{frame.loaded.number}")
    response = HttpResponse(document.to_json(frame.plan), content_type="application/json")
    response["Content-Disposition"] = f'attachment; filename="loadstar-plan-{frame.row.pk}-r{frame.loaded.number}.json"'
    return response


@member_view
def card(request: HttpRequest, membership: Membership, plan: int, load: str) -> HttpResponse:
    """The circuit card of one accessory."""
    frame = frame_for(request, membership, plan, "handover")
    if load not in {one.id for one in frame.plan.loads} or not frame.analysis.states:
        raise Http404
    response = HttpResponse(card_pdf(frame, load), content_type="application/pdf")
    response["Content-Disposition"] = f'inline; filename="circuit-card-{load}-r{frame.loaded.number}.pdf"'
    return response


@member_view
def survey_json(request: HttpRequest, membership: Membership, plan: int) -> HttpResponse:
    """The survey in the open format of docs/format."""
    frame = frame_for(request, membership, plan, "survey")
    note(Trail.What.EXPORTED, membership.person, membership.workshop, f"survey of {frame.plan.name}")
    return _file(exchange.to_json(frame.plan), "application/json", f"loadstar-survey-{frame.row.pk}.json")


@member_view
def survey_csv(request: HttpRequest, membership: Membership, plan: int) -> HttpResponse:
    """Every pin as a line of a table."""
    frame = frame_for(request, membership, plan, "survey")
    note(Trail.What.EXPORTED, membership.person, membership.workshop, f"survey of {frame.plan.name}")
    return _file("\ufeff" + exchange.to_csv(frame.plan), "text/csv; charset=utf-8", f"loadstar-pins-{frame.row.pk}.csv")


@member_view
def pin_maps(request: HttpRequest, membership: Membership, plan: int) -> HttpResponse:
    """The pin maps of every connector as cards, with wire labels."""
    frame = frame_for(request, membership, plan, "survey")
    if not frame.plan.plugs:
        raise Http404
    response = HttpResponse(pin_maps_pdf(frame), content_type="application/pdf")
    response["Content-Disposition"] = f'inline; filename="pin-maps-r{frame.loaded.number}.pdf"'
    return response


def _file(text: str, kind: str, name: str) -> HttpResponse:
    response = HttpResponse(text, content_type=kind)
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response
