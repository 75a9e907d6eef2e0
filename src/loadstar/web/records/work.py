"""The log of the work and the readings of the proof, as the core takes them, and the one place that writes them."""

import secrets
from dataclasses import dataclass
from typing import Any

from django.db import IntegrityError, transaction

from loadstar.core.build.log import Entry
from loadstar.core.build.operations import Operation
from loadstar.core.prove.results import Shown

from ..plans.models import PlanHead, PlanSummary
from ..workshop.models import Person
from .models import BuildEntry, ProofReading

TIME = "%-d %b %H:%M"
OPEN = float("inf")


def entries(row: PlanHead) -> list[Entry]:
    """The log of a plan, in the order written."""
    found = BuildEntry.objects.filter(plan=row).select_related("by").order_by("pk")
    return [Entry(e.operation, e.what, e.spec, e.revision, e.named or e.by.shown_name, e.at.strftime(TIME), e.tool,
                  e.pull_n, e.note, e.element) for e in found]


@dataclass(frozen=True)
class Line:
    """What is written of an operation: done, again or a note, with which tool, at how many N it held. `token` is the
    page's name for it: what comes twice is written once."""

    what: str
    tool: str = ""
    pull_n: float | None = None
    note: str = ""
    token: str = ""


def write(row: PlanHead, person: Person, revision: int, operation: Operation, line: Line) -> bool:
    """One line more; False where the same had come before (its token is known)."""
    try:
        with transaction.atomic():
            BuildEntry.objects.create(plan=row, revision=revision, operation=operation.key, element=operation.element,
                                      what=line.what, spec=operation.spec[:200],
                                      tool=line.tool[:60] or operation.tool[:60],
                                      pull_n=line.pull_n, note=line.note[:300],
                                      token=line.token[:40] or secrets.token_hex(16),
                                      by=person)
    except IntegrityError:
        if line.token and BuildEntry.objects.filter(plan=row, token=line.token[:40]).exists():
            return False
        raise
    return True


def note_work(row: PlanHead, done: int, of: int) -> None:
    """How far the work is, for the lists that show it."""
    PlanSummary.objects.filter(plan=row).update(work_done=done, work_all=of)


def note_proof(row: PlanHead, read: int, of: int, out: int) -> None:
    """How far the proof is, likewise."""
    PlanSummary.objects.filter(plan=row).update(proof_read=read, proof_all=of, proof_out=out)


def readings(row: PlanHead) -> list[Shown]:
    """The readings of a plan's proof, in the order taken."""
    found = ProofReading.objects.filter(plan=row).select_related("by").order_by("pk")
    return [Shown(r.step, r.load, r.quantity, r.row, r.red, r.black, OPEN if r.value is None else r.value,
                  OPEN if r.expected is None else r.expected, r.spread, r.revision, r.named or r.by.shown_name,
                  r.taken.strftime(TIME), r.instrument, r.pk,
                  OPEN if r.plain is None else r.plain, tuple(r.off.split())) for r in found]


def keep(plan: PlanHead, person: Person, revision: int, **of: Any) -> ProofReading:
    """One reading more. Infinite ohms are an open circuit."""
    for name in ("value", "expected", "plain"):
        if of[name] == OPEN:
            of[name] = None
    if of["spread"] == OPEN:
        of["spread"] = 0.0
    return ProofReading.objects.create(plan=plan, revision=revision, by=person, **of)
