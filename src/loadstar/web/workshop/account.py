"""The member's own page: how they like to read, password, second factor, where they are signed in."""

import base64
import secrets
from typing import Any

import segno
from django.contrib import messages
from django.contrib.auth import update_session_auth_hash
from django.contrib.auth.decorators import login_required
from django.contrib.sessions.models import Session
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.utils.safestring import mark_safe
from django.views.decorators.debug import sensitive_post_parameters
from django.views.decorators.http import require_POST
from django_otp.plugins.otp_static.models import StaticDevice
from django_otp.plugins.otp_totp.models import TOTPDevice

from .access import whole_number
from .forms import ChangePasswordForm, CodeForm, PasswordForm, PreferencesForm
from .models import Person, SignIn, Trail
from .signs import end_sessions, has_second_factor
from .trail import note

SIGN_INS_SHOWN, RECOVERY_CODES = 12, 8


@login_required
def preferences(request: HttpRequest) -> HttpResponse:
    """Units, look and keys of the person signed in; below them password, second factor and sign-ins."""
    form = PreferencesForm(request.POST or None, instance=request.user)
    if request.method == "POST" and form.is_valid():
        form.save()
        messages.success(request, "Kept.")
        return redirect("preferences")
    return _page(request, form=form)


def _page(request: HttpRequest, status: int = 200, **forms: Any) -> HttpResponse:
    person: Person = request.user  # type: ignore[assignment]
    recent = list(person.sign_ins.order_by("-pk")[:SIGN_INS_SHOWN])
    alive = set(Session.objects.filter(session_key__in=[s.session for s in recent], expire_date__gt=timezone.now())
                .values_list("session_key", flat=True))
    known = {(s.address, s.browser) for s in person.sign_ins.exclude(pk__in=[s.pk for s in recent[:1]])[:200]}
    rows = [{"sign_in": s, "alive": s.session in alive, "here": s.session == request.session.session_key,
             "new": n == 0 and len(recent) > 1 and (s.address, s.browser) not in known} for n, s in enumerate(recent)]
    shown = {"form": PreferencesForm(instance=request.user), "password": ChangePasswordForm(request), "rows": rows,
             "factor": has_second_factor(person), "away": PasswordForm(request)}
    return render(request, "workshop/preferences.html", {**shown, **forms}, status=status)


@login_required
@require_POST
@sensitive_post_parameters()
def password(request: HttpRequest) -> HttpResponse:
    """A new password, given the old one. Everywhere else the person is signed out."""
    form = ChangePasswordForm(request, request.POST)
    if not form.is_valid():
        return _page(request, 422, password=form)
    form.save()
    update_session_auth_hash(request, request.user)
    person: Person = request.user  # type: ignore[assignment]
    person.sign_ins.filter(pk=person.sign_ins.order_by("-pk").values_list("pk", flat=True).first() or 0).update(
        session=request.session.session_key)
    end_sessions(person, but=request.session.session_key or "")
    note(Trail.What.PASSWORD, person)
    messages.success(request, "The password is changed. Everywhere else you have been signed out.")
    return redirect("preferences")


@login_required
@require_POST
def end_session(request: HttpRequest) -> HttpResponse:
    """End one of the person's sessions, or all but this one."""
    person: Person = request.user  # type: ignore[assignment]
    if request.POST.get("all"):
        ended = end_sessions(person, but=request.session.session_key or "")
        messages.success(request, f"Sessions ended: {ended}.")
        return redirect("preferences")
    found = get_object_or_404(SignIn, pk=whole_number(request.POST.get("sign_in", "")), person=person)
    Session.objects.filter(session_key=found.session).delete()
    messages.success(request, "That session is ended.")
    return redirect("preferences")


@login_required
@sensitive_post_parameters()
def second_factor(request: HttpRequest) -> HttpResponse:
    """Set a second factor up: a key for an authenticator program, confirmed by its first code; then recovery codes."""
    person: Person = request.user  # type: ignore[assignment]
    if has_second_factor(person):
        return redirect("preferences")
    device, _ = TOTPDevice.objects.get_or_create(user=person, confirmed=False, defaults={"name": "authenticator"})
    form = CodeForm(request, person, device.verify_token,
                    "That is not the code of this moment: is the clock of the other device right?")
    if request.method == "POST" and form.is_valid():
        device.confirmed = True
        device.save()
        codes = _new_recovery_codes(person)
        note(Trail.What.FACTOR_ON, person)
        return render(request, "workshop/recovery_codes.html", {"codes": codes})
    picture = segno.make(device.config_url, error="m").svg_inline(scale=5, border=3, dark="#000", light="#fff")
    key = base64.b32encode(device.bin_key).decode()
    return render(request, "workshop/second_factor.html", {
        "form": form, "picture": mark_safe(picture),
        "key": " ".join(key[n:n + 4] for n in range(0, len(key), 4))}, status=422 if form.errors else 200)


def _new_recovery_codes(person: Person) -> list[str]:
    StaticDevice.objects.filter(user=person).delete()
    device = StaticDevice.objects.create(user=person, name="recovery", confirmed=True)
    codes = ["-".join((secrets.token_hex(3), secrets.token_hex(3))) for _ in range(RECOVERY_CODES)]
    for code in codes:
        device.token_set.create(token=code)
    return codes


@login_required
@require_POST
@sensitive_post_parameters()
def no_second_factor(request: HttpRequest) -> HttpResponse:
    """Take the second factor away, given the password."""
    person: Person = request.user  # type: ignore[assignment]
    form = PasswordForm(request, request.POST)
    if not form.is_valid():
        return _page(request, 422, away=form)
    TOTPDevice.objects.filter(user=person).delete()
    StaticDevice.objects.filter(user=person).delete()
    note(Trail.What.FACTOR_OFF, person)
    messages.success(request, "The second factor is taken away: your password alone signs you in.")
    return redirect("preferences")
