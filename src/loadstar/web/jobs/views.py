"""What somebody sees who waits: how far it is, by the page; then the thing itself, or why there is none."""

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from ..workshop.access import member_view
from ..workshop.models import Membership
from . import work
from .models import Job

STATUS = {Job.State.REFUSED: 422, Job.State.FAILED: 503}


@member_view
def job(request: HttpRequest, membership: Membership, job: str) -> HttpResponse:
    """A job of this member, at an address of its own."""
    found = Job.objects.defer("given").filter(pk=job, workshop=membership.workshop, person=membership.person).first()
    if found is None:
        raise Http404
    return answer(request, membership, found, 0.0)


def answer(request: HttpRequest, membership: Membership, job: Job, wait_s: float = work.WAIT_S,
           attached: bool = False) -> HttpResponse:
    """What came of a job, if it ends within a moment; else the page that says how far it is and looks again by
    itself."""
    found = work.awaited(job, wait_s)
    if found.state == Job.State.DONE:
        return redirect(found.link) if found.link else _file(found, attached)
    parts = list(found.parts.defer("result").order_by("number"))
    laid = sum(part.pages for part in parts)
    return render(request, "jobs/job.html", {
        "membership": membership, "job": found, "parts": parts, "laid": laid, "of": max(found.pages, laid),
        "again": _again(request), "back": found.asked.get("back", "")}, status=STATUS.get(found.state, 200))


def _again(request: HttpRequest) -> str:
    """This address, marked as one that was asked before."""
    query = request.GET.copy()
    query["again"] = "1"
    return f"{request.path}?{query.urlencode()}"


def _file(job: Job, attached: bool) -> HttpResponse:
    response = HttpResponse(bytes(job.result or b""), content_type=job.content_type)
    response["Content-Disposition"] = f'{"attachment" if attached else "inline"}; filename="{job.name}"'
    return response
