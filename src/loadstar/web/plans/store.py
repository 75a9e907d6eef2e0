"""The one place that writes plans: begin, edit, undo, redo, import. Each is a verb: fetch, apply, record."""

from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from itertools import tee

from django.db import transaction
from django.utils import timezone

from loadstar.core import errors
from loadstar.core.analysis import CORE_VERSION, Analysis
from loadstar.core.doc.survey import Plug
from loadstar.core.edits import Edit, Rename, apply
from loadstar.core.errors import PlanError, refuse
from loadstar.core.findings import Finding
from loadstar.core.order import order
from loadstar.core.parts.base import Part
from loadstar.core.parts.tap import Tap
from loadstar.core.plan import compare
from loadstar.core.plan.model import Plan

from ..records.models import Need, TakenReading, Thing
from ..workshop.models import Person, Workshop
from .known import Known, known, pack
from .models import PlanRow, Revision

HISTORY_LOOKED_AT = 200  # revisions read at a time; most undos are found in the first few


class Conflict(errors.Conflict):
    """Somebody else moved the plan's head in between. Carries what they changed."""

    def __init__(self, head: int, by: str, changes: list[compare.Change]) -> None:
        super().__init__(head)
        self.head, self.by, self.changes = head, by, changes


@dataclass(frozen=True)
class Loaded:
    """A plan as it stands."""

    row: PlanRow
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


def load(row: PlanRow, number: int | None = None) -> Loaded:
    """A revision of a plan, the newest unless told otherwise."""
    wanted = row.head if number is None else number
    data = Revision.objects.filter(plan=row, number=wanted).values_list("document", flat=True).get()
    return Loaded(row, wanted, known(bytes(data)))


def empty(workshop: Workshop, name: str = "") -> Plan:
    """A plan that has nothing yet but a name and the workshop's house rules. PlanError when it is no name."""
    rules = workshop.rules
    plan = Plan(rules=rules, workshop_rules=rules)
    return apply(plan, Rename(name=name)) if name else plan


def begin(workshop: Workshop, person: Person, plan: Plan, label: str = "begun") -> PlanRow:
    """A new plan, as far as it has been begun."""
    return _first(workshop, person, plan, Revision.Kind.EDIT, label)


def take_in(workshop: Workshop, person: Person, plan: Plan) -> PlanRow:
    """A plan from a file."""
    return _first(workshop, person, plan, Revision.Kind.IMPORT, "imported from a file")


def _first(workshop: Workshop, person: Person, plan: Plan, kind: str, label: str) -> PlanRow:
    made = _Made.of(plan)
    with transaction.atomic():
        row = PlanRow.objects.create(workshop=workshop, head=0, name=plan.name, machine=plan.machine.name,
                                     machine_kind=plan.machine.kind)
        _record(row, person, made, kind, label, None)
    return row


def edit(row: PlanRow, person: Person, base: int, change: Edit) -> Loaded:
    """Apply an edit to revision `base`. PlanError when it cannot be; Conflict when `base` is no longer the newest."""
    now = at_base(row, base)
    changed = apply(now.plan, change)
    if changed == now.plan:
        return now
    return _move(row, person, changed, Revision.Kind.EDIT, change.label(now.plan))


def undo(row: PlanRow, person: Person, base: int) -> Loaded:
    """Take back this person's latest edit that still stands."""
    target = _undo_target(row, person)
    if target is None:
        raise refuse("", "undo", "There is no edit of yours left to take back.")
    return _take_back(row, person, base, target, Revision.Kind.UNDO, f"undone: {target.label}")


def redo(row: PlanRow, person: Person, base: int) -> Loaded:
    """Put back what this person undid last, unless they have edited since."""
    target = _redo_target(row, person)
    if target is None:
        raise refuse("", "redo", "There is nothing that you have undone to put back.")
    return _take_back(row, person, base, target, Revision.Kind.REDO, target.label.replace("undone: ", "redone: ", 1))


def restore(row: PlanRow, person: Person, base: int, number: int) -> Loaded:
    """A former revision, made the newest: nothing of what lies between is lost."""
    at_base(row, base)
    return _move(row, person, load(row, number).plan, Revision.Kind.RESTORE, f"restored as of revision {number}")


def can_undo_redo(row: PlanRow, person: Person) -> tuple[str, str]:
    """Labels of what undo and redo would do for this person; empty when there is nothing."""
    for_undo, for_redo = tee(_mine(row, person))
    back, again = _undo_from(for_undo), _redo_from(for_redo)
    return (back.label if back else ""), (again.label.removeprefix("undone: ") if again else "")


