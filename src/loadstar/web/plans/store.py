"""The one place that writes plans: begin, edit, undo, redo, import, archive. Each is a verb: fetch, apply, record.

A plan's head is moved by compare-and-swap, which also locks it: what else belongs to the new revision is written under
that lock, so that of all who write to one plan each sees what the one before has left. What is computed is computed
before.
"""

from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import datetime
from itertools import tee

from django.db import transaction
from django.db.models import F, Max
from django.utils import timezone

from loadstar.core import errors
from loadstar.core.analysis import CORE_VERSION, Analysis
from loadstar.core.doc.survey import Plug
from loadstar.core.edits import Edit, Rename, apply
from loadstar.core.errors import PlanError, refuse
from loadstar.core.order import order
from loadstar.core.parts.base import Part
from loadstar.core.parts.tap import Tap
from loadstar.core.plan import compare
from loadstar.core.plan.model import Plan

from ..records.models import Need, TakenReading, Thing
from ..workshop.models import Person, Workshop
from ..workshop.turns import taken_in_turn
from .known import Known, known, pack
from .models import PlanHead, PlanSummary, Revision

HISTORY_LOOKED_AT = 200  # revisions read at a time; most undos are found in the first few


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
    made = _Made.of(plan)
    with transaction.atomic():
        row = PlanHead.objects.create(workshop=workshop, head=1)
        _record(row, 1, person, made, kind, label, None)
    return row


def edit(row: PlanHead, person: Person, base: int, change: Edit) -> Loaded:
    """Apply an edit to revision `base`. PlanError when it cannot be; Conflict when `base` is no longer the newest."""
    now = at_base(row, base)
    changed = apply(now.plan, change)
    if changed == now.plan:
        return now
    return _move(now, person, changed, Revision.Kind.EDIT, change.label(now.plan))


def undo(row: PlanHead, person: Person, base: int) -> Loaded:
    """Take back this person's latest edit that still stands."""
    target = _undo_target(row, person)
    if target is None:
        raise refuse("", "undo", "There is no edit of yours left to take back.")
    return _take_back(row, person, base, target, Revision.Kind.UNDO, f"undone: {target.label}")


def redo(row: PlanHead, person: Person, base: int) -> Loaded:
    """Put back what this person undid last, unless they have edited since."""
    target = _redo_target(row, person)
    if target is None:
        raise refuse("", "redo", "There is nothing that you have undone to put back.")
    return _take_back(row, person, base, target, Revision.Kind.REDO, target.label.replace("undone: ", "redone: ", 1))


def restore(row: PlanHead, person: Person, base: int, number: int) -> Loaded:
    """A former revision, made the newest: nothing of what lies between is lost."""
    return _move(at_base(row, base), person, load(row, number).plan, Revision.Kind.RESTORE,
                 f"restored as of revision {number}")


def can_undo_redo(row: PlanHead, person: Person) -> tuple[str, str]:
    """Labels of what undo and redo would do for this person; empty when there is nothing."""
    for_undo, for_redo = tee(_mine(row, person))
    back, again = _undo_from(for_undo), _redo_from(for_redo)
    return (back.label if back else ""), (again.label.removeprefix("undone: ") if again else "")


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


def _move(now: Loaded, person: Person, plan: Plan, kind: str, label: str, reverts: int | None = None) -> Loaded:
    """Make a plan the revision after the one that was loaded."""
    row, base, made = now.row, now.number, _Made.of(plan)
    if not _moved(row, base, person, made, kind, label, reverts):  # told with no lock held
        row.refresh_from_db(fields=["head", "archived"])
        _refuse_archived(row)
        raise _conflict(row, base)
    row.head = base + 1
    return Loaded(row, row.head, made.known)


@taken_in_turn
def _moved(row: PlanHead, base: int, person: Person, made: _Made, kind: str, label: str, reverts: int | None) -> bool:
    with transaction.atomic():
        # Compare and swap: of two that start from the same head, or of an edit and the archive, one finds no row to
        # move.
        moved = PlanHead.objects.filter(pk=row.pk, head=base, archived=None).update(head=base + 1)
        if moved:
            _record(row, base + 1, person, made, kind, label, reverts)
    return bool(moved)


def _record(row: PlanHead, number: int, person: Person, made: _Made, kind: str, label: str,
            reverts: int | None) -> None:
    """A revision's row and all that is worked out of it; only for who holds the head."""
    Revision.objects.create(plan=row, number=number, author=person, kind=kind, label=label[:200], reverts=reverts,
                            document=made.stored, core_version=CORE_VERSION)
    _summarise(row, number, made.known, timezone.now())
    _keep_found(row, made.known)
    _keep_readings(row, person, made.known.plan)


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
                _summarise(held, now.number, now.known, made)
                if held.archived is None:
                    _keep_found(held, now.known)
                return
        row.refresh_from_db(fields=["head"])


