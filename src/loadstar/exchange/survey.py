"""A survey as JSON, and its pin tables as CSV: read and written.

The JSON is what a template keeps and another machine takes over: places, runs, connectors, pins and found wires, parts
taken off. The CSV has one line for each pin; columns are found by their names in any order, in files of a spreadsheet
or pasted.
"""

import csv
import io
import json
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from loadstar.core.doc.states import LIVES_WITH, Live
from loadstar.core.errors import PlanError, refuse
from loadstar.core.parts.tap import Tap
from loadstar.core.plan.model import Plan
from loadstar.core.plan.outside import read_json
from loadstar.core.quantities import NoQuantity, read

FORMAT, VERSION = "loadstar-survey", 1
# One small function per older version: takes a survey of version n, gives one of version n + 1. There is none older
# yet.
UPGRADES: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {}
MAX_BYTES, MAX_DEPTH, MAX_ROWS = 1024 * 1024, 12, 500
UNITS = {"rated_a": "A", "fused_a": "A", "others_a": "A", "on_delay_s": "s", "off_delay_s": "s"}
COLUMNS = ("connector", "pin", "function", "live", "rated_a", "colour", "goes_to", "others", "others_a", "on_delay_s",
           "off_delay_s", "fused_a", "fuse_at")
NEEDED = ("connector", "pin")
FUNCTIONS = ("feed", "ground", "lamp", "signal", "unknown", "unused", "other")
LIVES: dict[str, Live] = {"constant": "always", **{live: live for live in LIVES_WITH},
                          **{words: live for live, words in LIVES_WITH.items()},
                          "with the key": "key", "with the engine": "engine"}  # as files of 0.9 say it
FORMULA = ("=", "+", "@", "-")


def survey_of(plan: Plan) -> dict[str, Any]:
    """The survey part of a plan as plain data."""
    return {
        "format": FORMAT, "version": VERSION, "name": plan.machine.name, "machine_kind": plan.machine.kind,
        "wheelbase_mm": plan.machine.wheelbase_mm,
        "places": [p.model_dump(mode="json") for p in plan.places],
        "runs": [r.model_dump(mode="json") for r in plan.runs],
        "plugs": [p.model_dump(mode="json") for p in plan.plugs],
        "taps": [p.model_dump(mode="json", exclude={"made_for", "kind"}) for p in plan.of(Tap)],
        "removed": [r.model_dump(mode="json") for r in plan.removed]}


def to_json(plan: Plan) -> str:
    """The survey as a file."""
    return json.dumps(survey_of(plan), sort_keys=True, indent=1, ensure_ascii=False) + "\n"


def from_json(data: bytes) -> dict[str, Any]:
    """A survey file as plain data; PlanError in words when it is none."""
    return from_data(read_json(data, thing="survey", most_bytes=MAX_BYTES, most_depth=MAX_DEPTH))


def from_data(found: object) -> dict[str, Any]:
    """A survey from parsed JSON, brought to the newest version; PlanError in words when it is none, or of a later
    Loadstar."""
    if not isinstance(found, dict) or found.get("format") != FORMAT:
        raise refuse("", "file", f'This is no survey: its "format" is not "{FORMAT}".')
    version = found.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or not 1 <= version <= VERSION:
        raise refuse("", "file",
                     f"The survey is of version {str(version)[:12]}; this Loadstar reads versions up to {VERSION}.")
    while version < VERSION:
        found = UPGRADES[version](found)
        version += 1
    return found


