"""What is known of a revision: its document, and all that is computed about it, each once while it is kept in this
process.

Kept by the document as it is stored, so that a revision that comes back (by undo, or on another page) is known already.
Of two threads that ask for the same at once, one computes it. Nothing computes for longer than the settings allow.
"""

import time
import zlib
from functools import lru_cache
from threading import Lock

from django.conf import settings

from loadstar.core import limits
from loadstar.core.analysis import Analysis, analyse
from loadstar.core.findings import Finding, Proposal
from loadstar.core.plan import document
from loadstar.core.plan.model import Plan
from loadstar.core.whatif.cures import Cures
from loadstar.core.whatif.feeds import FeedOption, compare_feeds

KEPT = 64


class Known:
    """One document, with its analysis, the cures of its findings and its comparisons of feeds once they have been asked
    for."""

    def __init__(self, plan: Plan) -> None:
        self.plan = plan
        self._computing = Lock()  # what takes long is not computed twice at once
        self._analysis: Analysis | None = None
        self._cures: Cures | None = None
        self._tried_for_s = 0.0
        self._feeds: dict[str, tuple[FeedOption, ...]] = {}

    @property
    def analysis(self) -> Analysis:
        """Everything computed about it."""
        with self._computing:
            if self._analysis is None:
                with limits.at_most(settings.COMPUTE_S):
                    self._analysis = analyse(self.plan)
        return self._analysis

    def cure_of(self, finding: Finding) -> Proposal | None:
        """What mends a finding; each proposal is tried when it is asked for, all of them within the time of one
        computation."""
        if self._cures is None:
            self._cures = Cures(self.analysis)
        begun = time.monotonic()
        with limits.at_most(max(settings.COMPUTE_S - self._tried_for_s, 0.0)):
            found = self._cures.of(finding)
        self._tried_for_s += time.monotonic() - begun
        return found

    def feeds(self, load: str) -> tuple[FeedOption, ...]:
        """Every feed compared for one accessory."""
        if load not in self._feeds:
            with limits.at_most(settings.COMPUTE_S):
                self._feeds[load] = compare_feeds(self.plan, load)
        return self._feeds[load]


def pack(plan: Plan) -> bytes:
    """A document as it is stored."""
    return zlib.compress(document.to_bytes(plan), 9)


@lru_cache(maxsize=KEPT)
def known(stored: bytes) -> Known:
    """What is known of a stored document: checked again and brought to the newest version."""
    return Known(document.from_json(zlib.decompress(stored)))
