"""What comes on together, and which inrush that drives through a fuse or contact.

Loads behind one relay or switch come on at the same moment, so their inrushes add up ampere by ampere; what is always
live, or has a switch of its own, comes on by itself. An inrush is a rectangle (peak, duration) or a decay (peak, time
constant); the integral of the square of the sum is exact. Through a converter none passes: it limits, and has one of
its own at its input.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import product

from ..materials import fuses
from ..parts.converter import Converter
from ..parts.load import LoadPart
from ..parts.way import Way
from ..wiring.topology import Topology

Surging = LoadPart | Converter  # what takes more for a moment as it comes on
KEPT = 1024  # elements: those of the plans at work, and no more


@dataclass(frozen=True)
class Inrush:
    """One moment of switching on: the loads, the sum of their peaks, and the integral of the square of their
    current."""

    loads: tuple[Surging, ...]
    peak_a: float
    a2s: float

    @property
    def duration_s(self) -> float:
        """How long a rectangle of the same peak and integral lasts."""
        return self.a2s / self.peak_a**2

    def bears_a2s(self, rating_a: float, curve: fuses.Curve) -> float:
        """What a fuse of a rating bears of it without ageing: 0.3 of what opens the fastest in that time."""
        return fuses.inrush_limit_a2s(rating_a, self.duration_s, curve)


def inrush_through(topology: Topology, element: str, rating_a: float) -> Inrush | None:
    """The inrush through an element that a fuse of this rating bears least; None where nothing behind it has any."""
    curve = curve_of(topology, element)
    return max(_inrushes(topology, element), key=lambda one: one.a2s / one.bears_a2s(rating_a, curve), default=None)


def curve_of(topology: Topology, element: str) -> fuses.Curve:
    """How soon a fuse opens."""
    protects = topology.parts[element].protection
    assert protects is not None, element
    return fuses.KINDS[protects.pattern].curve


def highest_inrush(topology: Topology, element: str) -> Inrush | None:
    """The inrush through an element with the highest peak, which a contact has to make; None where there is none."""
    return max(_inrushes(topology, element), key=lambda one: one.peak_a, default=None)


@lru_cache(maxsize=KEPT)
def _inrushes(topology: Topology, element: str) -> tuple[Inrush, ...]:
    """They hang on no size and no rating: each is asked for many times while these are looked for."""
    together: dict[str, list[Surging]] = {}
    for load in topology.loads_fed_through.get(element, ()):
        if load.inrush_a > 0 and load.inrush_ms > 0 and not _rises_slowly(topology, load):
            together.setdefault(_comes_on_with(topology, load), []).append(load)
    for box in topology.plan.of(Converter):
        if box.inrush_a > 0 and box.inrush_ms > 0 and any(
                k.element == element for k in topology.converter_path(box.id).feed):
            together[box.id] = [box]
    return tuple(Inrush(tuple(loads), sum(p.inrush_a for p in loads), _integral_a2s(loads))
                 for loads in together.values())


def _rises_slowly(topology: Topology, load: LoadPart) -> bool:
    """Whether a way of a module lets a load's current rise too slowly for an inrush."""
    ways = (topology.plan.is_one(k.element, Way) for k in topology.paths[load.id].feed)
    return any(way is not None and way.soft_start_ms > load.inrush_ms for way in ways)


def _comes_on_with(topology: Topology, load: LoadPart) -> str:
    on_the_way = [part for k in topology.paths[load.id].feed if (part := topology.parts.get(k.element))]
    switches = [part.id for part in on_the_way if part.contact and part.contact.makes_inrush]
    if switches:
        return switches[-1]
    return load.id if load.live == "always" else load.live


def _integral_a2s(loads: Sequence[Surging]) -> float:
    """Integral over time of the squared sum of some inrushes that begin together."""
    return sum(a.inrush_a * b.inrush_a * _overlap_s(a, b) for a, b in product(loads, loads))


def _overlap_s(a: Surging, b: Surging) -> float:
    """Integral over time of the product of two inrushes of peak 1."""
    s, t = a.inrush_ms / 1000, b.inrush_ms / 1000
    if a.inrush_shape == b.inrush_shape:
        return min(s, t) if a.inrush_shape == "rectangle" else 1 / (1 / s + 1 / t)
    lasts, falls = (s, t) if a.inrush_shape == "rectangle" else (t, s)
    return falls * (1 - math.exp(-lasts / falls))
