"""What all workers share of what was computed. It only saves time: what cannot be read or kept is computed again."""

import logging
import pickle
import zlib
from pathlib import Path
from typing import Any

from django.core.cache import caches
from django.core.cache.backends.filebased import FileBasedCache

log = logging.getLogger(__name__)
MOST_BYTES = 512 * 1024**2  # on the disk, all together
# What a file can raise that was cut short by a power cut, or is of another version of a library.
DAMAGED = (EOFError, zlib.error, pickle.UnpicklingError, AttributeError, ImportError, IndexError, KeyError, TypeError,
           ValueError)


class Files(FileBasedCache):
    """A folder of files, bounded in bytes as well as in number: the ones written first go first."""

    def _cull(self) -> None:
        super()._cull()
        found = []
        for name in self._list_cache_files():
            try:
                have = Path(name).stat()
            except FileNotFoundError:  # another worker was faster
                continue
            found.append((have.st_mtime, have.st_size, name))
        over = sum(size for _, size, _ in found) - MOST_BYTES
        for _, size, name in sorted(found):
            if over <= 0:
                break
            self._delete(name)
            over -= size


def read(key: str) -> Any:
    """What is kept under a key; None when there is nothing that can be read."""
    try:
        return caches["analyses"].get(key)
    except (OSError, *DAMAGED) as error:
        log.warning("what was computed before cannot be read (%s): computed again", type(error).__name__)
        return None


def keep(key: str, value: Any, seconds: float | None = None) -> None:
    """Keep something computed, for so long; without a time as long as there is room."""
    try:
        caches["analyses"].set(key, value, seconds)
    except OSError as error:
        log.warning("what was computed cannot be kept for other workers: %s", error)
