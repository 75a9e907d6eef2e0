"""Brings a database to the tables that this version needs, so that a kill at any moment is mended by starting again.

Changes of tables cannot be taken back by the database itself. So `schema.json` beside it says how far it was brought:
"first" (its first tables are being made: begun again from nothing, since nobody was served yet), "whole", or
"upgrading" (a dump of the state before lies beside it: put back, then upgraded again).
"""

import json
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any

from . import access as sql
from .access import Access
from .folder import DataFolder, read_json, write_json
from .manage import Refused, manage
from .say import Stop, from_os_error, step

DUMPS_KEPT = 3
# What 0.3.0 had applied when its first start was whole: it kept no word of how far it had come.
WHOLE_0_3_0 = {("workshop", "0002_house_rules"), ("plans", "0002_range"), ("records", "0001_initial"),
               ("sessions", "0001_initial")}


@dataclass(frozen=True)
class Standing:
    """Which migrations this version has and which the database has had."""

    missing: tuple[str, ...]
    unknown: tuple[str, ...]
    applied: frozenset[tuple[str, str]]


def standing(environment: dict[str, str]) -> Standing:
    """As the application sees it."""
    told = json.loads(manage(environment, "schema"))
    return Standing(tuple(told["missing"]), tuple(told["unknown"]), frozenset(tuple(a) for a in told["applied"]))


def bring_up(folder: DataFolder, access: Access, environment: dict[str, str]) -> None:
    """Make or upgrade the tables; Stop when the data are of a newer version."""
    mark = folder.path / "schema.json"
    state = read_json(mark)
    if state.get("state") == "upgrading":
        before = folder.path / str(state["dump"])
        if not before.exists():
            raise Stop(f"An upgrade of {folder.path} was cut short and its dump {before} is gone: restore a backup.")
        if before.suffix != ".zip":
            raise Stop(f"An upgrade of {folder.path} by an earlier Loadstar was cut short: start that version once "
                       "more, which puts back the state before it; then this one. Nothing has been changed.")
        step(f"an upgrade was cut short: putting back the state before it, from {before}")
        _put_back(access, environment, before)
        state = {"state": "whole"}
        write_json(mark, state)
    there = sql.tables(access)
    if not state and there:
        state = _of_earlier_version(access, there, environment)
    if not state or state["state"] == "first":
        if there:
            step("a first start was cut short: making the tables again")
            sql.empty(access)
        write_json(mark, {"state": "first"})
        manage(environment, "migrate", "--verbosity=0", "--no-input")
        write_json(mark, {"state": "whole"})
        return
    now = standing(environment)
    if now.unknown:
        raise Stop(f"The data in {folder.path} were written by a newer Loadstar ({', '.join(now.unknown[:3])}): start "
                   "that one, or restore a backup of this version. Nothing has been changed.")
    if now.missing:
        _upgrade(folder, access, environment, mark)
    elif read_json(mark) != state:
        write_json(mark, state)


def _put_back(access: Access, environment: dict[str, str], before: Path) -> None:
    sql.empty(access)
    with before.open("rb") as file:
        try:
            manage(environment, "read_in", str(file.fileno()), "--whole", descriptors=(file.fileno(),))
        except Refused as refused:
            raise Stop(f"{before} {refused}: restore a backup.") from refused


def _of_earlier_version(access: Access, there: set[str], environment: dict[str, str]) -> dict[str, Any]:
    """Data of 0.3.0: whole, or of a first start that was cut short and in which nobody was set up."""
    people = "workshop_person" in there and int(sql.ask(access,
                                                f"SELECT COUNT(*) FROM `{access.name}`.workshop_person")[0][0])
    if people or ("django_migrations" in there and standing(environment).applied >= WHOLE_0_3_0):
        return {"state": "whole"}
    return {"state": "first"}


def _upgrade(folder: DataFolder, access: Access, environment: dict[str, str], mark: Path) -> None:
    dumps = folder.path / "dumps"
    try:
        dumps.mkdir(mode=0o700, exist_ok=True)
        name = f"before-upgrade-{datetime.now():%Y%m%d-%H%M%S}.zip"
        step(f"writing the data out to {dumps / name} before they are upgraded")
        part = dumps / (name + ".part")
        part.unlink(missing_ok=True)
        manage(environment, "write_out", str(part), "--whole")
        part.rename(dumps / name)
        write_json(mark, {"state": "upgrading", "dump": f"dumps/{name}"})
        step("upgrading the data")
        manage(environment, "migrate", "--verbosity=0", "--no-input")
        write_json(mark, {"state": "whole"})
        kept = sorted((*dumps.glob("before-upgrade-*.zip"), *dumps.glob("before-upgrade-*.sql")))[-DUMPS_KEPT:]
        for old in set(dumps.glob("before-upgrade-*")).difference(kept):
            old.unlink()
    except OSError as error:
        raise from_os_error(error, dumps) from error
