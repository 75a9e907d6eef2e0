"""How long a computation may take: set by who asks for it, looked at by whatever takes long."""

import time
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar

_until: ContextVar[float | None] = ContextVar("until", default=None)
BLOCK_BYTES = 64 * 1024**2  # of the matrices that are solved together


class TooLarge(RuntimeError):
    """The computation has not ended within its time. Nothing is wrong with what was given."""


@contextmanager
def at_most(seconds: float) -> Iterator[None]:
    """What is computed inside raises TooLarge once the time is over; of one inside another the shorter counts."""
    before = _until.get()
    until = time.monotonic() + seconds
    token = _until.set(until if before is None else min(before, until))
    try:
        yield
    finally:
        _until.reset(token)


@contextmanager
def at_most_half() -> Iterator[None]:
    """What is computed inside leaves half of the time that is left to what follows."""
    until = _until.get()
    if until is None:
        yield
        return
    with at_most((until - time.monotonic()) / 2):
        yield


def check() -> None:
    """Raise TooLarge when the time is over. Called in every loop whose length hangs on the plan."""
    until = _until.get()
    if until is not None and time.monotonic() > until:
        raise TooLarge


def rows_at_once(size: int, bytes_each: int = 16) -> int:
    """How many square matrices of a size are solved together without taking much memory."""
    return max(1, BLOCK_BYTES // max(size * size * bytes_each, 1))
