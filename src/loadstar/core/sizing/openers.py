"""What ends a current, and how soon: blade fuses, electronic ways, and supplies that let no more through.

A fuse opens within the band of ISO 8820-3. An electronic way (of a distribution module) acts at its own speed by
current: seconds near its limit, milliseconds at a short; the values are usual ones of solid-state ways and are assumed.
A limiter (a converter, a coil, a generator) never opens: it gives no more than its most.
"""

import math
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..materials import fuses
from .story import Course

Kind = Literal[fuses.Curve, "electronic", "limit"]
FUSES: frozenset[str] = frozenset(fuses.BANDS)
ELECTRONIC_SOURCE = "usual solid-state ways, assumed; see the maker's data"
# Multiples of the set limit against shortest and longest time to act, seconds; interpolated log-log, held beyond the
# last.
ELECTRONIC_FASTEST = ((1.10, 2.0), (1.35, 0.05), (2.0, 0.005), (4.0, 0.0002))
ELECTRONIC_SLOWEST = ((1.35, 1.0), (1.6, 0.3), (2.0, 0.1), (4.0, 0.005), (6.0, 0.001))
STEADY_MULTIPLE = fuses.STEADY_MULTIPLE  # 1.10: carried for hours, by all but line fuses
OVERLOAD_MULTIPLE = 1.35  # carried for up to ten minutes
PRELOAD = 0.8  # of the rating, carried before the fault


@dataclass(frozen=True)
class Opener:
    """One thing that ends or limits a current: its part, kind, rating, and the wire's current per ampere of its own."""

    part: str
    kind: Kind
    rating_a: float
    share: float

    def slowest_s(self, wire_a: float) -> float:
        """Longest time that it lets a current through the wire last; infinite where nothing makes it act."""
        return self._time_s(wire_a, 1)

    def fastest_s(self, wire_a: float) -> float:
        """Shortest time after which it may act; infinite where it must not."""
        return self._time_s(wire_a, 0)

    def _time_s(self, wire_a: float, side: int) -> float:
        multiple = wire_a / max(self.share, 1e-6) / self.rating_a
        if self.kind == "limit":
            return math.inf
        if self.kind != "electronic":
            return fuses.opening_times_s(multiple, 1.0, self.kind)[side]
        return _electronic_s((ELECTRONIC_FASTEST, ELECTRONIC_SLOWEST)[side], multiple)


def slowest_times_s(kind: Kind, multiple: NDArray[np.float64]) -> NDArray[np.float64]:
    """Longest time until an opener of a kind acts at each of some multiples of its rating, seconds."""
    if kind == "limit":
        return np.full(np.shape(multiple), np.inf)
    points = ELECTRONIC_SLOWEST if kind == "electronic" else fuses.BANDS[kind].slowest
    gates, times = np.log(np.array(points)).T
    at = np.log(np.maximum(multiple, 1e-12))
    seconds = np.exp(np.interp(at, gates, times))
    if kind != "electronic":  # beyond the last gate its I2t is held
        seconds = np.where(at > gates[-1], np.exp(times[-1] - 2 * (at - gates[-1])), seconds)
    return np.asarray(np.where(multiple < points[0][0] * (1 - 1e-12), np.inf, seconds))


def _electronic_s(points: tuple[tuple[float, float], ...], multiple: float) -> float:
    if multiple < points[0][0] * (1 - 1e-12):
        return math.inf
    for (m0, t0), (m1, t1) in pairwise(points):
        if multiple <= m1:
            share = math.log(max(multiple / m0, 1.0)) / math.log(m1 / m0)
            return math.exp(math.log(t0) + share * math.log(t1 / t0))
    return points[-1][1]


def overload_of(kind: Kind) -> float:
    """What an opener of a kind carries for minutes, of its rating."""
    return OVERLOAD_MULTIPLE if kind in ("electronic", "limit") else fuses.BANDS[kind].overload


@dataclass(frozen=True)
class Guard:
    """What ends or limits the worst current that a fault or an overload can drive through a wire.

    `opener` acts first; `helper` is one of the other kind in series, which may be the faster at some currents. `before`
    says that it lies between the wire and its source and so also ends a touch of the wire itself; otherwise it lies
    behind, and only what it lets through is judged. `fault_a` is the largest current of such a fault in the wire,
    `others_a` what the wire carries besides that does not pass the opener, `several_a` the sum that all the openers
    behind it carry at their ratings (0 where only one is). `courses` are those of the worst fault that goes on after
    its first opener, for several resistances of it.
    """

    wire: str
    opener: Opener
    fault_a: float
    before: bool = True
    helper: Opener | None = None
    others_a: float = 0.0
    several_a: float = 0.0
    courses: tuple[Course, ...] = ()

    @property
    def fuse(self) -> str:
        """The part that acts first."""
        return self.opener.part

    @property
    def rating_a(self) -> float:
        """Its rating, setting or limit."""
        return self.opener.rating_a

    @property
    def share(self) -> float:
        """The wire's current per ampere through it."""
        return self.opener.share

    @property
    def electronic(self) -> bool:
        """Whether it is no fuse."""
        return self.opener.kind not in FUSES

    @property
    def steady_a(self) -> float:
        """Current in the wire while the opener carries what it carries for good."""
        return self.lets_a(self.steady_multiple)

    @property
    def steady_multiple(self) -> float:
        """What the opener carries for good, of its rating."""
        kind = self.opener.kind
        return STEADY_MULTIPLE if kind in ("electronic", "limit") else fuses.BANDS[kind].steady

    @property
    def overload_multiple(self) -> float:
        """What it carries for minutes, of its rating."""
        return overload_of(self.opener.kind)

    def lets_a(self, multiple: float) -> float:
        """Current in the wire while the opener carries this multiple of its rating (a limiter never more than its
        most)."""
        most = 1.0 if self.opener.kind == "limit" else multiple
        return most * self.rating_a * self.share + self.others_a

    @property
    def several_lets_a(self) -> float:
        """Current in the wire while all the openers behind it carry 1.10 times their ratings."""
        return STEADY_MULTIPLE * self.several_a

    def slowest_s(self, wire_a: float) -> float:
        """Longest time that a current through the wire lasts: the fastest of the openers in series counts."""
        through = max(wire_a - self.others_a, 0.0)
        return min(o.slowest_s(through) for o in (self.opener, self.helper) if o is not None)

    def fastest_s(self, wire_a: float) -> float:
        """Shortest time after which one of them may act."""
        through = max(wire_a - self.others_a, 0.0)
        return min(o.fastest_s(through) for o in (self.opener, self.helper) if o is not None)
