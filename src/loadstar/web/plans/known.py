"""What is known of a revision: its document, and all that is computed about it, each once.

Kept by the document as it is stored, so that a revision that comes back (by undo, or on another page) is known already:
in this process, and in a cache that all workers share (reading an analysis takes a thirtieth of making it). Of two
threads that ask for the same at once, one computes it. Nothing computes for longer than the settings allow.
"""

import hashlib
import time
import zlib
from collections.abc import Callable
from dataclasses import dataclass
from functools import cache, cached_property
from pathlib import Path
from threading import Lock

from cachetools import LRUCache, cached
from django.conf import settings

import loadstar.core
from loadstar.core import limits
from loadstar.core.analysis import Analysis, analyse
from loadstar.core.findings import Finding, Proposal
from loadstar.core.plan import document
from loadstar.core.plan.model import Plan
from loadstar.core.whatif.cures import Cures
from loadstar.core.whatif.feeds import FeedOption, compare_feeds
from loadstar.core.whatif.outlook import Flip, Hangs, Outlook
from loadstar.core.whatif.places import PlaceOption, ranked, tried_at
from loadstar.core.whatif.returns import APART, joined
from loadstar.core.whatif.unknown import Outlooks, measurable

from . import shared

KEPT_BYTES = 400 * 1024**2  # of memory, in each process
BYTES_EACH = 60  # of memory for one of the document's JSON: measured 31 to 33 for an analysis; comparisons add to it
LOOK_S = 1.5  # that one look at what hangs on unknown figures takes
TRIED_AGAIN_S = 600  # a plan that was too large may have met a busy machine


@dataclass(frozen=True)
class Tried:
    """What has been tried so far, best first, and how many there are to try."""

    options: tuple[PlaceOption, ...]
    of: int

    @property
    def untried(self) -> int:
        """How many are left."""
        return self.of - len(self.options)


