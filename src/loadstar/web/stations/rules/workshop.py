"""The workshop's house rules, which new plans begin with."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from loadstar.core.doc.rules import HouseRules

from ...frame.asks import RULES
from ...frame.fields import Asked, ModelForm
from ...frame.units import Units
from ...workshop.access import member_view, require_owner
from ...workshop.models import Membership
from .page import grouped


@member_view
def workshop_rules(request: HttpRequest, membership: Membership) -> HttpResponse:
    """Anybody reads them; owners change them."""
    workshop = membership.workshop
    stored = workshop.rules.model_dump()
    form = ModelForm(request.POST or None, Asked(HouseRules, RULES, Units.of(membership.person)), stored)
    if request.method == "POST":
        require_owner(membership)
        if form.is_valid():
            values = form.values() | {"least_area_mm2": float(form.values()["least_area_mm2"])}
            workshop.house_rules = HouseRules.model_validate({**stored, **values}).model_dump(mode="json")
            workshop.save(update_fields=["house_rules"])
            messages.success(request, "Kept. Plans begun from now on take these rules; those that exist keep theirs.")
            return redirect("workshop-rules", workshop.slug)
    return render(request, "workshop/rules.html", {"membership": membership, "form": form, "groups": grouped(form)},
                  status=422 if form.is_bound and form.errors else 200)
