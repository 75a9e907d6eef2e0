"""What a backup is, and how it is read again: as data, against its own sums, and nothing in it is executed."""

import hashlib
import json
import os
import re
import struct
import zipfile
import zlib
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from typing import IO, Any

from . import literals
from .faults import Damaged
from .tables import Table, Value, checked

BLOCK = 1024**2
FORMAT = 2
ROWS, ROWS_OF_1, MANIFEST = "rows.jsonl", "data.sql", "manifest.json"
MIGRATIONS = "django_migrations"
SEAL = b"loadstar sha256 "
SEAL_BYTES = len(SEAL) + 64
# More than any workshop has, less than a bomb.
MOST_BYTES, MOST_LINE, MOST_MANIFEST, MOST_TIMES = 64 * 1024**3, 64 * 1024**2, 4 * 1024**2, 200
SMALL_BYTES = 64 * 1024**2  # up to here the ratio does not matter


@dataclass(frozen=True)
class Sum:
    """What there is of a table: how many rows, and the SHA-256 of their lines."""

    rows: int
    sha256: str


@dataclass
class Summing:
    """The same while the rows go by."""

    rows: int
    digest: "hashlib._Hash"

    def add(self, text: bytes) -> None:
        """One row more."""
        self.rows += 1
        self.digest.update(text)

    @property
    def sum(self) -> Sum:
        """Of the rows so far."""
        return Sum(self.rows, self.digest.hexdigest())


def summing() -> "defaultdict[str, Summing]":
    """A sum for each table that a row comes of."""
    return defaultdict(lambda: Summing(0, hashlib.sha256()))


def _digest_of(file: IO[bytes], length: int) -> str:
    digest, left = hashlib.sha256(), length
    file.seek(0)
    while left > 0:
        block = file.read(min(BLOCK, left))
        if not block:
            break
        digest.update(block)
        left -= len(block)
    return digest.hexdigest()


