"""Who may see what: views of a workshop get the member's own membership or answer 404."""

import functools
from collections.abc import Callable
from typing import Any

from django.conf import settings
from django.contrib.auth.decorators import login_required
from django.core.exceptions import PermissionDenied
from django.http import Http404, HttpRequest, HttpResponse

from .models import Membership


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


def member_view(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
    """Replace the `workshop` slug by the signed-in person's membership; 404 when they have none there."""
    @login_required
    @functools.wraps(view)
    def wrapped(request: HttpRequest, workshop: str, **rest: Any) -> HttpResponse:
        membership = Membership.objects.select_related("workshop", "person").filter(
            person_id=request.user.pk, workshop__slug=workshop).first()
        if membership is None:
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
