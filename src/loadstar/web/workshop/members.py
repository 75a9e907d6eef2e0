"""Who belongs to a workshop: roles, invitations, leaving, new passwords; and the trail of who did what."""

from django.contrib import messages
from django.core.paginator import Paginator
from django.db import transaction
from django.db.models import Q
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST

from .access import member_view, require_owner, whole_number
from .forms import InviteForm
from .models import FormerMember, Invitation, Membership, Person, Trail
from .signs import new_reset_code
from .trail import note
from .turns import taken_in_turn

LINES_A_PAGE = 50
MOST_SHOWN = 200  # of what was not taken


@member_view
def members(request: HttpRequest, membership: Membership) -> HttpResponse:
    """Who belongs to the workshop; owners invite, change roles, take members out."""
    form = InviteForm(request.POST or None)
    workshop = membership.workshop
    if request.method == "POST":
        require_owner(membership)
        if form.is_valid():
            made = Invitation.objects.create(workshop=workshop, role=form.cleaned_data["role"],
                                             made_by=membership.person)
            note(Trail.What.INVITED, membership.person, workshop, f"as {made.get_role_display()}")
            address = request.build_absolute_uri(reverse("join", args=[made.token]))
            messages.success(request, f"Give this address to the new {made.get_role_display()}; it works once, for "
                                      f"seven days: {address}")
            return redirect("members", workshop.slug)
    open_ones = workshop.invitations.filter(taken_by=None, expires__gt=timezone.now()).select_related("made_by")
    return render(request, "workshop/members.html", {
        "membership": membership, "everybody": workshop.memberships.select_related("person").order_by("pk"),
        "form": form, "invitations": open_ones.order_by("expires"), "roles": Membership.Role.choices})


@member_view
@require_POST
def change(request: HttpRequest, membership: Membership, what: str) -> HttpResponse:
    """One act on a member or an invitation."""
    acts = {"role": _role, "remove": _remove, "reset": _reset, "revoke": _revoke, "leave": _leave}
    if what not in acts:
        raise Http404
    if what != "leave":
        require_owner(membership)
    return acts[what](request, membership)


def _about(request: HttpRequest, membership: Membership) -> Membership:
    """The member that a form is about; one of this workshop."""
    return get_object_or_404(Membership.objects.select_related("person", "workshop").select_for_update(),
                             pk=whole_number(request.POST.get("id", "")), workshop=membership.workshop)


def _an_owner_stays(request: HttpRequest, about: Membership) -> bool:
    """Whether somebody else owns the workshop too; a sentence when nobody does."""
    others = about.workshop.memberships.select_for_update().filter(role=Membership.Role.OWNER).exclude(pk=about.pk)
    if about.role == Membership.Role.OWNER and not others.exists():
        messages.error(request, f"{about.person.shown_name} is the only owner: make somebody else an owner first.")
        return False
    return True


@taken_in_turn
@transaction.atomic
def _role(request: HttpRequest, membership: Membership) -> HttpResponse:
    about, role = _about(request, membership), request.POST.get("role", "")
    if role not in Membership.Role.values:
        raise Http404
    if role != about.role and (role == Membership.Role.OWNER or _an_owner_stays(request, about)):
        was, about.role = about.get_role_display(), role
        about.save(update_fields=["role"])
        note(Trail.What.ROLE, membership.person, membership.workshop,
             f"{about.person.shown_name}: {was} to {about.get_role_display()}")
        messages.success(request, f"{about.person.shown_name} is {about.get_role_display()} now.")
    return redirect("members", membership.workshop.slug)


@taken_in_turn
@transaction.atomic
def _remove(request: HttpRequest, membership: Membership) -> HttpResponse:
    about = _about(request, membership)
    if _an_owner_stays(request, about):
        about.delete()
        FormerMember.objects.get_or_create(person=about.person, workshop=membership.workshop)
        note(Trail.What.REMOVED, membership.person, membership.workshop, about.person.shown_name)
        messages.success(request, f"{about.person.shown_name} no longer belongs to this workshop. What they did stays.")
    return redirect("members", membership.workshop.slug)


@taken_in_turn
@transaction.atomic
def _leave(request: HttpRequest, membership: Membership) -> HttpResponse:
    if not _an_owner_stays(request, membership):
        return redirect("members", membership.workshop.slug)
    membership.delete()
    FormerMember.objects.get_or_create(person=membership.person, workshop=membership.workshop)
    note(Trail.What.LEFT, membership.person, membership.workshop)
    messages.success(request, f"You no longer belong to {membership.workshop.name}.")
    return redirect("home")


@taken_in_turn
@transaction.atomic
def _reset(request: HttpRequest, membership: Membership) -> HttpResponse:
    """A code for a new password: only for people whose every workshop is this owner's, since it opens all of them."""
    about = _about(request, membership)
    owned = Membership.objects.filter(person=membership.person, role=Membership.Role.OWNER).values("workshop")
    if Membership.objects.filter(person=about.person).exclude(workshop__in=owned).exists():
        messages.error(request, f"{about.person.shown_name} also belongs to a workshop that you do not own. Whoever "
                                "runs this server can help: ./loadstar reset NAME.")
        return redirect("members", membership.workshop.slug)
    address = request.build_absolute_uri(reverse("reset", args=[new_reset_code(about.person)]))
    note(Trail.What.RESET, membership.person, membership.workshop, about.person.shown_name)
    messages.success(request, f"Give this address to {about.person.shown_name}; it works once, for a day: {address}")
    return redirect("members", membership.workshop.slug)


def _revoke(request: HttpRequest, membership: Membership) -> HttpResponse:
    number = whole_number(request.POST.get("id", ""))
    found = get_object_or_404(Invitation, pk=number, workshop=membership.workshop, taken_by=None)
    found.delete()
    note(Trail.What.REVOKED, membership.person, membership.workshop, f"as {found.get_role_display()}")
    messages.success(request, "That invitation is worth nothing any more.")
    return redirect("members", membership.workshop.slug)


@member_view
def trail(request: HttpRequest, membership: Membership) -> HttpResponse:
    """Who did what, for owners: in this workshop, and its members' sign-ins and passwords."""
    require_owner(membership)
    people = Person.objects.filter(memberships__workshop=membership.workshop)
    lines = Trail.objects.filter(Q(workshop=membership.workshop) | Q(workshop=None, person__in=people)).order_by("-pk")
    page = Paginator(lines, LINES_A_PAGE).get_page(request.GET.get("page"))
    return render(request, "workshop/trail.html", {
        "membership": membership, "page": page,
        "refused": membership.workshop.refused_acts.order_by("-pk")[:MOST_SHOWN]})

