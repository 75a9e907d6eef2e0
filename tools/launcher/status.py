"""What runs, and ending it."""

import ssl
import time
import urllib.error
import urllib.request

from . import server
from .folder import NAMES, DataFolder


def tell(only: str | None) -> int:
    """Say what runs; exit code 0 when something does and answers, 3 when nothing does, 1 when one does not answer."""
    code = 3
    for mode in [only] if only else sorted(NAMES):
        folder = DataFolder(mode)
        told = folder.running()
        if not told:
            print(f"{mode}: {'just starting or stopping' if folder.held() else 'not running'}, data in {folder.path}")
            continue
        health, answers = _health(f"{told['address']}health/")
        code = max(code if code != 3 else 0, 0 if answers else 1)
        print(f"{mode}: at {told['address']} since {told['since']} (process {told['process']}), {health}, data in "
              f"{folder.path}")
    return code


def _health(address: str) -> tuple[str, bool]:
    begun = time.monotonic()
    try:
        # over TLS it is this machine asking itself, by a certificate of its own making
        here = ssl._create_unverified_context() if address.startswith("https:") else None
        with urllib.request.urlopen(address, timeout=10, context=here) as answer:
            said = answer.read(300).decode(errors="replace").strip()
    except urllib.error.HTTPError as error:
        return f"unwell: {error.read(200).decode(errors='replace').strip()}", False
    except OSError as error:
        return f"not answering ({error})", False
    return f"{said}, answers in {(time.monotonic() - begun) * 1000:.0f} ms", True


def stop(only: str | None) -> int:
    """End what runs."""
    ended = [mode for mode in ([only] if only else sorted(NAMES)) if server.stop(mode)]
    print(f"Ended: {', '.join(ended)}." if ended else "Nothing was running.")
    return 0
