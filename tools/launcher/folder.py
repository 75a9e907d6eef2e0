"""A data folder: one for the demonstration, one for the workshop's own; who holds it, and how far its database is.

    var/demo, var/own
        lock          held by the Loadstar that serves it
        running.json  what that one said of itself: process, address, port of the database
        secrets.json  credentials (mode 600)
        schema.json   how far the database was brought: see `schema`
        db/           MariaDB's folder
"""

import fcntl
import json
import os
import secrets
from pathlib import Path
from typing import IO, Any

from .paths import VAR
from .say import Stop, from_os_error, step

NAMES = {"demo": "demo", "serve": "own"}


class DataFolder:
    """The data of one mode, "demo" or "serve"."""

    def __init__(self, mode: str, path: Path | None = None) -> None:
        self.mode = mode
        self.path = path or VAR / NAMES[mode]
        self._lock: IO[str] | None = None

    @property
    def database(self) -> Path:
        """MariaDB's folder."""
        return self.path / "db"

    @property
    def log(self) -> Path:
        """What the application wrote."""
        return self.path / "application.log"

    def hold(self) -> None:
        """Take the folder for this process, as long as it lives; Stop when another has it."""
        try:
            self.path.mkdir(mode=0o700, parents=True, exist_ok=True)
            self._lock = (self.path / "lock").open("a+")
            os.chmod(self.path / "lock", 0o600)
        except OSError as error:
            raise from_os_error(error, self.path) from error
        try:
            fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            self._lock.close()
            self._lock = None
            at = self.running().get("address")
            raise Stop(f"Another Loadstar already runs on {self.path}{f', at {at}' if at else ''}: "
                       f"./loadstar stop {self.mode} ends it.") from None

    def held(self) -> bool:
        """Whether some process holds the folder just now."""
        try:
            with (self.path / "lock").open("r") as file:
                try:
                    fcntl.flock(file, fcntl.LOCK_SH | fcntl.LOCK_NB)
                except BlockingIOError:
                    return True
                return False
        except FileNotFoundError:
            return False
        except OSError as error:
            raise from_os_error(error, self.path) from error

    def say(self, **what: Any) -> None:
        """Leave word of what runs here."""
        write_json(self.path / "running.json", what)

    def say_nothing(self) -> None:
        """Take back what the last holder said of itself: it is gone."""
        (self.path / "running.json").unlink(missing_ok=True)

    def running(self) -> dict[str, Any]:
        """What the holder said of itself; empty when nobody holds the folder or nothing was said yet."""
        return read_json(self.path / "running.json") if self.held() else {}

    def left_running(self) -> dict[str, Any]:
        """What the last holder said, who may have been killed before it could clear up."""
        return read_json(self.path / "running.json")

    def secrets(self) -> dict[str, str]:
        """The credentials, made on first use."""
        path = self.path / "secrets.json"
        try:
            kept = json.loads(path.read_text())
        except FileNotFoundError:
            kept = {"database": secrets.token_urlsafe(24), "django": secrets.token_urlsafe(48)}
            write_json(path, kept)
        except ValueError as error:
            raise self._broken_secrets(path) from error
        except OSError as error:
            raise from_os_error(error, path) from error
        if not isinstance(kept, dict) or not all(isinstance(kept.get(k), str) for k in ("database", "django")):
            raise self._broken_secrets(path)
        return kept

    def _broken_secrets(self, path: Path) -> Stop:
        return Stop(f"{path} cannot be read: take it from a copy of this folder. Without one, move it away: a new one "
                    "is made, the data stay, and everybody signs in again.")

    def adopt(self, old: Path) -> None:
        """Take over what 0.3.0 kept straight under `var/`; only into an own folder that has no database yet."""
        if not (old / "db" / "data").is_dir() or self.database.exists():
            return
        step(f"taking over the data of an earlier version from {old / 'db'}")
        try:
            for name in ("secrets.json", "setup-code", "db"):  # the database last: until then this begins again
                if (old / name).exists():
                    (old / name).rename(self.path / name)
        except OSError as error:
            raise from_os_error(error, self.path) from error


def write_json(path: Path, what: dict[str, Any]) -> None:
    """Write a small file whole or not at all, for its owner only."""
    new = path.with_name(path.name + ".new")
    try:
        with os.fdopen(os.open(new, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "w") as file:
            json.dump(what, file)
            file.flush()
            os.fsync(file.fileno())
        new.replace(path)
    except OSError as error:
        raise from_os_error(error, path) from error


def read_json(path: Path) -> dict[str, Any]:
    """A small file that `write_json` wrote; empty when there is none or it cannot be understood."""
    try:
        found = json.loads(path.read_text())
    except FileNotFoundError:
        return {}
    except ValueError:
        return {}
    except OSError as error:
        raise from_os_error(error, path) from error
    return found if isinstance(found, dict) else {}
