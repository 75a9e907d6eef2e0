"""The bench, opening and importing plans, edits from buttons, undo and redo, workings, finding things."""

from dataclasses import dataclass
from itertools import groupby

from django.contrib import messages
from django.core.files.uploadedfile import UploadedFile
from django.core.paginator import Paginator
from django.db.models import OuterRef, Subquery
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.http import url_has_allowed_host_and_scheme
from django.utils.safestring import mark_safe
from django.views.decorators.http import require_POST, require_safe

from loadstar.core.edits import parse_posted
from loadstar.core.errors import PlanError
from loadstar.core.figures.registry import NoFigure
from loadstar.core.figures.registry import working as explain
from loadstar.core.plan import document
from loadstar.core.plan.outside import read_json
from loadstar.draw.elevation import elevation
from loadstar.exchange import machine_file

from ..frame.frame import Frame, frame_for
from ..frame.registry import STATIONS, of_kind
from ..plans.models import PlanSummary, Revision
from ..records import store, undo
from ..records.beside import ZIP, plan_file
from ..room import left
from ..workshop.access import member_view, require_edit
from ..workshop.models import Membership
from .finding import found_in

PICTURE = (120.0, 76.0)
A_PAGE = 15  # machines
MOST_HITS = 40  # of what is looked for in a plan, on a page
EDIT_BYTES, EDIT_DEPTH = 1024 * 1024, 16


@require_safe
@member_view
def bench(request: HttpRequest, membership: Membership) -> HttpResponse:
    """The workshop's machines and plans at a glance."""
    return render(request, "plans/bench.html", {
        **_machines(request, membership), "room": left(),
        "offer_tour": membership.may_edit and not membership.person.tour})


@dataclass(frozen=True)
class Machine:
    """A machine on the bench: its name, kind and picture, and its plans."""

    name: str
    kind: str
    picture: str
    plans: list[PlanSummary]


def _machines(request: HttpRequest, membership: Membership) -> dict[str, object]:
    """A page of machines with their plans, each with its last change and who made it."""
    plans = PlanSummary.objects.filter(workshop=membership.workshop, plan__archived=None)
    page = Paginator(plans.values_list("machine", flat=True).distinct().order_by("machine"), A_PAGE).get_page(
        request.GET.get("page"))
    last = Revision.objects.filter(plan=OuterRef("pk"), number=OuterRef("plan__head"))
    rows = plans.filter(machine__in=list(page)).annotate(
        last_label=Subquery(last.values("label")), last_name=Subquery(last.values("author__first_name")),
        last_user=Subquery(last.values("author__username"))).order_by("machine", "name", "pk")
    made = []
    for number, (name, every) in enumerate(groupby(rows, key=lambda r: r.machine)):
        plans = list(every)
        kind = plans[0].machine_kind
        made.append(Machine(name, kind, mark_safe(elevation(kind, *PICTURE, f"machine{number}")), plans))
    return {"membership": membership, "machines": made, "page": page}


@member_view
@require_POST
def import_plan(request: HttpRequest, membership: Membership) -> HttpResponse:
    """A plan from a file; a sentence per fault, and nothing changed, when it is none."""
    require_edit(membership)
    file = request.FILES.get("file")
    faults: list[str] = []
    if file is None:
        faults = ["Choose a plan file first."]
    elif too_large := _too_large(file):
        faults = [too_large]
    else:
        try:
            return redirect(plan_file(membership, file.read()))
        except PlanError as error:
            faults = [fault.sentence for fault in error.faults]
    return render(request, "plans/bench.html", {**_machines(request, membership), "faults": faults}, status=422)


def _too_large(file: UploadedFile) -> str:
    """Why a file is not read: a machine's file may be larger than a plan; "" where it is read."""
    begins = file.read(len(ZIP))
    file.seek(0)
    what, most = (("machine's files", machine_file.MOST_BYTES) if begins == ZIP else ("plans", document.MAX_BYTES))
    size = file.size or 0
    return f"The file has {size / 1e6:.0f} MB; Loadstar reads {what} of up to {most // 1024**2} MB." * (size > most)


@member_view
def open_plan(request: HttpRequest, membership: Membership, plan: int) -> HttpResponse:
    """To the station where work waits: Survey until there is a battery, else Loads."""
    frame = frame_for(request, membership, plan, "survey")
    return redirect(frame.link("loads" if frame.plan.supply else "survey", state=""))


