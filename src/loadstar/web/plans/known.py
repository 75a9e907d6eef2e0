"""What is known of a revision: its document, and all that is computed about it, each once while it is kept in this
process.

Kept by the document as it is stored, so that a revision that comes back (by undo, or on another page) is known already.
Two threads that ask for the same at once may both compute it; the answers are the same.
"""

import zlib
from functools import lru_cache

from loadstar.core.analysis import Analysis, analyse
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
        self._analysis: Analysis | None = None
        self._cures: Cures | None = None
        self._feeds: dict[str, tuple[FeedOption, ...]] = {}

    @property
    def analysis(self) -> Analysis:
        """Everything computed about it."""
        if self._analysis is None:
            self._analysis = analyse(self.plan)
        return self._analysis

    @property
    def cures(self) -> Cures:
        """What mends its findings; each proposal is tried when it is asked for."""
        if self._cures is None:
            self._cures = Cures(self.analysis)
        return self._cures

    def feeds(self, load: str) -> tuple[FeedOption, ...]:
        """Every feed compared for one accessory."""
        if load not in self._feeds:
            self._feeds[load] = compare_feeds(self.plan, load)
        return self._feeds[load]


def pack(plan: Plan) -> bytes:
    """A document as it is stored."""
    return zlib.compress(document.to_bytes(plan), 9)


@lru_cache(maxsize=KEPT)
def known(stored: bytes) -> Known:
    """What is known of a stored document: checked again and brought to the newest version."""
    return Known(document.from_json(zlib.decompress(stored)))
