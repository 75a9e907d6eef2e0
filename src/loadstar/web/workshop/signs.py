"""Signing in and out, with a second factor where one was set up; a new password by a one-time code."""

import hashlib
import secrets
import time
from datetime import timedelta
from typing import Any

from django.conf import settings
from django.contrib import messages
from django.contrib.auth import login, logout
from django.contrib.auth.signals import user_logged_in
from django.contrib.sessions.models import Session
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.debug import sensitive_post_parameters
from django.views.decorators.http import require_POST
from django_otp import devices_for_user, match_token

from .access import address_of
from .forms import CodeForm, NewPasswordForm, SignInForm
from .models import Person, ResetCode, SignIn, Trail
from .trail import note

BACKEND = "django.contrib.auth.backends.ModelBackend"
DEMO_PERSON = "Demo technician"
WAITING, WAITS_S = "waits_for_second_factor", 300
RESET_LASTS = timedelta(days=1)


def _next(request: HttpRequest) -> str:
    """Where somebody wanted to go who first had to sign in; only to an address here."""
    wanted = request.POST.get("next") or request.GET.get("next") or ""
    safe = url_has_allowed_host_and_scheme(wanted, allowed_hosts=None) and wanted.startswith("/")
    return wanted if safe else reverse("home")


@sensitive_post_parameters()
def sign_in(request: HttpRequest) -> HttpResponse:
    """Name and password; throttled. With a second factor the password alone opens nothing."""
    if request.user.is_authenticated:
        return redirect("home")
    form = SignInForm(request, request.POST or None)
    if request.method == "POST" and form.is_valid():
        person = form.get_user()
        if has_second_factor(person):
            request.session.cycle_key()
            request.session[WAITING] = {"person": person.pk, "until": time.time() + WAITS_S, "next": _next(request),
                                        "password": person.get_session_auth_hash()}
            return redirect("second-step")
        login(request, person)
        return redirect(_next(request))
    return render(request, "workshop/sign_in.html", {"form": form, "next": _next(request)},
                  status=422 if form.errors else 200)


def has_second_factor(person: Person) -> bool:
    """Whether a code is asked for beside the password."""
    return any(True for _ in devices_for_user(person, confirmed=True))


@sensitive_post_parameters()
def second_step(request: HttpRequest) -> HttpResponse:
    """The code of the second factor, or a recovery code; throttled by the devices themselves."""
    waiting = request.session.get(WAITING)
    person = Person.objects.filter(pk=waiting["person"]).first() if waiting else None
    if not waiting or waiting["until"] < time.time() or person is None or not _still_the_password(person, waiting):
        request.session.pop(WAITING, None)
        return redirect("sign-in")
    form = CodeForm(request, person, lambda code: match_token(person, code) is not None,
                    "That is not the code of this moment. After a wrong one the next has to wait a little.")
    if request.method == "POST" and form.is_valid():
        del request.session[WAITING]
        login(request, person, backend=BACKEND)
        return redirect(waiting["next"])
    return render(request, "workshop/second_step.html", {"form": form}, status=422 if form.errors else 200)


def _still_the_password(person: Person, waiting: dict[str, Any]) -> bool:
    """Whether the password that was typed in the first step is the person's still: it may have been set anew."""
    return secrets.compare_digest(str(waiting.get("password", "")), person.get_session_auth_hash())


@require_POST
def sign_out(request: HttpRequest) -> HttpResponse:
    """Forget who it is."""
    logout(request)
    return redirect("sign-in")


@require_POST
def enter_demo(request: HttpRequest) -> HttpResponse:
    """Into the demo workshop without a password; only in demo mode."""
    person = Person.objects.filter(username=DEMO_PERSON).first() if settings.DEMO else None
    if person is None:
        raise Http404
    login(request, person, backend=BACKEND)
    return redirect("home")


def new_reset_code(person: Person) -> str:
    """A code, told once, by which a person sets a new password within a day; earlier ones are worth nothing."""
    return one_time_code(person.reset_codes, RESET_LASTS)


def one_time_code(rows: Any, lasts: timedelta) -> str:
    """A code in the place of a person's earlier ones of its sort, told once and kept as its hash."""
    code = secrets.token_urlsafe(18)
    rows.all().delete()
    rows.create(digest=digest_of(code), expires=timezone.now() + lasts)
    return code


def digest_of(code: str) -> str:
    """What is kept of a code."""
    return hashlib.sha256(code.encode()).hexdigest()


@sensitive_post_parameters()
def reset(request: HttpRequest, code: str) -> HttpResponse:
    """A new password by a one-time code. It ends every session of the person; the second factor stays."""
    good = ResetCode.objects.select_related("person").filter(expires__gt=timezone.now())
    found = good.filter(digest=digest_of(code)).first()
    if found is None:
        raise Http404
    form = NewPasswordForm(found.person, request.POST or None)
    if request.method == "POST" and form.is_valid():
        form.save()
        found.person.reset_codes.all().delete()
        end_sessions(found.person)
        note(Trail.What.PASSWORD, found.person)
        messages.success(request, "The new password is set: sign in with it.")
        return redirect("sign-in")
    return render(request, "workshop/reset.html", {"form": form, "person": found.person},
                  status=422 if form.errors else 200)


def end_sessions(person: Person, but: str = "") -> int:
    """Sign a person out everywhere, but for one session; how many were ended."""
    keys = person.sign_ins.exclude(session=but).values_list("session", flat=True)
    return Session.objects.filter(session_key__in=list(keys)).delete()[0]


def _keep_sign_in(sender: object, request: HttpRequest, user: Person, **_: object) -> None:
    if request.session.session_key is None:
        request.session.save()
    SignIn.objects.create(person=user, session=request.session.session_key, address=address_of(request),
                          browser=str(request.META.get("HTTP_USER_AGENT", ""))[:200])
    note(Trail.What.SIGNED_IN, user, about=address_of(request))


user_logged_in.connect(_keep_sign_in, dispatch_uid="keep-sign-in")