def at_base(row: PlanRow, base: int) -> Loaded:
    """The newest revision, when it is `base`; else Conflict. PlanError when the plan is in the archive."""
    row.refresh_from_db(fields=["head", "archived"])
    if row.archived is not None:
        raise refuse("", "archived", "This plan is in the archive: take it out of there before changing it.")
    if base != row.head:
        raise _conflict(row, base)
    return load(row)


def _conflict(row: PlanRow, base: int) -> Conflict:
    head = load(row)
    by = Revision.objects.filter(plan=row, number__gt=base).select_related("author").order_by("-number").first()
    since = Revision.objects.filter(plan=row, number=base).values_list("document", flat=True).first()
    changes = compare.changes(known(bytes(since)).plan, head.plan) if since is not None else []
    return Conflict(row.head, by.author.shown_name if by else "somebody", changes)


@dataclass(frozen=True)
class _Made:
    """A new revision's document as it will be stored, with what is known of it: computed before any lock is taken."""

    stored: bytes
    known: Known

    @classmethod
    def of(cls, plan: Plan) -> "_Made":
        stored = pack(plan)
        found = known(stored)
        _ = found.analysis
        return cls(stored, found)


def _move(row: PlanRow, person: Person, plan: Plan, kind: str, label: str, reverts: int | None = None) -> Loaded:
    base, made = row.head, _Made.of(plan)
    with transaction.atomic():
        # Compare and swap: of two that start from the same head one finds no row to move.
        moved = PlanRow.objects.filter(pk=row.pk, head=base).update(head=base + 1)
        if moved:
            _record(row, person, made, kind, label, reverts)
    if not moved:  # told with no lock held
        row.refresh_from_db(fields=["head"])
        raise _conflict(row, base)
    return Loaded(row, row.head, made.known)


def _record(row: PlanRow, person: Person, made: _Made, kind: str, label: str, reverts: int | None) -> None:
    Revision.objects.create(plan=row, number=row.head + 1, author=person, kind=kind, label=label[:200], reverts=reverts,
                            document=made.stored, core_version=CORE_VERSION)
    row.head += 1
    project(row, made.known)
    _keep_readings(row, person, made.known.plan)


def project(row: PlanRow, found: Known) -> None:
    """Write into a plan's row what the bench shows of it."""
    plan, analysis = found.plan, found.analysis
    counts = Counter(f.severity for f in analysis.findings)
    row.name, row.machine, row.machine_kind = plan.name, plan.machine.name, plan.machine.kind
    row.loads, row.stops, row.cautions = len(plan.loads), counts["stop"], counts["caution"]
    first: Finding | None = analysis.findings[0] if analysis.findings else None
    row.worst = first.sentence[:300] if first else ""
    row.idle_margin_a = analysis.ledgers["idle"].margin_a if plan.generator else None
    days = analysis.parked.days if analysis.parked else None
    row.range_km = analysis.pack.range_km if analysis.pack else None
    row.parked_days = days if days is not None and days < 1e5 else None
    row.core_version = CORE_VERSION
    row.save()
    if row.archived is None:
        _keep_needs(row, analysis)
        _keep_things(row, plan)


def put_away(row: PlanRow) -> None:
    """Put a plan into the archive: it is no longer found by what is in it."""
    row.archived = timezone.now()
    row.save(update_fields=["archived"])
    Need.objects.filter(plan=row).delete()
    Thing.objects.filter(plan=row).delete()


def take_back(row: PlanRow) -> None:
    """Take a plan out of the archive."""
    row.archived = None
    project(row, load(row).known)


def _keep_needs(row: PlanRow, analysis: Analysis) -> None:
    """What the plan needs, so that it can be asked where a thing is used; written only where it changed."""
    wanted: dict[str, tuple[float, str]] = {}
    for item in order(analysis).items:
        amount, unit = wanted.get(item.what, (0.0, item.unit))
        wanted[item.what] = round(amount + item.need, 4), unit
    there = {n.what: (n.amount, n.unit) for n in Need.objects.filter(plan=row)}
    if wanted == there:
        return
    if gone := [what for what, kept in there.items() if wanted.get(what) != kept]:
        Need.objects.filter(plan=row, what__in=gone).delete()
    Need.objects.bulk_create(Need(workshop_id=row.workshop_id, plan=row, what=what, text=what.lower(), amount=amount,
                                  unit=unit)
                             for what, (amount, unit) in wanted.items() if there.get(what) != (amount, unit))


