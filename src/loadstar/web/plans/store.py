"""The one place that writes plans: begin, edit, undo, redo, import. Each is a verb: fetch, apply, record."""

import zlib
from collections import Counter
from dataclasses import dataclass
from functools import lru_cache

from django.db import transaction

from loadstar.core.analysis import CORE_VERSION, Analysis, analyse
from loadstar.core.findings import Finding
from loadstar.core.plan import compare, document
from loadstar.core.plan.edits import Edit, Rename, apply
from loadstar.core.plan.errors import PlanError, refuse
from loadstar.core.plan.model import FusePart, Plan

from ..workshop.models import Person, Workshop
from .models import PartUse, PlanRow, Revision

HISTORY_LOOKED_AT = 400


class Conflict(Exception):
    """Somebody else moved the plan's head in between. Carries what they changed."""

    def __init__(self, head: int, by: str, changes: list[compare.Change]) -> None:
        super().__init__(head)
        self.head, self.by, self.changes = head, by, changes


@dataclass(frozen=True)
class Loaded:
    """A plan as it stands."""

    row: PlanRow
    number: int
    plan: Plan

    @property
    def analysis(self) -> Analysis:
        """Everything computed about it (kept for the newest plans of this process)."""
        return analysis_of(self.plan)


def pack(plan: Plan) -> bytes:
    """A document as it is stored."""
    return zlib.compress(document.to_bytes(plan), 9)


def unpack(data: bytes) -> Plan:
    """A stored document, checked again and brought to the newest version."""
    return _unpacked(bytes(data))


@lru_cache(maxsize=64)
def _unpacked(data: bytes) -> Plan:
    return document.from_json(zlib.decompress(data))


def analysis_of(plan: Plan) -> Analysis:
    """The analysis of a plan; same document, same object while it is kept."""
    return _analysed(_Keyed(document.content_hash(plan), plan))


@dataclass(frozen=True, eq=False)
class _Keyed:
    key: str
    plan: Plan

    def __hash__(self) -> int:
        return hash(self.key)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Keyed) and self.key == other.key


@lru_cache(maxsize=64)
def _analysed(keyed: _Keyed) -> Analysis:
    return analyse(keyed.plan)


def load(row: PlanRow, number: int | None = None) -> Loaded:
    """A revision of a plan, the newest unless told otherwise."""
    wanted = row.head if number is None else number
    data = Revision.objects.filter(plan=row, number=wanted).values_list("document", flat=True).get()
    return Loaded(row, wanted, unpack(data))


def begin(workshop: Workshop, person: Person, name: str) -> PlanRow:
    """A new, empty plan, with the workshop's house rules."""
    rules = workshop.rules
    empty = Plan(rules=rules, workshop_rules=rules)
    return _first(workshop, person, apply(empty, Rename(name=name)), Revision.Kind.EDIT, "begun")


def take_in(workshop: Workshop, person: Person, plan: Plan) -> PlanRow:
    """A plan from a file."""
    return _first(workshop, person, plan, Revision.Kind.IMPORT, "imported from a file")


def _first(workshop: Workshop, person: Person, plan: Plan, kind: str, label: str) -> PlanRow:
    with transaction.atomic():
        row = PlanRow.objects.create(workshop=workshop, head=0, name=plan.name, machine=plan.machine.name,
                                     machine_kind=plan.machine.kind)
        _record(row, person, plan, kind, label, None)
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


def can_undo_redo(row: PlanRow, person: Person) -> tuple[str, str]:
    """Labels of what undo and redo would do for this person; empty when there is nothing."""
    history = _mine(row, person)
    back, again = _undo_from(history), _redo_from(history)
    return (back.label if back else ""), (again.label.removeprefix("undone: ") if again else "")


def at_base(row: PlanRow, base: int) -> Loaded:
    """The newest revision, when it is `base`; else Conflict."""
    row.refresh_from_db(fields=["head"])
    if base != row.head:
        raise _conflict(row, base)
    return load(row)


