"""A short tour in place: from nothing to a circuit with its card, each step an ordinary page, one sentence, one press.

It is offered once, on the bench, and works on a plan of its own that stays when it is over.
"""

from collections.abc import Callable
from dataclasses import dataclass

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse
from django.views.decorators.http import require_POST

from loadstar.core.begin import Wish, begun
from loadstar.core.edits import ChangeElement, Confirm, Several, Vouch
from loadstar.core.errors import PlanError
from loadstar.core.parts.tap import Tap

from ..plans.models import PlanHead
from ..records import store
from ..records.readings import take_readings
from ..workshop.access import member_view, require_edit
from ..workshop.models import Membership, Person

OVER = "over"
WISH = Wish("touring motorcycle", "middle", "Reed warden's tourer", ("grips", "lamp pair"))
NAME = "Tour: grips and lamps"
LABEL_W, MEASURED_W = 44.0, 196.0  # what the made-up label and clamp say


@dataclass(frozen=True)
class Step:
    """One step: what is said on its page, the words on its button, what the button does, and the page after it
    (station, and what follows its address)."""

    sentence: str
    press: str
    act: Callable[[PlanHead, Person], None] | None
    after: tuple[str, str]


def _label(row: PlanHead, person: Person) -> None:
    lamps = next(p for p in store.load(row).plan.loads if p.usual == "lamp pair")
    store.edit(row, person, row.head, Several(words=f"{lamps.name}: as labelled", edits=(
        ChangeElement(id=lamps.id, values={"amount": LABEL_W}), Vouch(id=lamps.id, fields=("amount",)))))


def _clamp(row: PlanHead, person: Person) -> None:
    generator = store.load(row).plan.generator
    if generator is not None:
        take_readings(row, person, row.head, [{"element": generator.id, "quantity": "figure", "field": "rating1_w",
                                               "value": MEASURED_W, "instrument": "made-up clamp"}])


def _fuse_lid(row: PlanHead, person: Person) -> None:
    plan = store.load(row).plan
    taps = [t for t in plan.of(Tap) if t.function == "feed"]
    store.edit(row, person, row.head, Several(words="fuses found", edits=(
        *(ChangeElement(id=t.id, values={"fused_a": 7.5}) for t in taps), Confirm(ids=tuple(t.id for t in taps)))))


STEPS: tuple[Step, ...] = (
    Step("This is the first circuit: every wire and fuse is sized already, and the picture shows the volts falling on "
         "the way to the grips and back.", "What does it rest on?", None, ("survey", "?view=measure")),
    Step("Nobody has measured anything yet, so every figure is only usual. What would change most stands first: the "
         f"lamps. Their label says {LABEL_W:g} W.", "Read the label", _label, ("budget", "?state=idle")),
    Step("This is the budget at idle: what lies above the line drains the battery. The clamp at the generator's "
         "lead shows "
         f"{MEASURED_W:g} W.", "Take the reading", _clamp, ("survey", "?view=plugs")),
    Step("The block's relay is fed from a pin that is not confirmed, and its fuse is not known. The lid of the fuse "
         "box "
         "says 7.5 A, and the meter agrees with the pin.", "It was found so", _fuse_lid, ("circuits", "?sel=L2")),
    Step("The lamps' circuit, as it will be built: fuse, wires, volts at every step. A press on a figure shows how it "
         "was worked out.", "To the papers", None, ("handover", "")),
    Step("Each circuit has its card: parts, cut lengths, and what the meter must show. Build by it, prove by it, and "
         "keep it with the machine.", "End the tour", None, ("", "")),
)


@member_view
@require_POST
def tour(request: HttpRequest, membership: Membership) -> HttpResponse:
    """Begin it, take its next step, or end it."""
    person, wanted = membership.person, request.POST.get("do", "")
    if wanted == "begin":
        require_edit(membership)
        row = store.begin(membership.workshop, person, begun(store.empty(membership.workshop, NAME), WISH),
                          "begun by the tour")
        _keep(person, f"{row.pk}/0")
        return redirect(_address(membership, row, "circuits", "?sel=L1"))
    if wanted != "next" or (at := where(person)) is None:
        _keep(person, OVER)
        return redirect("bench", membership.workshop.slug)
    plan, number = at
    row = PlanHead.objects.filter(pk=plan, workshop=membership.workshop, archived=None).first()
    if row is None:
        _keep(person, OVER)
        raise Http404
    step = STEPS[number]
    try:
        if step.act:
            require_edit(membership)
            step.act(row, person)
    except (PlanError, store.Conflict, StopIteration):
        # Somebody has changed the tour's plan meanwhile: the step is shown all the same, on the plan as it is.
        row.refresh_from_db()
    last = number + 1 == len(STEPS)
    _keep(person, OVER if last else f"{plan}/{number + 1}")
    return redirect("bench", membership.workshop.slug) if last else redirect(_address(membership, row, *step.after))


def _address(membership: Membership, row: PlanHead, station: str, more: str) -> str:
    return reverse("station", args=[membership.workshop.slug, row.pk, station]) + more


def _keep(person: Person, words: str) -> None:
    person.tour = words
    person.save(update_fields=["tour"])


def where(person: Person) -> tuple[int, int] | None:
    """The tour's plan and step for somebody who is on it."""
    plan, _, step = person.tour.partition("/")
    if not (plan.isdigit() and step.isdigit() and int(step) < len(STEPS)):
        return None
    return int(plan), int(step)


def step_on(person: Person, plan: int) -> tuple[int, Step, int] | None:
    """The step that is shown on a plan's pages, with its number from 1 and how many there are; None on any other
    plan."""
    at = where(person)
    return (at[1] + 1, STEPS[at[1]], len(STEPS)) if at is not None and at[0] == plan else None

