"""Where one comes in: setting up, the workshops one belongs to, joining one more."""

from django.conf import settings
from django.contrib.auth import login
from django.contrib.auth.decorators import login_required
from django.contrib.auth.hashers import UNUSABLE_PASSWORD_PREFIX as LOCKED
from django.core.exceptions import PermissionDenied
from django.db import transaction
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.text import slugify
from django.views.decorators.debug import sensitive_post_parameters

from .forms import NewPersonForm, SetupForm, WorkshopForm
from .models import Invitation, Membership, Person, Trail, Workshop
from .signs import BACKEND
from .trail import note


def home(request: HttpRequest) -> HttpResponse:
    """To the workshop, to sign in, or to set up what is still empty."""
    if request.user.is_authenticated:
        mine = list(request.user.memberships.select_related("workshop").order_by("pk")[:2])
        if len(mine) == 1:
            return redirect("bench", mine[0].workshop.slug)
        if mine:
            return redirect("workshops")
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
            for left in Workshop.objects.filter(memberships__person__password__startswith=LOCKED).distinct():
                Membership.objects.create(person=person, workshop=left, role=Membership.Role.OWNER)
        settings.SETUP_CODE_FILE.unlink(missing_ok=True)
        login(request, person, backend=BACKEND)
        return redirect("bench", workshop.slug)
    return render(request, "workshop/setup.html", {"form": form}, status=422 if form.errors else 200)


@login_required
def workshops(request: HttpRequest) -> HttpResponse:
    """The workshops one belongs to; who owns one may begin another on the same server."""
    mine = list(request.user.memberships.select_related("workshop").order_by("workshop__name"))
    may_begin = any(m.role == Membership.Role.OWNER for m in mine)
    form = WorkshopForm(request.POST or None)
    if request.method == "POST":
        if not may_begin:
            raise PermissionDenied
        if form.is_valid():
            made = make_workshop(form.cleaned_data["name"])
            Membership.objects.create(person=request.user, workshop=made, role=Membership.Role.OWNER)
            return redirect("bench", made.slug)
    return render(request, "workshop/workshops.html", {"mine": mine, "may_begin": may_begin, "form": form},
                  status=422 if form.errors else 200)


def nobody_yet() -> bool:
    """Whether nobody can sign in yet: the demonstration's person, whose password is published, is locked before."""
    return not Person.objects.exclude(password__startswith=LOCKED).exists()


def make_workshop(name: str) -> Workshop:
    """A workshop with an address made from its name."""
    base = slugify(name)[:50] or "workshop"
    taken = set(Workshop.objects.filter(slug__startswith=base).values_list("slug", flat=True))
    slug = next(s for s in (base, *(f"{base}-{n}" for n in range(2, 10_000))) if s not in taken)
    return Workshop.objects.create(name=name, slug=slug)


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
            note(Trail.What.JOINED, person, invitation.workshop, f"as {invitation.get_role_display()}")
        if not known:
            login(request, person, backend=BACKEND)
        return redirect("bench", invitation.workshop.slug)
    return render(request, "workshop/join.html", {"form": form, "invitation": invitation, "known": known},
                  status=422 if form.is_bound and form.errors and not known else 200)