def _conflict(row: PlanRow, base: int) -> Conflict:
    head = load(row)
    by = Revision.objects.filter(plan=row, number__gt=base).select_related("author").order_by("-number").first()
    since = Revision.objects.filter(plan=row, number=base).values_list("document", flat=True).first()
    changes = compare.changes(unpack(since), head.plan) if since is not None else []
    return Conflict(row.head, by.author.shown_name if by else "somebody", changes)


def _move(row: PlanRow, person: Person, plan: Plan, kind: str, label: str, reverts: int | None = None) -> Loaded:
    base = row.head
    with transaction.atomic():
        # Compare and swap: of two that start from the same head one finds no row to move.
        moved = PlanRow.objects.filter(pk=row.pk, head=base).update(head=base + 1)
        if not moved:
            row.refresh_from_db(fields=["head"])
            raise _conflict(row, base)
        _record(row, person, plan, kind, label, reverts)
    return Loaded(row, row.head, plan)


def _record(row: PlanRow, person: Person, plan: Plan, kind: str, label: str, reverts: int | None) -> None:
    Revision.objects.create(plan=row, number=row.head + 1, author=person, kind=kind, label=label[:200], reverts=reverts,
                            document=pack(plan), core_version=CORE_VERSION)
    row.head += 1
    _project(row, plan, analysis_of(plan))


def _project(row: PlanRow, plan: Plan, analysis: Analysis) -> None:
    counts = Counter(f.severity for f in analysis.findings)
    row.name, row.machine, row.machine_kind = plan.name, plan.machine.name, plan.machine.kind
    row.loads, row.stops, row.cautions = len(plan.loads), counts["stop"], counts["caution"]
    first: Finding | None = analysis.findings[0] if analysis.findings else None
    row.worst = first.sentence[:300] if first else ""
    row.idle_margin_a = analysis.ledgers["idle"].margin_a if plan.generator else None
    days = analysis.parked.days if analysis.parked else None
    row.range_km = analysis.pack.range_km if analysis.pack else None
    row.parked_days = days if days is not None and days < 1e5 else None
    row.save()
    uses: Counter[tuple[str, str, str]] = Counter()
    for wire in analysis.wires.values():
        source = plan.wire(wire.id)
        uses["wire", f"{wire.area_mm2:g} mm² {source.colour}{source.stripe}", "m"] += wire.length_m
    for part in analysis.plan.parts:
        if isinstance(part, FusePart) and analysis.sized:
            uses["fuse", f"blade fuse {analysis.rating_a(part.id):g} A", ""] += 1
        elif part.kind in ("relay", "block", "switch", "load"):
            uses[part.kind, part.name if part.kind in ("load", "block") else part.kind, ""] += 1
    PartUse.objects.filter(plan=row).delete()
    PartUse.objects.bulk_create(PartUse(plan=row, kind=k, what=w[:80], unit=u, quantity=n)
                                for (k, w, u), n in uses.items())


def _mine(row: PlanRow, person: Person) -> list[Revision]:
    return list(Revision.objects.filter(plan=row, author=person).defer("document").order_by("-number")
                [:HISTORY_LOOKED_AT])


def _undo_from(history: list[Revision]) -> Revision | None:
    """Newest first: undos cancel the edits they name, redos cancel undos."""
    cancelled: set[int] = set()
    for revision in history:
        if revision.number in cancelled:
            continue
        if revision.kind in (Revision.Kind.UNDO, Revision.Kind.REDO) and revision.reverts:
            cancelled.add(revision.reverts)
        elif revision.kind == Revision.Kind.EDIT and revision.number > 1:
            return revision
    return None


def _redo_from(history: list[Revision]) -> Revision | None:
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
    before, after = unpack(documents[target.number - 1]), unpack(documents[target.number])
    plan = compare.take_back(before, after, now.plan)
    return _move(row, person, plan, kind, label, target.number)


__all__ = ["Conflict", "Loaded", "PlanError", "begin", "can_undo_redo", "edit", "load", "redo", "take_in", "undo"]
