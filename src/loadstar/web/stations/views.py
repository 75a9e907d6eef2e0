"""The one view of every station: resolve the plan, take at most one edit, render the page."""


from django.core.exceptions import PermissionDenied
from django.db import IntegrityError, transaction
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST

from loadstar.core.errors import PlanError

from ..frame.forms import edit_of, open_form
from ..frame.frame import Frame, frame_for
from ..frame.registry import STATIONS
from ..frame.show import show
from ..frame.station import Act, Again, Station
from ..records import store
from ..records.models import Act as Taken
from ..workshop.access import ACT, ACT_ID, PERSON, member_view, require_edit
from ..workshop.models import Membership
from ..workshop.turns import taken_in_turn

REDIRECTED = 302
NOT_NOW = "You may not change this plan any more, or it is in the archive."


def _station(key: str) -> Station:
    if key not in STATIONS:
        raise Http404
    return STATIONS[key]


@member_view
def station(request: HttpRequest, membership: Membership, plan: int, station: str) -> HttpResponse:
    """GET shows the station; POST takes the form of one element."""
    here = _station(station)
    frame = frame_for(request, membership, plan, here.key, here.keeps)
    if request.method == "POST":
        return _submit(frame, here)
    opened = open_form(frame.plan, frame.units, add=request.GET.get("add", ""), usual=request.GET.get("usual", ""),
                       element="rules" if here.key == "rules" else frame.select) if here.opens_forms else None
    return show(frame, here, opened)


@member_view
@require_POST
def act(request: HttpRequest, membership: Membership, plan: int, station: str, what: str) -> HttpResponse:
    """One of a station's own forms. A form that will not do comes back as it was, with a sentence where it is wrong."""
    here = _station(station)
    act_id = request.headers.get(ACT, "")
    frame = frame_for(request, membership, plan, here.key, here.keeps)
    if not frame.may_edit:  # a reader, or in the archive: no page shows the form
        if act_id:
            return JsonResponse({"act": act_id, "taken": False, "said": NOT_NOW, "page": ""}, status=403)
        raise PermissionDenied
    wanted = here.acts.get(what)
    if wanted is None:
        raise Http404
    if here.before_act:
        here.before_act(frame, what)
    if act_id:
        return _once(frame, here, wanted, act_id)
    return _done(frame, here, wanted)


def _once(frame: Frame, here: Station, wanted: Act, act_id: str) -> HttpResponse:
    """An act that a browser keeps until it is answered for: taken once, whatever becomes of the answer; one that is
    refused leaves nothing. Answered with its id, so that nothing else is taken for an answer."""
    if not ACT_ID.fullmatch(act_id):
        raise Http404
    person = frame.membership.person
    if frame.request.headers.get(PERSON) != str(person.pk):
        return JsonResponse({"act": "", "said": "It is somebody else's."}, status=409)
    answer = _taken(frame, here, wanted, act_id)
    if answer is None:
        return JsonResponse({"act": act_id, "taken": True, "go": frame.link(sel="")})
    if answer.status_code == REDIRECTED:
        return JsonResponse({"act": act_id, "taken": True, "go": answer["Location"]})
    said = frame.notice or frame.extra.get("told") or " ".join(frame.extra.get("faults", ())) or "That cannot be done."
    return JsonResponse({"act": act_id, "taken": False, "said": str(said), "page": answer.content.decode()},
                        status=answer.status_code)


@taken_in_turn
def _taken(frame: Frame, here: Station, wanted: Act, act_id: str) -> HttpResponse | None:
    """What came of an act, which is there with its id or not at all; None where it had been taken before."""
    try:
        with transaction.atomic():
            Taken.objects.create(id=act_id, plan=frame.row, by=frame.membership.person)
            answer = _done(frame, here, wanted)
            if answer.status_code != REDIRECTED:
                transaction.set_rollback(True)
            return answer
    except IntegrityError:
        if Taken.objects.filter(pk=act_id, plan=frame.row).exists():
            return None
        raise


def _done(frame: Frame, here: Station, wanted: Act) -> HttpResponse:
    """One act, and where it leads; or the page again, with what is wrong."""
    try:
        return redirect(wanted(frame))
    except Again as again:
        frame.extra |= again.extra
        return show(frame, here, None, again.status)
    except PlanError as error:
        frame.extra |= {"faults": [f.sentence for f in error.faults], "typed": frame.request.POST.dict()}
        frame.notice = " ".join(f.sentence for f in error.faults[:6])
        return show(frame, here, None, 422)
    except store.Conflict as conflict:
        frame.conflict, frame.loaded = conflict, store.load(frame.row)
        frame.extra |= {"typed": frame.request.POST.dict()}
        return show(frame, here, None, 409)


def _submit(frame: Frame, here: Station) -> HttpResponse:
    require_edit(frame.membership)
    post = frame.request.POST
    kind, element = post.get("for_kind", ""), post.get("id", "")
    opened = open_form(frame.plan, frame.units, add="" if element or kind in ("machine", "rules") else kind,
                       element=element or kind, usual=post.get("usual", ""), data=post)
    if opened is None or opened.kind != kind:
        if element:
            frame.notice = f"{element} is no longer in this plan: somebody took it out. Nothing has been changed."
            return show(frame, here, None, 409)
        raise Http404
    if not opened.form.is_valid():
        return show(frame, here, opened, 422)
    try:
        before = {e.id for e in frame.plan.elements()}
        frame.loaded = store.edit(frame.row, frame.membership.person, frame.made_on, edit_of(opened))
    except PlanError as error:
        opened.form.place_faults(error.faults)
        return show(frame, here, opened, 422)
    except store.Conflict as conflict:
        # The input stays in the form; sending it again applies it to what the other has made.
        frame.conflict, frame.loaded = conflict, store.load(frame.row)
        return show(frame, here,
                    open_form(frame.plan, frame.units, add="" if element else kind, element=element or kind,
                              usual=post.get("usual", ""), data=post) or opened, 409)
    new = next((p.id for p in (*frame.plan.loads, *frame.plan.places, *frame.plan.parts) if p.id not in before), "")
    return redirect(frame.link(sel=element if element != "rules" else "") if element else frame.link(sel=new))
