"""Puts the demonstration scenario into an empty database."""

from collections.abc import Callable

from django.db import transaction

from loadstar import demo
from loadstar.core.edits import Edit
from loadstar.core.plan.model import Plan
from loadstar.exchange.shelf import COLUMNS

from ..plans.models import PlanHead, Revision
from ..records import store
from ..records.models import ShelfItem
from ..workshop.models import Membership, Person, Workshop
from ..workshop.signs import DEMO_PERSON
from ..workshop.views import make_workshop
from .demo_work import work_on

DEMO_PASSWORD = "mudflats-at-low-tide"


def load_demo() -> tuple[str, str]:
    """The demo workshop with its plans, made once. Returns the sign-in name and password.

    The last few edits of each plan are revisions of their own, so that there is a history to look at.
    """
    if not Person.objects.filter(username=DEMO_PERSON).exists():
        with transaction.atomic():
            person = Person.objects.create_user(DEMO_PERSON, password=DEMO_PASSWORD)
            workshop = make_workshop(demo.WORKSHOP)
            Membership.objects.create(person=person, workshop=workshop, role=Membership.Role.OWNER)
            rows = {make: _enter(workshop, person, make) for make in demo.PLANS}
            work_on(rows[demo.fit_out], rows[demo.winter], person)
            ShelfItem.objects.bulk_create(ShelfItem(
                workshop=workshop, **{name: getattr(stock, name) for name in COLUMNS}) for stock in demo.SHELF)
    return DEMO_PERSON, DEMO_PASSWORD


def _enter(workshop: Workshop, person: Person, make: Callable[[], tuple[Plan, list[Edit]]]) -> PlanHead:
    _, steps = make()
    row = store.take_in(workshop, person, demo.after(steps[:-4]))
    Revision.objects.filter(plan=row).update(label="machine surveyed, first accessories added")
    for step in steps[-4:]:
        store.edit(row, person, row.head, step)
    return row
