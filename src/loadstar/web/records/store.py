"""The one place that writes plans: begin, edit, restore, import, archive (`undo` has undo and redo). Each is a verb:
fetch, apply, record.

A plan's head is moved by compare-and-swap, which also locks it: what else belongs to the new revision is written under
that lock, so that of all who write to one plan each sees what the one before has left. What is computed is computed
before.
"""

from dataclasses import dataclass
from datetime import datetime

from django.db import transaction
from django.db.models import F, Max
from django.utils import timezone

from loadstar.core import errors
from loadstar.core.analysis import CORE_VERSION, Analysis
from loadstar.core.edits import Edit, Rename, apply
from loadstar.core.errors import refuse
from loadstar.core.plan import compare
from loadstar.core.plan.model import Plan

from ..plans.known import Known, known, pack
from ..plans.models import PlanHead, Revision
from ..workshop.models import Person, Workshop
from ..workshop.turns import taken_in_turn
from .found_by import keep_found
from .models import Need, TakenReading, Thing
from .summary import summarise


class Conflict(errors.Conflict):
    """Somebody else moved the plan's head in between. Carries what they changed."""

    def __init__(self, head: int, by: str, changes: list[compare.Change]) -> None:
        super().__init__(head)
        self.head, self.by, self.changes = head, by, changes


@dataclass(frozen=True)
class Loaded:
    """A plan as it stands."""

    row: PlanHead
    number: int
    known: Known

    @property
    def plan(self) -> Plan:
        """The document."""
        return self.known.plan

    @property
    def analysis(self) -> Analysis:
        """Everything computed about it."""
        return self.known.analysis


def load(row: PlanHead, number: int | None = None) -> Loaded:
    """A revision of a plan, the newest unless told otherwise."""
    wanted = row.head if number is None else number
    data = Revision.objects.filter(plan=row, number=wanted).values_list("document", flat=True).get()
    return Loaded(row, wanted, known(bytes(data)))


def empty(workshop: Workshop, name: str = "") -> Plan:
    """A plan that has nothing yet but a name and the workshop's house rules. PlanError when it is no name."""
    rules = workshop.rules
    plan = Plan(rules=rules, workshop_rules=rules)
    return apply(plan, Rename(name=name)) if name else plan


def begin(workshop: Workshop, person: Person, plan: Plan, label: str = "begun") -> PlanHead:
    """A new plan, as far as it has been begun."""
    return _first(workshop, person, plan, Revision.Kind.EDIT, label)


def take_in(workshop: Workshop, person: Person, plan: Plan) -> PlanHead:
    """A plan from a file."""
    return _first(workshop, person, plan, Revision.Kind.IMPORT, "imported from a file")


def _first(workshop: Workshop, person: Person, plan: Plan, kind: str, label: str) -> PlanHead:
    new = _Next.of(plan, person, kind, label)
    with transaction.atomic():
        row = PlanHead.objects.create(workshop=workshop, head=1)
        _record(row, 1, new)
    return row


def edit(row: PlanHead, person: Person, base: int, change: Edit) -> Loaded:
    """Apply an edit to revision `base`. PlanError when it cannot be; Conflict when `base` is no longer the newest."""
    now = at_base(row, base)
    changed = apply(now.plan, change)
    if changed == now.plan:
        return now
    return move(now, person, changed, Revision.Kind.EDIT, change.label(now.plan))


def restore(row: PlanHead, person: Person, base: int, number: int) -> Loaded:
    """A former revision, made the newest: nothing of what lies between is lost."""
    return move(at_base(row, base), person, load(row, number).plan, Revision.Kind.RESTORE,
                 f"restored as of revision {number}")


def at_base(row: PlanHead, base: int) -> Loaded:
    """The newest revision, when it is `base`; else Conflict. PlanError when the plan is in the archive."""
    row.refresh_from_db(fields=["head", "archived"])
    _refuse_archived(row)
    if base != row.head:
        raise _conflict(row, base)
    return load(row)


def _refuse_archived(row: PlanHead) -> None:
    if row.archived is not None:
        raise refuse("", "archived", "This plan is in the archive: take it out of there before changing it.")


def _conflict(row: PlanHead, base: int) -> Conflict:
    head = load(row)
    by = Revision.objects.filter(plan=row, number__gt=base).select_related("author").order_by("-number").first()
    since = Revision.objects.filter(plan=row, number=base).values_list("document", flat=True).first()
    changes = compare.changes(known(bytes(since)).plan, head.plan) if since is not None else []
    return Conflict(row.head, by.author.shown_name if by else "somebody", changes)


