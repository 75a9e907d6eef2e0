"""Papers: the circuit card as PDF, the plan as a file."""

from django.http import Http404, HttpRequest, HttpResponse

from loadstar.core.plan import document

from ..stations.frame import frame_for
from ..workshop.access import member_view
from ..workshop.models import Membership
from .card import card_pdf


@member_view
def export_json(request: HttpRequest, membership: Membership, plan: int) -> HttpResponse:
    """The plan in the open format of docs/format."""
    frame = frame_for(request, membership, plan, "handover")
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
