"""A backup: everything that every workshop keeps, in one ZIP, written while people work; read again as data only.

    rows.jsonl      for each table a line {"table": ..., "columns": [...]}, then a line for each of its rows
    manifest.json   format, version, time, the state of the tables (migrations), and for each its rows and their SHA-256

The archive's comment is the SHA-256 of every byte before it. Format 1 (0.4.0 to 0.9.0) has SQL text in place of the
rows: see `literals`.
"""

import hashlib
import json
import os
import zipfile
from collections.abc import Iterable
from datetime import UTC, datetime
from typing import IO

from django.db.backends.base.base import BaseDatabaseWrapper

from loadstar import __version__

from .reading import FORMAT, MANIFEST, MIGRATIONS, ROWS, SEAL, Sum, Summing, _digest_of, summing
from .tables import Table, line, rows, tables

# Of this machine and this moment, in no backup: who is signed in, lock-outs, open invitations, second factors, work
# that waits and what it gave.
LEFT_OUT = ("django_session", "axes_accessattempt", "axes_accessfailurelog", "axes_accesslog", "workshop_invitation",
            "otp_totp_totpdevice", "otp_static_staticdevice", "otp_static_statictoken",
            "django_tasks_database_dbtaskresult", "jobs_job", "jobs_part")


def write(connection: BaseDatabaseWrapper, into: IO[bytes], leave_out: Iterable[str] = LEFT_OUT) -> dict[str, Sum]:
    """The database as it is at one moment, while others go on. `into` is open for writing and reading; returns what was
    written of each table."""
    with in_one_moment(connection):
        made = datetime.now(UTC)  # all that was answered before it is in the backup
        there = {n: t for n, t in tables(connection).items() if n not in leave_out}
        with zipfile.ZipFile(into, "w", zipfile.ZIP_DEFLATED, compresslevel=6, allowZip64=True) as archive:
            with archive.open(ROWS, "w", force_zip64=True) as file:
                sums = {name: _write_table(connection, table, file) for name, table in there.items()}
            archive.writestr(MANIFEST, json.dumps({
                "format": FORMAT, "loadstar": __version__, "made": made.isoformat(timespec="milliseconds"),
                "migrations": migrations(connection),
                "tables": {name: {"rows": s.rows, "sha256": s.sha256} for name, s in sums.items()}}, indent=1))
            archive.comment = SEAL + b"0" * 64
    _seal(into)
    return sums


class in_one_moment:
    """A context in which the connection sees the database as it is when it begins."""

    def __init__(self, connection: BaseDatabaseWrapper) -> None:
        self.connection = connection

    def __enter__(self) -> None:
        with self.connection.cursor() as cursor:
            cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ")
            cursor.execute("START TRANSACTION WITH CONSISTENT SNAPSHOT, READ ONLY")

    def __exit__(self, *_: object) -> None:
        with self.connection.cursor() as cursor:
            cursor.execute("ROLLBACK")


def migrations(connection: BaseDatabaseWrapper) -> list[list[str]]:
    """What the database's tables have come through, as (app, name)."""
    with connection.cursor() as cursor:
        cursor.execute(f"SELECT app, name FROM `{MIGRATIONS}` ORDER BY id")
        return [list(row) for row in cursor.fetchall()]


def _write_table(connection: BaseDatabaseWrapper, table: Table, file: IO[bytes]) -> Sum:
    file.write(line_of_head(table))
    found = Summing(0, hashlib.sha256())
    for row in rows(connection, table):
        text = line(row)
        file.write(text)
        found.add(text)
    return found.sum


def line_of_head(table: Table) -> bytes:
    """The line before a table's rows."""
    return json.dumps({"table": table.name, "columns": table.columns}).encode() + b"\n"


def sums_of(connection: BaseDatabaseWrapper, leave_out: Iterable[str] = LEFT_OUT) -> dict[str, Sum]:
    """What there is of every table of a database."""
    found = summing()
    for name, table in tables(connection).items():
        if name not in leave_out:
            for row in rows(connection, table):
                found[name].add(line(row))
    return {name: s.sum for name, s in found.items()}


def _seal(file: IO[bytes]) -> None:
    file.flush()
    size = file.seek(0, os.SEEK_END)
    digest = _digest_of(file, size - 64)
    file.seek(size - 64)
    file.write(digest.encode())
    file.flush()
    os.fsync(file.fileno())


