"""Where things are. Everything that Loadstar makes at run time lies below `var/` in the checkout."""

import hashlib
import os
import shutil
from pathlib import Path

from .say import from_os_error, full_disk

ROOT = Path(__file__).resolve().parents[2]
VAR = Path(os.environ.get("LOADSTAR_VAR", ROOT / "var")).resolve()
VENV = VAR / "venv"
PYTHON = VENV / "bin" / "python"
ROOM_NEEDED_BYTES = 150 * 1024 * 1024


def ready_var() -> None:
    """Make `var/` and see that there is room on its disk. Others may pass through it; the data folders in it are the
    server's own."""
    try:
        VAR.mkdir(mode=0o755, parents=True, exist_ok=True)
        if VAR.stat().st_uid == os.geteuid():
            VAR.chmod(0o755)
    except OSError as error:
        raise from_os_error(error, VAR) from error
    if shutil.disk_usage(VAR).free < ROOM_NEEDED_BYTES:
        raise full_disk(VAR)


def socket_path(folder: Path) -> Path:
    """A path for a Unix socket: in `folder`, or below /tmp when that would be too long for the system (107 bytes)."""
    wanted = folder / "s.sock"
    if len(str(wanted).encode()) <= 107:
        return wanted
    short = Path("/tmp") / f"loadstar-{hashlib.sha256(str(folder).encode()).hexdigest()[:12]}"
    short.mkdir(mode=0o700, exist_ok=True)
    return short / "s.sock"
