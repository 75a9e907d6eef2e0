"""Backups: everything that every workshop keeps, in one ZIP file, written while people work; restored; verified.

    manifest.json   format, version, time, and for each table its rows and their SHA-256
    data.sql        the database as it was at one moment, a row a line

Left out: sessions, lock-outs, open invitations and second factors, and the credentials of this machine.
"""

import json
import os
import shutil
import tempfile
import time
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from . import dump
from .account import lay_root_down
from .database import PrivateDatabase
from .dump import Access
from .folder import DataFolder, write_json
from .paths import ROOT, ready_var
from .say import Stop, from_os_error

FORMAT = 1
LEFT_OUT = ("django_session", "axes_accessattempt", "axes_accessfailurelog", "axes_accesslog", "workshop_invitation",
            "otp_totp_totpdevice", "otp_static_staticdevice", "otp_static_statictoken")
MOST_BYTES = 64 * 1024**3  # of data.sql: more than any workshop, less than a bomb


def backup(into: Path, mode: str = "serve") -> str:
    """Write a backup; whether Loadstar runs or not. Returns a sentence about it."""
    begun = time.monotonic()
    with reached(DataFolder(mode)) as access, _scratch(into.parent) as scratch:
        data, mark = scratch / "data.sql", datetime.now(UTC)  # all that was answered before it is in the backup
        _dump(access, data)
        told = {"format": FORMAT, "loadstar": version(), "made": mark.isoformat(timespec="milliseconds"),
                "tables": dump.sums(data)}
        part = scratch / "backup.zip"
        with zipfile.ZipFile(part, "w", zipfile.ZIP_DEFLATED, compresslevel=6, allowZip64=True) as file:
            file.writestr("manifest.json", json.dumps(told, indent=1))
            file.write(data, "data.sql")
        with part.open("rb") as whole:
            os.fsync(whole.fileno())
        os.chmod(part, 0o600)
        part.replace(into)
    rows = sum(int(t["rows"]) for t in told["tables"].values())
    return (f"{into}: {rows} rows of {len(told['tables'])} tables, {into.stat().st_size / 1e6:.1f} MB, "
            f"in {time.monotonic() - begun:.1f} s.")


def restore(source: Path, mode: str = "serve") -> str:
    """Fill an empty data folder from a backup. Cut short, it leaves nothing that counts: the same command again."""
    ready_var()
    folder = DataFolder(mode)
    folder.hold()
    if folder.database.exists():
        raise Stop(f"{folder.path} has data already: move that folder away first. Nothing has been changed.")
    fresh = folder.path / "db.restoring"
    with _scratch(folder.path) as scratch:
        told, data = _opened(source, scratch)  # before root is laid down: the file may be root's
        lay_root_down(folder.path)
        shutil.rmtree(fresh, ignore_errors=True)
        _read_in(PrivateDatabase(fresh, folder.secrets()["database"]), told, data, scratch)
    write_json(folder.path / "schema.json", {"state": "whole"})
    try:
        fresh.rename(folder.database)
    except OSError as error:
        raise from_os_error(error, fresh) from error
    return (f"Restored into {folder.path} what {source} has of {told['made']}. ./loadstar {mode} starts it. "
            "Everybody signs in again; second factors and invitations are set up anew.")


def verify(source: Path) -> str:
    """Restore a backup into a throwaway server and compare every table with what its manifest says."""
    ready_var()
    with _scratch(None) as scratch:
        told, data = _opened(source, scratch)
        _read_in(PrivateDatabase(scratch / "db", "verify-only", throwaway=True), told, data, scratch)
    rows = sum(int(t["rows"]) for t in told["tables"].values())
    return f"{source} is whole: {rows} rows of {len(told['tables'])} tables as of {told['made']}."


def version() -> str:
    """This program's."""
    line = next(line for line in (ROOT / "src/loadstar/__init__.py").read_text().splitlines() if "__version__" in line)
    return line.split('"')[1]


@contextmanager
def reached(folder: DataFolder) -> Iterator[Access]:
    """The folder's database: that of the Loadstar that runs on it, else started for this alone."""
    if outside := os.environ.get("LOADSTAR_DATABASE_URL"):
        yield Access.of(outside)
        return
    if not folder.database.exists():
        raise Stop(f"There are no data in {folder.path}.")
    kept = folder.secrets()
    if port := folder.running().get("database_port"):
        yield Access("127.0.0.1", int(port), "loadstar", kept["database"], "loadstar")
        return
    folder.hold()
    lay_root_down(folder.path)
    database = PrivateDatabase(folder.database, kept["database"])
    database.end_left_over()
    try:
        database.start()
        yield database.access
    finally:
        database.stop()


def _dump(access: Access, data: Path) -> None:
    if not dump.tables(access):
        raise Stop("There is nothing in the database yet.")
    dump.write(access, data, LEFT_OUT)


def _read_in(database: PrivateDatabase, told: dict[str, Any], data: Path, scratch: Path) -> None:
    try:
        database.start()
        dump.read(database.access, data)
        _compare(told, database.access, scratch)
    finally:
        database.stop()


def _compare(told: dict[str, Any], access: Access, scratch: Path) -> None:
    again = scratch / "again.sql"
    _dump(access, again)
    found = dump.sums(again)
    again.unlink()
    for table in sorted(told["tables"].keys() | found.keys()):
        if told["tables"].get(table) != found.get(table):
            rows = [str(t.get(table, {}).get("rows", 0)) for t in (told["tables"], found)]
            raise Stop(f"Table {table} is not what the backup's manifest says ({rows[0]} rows there, {rows[1]} "
                       "restored, or other contents): the backup is damaged.")


def _opened(source: Path, scratch: Path) -> tuple[dict[str, Any], Path]:
    """A backup's manifest and its data, unpacked."""
    try:
        with zipfile.ZipFile(source) as file:
            told = json.loads(file.read("manifest.json"))
            if file.getinfo("data.sql").file_size > MOST_BYTES:
                raise Stop(f"{source} says that it holds more than any workshop has: not read.")
            data = Path(file.extract("data.sql", scratch))
    except OSError as error:
        if not source.is_file():
            raise Stop(f"There is no file {source} that can be read.") from error
        raise from_os_error(error, error.filename or scratch) from error
    except (zipfile.BadZipFile, KeyError, ValueError, EOFError) as error:
        raise Stop(f"{source} is no backup of Loadstar, or a damaged one: {error}.") from error
    if not isinstance(told, dict) or not isinstance(told.get("tables"), dict) or "made" not in told:
        raise Stop(f"{source} is no backup of Loadstar: its manifest lacks its tables.")
    if told.get("format") != FORMAT:
        raise Stop(f"{source} has backup format {told.get('format')}; this version reads format {FORMAT}: use the "
                   "version that wrote it.")
    if dump.sums(data) != told["tables"]:
        raise Stop(f"{source} is damaged: its data are not what its manifest says.")
    return told, data


@contextmanager
def _scratch(beside: Path | None) -> Iterator[Path]:
    try:
        with tempfile.TemporaryDirectory(prefix=".loadstar-", dir=beside) as name:
            yield Path(name)
    except OSError as error:
        raise from_os_error(error, beside or tempfile.gettempdir()) from error
