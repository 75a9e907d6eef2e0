"""What becomes of a fault: which opener acts when, and what flows on until nothing flows, or nothing acts any more.

At every moment each opener carries its own current and has, from the slow edge of its band, its own time to act at it.
What it has used of that time so far stays used when the currents change. The first to reach its end opens; then the
network is another one, and it goes on so.
"""

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .flows import LEAST_A, OPENER_SHARE
from .openers import Opener, overload_of
from .story import Course, Step

Array = NDArray[np.float64]
RESISTANCES = 8  # of a fault, from a dead short to where its first opener need not act
OVER = 1.01  # that much above the least that opens something
AT_ONCE_S = 1e-9


@dataclass(frozen=True)
class Leg:
    """A fault while certain openers are open: the volts that drive it, the ohms of its loop without the fault's own,
    and what share of it the wire and each opener carry."""

    volts: float
    loop_ohm: float
    wire_share: float
    shares: Array


Legs = Callable[[tuple[int, ...]], Leg]


def follow(legs: Legs, openers: Sequence[Opener], fault_ohm: float) -> Course:
    """The course of a fault of so many ohms. `legs` says where it flows once the openers of these numbers (sorted) are
    open."""
    used = np.zeros(len(openers))
    opened: tuple[int, ...] = ()
    steps: list[Step] = []
    while True:
        leg = legs(opened)
        amps = leg.volts / max(leg.loop_ohm + fault_ohm, 1e-9)
        if amps <= LEAST_A:
            break
        times = np.array([o.slowest_s(amps * s * o.share) if s > OPENER_SHARE else math.inf
                          for o, s in zip(openers, leg.shares.tolist(), strict=True)])
        acts = np.isfinite(times)
        left = np.full(len(times), math.inf)
        left[acts] = (1.0 - used[acts]) * times[acts]
        seconds = float(left.min(initial=math.inf))
        if math.isinf(seconds):
            steps.append(Step(math.inf, amps, amps * leg.wire_share, ()))
            break
        first = np.flatnonzero(left <= seconds + AT_ONCE_S).tolist()
        steps.append(Step(max(seconds, 0.0), amps, amps * leg.wire_share, tuple(openers[i].part for i in first)))
        used[acts] = np.minimum(used[acts] + seconds / times[acts], 1.0)
        opened = tuple(sorted((*opened, *first)))
    return Course(fault_ohm, tuple(steps))


def resistances(first: Leg, openers: Sequence[Opener]) -> Iterator[float]:
    """The ohms of a fault that are looked at: none, and up to where it need not open its first opener."""
    yield 0.0
    amps = first.volts / max(first.loop_ohm, 1e-9)
    least = min((overload_of(o.kind) * o.rating_a / s for o, s in zip(openers, first.shares.tolist(), strict=True)
                 if s > OPENER_SHARE and o.kind != "limit"), default=math.inf) * OVER
    if least < amps:
        for at in np.geomspace(amps, least, RESISTANCES)[1:].tolist():
            yield first.volts / at - first.loop_ohm


def courses(legs: Legs, openers: Sequence[Opener]) -> tuple[Course, ...]:
    """A fault's courses for every resistance of it that is looked at."""
    found = (follow(legs, openers, ohm) for ohm in resistances(legs(()), openers))
    return tuple(c for c in found if c.steps)