@dataclass(frozen=True)
class _Next:
    """A new revision as it will be stored, with what is known of it: computed before any lock is taken. `reverts` is
    the number of the revision that it takes back or puts back."""

    person: Person
    kind: str
    label: str
    reverts: int | None
    stored: bytes
    known: Known

    @classmethod
    def of(cls, plan: Plan, person: Person, kind: str, label: str, reverts: int | None = None) -> "_Next":
        stored = pack(plan)
        found = known(stored)
        _ = found.analysis
        return cls(person, kind, label, reverts, stored, found)


def move(now: Loaded, person: Person, plan: Plan, kind: str, label: str, reverts: int | None = None) -> Loaded:
    """Make a plan the revision after the one that was loaded."""
    row, base = now.row, now.number
    new = _Next.of(plan, person, kind, label, reverts)
    if not _moved(row, base, new):  # told with no lock held
        row.refresh_from_db(fields=["head", "archived"])
        _refuse_archived(row)
        raise _conflict(row, base)
    row.head = base + 1
    return Loaded(row, row.head, new.known)


@taken_in_turn
def _moved(row: PlanHead, base: int, new: _Next) -> bool:
    with transaction.atomic():
        # Compare and swap: of two that start from the same head, or of an edit and the archive, one finds no row to
        # move.
        moved = PlanHead.objects.filter(pk=row.pk, head=base, archived=None).update(head=base + 1)
        if moved:
            _record(row, base + 1, new)
    return bool(moved)


def _record(row: PlanHead, number: int, new: _Next) -> None:
    """A revision's row and all that is worked out of it; only for who holds the head."""
    Revision.objects.create(plan=row, number=number, author=new.person, kind=new.kind, label=new.label[:200],
                            reverts=new.reverts, document=new.stored, core_version=CORE_VERSION)
    summarise(row, number, new.known, timezone.now())
    keep_found(row, new.known)
    _keep_readings(row, new.person, new.known.plan)


def refresh(row: PlanHead) -> None:
    """Work out anew what the bench shows of a plan, by this version of the core; of its newest revision, whichever that
    becomes meanwhile."""
    while True:
        now = load(row)
        _ = now.known.analysis
        made = Revision.objects.filter(plan=row, number=now.number).values_list("made", flat=True).get()
        with transaction.atomic():
            held = PlanHead.objects.select_for_update().filter(pk=row.pk, head=now.number).first()
            if held is not None:
                summarise(held, now.number, now.known, made)
                if held.archived is None:
                    keep_found(held, now.known)
                return
        row.refresh_from_db(fields=["head"])


@taken_in_turn
def put_away(row: PlanHead) -> bool:
    """Put a plan into the archive, where it is not found by what is in it; False where it is there already."""
    now = timezone.now()
    with transaction.atomic():
        moved = PlanHead.objects.filter(pk=row.pk, archived=None).update(archived=now)
        if moved:
            Need.objects.filter(plan=row).delete()
            Thing.objects.filter(plan=row).delete()
    row.archived = now if moved else row.archived
    return bool(moved)


@taken_in_turn
def take_back(row: PlanHead) -> bool:
    """Take a plan out of the archive; False where it is on the bench already. Nobody changes what is in the archive."""
    row.refresh_from_db(fields=["head"])
    now = load(row)
    _ = now.known.analysis
    with transaction.atomic():
        moved = PlanHead.objects.filter(pk=row.pk, head=now.number).exclude(archived=None).update(archived=None)
        if moved:
            keep_found(row, now.known)
    row.archived = None
    return bool(moved)


def delete_for_good(row: PlanHead, before: datetime) -> bool:
    """Delete a plan that has been in the archive since before a moment; False where somebody took it out meanwhile."""
    with transaction.atomic():
        held = PlanHead.objects.select_for_update().filter(pk=row.pk, archived__lt=before).first()
        if held is not None:
            held.delete()
    return held is not None


def mend_heads() -> list[tuple[PlanHead, int]]:
    """Put heads that are not at their plan's newest revision there; each with where it was. 0.9.0 could leave one
    behind, and the plan's next edit then failed for ever."""
    behind = PlanHead.objects.annotate(newest=Max("revisions__number")).exclude(head=F("newest"))
    return [(row, row.head) for row in behind
            if row.newest and PlanHead.objects.filter(pk=row.pk, head=row.head).update(head=row.newest)]


def _keep_readings(row: PlanHead, person: Person, plan: Plan) -> None:
    """A row of the record for each reading that has come in, however it came: who brought it, and when."""
    kept = set(TakenReading.objects.filter(plan=row).values_list("reading", flat=True))
    fresh = [r for r in plan.readings if r.id not in kept]
    if fresh:
        now = timezone.now().replace(microsecond=0)
        TakenReading.objects.bulk_create(TakenReading(
            plan=row, reading=r.id, element=r.element, quantity=r.quantity, state=r.state, value=r.value, field=r.field,
            instrument=r.instrument,
            taken=now, by=person) for r in fresh)
