"""Processes that belong to this launcher and end with it, however it ends."""

import ctypes
import os
import signal
import subprocess
import time
from collections.abc import Callable
from pathlib import Path
from typing import IO

from .paths import ROOT

_LIBC = ctypes.CDLL(None)
_PR_SET_PDEATHSIG = 1


def start(command: list[str], *, environment: dict[str, str] | None = None,
          stdout: int | IO[bytes] = subprocess.DEVNULL) -> "subprocess.Popen[bytes]":
    """Start one, in a session of its own, so that keys pressed in the terminal reach only the launcher."""
    return subprocess.Popen(command, env=environment, cwd=ROOT, stdin=subprocess.DEVNULL, stdout=stdout,
                            stderr=subprocess.STDOUT, start_new_session=True, preexec_fn=_end_with_parent)


def _end_with_parent() -> None:
    """Asked of the kernel: a signal to end when the launcher is gone, even by kill -9."""
    _LIBC.prctl(_PR_SET_PDEATHSIG, signal.SIGTERM, 0, 0, 0)


def ask_to_end(process: "subprocess.Popen[bytes] | None") -> None:
    """Ask it to end, and do not wait."""
    if process is not None and process.poll() is None:
        process.terminate()


def end(process: "subprocess.Popen[bytes] | None", patience_s: float = 15) -> None:
    """Ask it to end, wait, and only then force."""
    if process is None or process.poll() is not None:
        return
    process.terminate()
    try:
        process.wait(patience_s)
    except subprocess.TimeoutExpired:
        process.kill()
        process.wait()


def end_by_id(pid: int, is_it: Callable[[int], bool], patience_s: float = 30) -> None:
    """The same for a process of an earlier launcher, as long as `is_it` still knows it by its command line."""
    for number, wait_s in ((signal.SIGTERM, patience_s), (signal.SIGKILL, 10.0)):
        try:
            os.kill(pid, number)
        except ProcessLookupError:
            return
        until = time.monotonic() + wait_s
        while time.monotonic() < until:
            if not is_it(pid):
                return
            time.sleep(0.05)


def begun_at(pid: int) -> int | None:
    """When a process began, in the system's ticks: with its number it is known for certain. None when it is gone."""
    try:
        return int(Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[19])
    except (OSError, ValueError, IndexError):
        return None


def has_in_environment(pid: int, word: str) -> bool:
    """Whether a process was started with this in its environment; no where that may not be seen."""
    try:
        return word.encode() in Path(f"/proc/{pid}/environ").read_bytes().split(b"\0")
    except OSError:
        return False


def command_line(pid: int) -> str:
    """The words that a process was started with; empty when it is gone."""
    try:
        return Path(f"/proc/{pid}/cmdline").read_bytes().replace(b"\0", b" ").decode(errors="replace")
    except OSError:
        return ""
