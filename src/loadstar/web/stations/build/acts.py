"""What is sent from the Build station: ticks, one or several, what went wrong, notes. The plan is not changed by it."""

import math
import re

from django.contrib import messages
from django.http import Http404

from loadstar.core.build.log import can_be_done, standing
from loadstar.core.build.operations import Operation
from loadstar.core.errors import PlanError
from loadstar.core.quantities import NoQuantity, read

from ...evidence.sheet import Sheet, made, sheet_of
from ...frame.frame import Frame
from ...frame.station import Act, Again
from ...records import store
from ...records import work as records
from ...records.beside import photograph
from ...records.photos import shown_by

TOKEN = re.compile(r"[0-9a-f]{8,40}")
MOST_PULL_N, MOST_AT_ONCE = 2000.0, 1000


def _tick(frame: Frame) -> str:
    """One operation done, or to be done again (with why)."""
    post = frame.request.POST
    sheet, base = _made_on(frame)
    operation = sheet.work.operations.get(post.get("operation", ""))
    what = post.get("what", "done")
    if operation is None or what not in ("done", "again", "note"):
        raise Again(422, told="That operation is no longer in this plan: it was changed meanwhile. Nothing was ticked.")
    pull_n = _pull(operation, post.get("pull_n", "")) if what == "done" else None
    note = " ".join(post.get("note", "").split())
    if what != "done" and not note:
        told = "Say in a few words what went wrong." if what == "again" else "Write what is to be noted."
        raise Again(422, told=told, typed=post.dict())
    entries = records.entries(frame.row)
    now = standing(sheet.work, entries)
    if what == "done" and operation.key in now.done:
        last = next(e for e in reversed(entries) if e.operation == operation.key and e.what == "done")
        messages.info(frame.request, f"{last.by} ticked it already, {last.at}: nothing was added.")
        return frame.link(sel="")
    if what == "done" and (waits := can_be_done(sheet.work, operation.key, now.done)):
        raise Again(422, told=f"First: {sheet.work.operations[waits[0]].words}.", typed=post.dict())
    records.write(frame.row, frame.membership.person, base, operation,
                  records.Line(what, post.get("tool", ""), pull_n, note, _token(post.get("token", ""))))
    _noted(frame)
    return frame.link(sel="")


def _ticks(frame: Frame) -> str:
    """Several at once, as they were ticked on paper: in their order, as far as nothing is left out before them."""
    frame.kept["view"] = "list"
    post = frame.request.POST
    sheet, base = _made_on(frame)
    wanted = set(post.getlist("operation")[:MOST_AT_ONCE])
    if unknown := wanted - sheet.work.operations.keys():
        raise Again(422, told=f"{len(unknown)} of these are no longer in this plan: it was changed meanwhile.")
    done = set(standing(sheet.work, records.entries(frame.row)).done)
    token = _token(post.get("token", ""))
    left = []
    for n, key in enumerate(k for k in sheet.keys if k in wanted and k not in done):
        operation = sheet.work.operations[key]
        if can_be_done(sheet.work, key, frozenset(done)):
            left.append(operation)
            continue
        records.write(frame.row, frame.membership.person, base, operation,
                      records.Line("done", token=f"{token}{n:x}"))
        done.add(key)
    _noted(frame)
    if left:
        waits = can_be_done(sheet.work, left[0].key, frozenset(done))
        first = sheet.work.operations[waits[0]].words
        raise Again(422, told=f"{len(left)} not ticked. {left[0].words}: first {first}.")
    return frame.link(sel="")


def _noted(frame: Frame) -> None:
    """How far the work now is, for the lists that show it."""
    sheet = sheet_of(frame)
    records.note_work(frame.row, len(standing(sheet.work, records.entries(frame.row)).done),
                      len(sheet.work.operations))


def _made_on(frame: Frame) -> tuple[Sheet, int]:
    """The sheet of the revision that was worked by, which may be older than the plan is now."""
    base = frame.made_on
    if base == frame.loaded.number:
        return sheet_of(frame), base
    if not 1 <= base < frame.loaded.number:
        raise Http404
    return made(store.load(frame.row, base).analysis), base


def _token(text: str) -> str:
    return text if TOKEN.fullmatch(text) else ""


def _pull(operation: Operation, typed: str) -> float | None:
    """N that it was pulled with, where it was said."""
    text = typed.strip()
    if not text or operation.pull_n is None:
        return None
    try:
        value = read(text, "N")
    except NoQuantity:
        value = math.nan
    if not 0 < value <= MOST_PULL_N:
        raise Again(422, told=f"{typed[:20]} is no force from 1 to {MOST_PULL_N:.0f} N.", typed={"pull_n": typed})
    return value


def _photo(frame: Frame) -> str:
    """A photograph of what has just been made."""
    element = frame.request.POST.get("element", "")
    if element not in shown_by(frame.plan):
        raise Http404
    try:
        there = photograph(frame.membership, frame.row, element, frame.request.POST.get("caption", ""),
                           frame.request.FILES.get("photo"), frame.link(sel=""))
    except PlanError as error:
        raise Again(422, told=" ".join(f.sentence for f in error.faults)) from error
    messages.success(frame.request, f"Photograph kept with {element}.")
    return there


ACTS: dict[str, Act] = {"tick": _tick, "ticks": _ticks, "photo": _photo}
