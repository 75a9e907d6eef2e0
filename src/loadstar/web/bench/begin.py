"""Beginning a plan: from a kind of machine and what is wanted, with a kept survey, or empty."""

from dataclasses import dataclass
from typing import Any
from urllib.parse import urlencode

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.safestring import mark_safe

from loadstar.core.begin import Wish, begun
from loadstar.core.edits import Rename, SetJob, TakeSurvey, apply
from loadstar.core.errors import PlanError, refuse
from loadstar.core.jobs import JOBS, Task, task_of
from loadstar.core.materials.accessories import Usual, offered
from loadstar.core.materials.typical import SIZES
from loadstar.core.plan.model import Plan
from loadstar.draw.elevation import elevation
from loadstar.exchange import survey as exchange

from ..plans.models import PlanHead
from ..records import store
from ..records.models import KeptSurvey
from ..workshop.access import member_view, require_edit, whole_number
from ..workshop.models import Membership

PICTURE = (150.0, 96.0)
FIRST_JOB = "fit/accessories"  # what most come for
EMPTY = "empty"  # in place of a kind and size: nothing is put on the plan
FAMILIES = (("engine", "For machines with a 12 V battery", "ignition_only"), ("pack", "For e-bikes", "pack"),
            ("magneto", "For lamps on a magneto", "magneto"))


@dataclass(frozen=True)
class Card:
    """One kind of machine to choose: its picture and its size classes; `family` says which accessories fit each."""

    kind: str
    picture: str
    sizes: tuple[tuple[str, str, str], ...]  # value, words, family


def _family(system: str) -> str:
    return system if system in ("pack", "magneto") else "engine"


def _cards() -> list[Card]:
    return [Card(kind, mark_safe(elevation(kind, *PICTURE, f"kind{number}")),
                 tuple((f"{kind}/{size.key}", size.words, _family(size.system)) for size in sizes))
            for number, (kind, sizes) in enumerate(SIZES.items())]


def _lists() -> list[tuple[str, str, dict[str, list[Usual]]]]:
    return [(family, words, {group: [u for u in every if not u.own] for group, every in offered(system).items()})
            for family, words, system in FAMILIES]


@member_view
def begin(request: HttpRequest, membership: Membership) -> HttpResponse:
    """One page: kind and size, names, what is wanted; from there to the whole plan."""
    require_edit(membership)
    faults: dict[str, str] = {}
    if request.method == "POST":
        try:
            return _begun(request, membership)
        except PlanError as error:
            faults = {fault.field or "kind": fault.sentence for fault in error.faults}
    chosen = {"machine": request.POST.get("machine", ""), "name": request.POST.get("name", ""),
              "size": request.POST.get("size", ""), "wanted": request.POST.getlist("wanted"),
              "survey": request.POST.get("survey", ""), "job": request.POST.get("job", FIRST_JOB)}
    return render(request, "plans/begin.html", {
        "membership": membership, "cards": _cards(), "lists": _lists(), "faults": faults, "chosen": chosen,
        "empty": EMPTY, "jobs": list(JOBS.values()), "surveys": membership.workshop.surveys.order_by("family", "pk")},
        status=422 if faults else 200)


def _begun(request: HttpRequest, membership: Membership) -> HttpResponse:
    """The plan that was asked for, and where its work begins."""
    post, workshop = request.POST, membership.workshop
    wish, label = None, "begun empty"
    asked = task_of(post.get("job", FIRST_JOB))
    if asked is None:
        raise refuse("", "job", "Choose what the job is.")
    job, task = asked
    if post.get("size") != EMPTY:
        kind, _, size = post.get("size", "").partition("/")
        wish = Wish(kind, size, post.get("machine", "")[:80],
                    tuple(post.getlist("wanted")) if job.wants else ())
        label = f"begun as a {kind}"
    given = post.get("name", "").strip()
    plan = store.empty(workshop, given)
    if wish is None and not given:
        raise refuse("", "name", "An empty plan needs a name.")
    if wish is not None:
        plan = begun(plan, wish)
    if wish is not None and plan.machine.system not in task.fits:
        raise refuse("", "job", f"“{task.words}” is for machines with {_fitting(task)}: choose another job, or another "
                                "machine.")
    plan = apply(plan, SetJob(job=job.key))
    if not given:
        words = "what is wanted" if job.key == "fit" else task.words if job.key != "write down" else "as found"
        plan = apply(plan, Rename(name=f"{plan.machine.name}: {words}"[:80]))
    if survey := post.get("survey", ""):
        kept = get_object_or_404(KeptSurvey, pk=whole_number(survey), workshop=workshop)
        plan = apply(plan, TakeSurvey(survey=exchange.from_data(kept.document)))
    row = store.begin(workshop, membership.person, plan, label)
    for sentence in workshop.rules_not_taken:
        messages.warning(request, sentence)
    return redirect(_first_page(membership, row, plan, task))


def _fitting(task: Task) -> str:
    """The machines that can have it, in words."""
    words = {"battery": "a battery and a generator", "total_loss": "a battery", "ignition_only": "ignition only",
             "magneto": "lamps on a magneto", "pack": "a traction pack"}
    return " or ".join(words[system] for system in task.fits)


def _first_page(membership: Membership, row: PlanHead, plan: Plan, task: Task) -> str:
    """Where the job begins: what makes it whole, its own page, or the first circuit of what was asked for; without
    anything to feed from the survey, where the machine is entered."""
    arguments: dict[str, Any] = {"workshop": membership.workshop.slug, "plan": row.pk}

    def at(station: str, **query: str) -> str:
        return reverse("station", kwargs={**arguments, "station": station}) + (f"?{urlencode(query)}" if query else "")

    if task.intent and plan.places:
        return at("job", want=task.intent)
    if task.page != "loads":
        return at(task.page, **({"view": task.view} if task.view else {}))
    if plan.loads:
        return at("circuits", sel=plan.loads[0].id)
    return at("loads" if plan.supply else "survey")
