"""What a device keeps of a plan for where there is no network: the pages that are used at a machine."""

from collections.abc import Iterator

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.urls import reverse

from loadstar.core.parts.coupling import Coupling

from ..evidence import proving
from ..evidence.sheet import sheet_of
from ..frame.frame import Frame, frame_for
from ..records import work as records
from ..workshop.access import member_view
from ..workshop.models import Membership

MOST_PAGES = 400


@member_view
def kept_here(request: HttpRequest, membership: Membership, plan: int) -> HttpResponse:
    """Addresses, those used first at a machine first, and the revision that they are of."""
    frame = frame_for(request, membership, plan, "build")
    return JsonResponse({"mark": str(frame.loaded.number), "pages": list(dict.fromkeys(_pages(frame)))[:MOST_PAGES]})


def _pages(frame: Frame) -> Iterator[str]:
    """The work go by go, every reading, every circuit's fault, the survey's probe, connectors, wires, circuit cards."""
    yield frame.link()
    yield frame.link(view="list")
    yield from (frame.link(go=str(n)) for n in range(1, len(sheet_of(frame).goes) + 1))
    yield frame.link("prove", sel="")
    steps = proving.plan_of(frame, records.readings(frame.row))
    yield from (frame.link("prove", sel="", n=str(n)) for n in range(len(steps)))
    yield from (frame.link("prove", sel=p.id, view="find") for p in frame.plan.loads
                if frame.analysis.path(p.id).complete)
    yield frame.link("survey", sel="")
    yield from (frame.link("survey", sel="", view=view) for view in ("probe", "readings", "plugs"))
    yield frame.link("ends", sel="", view="connectors")
    yield from (frame.link("ends", sel=p.id, view="connectors") for p in frame.plan.of(Coupling))
    yield from (frame.link("circuits", sel=w.id) for w in frame.plan.wires)
    yield from (reverse("card", args=[frame.membership.workshop.slug, frame.row.pk, p.id]) for p in frame.plan.loads
                if frame.analysis.states)
    yield reverse("pocket", args=[frame.membership.workshop.slug])
