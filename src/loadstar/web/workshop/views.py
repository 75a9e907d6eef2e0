"""Setting up, signing in and out, members, invitations, preferences."""

from django.conf import settings
from django.contrib import messages
from django.contrib.auth import login, logout
from django.contrib.auth.decorators import login_required
from django.db import transaction
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.http import url_has_allowed_host_and_scheme
from django.utils.text import slugify
from django.views.decorators.debug import sensitive_post_parameters
from django.views.decorators.http import require_POST

from .access import member_view, require_owner
from .forms import InviteForm, NewPersonForm, PreferencesForm, SetupForm, SignInForm
from .models import Invitation, Membership, Person, Workshop

BACKEND = "django.contrib.auth.backends.ModelBackend"
DEMO_PERSON = "Demo technician"


def home(request: HttpRequest) -> HttpResponse:
    """To the workshop, to sign in, or to set up what is still empty."""
    if request.user.is_authenticated:
        membership = request.user.memberships.select_related("workshop").order_by("pk").first()
        if membership:
            return redirect("bench", membership.workshop.slug)
        return render(request, "error.html", {"title": "No workshop", "text": "You belong to no workshop: ask an owner "
                                              "for an invitation."}, status=403)
    if nobody_yet():
        return redirect("setup")
    return redirect("sign-in")


@sensitive_post_parameters()
def setup(request: HttpRequest) -> HttpResponse:
    """Make the first workshop and its owner; only while there is nobody yet, and with the terminal's code."""
    if not nobody_yet():
        return redirect("home")
    form = SetupForm(request, request.POST or None)
    if request.method == "POST" and form.is_valid():
        with transaction.atomic():
            person = form.make()
            workshop = make_workshop(form.cleaned_data["workshop"])
            Membership.objects.create(person=person, workshop=workshop, role=Membership.Role.OWNER)
            for left in Workshop.objects.filter(memberships__person__username=DEMO_PERSON):
                Membership.objects.create(person=person, workshop=left, role=Membership.Role.OWNER)
        settings.SETUP_CODE_FILE.unlink(missing_ok=True)
        login(request, person, backend=BACKEND)
        return redirect("bench", workshop.slug)
    return render(request, "workshop/setup.html", {"form": form}, status=422 if form.errors else 200)


def nobody_yet() -> bool:
    """Whether no member has been set up: the demonstration's person, whose password is published, is none."""
    return not Person.objects.exclude(username=DEMO_PERSON).exists() and not settings.DEMO


def make_workshop(name: str) -> Workshop:
    """A workshop with an address made from its name."""
    base = slugify(name)[:50] or "workshop"
    taken = set(Workshop.objects.filter(slug__startswith=base).values_list("slug", flat=True))
    slug = next(s for s in (base, *(f"{base}-{n}" for n in range(2, 10_000))) if s not in taken)
    return Workshop.objects.create(name=name, slug=slug)


def _next(request: HttpRequest) -> str:
    """Where somebody wanted to go who first had to sign in; only to an address here."""
    wanted = request.POST.get("next") or request.GET.get("next") or ""
    safe = url_has_allowed_host_and_scheme(wanted, allowed_hosts=None) and wanted.startswith("/")
    return wanted if safe else reverse("home")


@sensitive_post_parameters()
def sign_in(request: HttpRequest) -> HttpResponse:
    """Name and password; throttled."""
    if request.user.is_authenticated:
        return redirect("home")
    form = SignInForm(request, request.POST or None)
    if request.method == "POST" and form.is_valid():
        login(request, form.get_user())
        return redirect(_next(request))
    return render(request, "workshop/sign_in.html", {"form": form, "next": _next(request)},
                  status=422 if form.errors else 200)


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


@member_view
def members(request: HttpRequest, membership: Membership) -> HttpResponse:
    """Who belongs to the workshop; owners invite."""
    form = InviteForm(request.POST or None)
    if request.method == "POST":
        require_owner(membership)
        if form.is_valid():
            made = Invitation.objects.create(workshop=membership.workshop, role=form.cleaned_data["role"],
                                             made_by=membership.person)
            address = request.build_absolute_uri(reverse("join", args=[made.token]))
            messages.success(request, f"Give this address to the new {made.get_role_display()}; it works once, for "
                                      f"seven days: {address}")
            return redirect("members", membership.workshop.slug)
    everybody = membership.workshop.memberships.select_related("person").order_by("pk")
    return render(request, "workshop/members.html", {"membership": membership, "everybody": everybody, "form": form})


@sensitive_post_parameters()
def join(request: HttpRequest, token: str) -> HttpResponse:
    """Take up an invitation, as a new person or as the one signed in."""
    invitation = Invitation.objects.select_related("workshop").filter(token=token).first()
    if invitation is None or not invitation.open:
        raise Http404
    known = request.user if request.user.is_authenticated else None
    form = NewPersonForm(request.POST or None)
    if request.method == "POST" and (known or form.is_valid()):
        with transaction.atomic():
            # Locked and asked again, so that an invitation opened twice is taken up once.
            invitation = Invitation.objects.select_for_update().select_related("workshop").get(pk=invitation.pk)
            if not invitation.open:
                raise Http404
            person = known or form.make()
            Membership.objects.get_or_create(person=person, workshop=invitation.workshop,
                                             defaults={"role": invitation.role})
            invitation.taken_by = person
            invitation.save(update_fields=["taken_by"])
        if not known:
            login(request, person, backend=BACKEND)
        return redirect("bench", invitation.workshop.slug)
    return render(request, "workshop/join.html", {"form": form, "invitation": invitation, "known": known},
                  status=422 if form.is_bound and form.errors and not known else 200)


@login_required
def preferences(request: HttpRequest) -> HttpResponse:
    """Units, look and keys of the person signed in."""
    form = PreferencesForm(request.POST or None, instance=request.user)
    if request.method == "POST" and form.is_valid():
        form.save()
        messages.success(request, "Kept.")
        return redirect("preferences")
    return render(request, "workshop/preferences.html", {"form": form})
