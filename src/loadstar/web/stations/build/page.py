"""What the Build station shows: one operation at a time, all of them, what to lay out, trials on the bench, the log."""

import secrets
from collections.abc import Callable
from typing import Any

from loadstar.core.build.bench_test import trials
from loadstar.core.build.log import Entry, Standing, can_be_done, kit
from loadstar.core.build.operations import Operation

from ...evidence.sheet import Sheet, sheet_of, standing_of
from ...frame.frame import Frame
from ...records.models import Photo

VIEWS = (("work", "At work"), ("list", "All operations"), ("kit", "Lay out"), ("trial", "Bench trial"), ("log", "Log"))
SHOWN_AHEAD = 4


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
    group = _group(frame, sheet, now)
    groups = [{"name": name, "number": n, "here": name == group, "link": frame.link(group=str(n)),
               "done": sum(o.key in now.done for o in sheet.work.of(name)), "all": len(sheet.work.of(name))}
              for n, name in enumerate(sheet.work.groups)]
    return {**shown, "groups": groups, "group": group, "now": now, "done": len(now.done),
            "all": len(sheet.work.operations), **PARTS[view](frame, sheet, now, entries, group)}


def _group(frame: Frame, sheet: Sheet, now: Standing) -> str:
    """The group that is looked at: the one asked for, or the first with something left."""
    names = sheet.work.groups
    asked = frame.kept["group"]
    if asked.isascii() and asked.isdigit() and int(asked) < len(names):
        return names[int(asked)]
    return next((name for name in names if any(o.key not in now.done for o in sheet.work.of(name))), names[-1])


def _work(frame: Frame, sheet: Sheet, now: Standing, entries: list[Entry], group: str) -> dict[str, Any]:
    """The next operation, large, and a few that follow."""
    left = [o for o in sheet.order(group) if o.key not in now.done]
    current = next((o for o in left if not can_be_done(sheet.work, o.key, now.done)), None)
    after = [o for o in left if o is not current][:SHOWN_AHEAD]
    waits = [sheet.work.operations[k] for k in can_be_done(sheet.work, left[0].key, now.done)] if left and (
        current is None) else []
    changed = {c.operation.key: c for c in now.changed}
    last = [e for e in entries if e.what != "note"][-1:]
    return {"current": current, "after": after, "left": len(left), "waits": waits[:SHOWN_AHEAD],
            "token": secrets.token_hex(12), "was": changed.get(current.key) if current else None,
            "last": last[0] if last else None,
            "last_words": _words(sheet, last[0]) if last else "", "typed": frame.extra.get("typed", {}),
            "told": frame.extra.get("told", "")}


def _words(sheet: Sheet, entry: Entry) -> str:
    found = sheet.work.operations.get(entry.operation)
    return found.words if found else entry.operation


def _list(frame: Frame, sheet: Sheet, now: Standing, entries: list[Entry], group: str) -> dict[str, Any]:
    """Every operation of the group with its tick."""
    last = {e.operation: e for e in entries if e.what == "done"}
    changed = {c.operation.key: c for c in now.changed}
    rows = [{"operation": o, "done": o.key in now.done, "entry": last.get(o.key), "changed": changed.get(o.key),
             "place": _place(frame, o)} for o in sheet.order(group)]
    return {"rows": rows, "token": secrets.token_hex(12), "told": frame.extra.get("told", "")}


def _place(frame: Frame, operation: Operation) -> str:
    found = frame.plan.place_by_id.get(operation.where)
    return found.name if found else operation.where


def _kit(frame: Frame, sheet: Sheet, now: Standing, entries: list[Entry], group: str) -> dict[str, Any]:
    """What the group needs before it is begun."""
    return {"kit": kit(o for o in sheet.work.of(group) if o.key not in now.done)}


def _trial(frame: Frame, sheet: Sheet, now: Standing, entries: list[Entry], group: str) -> dict[str, Any]:
    """Every circuit from a small battery."""
    return {"trials": list(trials(frame.analysis))}


def _log(frame: Frame, sheet: Sheet, now: Standing, entries: list[Entry], group: str) -> dict[str, Any]:
    """What was written, the newest first."""
    photos = Photo.objects.filter(plan=frame.row).defer("image").order_by("pk")
    return {"entries": [{"entry": e, "words": _words(sheet, e)} for e in reversed(entries)], "photos": list(photos)}


PARTS: dict[str, Callable[[Frame, Sheet, Standing, list[Entry], str], dict[str, Any]]] = {
    "work": _work, "list": _list, "kit": _kit, "trial": _trial, "log": _log}