class Backup:
    """A backup that was opened, with its manifest; what is wrong with it raises Damaged."""

    def __init__(self, file: IO[bytes]) -> None:
        self._file = file
        try:
            self._archive = zipfile.ZipFile(file)
            members = {m.filename: m for m in self._archive.infolist()}
        except (zipfile.BadZipFile, zipfile.LargeZipFile, NotImplementedError, ValueError, OSError, EOFError,
                struct.error) as error:
            raise Damaged(f"is no backup of Loadstar, or a damaged one: {error}") from error
        if MANIFEST not in members or len(members) != len(self._archive.infolist()):
            raise Damaged("is no backup of Loadstar: it has no manifest")
        for member in members.values():
            _bounded(member)
        self._members = members
        told = self._manifest()
        self.made, self.version = str(told.get("made", ""))[:40], str(told.get("loadstar", "an unknown version"))[:20]
        self.format = told.get("format")
        if self.format not in (1, FORMAT):
            raise Damaged(f"has backup format {str(self.format)[:20]!r}; this version reads formats 1 and {FORMAT}: "
                          "use the version that wrote it")
        data = ROWS if self.format == FORMAT else ROWS_OF_1
        if members.keys() != {MANIFEST, data}:
            raise Damaged(f"is no backup of Loadstar: it has to hold {MANIFEST} and {data}, and nothing else")
        self._data = members[data]
        self.told = _sums(told)
        self._migrations = told.get("migrations")
        if self.format == FORMAT:
            self._check_seal()

    def _manifest(self) -> dict[str, Any]:
        try:
            with self._archive.open(MANIFEST) as member:
                text = member.read(MOST_MANIFEST + 1)
            if len(text) > MOST_MANIFEST:
                raise Damaged("has a manifest larger than any backup's: not read")
            told = json.loads(text)
        except (zipfile.BadZipFile, zlib.error, ValueError, RecursionError, EOFError, OSError, NotImplementedError,
                struct.error) as error:
            raise Damaged(f"is no backup of Loadstar, or a damaged one: {error}") from error
        if not isinstance(told, dict) or not isinstance(told.get("tables"), dict) or "made" not in told:
            raise Damaged("is no backup of Loadstar: its manifest lacks its tables")
        return told

    def _check_seal(self) -> None:
        comment = self._archive.comment
        size = self._file.seek(0, os.SEEK_END)
        if len(comment) != SEAL_BYTES or comment != SEAL + _digest_of(self._file, size - 64).encode():
            raise Damaged("is damaged: its bytes are not those that were written")

    def migrations(self) -> list[tuple[str, str]]:
        """What the tables had come through when it was written, as (app, name)."""
        if self.format == FORMAT:
            told = self._migrations
        else:
            told = [[str(v) for v in values[1:3]] for table, _, values, _ in literals.rows(self._lines())
                    if table == MIGRATIONS]
        if not isinstance(told, list) or not told or not all(
                isinstance(m, list) and len(m) == 2 and all(isinstance(w, str) for w in m) for m in told):
            raise Damaged("is damaged: it does not say what state its tables are in")
        return [(app, name) for app, name in told]

    def rows(self, known: dict[str, Table]) -> Iterator[tuple[Table, list[Value]]]:
        """Every row with its table, which has to be one of those known; at the end, that all is as the manifest
        says."""
        return self._rows_of_1(known) if self.format == 1 else self._rows(known)

    def _rows(self, known: dict[str, Table]) -> Iterator[tuple[Table, list[Value]]]:
        found, table = summing(), None
        for number, text in enumerate(self._lines(), 1):
            try:
                what = json.loads(text)
                if isinstance(what, dict):
                    table = _known(known, what.get("table"))
                    found[table.name]  # a table without rows is there too
                    if what.get("columns") != list(table.columns):
                        raise ValueError(f"table {table.name} has other columns here")
                elif table is None:
                    raise ValueError("it stands before any table")
                else:
                    values = checked(what, table)
                    found[table.name].add(text)
                    yield table, values
            except (ValueError, RecursionError) as error:
                raise Damaged(f"is damaged: line {number} of its rows cannot be taken: {str(error)[:120]}") from error
        self._compare(found)

    def _rows_of_1(self, known: dict[str, Table]) -> Iterator[tuple[Table, list[Value]]]:
        found = summing()
        for name, columns, values, text in literals.rows(self._lines()):
            try:
                table = _known(known, name)
                if columns != list(table.columns):
                    raise ValueError(f"table {name} has other columns here")
                found[name].add(text)
                yield table, literals.typed(values, table)
            except ValueError as error:
                raise Damaged(f"is damaged: a row of {name} cannot be taken: {error}") from error
        self._compare(found)

    def _compare(self, found: dict[str, Summing]) -> None:
        there = {name: s.sum for name, s in found.items()}
        for name in sorted(there.keys() | self.told.keys()):
            if there.get(name) != self.told.get(name):
                raise Damaged(f"is damaged: table {name} is not what its manifest says")

    def _lines(self) -> Iterator[bytes]:
        """The lines of its rows, each of a bounded length, all of them of no more than was said of them."""
        left = self._data.file_size
        try:
            with self._archive.open(self._data) as member:
                while text := member.readline(MOST_LINE):
                    left -= len(text)
                    if left < 0 or len(text) == MOST_LINE or not text.endswith(b"\n"):
                        raise Damaged("is damaged: a line of its rows has no end")
                    yield text
        except (zipfile.BadZipFile, zlib.error, EOFError, OSError, NotImplementedError, struct.error,
                RuntimeError) as error:
            raise Damaged(f"is damaged: {error}") from error


def _known(known: dict[str, Table], name: object) -> Table:
    if not isinstance(name, str) or name not in known:
        raise ValueError(f"Loadstar has no table {str(name)[:64]!r} that a backup may fill")
    return known[name]


def _bounded(member: zipfile.ZipInfo) -> None:
    """Refuse what nobody's backup is: locked, packed by a strange method, larger or denser than any."""
    if member.flag_bits & 0x1:
        raise Damaged("is encrypted: Loadstar's backups are not")
    if member.compress_type not in (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED):
        raise Damaged("is packed by a method that Loadstar's backups do not use")
    most = MOST_MANIFEST if member.filename == MANIFEST else MOST_BYTES
    dense = member.file_size > SMALL_BYTES and member.file_size > MOST_TIMES * max(member.compress_size, 1)
    if member.file_size > most or dense:
        raise Damaged("says that it holds more than any workshop has: not read")


def _sums(told: dict[str, Any]) -> dict[str, Sum]:
    """What the manifest says of each table."""
    found = {}
    for name, one in told["tables"].items():
        if not (isinstance(one, dict) and isinstance(one.get("rows"), int) and isinstance(one.get("sha256"), str)
                and re.fullmatch(r"\w{1,64}", name)):
            raise Damaged("is no backup of Loadstar: its manifest does not say what its tables hold")
        found[name] = Sum(one["rows"], one["sha256"])
    return found
