"""Backups: everything that every workshop keeps, in one ZIP file, written while people work; restored; verified.

What is in one is said in `loadstar.web.keeping.backup`, which writes and reads it as data: nothing in it is ever run,
and root is laid down before it is looked into. Left out: sessions, lock-outs, open invitations and second factors, and
the credentials of this machine.
"""

import json
import os
import shutil
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from . import access
from .access import Access
from .account import lay_root_down
from .database import PrivateDatabase
from .folder import DataFolder, write_json
from .manage import Refused, base_environment, manage
from .paths import ready_var
from .say import Stop, from_os_error


def backup(into: Path, mode: str = "serve") -> str:
    """Write a backup; whether Loadstar runs or not. Returns a sentence about it."""
    begun = time.monotonic()
    with reached(DataFolder(mode)) as there, _scratch(into.parent) as scratch:
        if not access.tables(there):
            raise Stop("There is nothing in the database yet.")
        part = scratch / "backup.zip"
        told = json.loads(manage(_environment(there), "write_out", str(part)))
        part.replace(into)
    return (f"{into}: {told['rows']} rows of {told['tables']} tables, {into.stat().st_size / 1e6:.1f} MB, "
            f"in {time.monotonic() - begun:.1f} s.")


def restore(source: Path, mode: str = "serve") -> str:
    """Fill an empty data folder from a backup. Cut short, it leaves nothing that counts: the same command again."""
    ready_var()
    folder = DataFolder(mode)
    folder.hold()
    if folder.database.exists():
        raise Stop(f"{folder.path} has data already: move that folder away first. Nothing has been changed.")
    fresh = folder.path / "db.restoring"
    with _opened(source) as file:  # only opened: it may be root's
        lay_root_down(folder.path)
        shutil.rmtree(fresh, ignore_errors=True)
        told = _read_in(PrivateDatabase(fresh, folder.secrets()["database"]), source, file)
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
    with _opened(source) as file, _scratch(None) as scratch:
        lay_root_down(scratch)
        told = _read_in(PrivateDatabase(scratch / "db", "verify-only", throwaway=True), source, file)
    return f"{source} is whole: {told['rows']} rows of {told['tables']} tables as of {told['made']}."


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


def _environment(there: Access) -> dict[str, str]:
    return base_environment("serve", there.url, "only-to-write-and-read")


def _read_in(database: PrivateDatabase, source: Path, file: int) -> dict[str, Any]:
    """An open backup into a new database; what came."""
    try:
        database.start()
        return dict(json.loads(manage(_environment(database.access), "read_in", str(file), descriptors=(file,))))
    except Refused as refused:
        raise Stop(f"{source} {refused}.") from refused
    finally:
        database.stop()


@contextmanager
def _opened(source: Path) -> Iterator[int]:
    """A file to read, by its number."""
    try:
        file = os.open(source, os.O_RDONLY)
    except OSError as error:
        raise Stop(f"There is no file {source} that can be read.") from error
    try:
        yield file
    finally:
        os.close(file)


@contextmanager
def _scratch(beside: Path | None) -> Iterator[Path]:
    try:
        with tempfile.TemporaryDirectory(prefix=".loadstar-", dir=beside) as name:
            yield Path(name)
    except OSError as error:
        raise from_os_error(error, beside or tempfile.gettempdir()) from error
