"""Undo and redo: each person takes back and puts back what they did themselves, whatever others did meanwhile."""

from collections.abc import Iterable, Iterator
from itertools import tee

from loadstar.core.errors import refuse
from loadstar.core.plan import compare

from ..plans.known import known
from ..plans.models import PlanHead, Revision
from ..workshop.models import Person
from .store import Loaded, at_base, move

HISTORY_LOOKED_AT = 200  # revisions read at a time; most undos are found in the first few


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


def can_undo_redo(row: PlanHead, person: Person) -> tuple[str, str]:
    """Labels of what undo and redo would do for this person; empty when there is nothing."""
    for_undo, for_redo = tee(_mine(row, person))
    back, again = _undo_from(for_undo), _redo_from(for_redo)
    return (back.label if back else ""), (again.label.removeprefix("undone: ") if again else "")


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
    return move(now, person, plan, kind, label, target.number)