def _keep_things(row: PlanRow, plan: Plan) -> None:
    """The plan's parts, connectors and pins by the words they can be found by; written only where they changed."""
    wanted = {p.id: (getattr(p, "kind", "plug"), p.name, _words_of(plan, p)[:300]) for p in (*plan.parts, *plan.plugs)}
    there = {t.element: (t.kind, t.name, t.words) for t in Thing.objects.filter(plan=row)}
    if wanted == there:
        return
    if gone := [element for element, kept in there.items() if wanted.get(element) != kept]:
        Thing.objects.filter(plan=row, element__in=gone).delete()
    Thing.objects.bulk_create(Thing(workshop_id=row.workshop_id, plan=row, element=element, kind=kind, name=name,
                                    words=words, text=f"{name} {words}".lower())
                              for element, (kind, name, words) in wanted.items()
                              if there.get(element) != (kind, name, words))


def _words_of(plan: Plan, part: Part | Plug) -> str:
    """What else somebody would look for it by: its kind in words, colours, housing, what it triggers, its place."""
    found = [plan.place(part.place).name]
    if isinstance(part, Plug):
        found += [part.use, part.housing, f"{part.ways}-way"]
    else:
        found.append(part.word)
        triggers = [w.id for w in plan.wires for end in (w.a, w.b) if end.part == part.id]
        for name in ("wire_colour", "goes_to", "category", "function"):
            found.append(str(getattr(part, name, "") or ""))
        if isinstance(part, Tap) and any(w.id in triggers and other.name == "86"
                                         for w in plan.wires for other in (w.a, w.b)):
            found.append("trigger")
    return " ".join(word for word in found if word)


def _keep_readings(row: PlanRow, person: Person, plan: Plan) -> None:
    """A row of the record for each reading that has come in, however it came: who brought it, and when."""
    kept = set(TakenReading.objects.filter(plan=row).values_list("reading", flat=True))
    fresh = [r for r in plan.readings if r.id not in kept]
    if fresh:
        now = timezone.now().replace(microsecond=0)
        TakenReading.objects.bulk_create(TakenReading(
            plan=row, reading=r.id, element=r.element, quantity=r.quantity, state=r.state, value=r.value, field=r.field,
            instrument=r.instrument,
            taken=now, by=person) for r in fresh)


def _mine(row: PlanRow, person: Person) -> Iterator[Revision]:
    """The person's revisions, newest first, as far back as they are asked for."""
    return Revision.objects.filter(plan=row, author=person).defer("document").order_by("-number").iterator(
        HISTORY_LOOKED_AT)


def _undo_from(history: Iterable[Revision]) -> Revision | None:
    """Newest first: undos cancel the edits they name, redos cancel undos."""
    cancelled: set[int] = set()
    for revision in history:
        if revision.number in cancelled:
            continue
        if revision.kind in (Revision.Kind.UNDO, Revision.Kind.REDO) and revision.reverts:
            cancelled.add(revision.reverts)
        elif revision.kind in (Revision.Kind.EDIT, Revision.Kind.RESTORE) and revision.number > 1:
            return revision
    return None


def _redo_from(history: Iterable[Revision]) -> Revision | None:
    cancelled: set[int] = set()
    for revision in history:
        if revision.number in cancelled:
            continue
        if revision.kind == Revision.Kind.REDO and revision.reverts:
            cancelled.add(revision.reverts)
        elif revision.kind == Revision.Kind.UNDO:
            return revision
        else:
            return None
    return None


def _undo_target(row: PlanRow, person: Person) -> Revision | None:
    return _undo_from(_mine(row, person))


def _redo_target(row: PlanRow, person: Person) -> Revision | None:
    return _redo_from(_mine(row, person))


def _take_back(row: PlanRow, person: Person, base: int, target: Revision, kind: str, label: str) -> Loaded:
    now = at_base(row, base)
    documents = dict(Revision.objects.filter(plan=row, number__in=(target.number - 1, target.number)).values_list(
        "number", "document"))
    before, after = (known(bytes(documents[number])).plan for number in (target.number - 1, target.number))
    plan = compare.take_back(before, after, now.plan)
    return _move(row, person, plan, kind, label, target.number)


__all__ = ["Conflict", "Loaded", "PlanError", "begin", "can_undo_redo", "edit", "empty", "load", "redo", "restore",
           "take_in", "undo"]