def _back(frame: Frame) -> str:
    return _own(frame, frame.request.POST.get("next", ""))


def _next(frame: Frame) -> str:
    """Where a cure leads back to: the page that its list is shown on."""
    return _own(frame, frame.request.GET.get("next", frame.request.get_full_path()))


def _own(frame: Frame, wanted: str) -> str:
    """An address of this plan, or its Loads where another was asked for."""
    own = frame.url("plan")
    safe = url_has_allowed_host_and_scheme(wanted, allowed_hosts=None) and wanted.startswith(own)
    return wanted if safe else frame.link("loads")


@member_view
@require_POST
def edit(request: HttpRequest, membership: Membership, plan: int) -> HttpResponse:
    """One edit given as data: a finding's cure, a copy, a removal."""
    require_edit(membership)
    frame = frame_for(request, membership, plan, "loads")
    try:
        asked = read_json(request.POST.get("edit", ""), thing="change", most_bytes=EDIT_BYTES, most_depth=EDIT_DEPTH)
        store.edit(frame.row, membership.person, frame.made_on, parse_posted(asked))
    except PlanError as error:
        messages.error(request, " ".join(f.sentence for f in error.faults))
    except store.Conflict as conflict:
        messages.error(request, _conflict_text(conflict))
    return redirect(_back(frame))


@member_view
@require_POST
def take_back_or_put_back(request: HttpRequest, membership: Membership, plan: int, again: bool) -> HttpResponse:
    """Take back the member's latest edit, or put it back."""
    require_edit(membership)
    frame = frame_for(request, membership, plan, "loads")
    try:
        (undo.redo if again else undo.undo)(frame.row, membership.person, frame.row.head)
    except PlanError as error:
        messages.error(request, " ".join(f.sentence for f in error.faults))
    except store.Conflict as conflict:
        messages.error(request, _conflict_text(conflict))
    return redirect(_back(frame))


def _conflict_text(conflict: store.Conflict) -> str:
    what = "; ".join(f"{c.name} ({c.key}) {c.how}" for c in conflict.changes[:6])
    return (f"{conflict.by} has changed this plan in the meantime: {what}. Nothing of yours was applied; look, and try "
            "again.")


@member_view
def findings(request: HttpRequest, membership: Membership, plan: int) -> HttpResponse:
    """Every finding with the cures that were tried on the plan; the drawer of the other pages fetches its list here."""
    frame = frame_for(request, membership, plan, "loads")
    if frame.loaded.known.rests_on:
        frame.loaded.known.outlook()
    frame.tries = True
    return render(request, "plans/findings.html",
                  {"frame": frame, "whole_findings": True, "back": _next(frame)})


@member_view
def bands(request: HttpRequest, membership: Membership, plan: int) -> HttpResponse:
    """The headline with between what its figures lie: every other page shows it without, and fetches it here."""
    back = STATIONS.get(request.GET.get("from", "loads"))
    if back is None:
        raise Http404
    frame = frame_for(request, membership, plan, back.key)
    if frame.loaded.known.rests_on:
        frame.loaded.known.outlook()
    return render(request, "frame/_headline.html", {"frame": frame})


@member_view
def working(request: HttpRequest, membership: Membership, plan: int) -> HttpResponse:
    """The working of one figure."""
    back = STATIONS.get(request.GET.get("from", "loads"))
    if back is None:
        raise Http404
    frame = frame_for(request, membership, plan, back.key)
    try:
        found = explain(frame.analysis, request.GET.get("key", ""))
    except NoFigure as error:
        raise Http404 from error
    return render(request, "plans/working.html", {"frame": frame, "working": found})


@member_view
def find(request: HttpRequest, membership: Membership, plan: int) -> HttpResponse:
    """Anything in the plan by its id, or by words that it is known by."""
    frame = frame_for(request, membership, plan, "loads")
    asked = request.GET.get("q", "")
    hits = found_in(frame.analysis, asked)
    return render(request, "plans/find.html", {
        "frame": frame, "found": [(h, frame.link(of_kind(h.kind), sel=h.id)) for h in hits[:MOST_HITS]],
        "more": max(len(hits) - MOST_HITS, 0), "q": asked})


