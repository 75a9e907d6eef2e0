"""A member's telephone: how it gets here, what it has to be taught to trust, and signing it in by a code."""

from datetime import timedelta
from pathlib import Path

import segno
from django.conf import settings
from django.contrib.auth import login
from django.contrib.auth.decorators import login_required
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.utils.safestring import SafeString, mark_safe
from django.views.decorators.debug import sensitive_variables
from django.views.decorators.http import require_GET

from .models import Pairing, Person
from .signs import BACKEND, digest_of, one_time_code

LASTS = timedelta(minutes=2)


def square(address: str) -> SafeString:
    """An address as a square code."""
    code = segno.make(address, error="m", micro=False)
    return mark_safe(code.svg_inline(scale=6, border=3, dark="#000", light="#fff"))


@login_required
@sensitive_variables("code")
def telephone(request: HttpRequest) -> HttpResponse:
    """How a telephone of the same network comes here; asked for, a code that signs it in."""
    at = settings.LAN or f"{request.scheme}://{request.get_host()}"
    shown = {"at": at, "lan": settings.LAN, "square": square(at), "trust": bool(settings.ROOT_CERTIFICATE)}
    if request.method == "POST":
        code = new_code(request.user)  # type: ignore[arg-type]
        address = at + reverse("pair", args=[code])
        shown |= {"code": square(address), "address": address, "minutes": int(LASTS.total_seconds() // 60)}
    return render(request, "workshop/telephone.html", shown)


def new_code(person: Person) -> str:
    """A code that signs one telephone in, once, within two minutes; earlier ones are worth nothing."""
    return one_time_code(person.pairings, LASTS)


@sensitive_variables("code")
def pair(request: HttpRequest, code: str) -> HttpResponse:
    """What the code opens: whose it is, and after a press it is used up and they are signed in. A look alone uses
    nothing up: some programs look at every address."""
    found = Pairing.objects.select_related("person").filter(digest=digest_of(code), expires__gt=timezone.now()).first()
    if found is None:
        return render(request, "workshop/pair.html", {"person": None}, status=410)
    if request.method == "POST":
        used, _ = Pairing.objects.filter(pk=found.pk, digest=found.digest).delete()
        if not used:  # somebody else was quicker with the same code
            return render(request, "workshop/pair.html", {"person": None}, status=410)
        login(request, found.person, backend=BACKEND)
        return redirect("home")
    return render(request, "workshop/pair.html", {"person": found.person})


@require_GET
def root_certificate(request: HttpRequest) -> HttpResponse:
    """What a telephone is taught to trust: the root that this Loadstar made for itself."""
    if not settings.ROOT_CERTIFICATE:
        raise Http404
    content = Path(settings.ROOT_CERTIFICATE).read_bytes()
    return HttpResponse(content, content_type="application/x-x509-ca-cert", headers={
        "Content-Disposition": 'attachment; filename="loadstar-root.crt"'})
