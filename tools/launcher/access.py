"""How to reach a database, and the few words that the launcher itself says to one. What people keep is written out and
read in by the application (`loadstar.web.keeping`), never by a client program."""

import os
import subprocess
from dataclasses import dataclass
from pathlib import Path
from urllib.parse import quote, unquote, urlsplit

from .say import Stop, full_disk, says_full, tail_of


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
        user, password = (quote(word, safe="") for word in (self.user, self.password))
        return f"mysql://{user}:{password}@{self.host}:{self.port}/{self.name}"

    def command(self, program: str, *words: str) -> list[str]:
        """A client program's command line; the password goes by `environment`."""
        return [program, "--no-defaults", "--protocol=TCP", f"--host={self.host}", f"--port={self.port}",
                f"--user={self.user}", *words]

    @property
    def environment(self) -> dict[str, str]:
        """Where the client programs look for the password, out of sight of other users."""
        return {**os.environ, "MYSQL_PWD": self.password}


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


def _failed(what: str, where: Path, said: str) -> Stop:
    return full_disk(where) if says_full(said) else Stop(f"{what} ({where}); the client ended with:\n{tail_of(said)}")
