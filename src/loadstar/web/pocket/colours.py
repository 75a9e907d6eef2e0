"""Which wires of a workshop's plans have a colour: what it was the last time."""

from collections.abc import Iterator

from django.db.models import F

from loadstar.core.parts.tap import Tap
from loadstar.core.plan.model import Plan
from loadstar.core.pocket.base import Table
from loadstar.core.pocket.tables import ColourQuestion

from ..plans.known import known
from ..plans.models import Revision
from ..workshop.models import Workshop

MOST_PLANS, MOST_ROWS = 20, 30


def wires_so_coloured(workshop: Workshop, question: ColourQuestion) -> Table:
    """Of the newest plans every wire of that colour, and every wire found on a machine that was written down so."""
    newest = Revision.objects.filter(plan__workshop=workshop, plan__archived=None, number=F("plan__head"))
    plans = [known(bytes(document)).plan
             for document in newest.order_by("-plan_id").values_list("document", flat=True)[:MOST_PLANS]]
    rows = tuple((plan.machine.name, *row) for plan in plans for row in _rows(plan, question))
    here = f"{question.letters} in this workshop's plans" if rows else f"No plan here has {question.letters}"
    return Table(here, ("Machine", "Wire", "From, to"), rows[:MOST_ROWS])


def _rows(plan: Plan, question: ColourQuestion) -> Iterator[tuple[str, str]]:
    for wire in plan.wires:
        if (wire.colour, wire.stripe) == (question.colour, question.stripe):
            yield wire.id, f"{plan.part(wire.a.part).name} to {plan.part(wire.b.part).name}"
    for tap in plan.of(Tap):
        if tap.wire_colour.upper().replace(" ", "") == question.letters:
            yield tap.id, f"{tap.name}, found"
