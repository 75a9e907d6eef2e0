"""The Python environment under `var/venv`, made from the pinned and hashed lock files."""

import hashlib
import os
import shutil
import subprocess
import sys
from pathlib import Path

from .account import usable_by_others
from .paths import PYTHON, ROOT, VAR, VENV
from .say import Stop, from_os_error, full_disk, step, tail_of

SYSTEM = "/usr/bin/python3"  # Debian 12's is 3.11
LOCKS = {name: ROOT / "requirements" / f"{name}.txt" for name in ("run", "dev", "mutants")}


def ensure(*sets: str) -> None:
    """Bring the environment to the lock files named ("run", "dev", "mutants"); quick when it already is."""
    if sys.version_info < (3, 11):
        raise Stop(f"Loadstar needs Python 3.11 or newer; this is {sys.version.split()[0]}.")
    try:
        for name in sets:
            _ensure_one(name)
    except OSError as error:
        raise from_os_error(error, VAR) from error


def is_ready(name: str) -> bool:
    """Whether the environment is as a lock file says."""
    stamp = _stamp(name)
    return PYTHON.exists() and stamp.exists() and stamp.read_text() == _digest(name)


def _python() -> str:
    """The Python that the environment is made from: this one; where root runs one that only root can reach, the
    system's.
    """
    if os.geteuid() != 0 or usable_by_others(sys.executable) or not usable_by_others(SYSTEM):
        return sys.executable
    return SYSTEM


def _stamp(name: str) -> Path:
    return VENV / f".{name}.sha256"


def _digest(name: str) -> str:
    return hashlib.sha256(LOCKS[name].read_bytes()).hexdigest()


def _ensure_one(name: str) -> None:
    if os.geteuid() == 0 and PYTHON.exists() and not usable_by_others(str(PYTHON)) and usable_by_others(SYSTEM):
        shutil.rmtree(VENV)  # of an earlier version, which then ran as root
    if is_ready(name):
        return
    lock = LOCKS[name]
    if not (VENV / ".made").exists():
        shutil.rmtree(VENV, ignore_errors=True)
        step("making a Python environment in var/venv")
        _run([_python(), "-m", "venv", str(VENV)])
        (VENV / ".made").touch()
    step(f"installing the Python packages of {lock.name}")
    _run([str(PYTHON), "-m", "pip", "install", "-q", "--disable-pip-version-check",
          "--require-hashes", "-r", str(lock)])
    _stamp(name).write_text(_digest(name))


def _run(command: list[str]) -> None:
    done = subprocess.run(command, stdin=subprocess.DEVNULL, stdout=subprocess.PIPE,
                          stderr=subprocess.STDOUT, text=True, check=False)
    if done.returncode:
        if "No space left" in done.stdout:
            raise full_disk(VAR)
        raise Stop(f"{' '.join(command[1:4])} failed; it ended with:\n{tail_of(done.stdout)}")
