"""Who may see what: views of a workshop get the member's own membership or answer 404."""

import functools
import re
from collections.abc import Callable
from typing import Any

from django.conf import settings
from django.contrib.auth.decorators import login_required
from django.core.exceptions import PermissionDenied
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse

from .models import FormerMember, Membership, RefusedAct

ACT, PERSON = "X-Loadstar-Act", "X-Loadstar-Person"  # of what a browser keeps until it is answered for
ACT_ID = re.compile(r"[0-9a-f]{16,40}")
MOST_REFUSED, MOST_SAID = 2000, 2000  # of a workshop; letters of one
UNSAID = ("csrfmiddlewaretoken", "token", "base", "next")


def whole_number(text: str) -> int:
    """A number that a page sends for itself; a 404 when it is none, since no page sends that."""
    if not (text.isascii() and text.isdigit() and len(text) < 19):
        raise Http404
    return int(text)


def address_of(request: HttpRequest) -> str:
    """Where a request comes from: as the proxy says, where there is one whose word is taken (`LOADSTAR_PROXIES`)."""
    direct = str(request.META.get("REMOTE_ADDR", ""))
    told = str(request.META.get("HTTP_X_FORWARDED_FOR", "")).rsplit(",", 1)[-1].strip()
    return told[:45] if told and direct in settings.PROXIES else direct


def refused(request: HttpRequest, workshop: str) -> HttpResponse | None:
    """What to tell a browser that sends what somebody pressed before they were taken out of a workshop: it is not
    taken, and kept for its owners to see. None where they never belonged to it: for them it is not there."""
    former = FormerMember.objects.select_related("workshop", "person").filter(
        person_id=request.user.pk, workshop__slug=workshop).first()
    act = request.headers.get(ACT, "")
    if former is None or not ACT_ID.fullmatch(act) or request.headers.get(PERSON) != str(request.user.pk):
        return None
    if former.workshop.refused_acts.count() < MOST_REFUSED:
        said = "; ".join(f"{name}: {value}" for name, value in request.POST.items() if name not in UNSAID and value)
        RefusedAct.objects.get_or_create(act=act, defaults={
            "workshop": former.workshop, "name": former.person.shown_name, "where": request.path[:200],
            "said": said[:MOST_SAID]})
    told = f"You no longer belong to {former.workshop.name}. Its owners see what you sent."
    return JsonResponse({"act": act, "taken": False, "said": told, "page": ""}, status=403)


def member_view(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
    """Replace the `workshop` slug by the signed-in person's membership; 404 when they have none there."""
    @login_required
    @functools.wraps(view)
    def wrapped(request: HttpRequest, workshop: str, **rest: Any) -> HttpResponse:
        membership = Membership.objects.select_related("workshop", "person").filter(
            person_id=request.user.pk, workshop__slug=workshop).first()
        if membership is None:
            if request.method == "POST" and request.headers.get(ACT) and (told := refused(request, workshop)):
                return told
            raise Http404
        membership.person = request.user
        return view(request, membership, **rest)
    return wrapped


def require_edit(membership: Membership) -> None:
    """Refuse readers."""
    if not membership.may_edit:
        raise PermissionDenied


def require_owner(membership: Membership) -> None:
    """Refuse all but owners."""
    if membership.role != Membership.Role.OWNER:
        raise PermissionDenied
