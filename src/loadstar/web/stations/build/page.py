"""What the Build station shows: one go at a time, all of them, what to lay out, trials on the bench, the log."""

import secrets
from collections.abc import Callable
from typing import Any

from loadstar.core.build.bench_test import trials
from loadstar.core.build.goes import Go
from loadstar.core.build.log import Entry, Standing, kit, left_out

from ...evidence.sheet import Sheet, is_done, sheet_of, standing_of
from ...frame.frame import Frame
from ...records.models import Photo
from ...records.photos import shown_by

VIEWS = (("work", "At work"), ("list", "All work"), ("kit", "Lay out"), ("trial", "Bench trial"), ("log", "Log"))
SHOWN_AHEAD = 4
TRIAL = "Bench trial of"


def build(frame: Frame) -> dict[str, Any]:
    """The part of the station that is open."""
    sheet = sheet_of(frame)
    view = frame.kept["view"] if frame.kept["view"] in PARTS else "work"
    tabs = [{"key": k, "name": n, "here": k == view, "link": frame.link(view="" if k == "work" else k)}
            for k, n in VIEWS]
    shown: dict[str, Any] = {"tabs": tabs, "part": f"build/{view}.html", "sheet": sheet, "circle": sheet.circle}
    if not sheet.work.operations:
        return {**shown, "empty": True}
    entries, now = standing_of(frame, sheet)
    go = _at_hand(frame, sheet, now)
    goes = [{"go": g, "number": n, "here": g is go, "done": is_done(g, now), "begun": _begun(g, now),
             "link": frame.link(go=str(n), view="")} for n, g in enumerate(sheet.goes, 1)]
    return {**shown, "goes": goes, "now": now, "done": sum(g["done"] for g in goes), "all": len(goes),
            "over": go is not None and is_done(go, now),
            **(PARTS[view](frame, sheet, now, entries, go) if go else {"part": ""})}


def _at_hand(frame: Frame, sheet: Sheet, now: Standing) -> Go | None:
    """The go that is looked at: the one asked for, or the first with something left."""
    asked = frame.kept["go"]
    if asked.isascii() and asked.isdigit() and 1 <= int(asked) <= len(sheet.goes):
        return sheet.goes[int(asked) - 1]
    return next((g for g in sheet.goes if not is_done(g, now)), sheet.goes[-1] if sheet.goes else None)


def _begun(go: Go, now: Standing) -> str:
    done = sum(all(o.key in now.done for o in line.operations) for line in go.lines)
    return f"{done} of {len(go.lines)}" if 0 < done < len(go.lines) else ""


def _work(frame: Frame, sheet: Sheet, now: Standing, entries: list[Entry], go: Go) -> dict[str, Any]:
    """The go at hand, large, with its lines, and a few that follow."""
    changed = {c.operation.key: c for c in now.changed}
    rows = [{"line": line, "done": all(o.key in now.done for o in line.operations),
             "was": next((changed[o.key] for o in line.operations if o.key in changed), None)} for line in go.lines]
    at = sheet.goes.index(go)
    after = [g for g in sheet.goes[at + 1:] if not is_done(g, now)][:SHOWN_AHEAD]
    missed = left_out(sheet.work, [o.key for o in go.operations], now.done)
    last = [e for e in entries if e.what != "note"][-1:]
    onward = frame.link(go=str(sheet.goes.index(after[0]) + 1), view="") if after else ""
    return {"current": go, "rows": rows, "onward": onward,
            "is_done": is_done(go, now), "after": after, "missed": missed[:SHOWN_AHEAD],
            "elements": dict.fromkeys(o.element for o in go.operations if o.element in shown_by(frame.plan)),
            "pulls": any(line.pull for line in go.lines), "token": secrets.token_hex(12),
            "last": last[0] if last else None, "last_words": _words(sheet, last[0]) if last else "",
            "typed": frame.extra.get("typed", {}), "told": frame.extra.get("told", "")}


def _words(sheet: Sheet, entry: Entry) -> str:
    found = sheet.work.operations.get(entry.operation)
    trial = f"{TRIAL} {entry.element}" if entry.operation.startswith("trial/") else ""
    return found.words if found else trial or entry.operation


def _list(frame: Frame, sheet: Sheet, now: Standing, entries: list[Entry], go: Go) -> dict[str, Any]:
    """Every go with its tick."""
    last = {e.operation: e for e in entries if e.what == "done"}
    changed = {c.operation.key: c for c in now.changed}
    rows = [{"go": g, "number": n, "done": is_done(g, now), "begun": _begun(g, now),
             "entry": last.get(g.operations[-1].key), "link": frame.link(go=str(n), view=""),
             "changed": [changed[o.key] for o in g.operations if o.key in changed]}
            for n, g in enumerate(sheet.goes, 1)]
    return {"rows": rows, "token": secrets.token_hex(12), "told": frame.extra.get("told", "")}


def _kit(frame: Frame, sheet: Sheet, now: Standing, entries: list[Entry], go: Go) -> dict[str, Any]:
    """What all that is left needs."""
    return {"kit": kit(o for o in sheet.work.operations.values() if o.key not in now.done)}


def _trial(frame: Frame, sheet: Sheet, now: Standing, entries: list[Entry], go: Go) -> dict[str, Any]:
    """Every circuit from a small battery, with what it showed."""
    said = {e.operation: e for e in entries}
    return {"trials": [{"trial": t, "entry": said.get(t.operation.key)} for t in trials(frame.analysis)],
            "token": secrets.token_hex(12), "told": frame.extra.get("told", ""), "typed": frame.extra.get("typed", {})}


def _log(frame: Frame, sheet: Sheet, now: Standing, entries: list[Entry], go: Go) -> dict[str, Any]:
    """What was written, the newest first."""
    photos = Photo.objects.filter(plan=frame.row).defer("image").order_by("pk")
    return {"entries": [{"entry": e, "words": _words(sheet, e)} for e in reversed(entries)], "photos": list(photos)}


PARTS: dict[str, Callable[[Frame, Sheet, Standing, list[Entry], Go], dict[str, Any]]] = {
    "work": _work, "list": _list, "kit": _kit, "trial": _trial, "log": _log}
