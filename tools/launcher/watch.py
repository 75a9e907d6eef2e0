"""Watches what was started: brings the database and the makers of papers back when they end by themselves, with growing
pauses; tidies at night; keeps logs short."""

import shutil
import subprocess
import sys
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import date, datetime
from pathlib import Path

from .database import PrivateDatabase
from .folder import DataFolder
from .manage import manage
from .say import FullDisk, Stop, step

TIDY_AT_HOUR = 3
LOG_MOST_BYTES = 5 * 1024 * 1024
LOGS_KEPT = 3
LOOKS_S = 0.5
ENOUGH_BYTES = 64 * 1024**2  # for the database to start
FIRST_PAUSE_S, LONGEST_PAUSE_S = 1.0, 60.0


@dataclass
class Pauses:
    """When something that failed is tried again: after pauses that grow, until it has gone well."""

    now: Callable[[], float] = time.monotonic
    pause_s: float = FIRST_PAUSE_S
    due_at: float = 0.0

    @property
    def due(self) -> bool:
        """Whether it is time."""
        return self.now() >= self.due_at

    def failed(self) -> float:
        """It went wrong once more; the seconds until the next time."""
        waits_s = self.pause_s
        self.due_at = self.now() + waits_s
        self.pause_s = min(2 * self.pause_s, LONGEST_PAUSE_S)
        return waits_s

    def went_well(self) -> None:
        """Begin with short pauses again."""
        self.pause_s, self.due_at = FIRST_PAUSE_S, 0.0


@dataclass
class Beside:
    """A process beside the application, started again whenever it ends."""

    start: Callable[[], "subprocess.Popen[bytes]"]
    process: "subprocess.Popen[bytes]"
    begun: float = field(default_factory=time.monotonic)
    pauses: Pauses = field(default_factory=Pauses)

    def look(self) -> None:
        """Start it again if it has ended: at once after a good while, else after a pause."""
        if self.process.poll() is None or not self.pauses.due:
            return
        if time.monotonic() - self.begun > LONGEST_PAUSE_S:
            self.pauses.went_well()
        self.process, self.begun = self.start(), time.monotonic()
        self.pauses.failed()


@dataclass
class Watch:
    """One turn after the other until the application ends."""

    folder: DataFolder
    application: "subprocess.Popen[bytes]"
    database: PrivateDatabase | None
    beside: list[Beside]
    environment: dict[str, str]
    pauses: Pauses = field(default_factory=Pauses)
    waits_for_room: bool = False
    tidied: date = field(default_factory=lambda: datetime.now().date())

    def run(self) -> int:
        """Watch; the exit code."""
        while self.application.poll() is None:
            self.look()
            time.sleep(LOOKS_S)
        print(f"The application ended by itself; see {self.folder.log}.", file=sys.stderr)
        return 1

    def look(self) -> None:
        """One turn."""
        self._database()
        for one in self.beside:
            one.look()
        self._tidy()
        for log in (self.folder.log, self.folder.database / "err.log"):
            turn_over(log)

    def _database(self) -> None:
        database = self.database
        if database is None or database.process is None or database.process.poll() is None:
            return
        if not self.pauses.due and not (self.waits_for_room and self._free_bytes() > ENOUGH_BYTES):
            return
        # Pages say so by themselves; the database comes back without losing the application.
        step("the database ended by itself; starting it again on its old port")
        try:
            database.restart()
        except Stop as stop:
            self.waits_for_room = isinstance(stop, FullDisk) and self._free_bytes() < ENOUGH_BYTES
            print(f"loadstar: {stop} It is tried again in {self.pauses.failed():.0f} s"
                  f"{', or as soon as there is room' if self.waits_for_room else ''}.", file=sys.stderr, flush=True)
            return
        self.pauses.went_well()
        self.waits_for_room = False
        step("the database is back")

    def _free_bytes(self) -> int:
        return shutil.disk_usage(self.folder.path).free

    def _tidy(self) -> None:
        now = datetime.now()
        if now.date() > self.tidied and now.hour >= TIDY_AT_HOUR:
            self.tidied = now.date()
            try:
                manage(self.environment, "tidy")
            except Stop as stop:  # tomorrow again: serving goes on
                print(f"loadstar: the nightly tidy: {stop}", file=sys.stderr)


def turn_over(log: Path) -> None:
    """Keep a log from growing without end: when it is large its text goes to LOG.1, that to LOG.2, and it begins
    anew. Its writers keep it open and always write at its end. Without room for that it is cut off."""
    if not log.exists() or log.stat().st_size < LOG_MOST_BYTES:
        return
    for n in range(LOGS_KEPT - 1, 0, -1):
        older = log.with_name(f"{log.name}.{n}")
        if older.exists():
            older.replace(log.with_name(f"{log.name}.{n + 1}"))
    newest = log.with_name(f"{log.name}.1")
    try:
        newest.write_bytes(log.read_bytes())
    except OSError as error:
        print(f"loadstar: {newest} cannot be written ({error.strerror}): {log} begins anew", file=sys.stderr)
        newest.unlink(missing_ok=True)
    with log.open("r+b") as file:
        file.truncate(0)