def _summarise(row: PlanHead, number: int, found: Known, changed: datetime) -> None:
    """What the bench shows; only for who holds the head."""
    plan, analysis = found.plan, found.analysis
    counts = Counter(f.severity for f in analysis.findings)
    days = analysis.parked.days if analysis.parked else None
    PlanSummary.objects.update_or_create(plan=row, defaults={
        "workshop_id": row.workshop_id, "revision": number, "core_version": CORE_VERSION, "name": plan.name,
        "machine": plan.machine.name, "machine_kind": plan.machine.kind, "changed": changed, "loads": len(plan.loads),
        "stops": counts["stop"], "cautions": counts["caution"],
        "worst": analysis.findings[0].sentence[:300] if analysis.findings else "",
        "idle_margin_a": analysis.ledgers["idle"].margin_a if plan.generator else None,
        "parked_days": days if days is not None and days < 1e5 else None,
        "range_km": analysis.pack.range_km if analysis.pack else None})


def _keep_found(row: PlanHead, found: Known) -> None:
    """By what a plan on the bench is found; only for who holds the head."""
    _keep_needs(row, found.analysis)
    _keep_things(row, found.plan)


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
            _keep_found(row, now.known)
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


def is_stale(row: PlanHead) -> bool:
    """Whether a plan's summary is not of its newest revision and this version of the core, or is gone."""
    return not PlanSummary.objects.filter(plan=row, core_version=CORE_VERSION, revision=F("plan__head")).exists()


def stale() -> list[int]:
    """Plans whose summary is so; the bench's first."""
    fresh = PlanSummary.objects.filter(core_version=CORE_VERSION, revision=F("plan__head"))
    found = PlanHead.objects.exclude(pk__in=fresh.values("pk")).order_by("archived", "-pk")
    return list(found.values_list("pk", flat=True))


def _keep_needs(row: PlanHead, analysis: Analysis) -> None:
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
    Need.objects.bulk_create(Need(workshop_id=row.workshop_id, plan=row, what=what, text=lowered(what, Need),
                                  amount=amount, unit=unit)
                             for what, (amount, unit) in wanted.items() if there.get(what) != (amount, unit))


def _keep_things(row: PlanHead, plan: Plan) -> None:
    """The plan's parts, connectors and pins by the words they can be found by; written only where they changed."""
    wanted = {p.id: (getattr(p, "kind", "plug"), p.name, _words_of(plan, p)[:300]) for p in (*plan.parts, *plan.plugs)}
    there = {t.element: (t.kind, t.name, t.words) for t in Thing.objects.filter(plan=row)}
    if wanted == there:
        return
    if gone := [element for element, kept in there.items() if wanted.get(element) != kept]:
        Thing.objects.filter(plan=row, element__in=gone).delete()
    Thing.objects.bulk_create(Thing(workshop_id=row.workshop_id, plan=row, element=element, kind=kind, name=name,
                                    words=words, text=lowered(f"{name} {words}", Thing))
                              for element, (kind, name, words) in wanted.items()
                              if there.get(element) != (kind, name, words))


def lowered(text: str, model: type[Need] | type[Thing]) -> str:
    """A text as it is looked for, no longer than its column: in small letters it may be longer than it was."""
    return text.lower()[:model._meta.get_field("text").max_length]


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


def _mine(row: PlanHead, person: Person) -> Iterator[Revision]:
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


def _undo_target(row: PlanHead, person: Person) -> Revision | None:
    return _undo_from(_mine(row, person))


def _redo_target(row: PlanHead, person: Person) -> Revision | None:
    return _redo_from(_mine(row, person))


def _take_back(row: PlanHead, person: Person, base: int, target: Revision, kind: str, label: str) -> Loaded:
    now = at_base(row, base)
    documents = dict(Revision.objects.filter(plan=row, number__in=(target.number - 1, target.number)).values_list(
        "number", "document"))
    before, after = (known(bytes(documents[number])).plan for number in (target.number - 1, target.number))
    plan = compare.take_back(before, after, now.plan)
    return _move(now, person, plan, kind, label, target.number)


__all__ = ["Conflict", "Loaded", "PlanError", "begin", "can_undo_redo", "edit", "empty", "load", "redo", "restore",
           "take_in", "undo"]
