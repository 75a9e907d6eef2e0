"""What is sent from the Build station: ticks of goes, what went wrong, notes, trials. The plan is not changed by it."""

import hashlib
import math
import re
from collections import Counter
from collections.abc import Sequence

from django.contrib import messages
from django.http import Http404, QueryDict

from loadstar.core.build.bench_test import trials
from loadstar.core.build.goes import Line
from loadstar.core.build.log import HELD, left_out, standing
from loadstar.core.errors import PlanError
from loadstar.core.quantities import NoQuantity, read

from ...evidence.sheet import Sheet, made, note, sheet_of
from ...frame.frame import Frame
from ...frame.station import Act, Again
from ...records import store
from ...records import work as records
from ...records.beside import photograph
from ...records.photos import shown_by

TOKEN = re.compile(r"[0-9a-f]{8,40}")
PAGE_DIGITS, LINE_DIGITS = 24, 16  # of a line's name: 40 at the most
WHATS = ("done", "some", "again", "note")
MOST_PULL_N, MOST_AT_ONCE, MOST_TRIAL_A, MOST_TRIAL_V = 2000.0, 1000, 300.0, 120.0


def _tick(frame: Frame) -> str:
    """A go done, or some lines of it; or a line of it to be made again (with why), or a note on it."""
    post, what = frame.request.POST, frame.request.POST.get("what", "done")
    sheet, base = _made_on(frame)
    go = next((g for g in sheet.goes if g.key == post.get("go")), None)
    lines = [one for one in go.lines if what == "done" or one.key in post.getlist("line")] if go else []
    if go is None or what not in WHATS or len(lines) < len(set(post.getlist("line"))):
        raise Again(422, told="That work is no longer in this plan: it was changed meanwhile. Nothing was ticked.")
    if not lines:
        raise Again(422, told="Mark the lines that are meant.", typed=post.dict())
    if what in ("again", "note"):
        _said_of(frame, base, lines, what)
    else:
        _done(frame, sheet, base, [(line, _pull(line, post)) for line in lines])
    note(frame.row, sheet_of(frame))
    return frame.link(sel="")


def _said_of(frame: Frame, base: int, lines: Sequence[Line], what: str) -> None:
    """Of each line what went wrong with it, or is to be noted: at the operation that the rest of it hangs on."""
    post = frame.request.POST
    note = " ".join(post.get("note", "").split())
    if not note:
        told = "Say in a few words what went wrong." if what == "again" else "Write what is to be noted."
        raise Again(422, told=told, typed=post.dict())
    for line in lines:
        records.write(frame.row, frame.membership.person, base, line.main, records.Line(
            what, post.get("tool", ""), note=note, token=_named(post, line.key, note)))


def _done(frame: Frame, sheet: Sheet, base: int, pulled: Sequence[tuple[Line, float | None]]) -> None:
    """Each operation of some lines ticked, but those that are done; what had to come before and is not ticked is
    told."""
    post, entries = frame.request.POST, records.entries(frame.row)
    now = standing(sheet.work, entries)
    fresh = [(o, pull_n) for line, pull_n in pulled for o in line.operations if o.key not in now.done]
    if not fresh:
        key = pulled[0][0].operations[-1].key
        last = next(e for e in reversed(entries) if e.operation == key and e.what == "done")
        messages.info(frame.request, f"{last.by} ticked it already, {last.at}: nothing was added.")
    again = Counter(e.operation for e in entries if e.what == "again")
    for operation, pull_n in fresh:
        asked = operation.pull_n is not None
        records.write(frame.row, frame.membership.person, base, operation, records.Line(
            "done", post.get("tool", ""), pull_n if asked else None, HELD if asked and pull_n is None else "",
            _named(post, operation.key, again[operation.key])))
    if missed := left_out(sheet.work, [o.key for o, _ in fresh], now.done):
        more = f", and {len(missed) - 1} more" if len(missed) > 1 else ""
        told = f"Ticked. Not ticked, though it comes before: {missed[0].words}{more}."
        messages.warning(frame.request, f"{told} Until it is, nothing shows that it was done.")


def _ticks(frame: Frame) -> str:
    """Several goes at once, as they were ticked on paper."""
    frame.kept["view"] = "list"
    sheet, base = _made_on(frame)
    wanted = set(frame.request.POST.getlist("go")[:MOST_AT_ONCE])
    if unknown := wanted - {g.key for g in sheet.goes}:
        raise Again(422, told=f"{len(unknown)} of these are no longer in this plan: it was changed meanwhile.")
    if not wanted:
        raise Again(422, told="Mark what has been done.")
    _done(frame, sheet, base, [(line, None) for go in sheet.goes if go.key in wanted for line in go.lines])
    note(frame.row, sheet_of(frame))
    return frame.link(sel="")


def _trial(frame: Frame) -> str:
    """What a circuit showed on the bench, from a small battery."""
    frame.kept["view"] = "trial"
    post = frame.request.POST
    trial = next((t for t in trials(frame.analysis) if t.load.id == post.get("load")), None)
    if trial is None:
        raise Again(422, told="That circuit is no longer in this plan: it was changed meanwhile. Nothing was kept.")
    amps = _figure(post, "amps", "A", MOST_TRIAL_A)
    volts = _figure(post, "volts", "V", MOST_TRIAL_V)
    told = trial.told(amps, volts)
    records.write(frame.row, frame.membership.person, frame.loaded.number, trial.operation, records.Line(
        "done", note=told, token=_named(post, trial.load.id, told)))
    return frame.link(sel="")


def _figure(post: QueryDict, name: str, unit: str, most: float) -> float:
    typed = post.get(name, "")
    try:
        value = read(typed, unit)
    except NoQuantity as error:
        raise Again(422, told=str(error), typed=post.dict()) from error
    if not 0 <= value <= most:
        raise Again(422, told=f"{typed[:20]} is nothing that a circuit shows from a small battery.", typed=post.dict())
    return value


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


def _named(post: QueryDict, *said: object) -> str:
    """The page's name for a line that it writes, by what it says: pressed twice it is one, and another note of the same
    page another; "" where it gave none."""
    token = _token(post.get("token", ""))
    words = "/".join(map(str, (post.get("what", "done"), *said)))
    return token[:PAGE_DIGITS] + hashlib.sha256(words.encode()).hexdigest()[:LINE_DIGITS] if token else ""


def _pull(line: Line, post: QueryDict) -> float | None:
    """N that it was pulled with, where it was said; None: it held what is asked."""
    operation, typed = line.pull, post.get(f"pull_n-{line.key}", post.get("pull_n", "")).strip()
    if not typed or operation is None:
        return None
    try:
        value = read(typed, "N")
    except NoQuantity:
        value = math.nan
    if not 0 < value <= MOST_PULL_N:
        raise Again(422, told=f"{typed[:20]} is no force from 1 to {MOST_PULL_N:.0f} N.", typed=post.dict())
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


ACTS: dict[str, Act] = {"tick": _tick, "ticks": _ticks, "trial": _trial, "photo": _photo}