def to_csv(plan: Plan) -> str:
    """Every pin as a line. A text that a spreadsheet would take for a formula gets an apostrophe before it."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(COLUMNS)
    for plug in plan.plugs:
        for pin in plan.pins(plug.id):
            may_give = "" if pin.standing_of("rated_a") == "typical" else f"{pin.rated_a:g}"  # usual: no fact
            row = (plug.name, pin.way, pin.function, pin.live if pin.function == "feed" else "", may_give,
                   pin.wire_colour, pin.goes_to, pin.others, f"{pin.others_a:g}", f"{pin.on_delay_s:g}",
                   f"{pin.off_delay_s:g}", "" if pin.fused_a is None else f"{pin.fused_a:g}", pin.fuse_at)
            writer.writerow(harmless(v) for v in row)
    return out.getvalue()


def harmless(value: object) -> object:
    """A cell that no spreadsheet computes."""
    return f"'{value}" if isinstance(value, str) and value.lstrip().startswith(FORMULA) else value


@dataclass(frozen=True)
class PinTable:
    """Pins read from a table, by connector name. `remarks` says what was taken in another way than it stood."""

    pins: dict[str, tuple[dict[str, Any], ...]]
    remarks: tuple[str, ...]


def from_csv(data: bytes | str) -> PinTable:
    """Pins of a table with comma, semicolon or tab between its cells. PlanError names every line that cannot be read,
    and then nothing has been taken."""
    rows, remarks = _rows(data)
    names = _columns(rows[0], remarks)
    found: dict[str, list[dict[str, Any]]] = {}
    faults = []
    for number, cells in enumerate(rows[1:], 2):
        try:
            plug, pin = _pin(dict(zip(names, (c.strip() for c in cells), strict=False)))
            if any(p["way"] == pin["way"] for p in found.get(plug, [])):
                raise ValueError(f"pin {pin['way']} of {plug} stands there twice")
            found.setdefault(plug, []).append(pin)
        except ValueError as error:
            faults.append(refuse("", "table", f"Line {number}: {error}.").faults[0])
    if faults:
        raise PlanError(*faults[:20])
    return PinTable({plug: tuple(pins) for plug, pins in found.items()}, tuple(remarks))


def _rows(data: bytes | str) -> tuple[list[list[str]], list[str]]:
    """The lines that are not empty, cell by cell, and what was noticed of how they are written."""
    remarks: list[str]
    text, remarks = (data, []) if isinstance(data, str) else _decoded(data)
    if len(text) > MAX_BYTES:
        raise refuse("", "table",
                     f"The table has {len(text) / 1e6:.1f} MB; at most {MAX_BYTES // 1024**2} MB are read.")
    text = text.lstrip("\ufeff").replace("\r\n", "\n").replace("\r", "\n")  # some programs end lines with CR alone
    head = text.lstrip(" \n").split("\n", 1)[0]
    separator = max(("\t", ";", ","), key=head.count)
    try:
        rows = [r for r in csv.reader(io.StringIO(text), delimiter=separator) if any(cell.strip() for cell in r)]
    except csv.Error as error:
        raise refuse("", "table", f"The table cannot be read as one: {error}. A quotation mark that is never closed "
                     "makes one cell of all that follows.") from error
    if len(rows) < 2:
        raise refuse("", "table", "The table has no pins under its first line." if rows else "The table is empty.")
    if len(rows) - 1 > MAX_ROWS:
        raise refuse("", "table", f"The table has {len(rows) - 1:,} lines; at most {MAX_ROWS} are taken at once.")
    return rows, remarks


def _columns(head: list[str], remarks: list[str]) -> list[str]:
    """What each column is called; those that are not known are remarked."""
    names = [_name(cell) for cell in head]
    missing = [n for n in NEEDED if n not in names]
    if missing:
        raise refuse("", "table",
                     f"The table's first line has no column {' and no column '.join(missing)}. It names the columns: "
                                  f"{', '.join(COLUMNS)}; only the first two must be there.")
    unknown = [c.strip() for c, n in zip(head, names, strict=True) if n not in COLUMNS and c.strip()]
    if unknown:
        remarks.append(f"Columns not known and left out: {', '.join(unknown)}.")
    return names


def _decoded(data: bytes) -> tuple[str, list[str]]:
    if len(data) > MAX_BYTES:
        raise refuse("", "table", f"The file has {len(data) / 1e6:.1f} MB; at most {MAX_BYTES // 1024**2} MB are read.")
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return data.decode("utf-16", "replace"), []
    try:
        return data.decode("utf-8-sig"), []
    except UnicodeDecodeError:
        if b"\x00" in data:
            raise refuse("", "table", "The file is no text: save it from the spreadsheet as CSV.") from None
        return data.decode("cp1252",
                           "replace"), ["The file is not in UTF-8; it was read as Windows-1252: look at the accents."]


def _name(cell: str) -> str:
    low = cell.strip().lower().replace(" ", "_")
    return {"plug": "connector", "way": "pin", "rated": "rated_a", "amps": "rated_a", "wire_colour": "colour"}.get(low,
                                                                                                                   low)


def _pin(cells: dict[str, str]) -> tuple[str, dict[str, Any]]:
    for name, cell in cells.items():
        if name in COLUMNS and cell[:1] in ("=", "@", "+"):
            raise ValueError(f"{name} holds a formula ({cell[:20]}): only values are taken")
    plug = cells.get("connector", "").removeprefix("'")
    if not plug:
        raise ValueError("the connector's name is missing")
    pin: dict[str, Any] = {"way": int(_number(cells.get("pin", ""), "pin"))}
    function = cells.get("function", "").lower()
    live = cells.get("live", "").lower()
    if live and live not in LIVES:
        raise ValueError(f"live must be one of {', '.join(LIVES_WITH)} (given: {live[:20]})")
    if function and function not in FUNCTIONS:
        raise ValueError(f"function must be one of {', '.join(FUNCTIONS)} (given: {function[:20]})")
    pin["function"] = function or ("feed" if live else "unknown")
    if live:
        pin["live"] = LIVES[live]
    for name in UNITS:
        if cells.get(name):
            pin[name] = _number(cells[name], name)
    for name, field in (("colour", "wire_colour"), ("goes_to", "goes_to"), ("others", "others"),
                        ("fuse_at", "fuse_at")):
        if cells.get(name):
            pin[field] = cells[name].removeprefix("'")
    return plug, pin


def _number(cell: str, name: str) -> float:
    try:
        number = read(cell, UNITS.get(name, ""))
    except NoQuantity:
        raise ValueError(f"{name} must be a number (given: {cell[:20] or 'nothing'})") from None
    if not abs(number) < 1e6 or (name == "pin" and number != int(number)):
        raise ValueError(
            f"{name} must be a {'whole number' if name == 'pin' else 'number'} that can be (given: {cell[:20]})")
    return number
