"""How far the part is that this process makes: told to the database now and then, by whoever lays out pages."""

import logging
import re
import time
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import timedelta

from django.utils import timezone

from .models import Job, Part

EVERY_S = 0.4
PAGE = re.compile(r"Creating layout - Page (\d+)")  # what the page maker writes to its own log for each


class Cancelled(Exception):
    """Nobody waits for it any more."""


class Pages(logging.Handler):
    """Counts the pages of one part as they are laid out."""

    def __init__(self, job: Job, part: Part | None, patience_s: float | None) -> None:
        super().__init__(logging.INFO)
        self._job, self._part, self._patience_s = job, part, patience_s
        self._told = time.monotonic()
        self.page = 0

    def emit(self, record: logging.LogRecord) -> None:
        """One page more. Raises Cancelled."""
        found = PAGE.search(record.getMessage())
        if found:
            self.page = int(found[1])
            if time.monotonic() - self._told > EVERY_S:
                self._told = time.monotonic()
                self._tell(self.page)

    def _tell(self, page: int) -> None:
        now = timezone.now()
        Job.objects.filter(pk=self._job.pk).update(beat=now)
        if self._part is not None:
            Part.objects.filter(pk=self._part.pk).update(pages=page)
        if self._patience_s is not None:
            since = now - timedelta(seconds=self._patience_s)
            if not Job.objects.filter(pk=self._job.pk, wanted__gt=since).exists():
                raise Cancelled


@contextmanager
def told(job: Job, part: Part | None, patience_s: float | None) -> Iterator[Pages]:
    """What is laid out inside is told page by page; it raises Cancelled when nobody has looked for so long."""
    log, handler = logging.getLogger("weasyprint.progress"), Pages(job, part, patience_s)
    level, spreads = log.level, log.propagate
    log.setLevel(logging.INFO)
    log.propagate = False
    log.addHandler(handler)
    try:
        yield handler
    finally:
        log.removeHandler(handler)
        log.setLevel(level)
        log.propagate = spreads
