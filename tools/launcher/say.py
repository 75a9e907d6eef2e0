"""How the launcher speaks: progress on standard output, one sentence and a non-zero exit when it cannot go on."""

import errno
import shutil
from pathlib import Path


class Stop(Exception):
    """The command cannot go on; its text is the one sentence that is shown."""


def step(text: str) -> None:
    """Say what is being done, on a line of its own."""
    print(f"- {text}", flush=True)


class FullDisk(Stop):
    """There is no room left on a disk."""


def full_disk(where: object) -> FullDisk:
    """The sentence for a disk without room at `where`, with the figure where that can be asked."""
    path = next((p for p in (Path(str(where)), *Path(str(where)).parents) if p.exists()), Path("/"))
    free = f" ({shutil.disk_usage(path).free / 1024**2:.0f} MB free)" if path != Path("/") else ""
    return FullDisk(f"There is no room left on the disk that holds {where}{free}: free some space and start again.")


def says_full(output: str) -> bool:
    """Whether a tool's output says, in one of the ways of the system and of MariaDB, that the disk is full."""
    low = output.lower()
    return any(words in low for words in ("no space left", "errcode: 28", "errno: 28", "error 28", "disk full"))


def from_os_error(error: OSError, where: object) -> Stop:
    """Turn an operating-system error met at `where` into its sentence."""
    if error.errno in (errno.ENOSPC, errno.EDQUOT):
        return full_disk(where)
    if error.errno in (errno.EACCES, errno.EPERM, errno.EROFS):
        return Stop(f"Loadstar may not use {where}: give this account the right to, or run it from a folder of "
                    "your own.")
    return Stop(f"The operating system refused an operation on {where}: {error.strerror or error}.")


def tail_of(output: str, lines: int = 6) -> str:
    """The last few lines of a tool's output, for a message that has to quote it."""
    return "\n".join(output.strip().splitlines()[-lines:])
