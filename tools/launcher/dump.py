"""Whole databases as SQL text: written out in one consistent state, read in again, counted and summed table by table.

A row is a line, in the order of its key, so that two dumps of the same data are the same bytes.
"""

import hashlib
import os
import re
import subprocess
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from urllib.parse import quote, unquote, urlsplit

from .say import Stop, full_disk, says_full, tail_of

ROWS = ["--single-transaction", "--skip-lock-tables", "--skip-extended-insert", "--complete-insert", "--hex-blob",
        "--order-by-primary", "--skip-comments", "--skip-dump-date", "--no-tablespaces", "--no-autocommit",
        "--default-character-set=utf8mb4", "--skip-add-locks"]
INSERT = re.compile(rb"INSERT INTO `(\w+)` ")


@dataclass(frozen=True)
class Access:
    """How to reach a database."""

    host: str
    port: int
    user: str
    password: str
    name: str

    @classmethod
    def of(cls, url: str) -> "Access":
        """From an address as in `LOADSTAR_DATABASE_URL`."""
        try:
            parts = urlsplit(url)
            return cls(parts.hostname or "127.0.0.1", parts.port or 3306, unquote(parts.username or ""),
                       unquote(parts.password or ""), parts.path.lstrip("/"))
        except ValueError as error:
            raise Stop(f"LOADSTAR_DATABASE_URL is no address of a database: {error}.") from error

    @property
    def url(self) -> str:
        """As in `LOADSTAR_DATABASE_URL`."""
        return f"mysql://{quote(self.user)}:{quote(self.password)}@{self.host}:{self.port}/{self.name}"

    def command(self, program: str, *words: str) -> list[str]:
        """A client program's command line; the password goes by `environment`."""
        return [program, "--no-defaults", "--protocol=TCP", f"--host={self.host}", f"--port={self.port}",
                f"--user={self.user}", *words]

    @property
    def environment(self) -> dict[str, str]:
        """Where the client programs look for the password, out of sight of other users."""
        return {**os.environ, "MYSQL_PWD": self.password}


def write(access: Access, into: Path, leave_out: tuple[str, ...] = ()) -> None:
    """Everything in the database as it was at one moment, while others go on; of the tables left out only the shape."""
    data = access.command("mariadb-dump", *ROWS, *(f"--ignore-table-data={access.name}.{t}" for t in leave_out),
                          access.name)
    with into.open("wb") as file:
        done = subprocess.run(data, env=access.environment, stdout=file, stderr=subprocess.PIPE, check=False)
        file.flush()
        os.fsync(file.fileno())
    if done.returncode:
        raise _failed("The database could not be written out", into, done.stderr.decode(errors="replace"))


def read(access: Access, source: Path) -> None:
    """A dump into the database, which is made empty before."""
    empty(access)
    with source.open("rb") as file:
        done = subprocess.run(access.command("mariadb", "--default-character-set=utf8mb4", access.name), stdin=file,
                              env=access.environment, capture_output=True, check=False)
    if done.returncode:
        raise _failed("The database could not be read in", source, done.stderr.decode(errors="replace"))


def empty(access: Access) -> None:
    """Drop everything in the database."""
    ask(access, f"DROP DATABASE IF EXISTS `{access.name}`; CREATE DATABASE `{access.name}` "
                f"CHARACTER SET utf8mb4 COLLATE utf8mb4_uca1400_nopad_as_cs")


def ask(access: Access, sql: str) -> list[list[str]]:
    """The rows that a query answers."""
    done = subprocess.run(access.command("mariadb", "--batch", "--skip-column-names"), input=sql, text=True,
                          env=access.environment, capture_output=True, check=False)
    if done.returncode:
        raise _failed("The database refused", Path(access.name), done.stderr)
    return [line.split("\t") for line in done.stdout.splitlines()]


def tables(access: Access) -> set[str]:
    """Names of the tables that there are."""
    return {row[0] for row in ask(access, "SELECT table_name FROM information_schema.tables "
                                          f"WHERE table_schema = '{access.name}'")}


def sums(source: Path) -> dict[str, dict[str, str | int]]:
    """For each table of a dump the number of its rows and the SHA-256 of them."""
    found: dict[str, tuple[int, hashlib._Hash]] = {}
    for table, row in rows(source):
        count, digest = found.get(table, (0, hashlib.sha256()))
        digest.update(row)
        found[table] = (count + 1, digest)
    return {table: {"rows": count, "sha256": digest.hexdigest()} for table, (count, digest) in sorted(found.items())}


def rows(source: Path) -> Iterator[tuple[str, bytes]]:
    """Table and line of each row in a dump."""
    with source.open("rb") as file:
        for line in file:
            if match := INSERT.match(line):
                yield match[1].decode(), line


def _failed(what: str, where: Path, said: str) -> Stop:
    return full_disk(where) if says_full(said) else Stop(f"{what} ({where}); the client ended with:\n{tail_of(said)}")