class Known:
    """One document, with its analysis, the cures of its findings and its comparisons of feeds once they have been asked
    for."""

    def __init__(self, plan: Plan, digest: str, size: int) -> None:
        self.plan, self._digest, self.weighs = plan, digest, size * BYTES_EACH
        self._computing = Lock()  # what takes long is not computed twice at once
        self._analysis: Analysis | None = None
        self._stale_at = 0.0
        self._cures: Cures | None = None
        self._cured: dict[tuple[str, ...], int | None] | None = None
        self._tried_for_s = 0.0
        self._feeds: dict[str, tuple[FeedOption, ...]] = {}
        self._looking = Lock()
        self._outlooks: Outlooks | None = None
        self._outlook: Outlook | None = None
        self._looked: Outlook | None = None
        self._thresholds: dict[tuple[str, str, str], float] | None = None

    @property
    def analysis(self) -> Analysis:
        """Everything computed about it."""
        with self._computing:
            if self._analysis is None or (self._analysis.left_out and time.monotonic() > self._stale_at):
                self._analysis = self._shared_analysis()
                self._stale_at = time.monotonic() + TRIED_AGAIN_S
        return self._analysis

    def _shared_analysis(self) -> Analysis:
        key = f"analysis-{self._digest}"
        found: Analysis | None = shared.read(key)
        if found is None:
            with limits.at_most(settings.COMPUTE_S):
                found = analyse(self.plan)
            shared.keep(key, found, TRIED_AGAIN_S if found.left_out else None)
        return found

    def cure_of(self, finding: Finding) -> Proposal | None:
        """What mends a finding; each proposal is tried when it is asked for, all of them within the time of one
        computation."""
        key, about = f"cures-{self._digest}", (*finding.key, finding.sentence)
        if self._cured is None:
            self._cured = shared.read(key) or {}
        if about not in self._cured:
            found = self._tried(finding)
            self._cured[about] = finding.proposals.index(found) if found else None
            shared.keep(key, self._cured)
        at = self._cured[about]
        return None if at is None else finding.proposals[at]

    def _tried(self, finding: Finding) -> Proposal | None:
        if self._cures is None:
            self._cures = Cures(self.analysis)
        begun = time.monotonic()
        with limits.at_most(max(settings.COMPUTE_S - self._tried_for_s, 0.0)):
            found = self._cures.of(finding)
        self._tried_for_s += time.monotonic() - begun
        return found

    # -- what hangs on figures that nobody has found yet ------------------------------------------------------------

    @cached_property
    def rests_on(self) -> int:
        """How many of its figures could be measured and have not been; of a plan that nothing feeds yet none counts."""
        return len(measurable(self.plan)) if self.plan.supply is not None else 0

    @property
    def outlook_so_far(self) -> Outlook | None:
        """What hangs on the unknown figures, if it has been looked at; nothing is computed for it."""
        if self._outlook is None and self.rests_on:
            self._outlook = shared.read(f"outlook-{self._digest}")
        return self._outlook

    @property
    def last_look(self) -> Outlook | None:
        """The same, or as much of it as has been seen here."""
        return self.outlook_so_far or self._looked

    def outlook(self) -> Outlook:
        """What hangs on the unknown figures, as far as it can be seen within the time of one look: the next one goes
        on where this one ended."""
        with self._looking:
            found = self.outlook_so_far
            if found is None:
                with limits.at_most(settings.COMPUTE_S):
                    found = self._tries().outlook(LOOK_S)
                shared.keep(f"tries-{self._digest}", self._tries().seen)
                self._looked = found
                if not found.untried:
                    self._outlook = found
                    shared.keep(f"outlook-{self._digest}", found)
        return found

    def threshold(self, hangs: Hangs, flip: Flip) -> float:
        """From where on within its band an unknown figure makes a finding come or go."""
        key, about = f"thresholds-{self._digest}", (hangs.unknown.key, flip.end, "/".join(flip.finding.key))
        with self._looking:
            if self._thresholds is None:
                self._thresholds = shared.read(key) or {}
            if about not in self._thresholds:
                with limits.at_most(settings.COMPUTE_S):
                    self._thresholds[about] = self._tries().threshold(hangs, flip)
                shared.keep(key, self._thresholds)
            return self._thresholds[about]

    def _tries(self) -> Outlooks:
        if self._outlooks is None:
            self._outlooks = Outlooks(self.analysis)
        self._outlooks.seen |= shared.read(f"tries-{self._digest}") or {}  # another worker may have gone on
        return self._outlooks

    def feeds(self, load: str) -> tuple[FeedOption, ...]:
        """Every feed compared for one accessory."""
        if load not in self._feeds:
            with limits.at_most(settings.COMPUTE_S):
                self._feeds[load] = compare_feeds(self.plan, load)
        return self._feeds[load]

    def places(self, part: str) -> Tried:
        """Every place for one part, as far as one look comes; the next goes on from there."""
        return self._tried_in_turn(f"places-{part}", [p.id for p in self.plan.places],
                                   lambda place: tried_at(self.analysis, part, place))

    def returns(self, loads: tuple[str, ...]) -> Tried:
        """Every place where the returns of these accessories could be joined, likewise."""
        return self._tried_in_turn(f"returns-{'-'.join(loads)}", [APART, *(p.id for p in self.plan.places)],
                                   lambda place: joined(self.analysis, loads, place))

    def _tried_in_turn(self, what: str, places: list[str], one: Callable[[str], PlaceOption]) -> Tried:
        key = f"{what}-{self._digest}"
        found: list[PlaceOption] = list(shared.read(key) or ())
        begun = time.monotonic()
        with self._looking:
            while len(found) < len(places) and time.monotonic() - begun < LOOK_S:
                with limits.at_most(settings.COMPUTE_S):
                    found.append(one(places[len(found)]))
        shared.keep(key, tuple(found))
        return Tried(ranked(found), len(places))


def pack(plan: Plan) -> bytes:
    """A document as it is stored."""
    return zlib.compress(document.to_bytes(plan), 9)


@cached(LRUCache(KEPT_BYTES, getsizeof=lambda found: found.weighs), key=lambda stored: hashlib.sha256(stored).digest(),
        lock=Lock())
def known(stored: bytes) -> Known:
    """What is known of a stored document: checked again and brought to the newest version."""
    text = zlib.decompress(stored)
    return Known(document.from_json(text), f"{program()}-{hashlib.sha256(stored).hexdigest()}", len(text))


def forget() -> None:
    """Throw away what is kept in this process: it has no memory left."""
    known.cache_clear()


@cache
def program() -> str:
    """What computes: an analysis that another version of the core made is none of this one."""
    digest = hashlib.sha256()
    for path in sorted(Path(loadstar.core.__path__[0]).rglob("*.py")):
        digest.update(path.read_bytes())
    return digest.hexdigest()[:12]
