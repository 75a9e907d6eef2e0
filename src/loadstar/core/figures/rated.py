"""Ratings of fuses, ways and contacts, and the currents that they are judged by."""

import math
from dataclasses import dataclass

from ..amounts import NOTHING_A
from ..materials import fuses
from ..plan.model import Plan
from ..sizing.choose import Sized
from ..sizing.contacts import most_a
from ..wiring.topology import Topology

MUCH_MORE = 1.5  # times what an element carries otherwise: then it is told that it does while cranking


@dataclass(frozen=True)
class Ratings:
    """Of everything that opens: what it is rated or set to, and what it carries; `sized` is None where nothing could be
    computed."""

    plan: Plan
    topology: Topology
    sized: Sized | None

    @property
    def rated(self) -> dict[str, float]:
        """Ratings of fuses and settings of ways, chosen or fixed."""
        return self.sized.choices.rating_a if self.sized else {}

    def rating_a(self, fuse: str) -> float:
        """What a fuse or way is rated or set to: chosen, fixed, or found on the machine."""
        assert self.sized is not None
        protects = self.topology.parts[fuse].protection
        assert protects is not None, fuse
        if protects.chosen:
            return self.sized.choices.rating_a[fuse]
        assert protects.stated_a is not None, fuse
        return protects.stated_a

    def short_a(self, element: str) -> float:
        """What an element carries at the most while the starter turns."""
        return self.sized.short_a.get(element, 0.0) if self.sized else 0.0

    def cranking_a(self, element: str) -> float | None:
        """The same, where it is half as much again as ever else, or more; None where it is nothing of its own."""
        amps = self.short_a(element)
        return amps if amps > MUCH_MORE * max(self.peak_a(element), NOTHING_A) else None

    def rating_or_none_a(self, element: str) -> float | None:
        """Rating of a fuse, a way or a contact, chosen or fixed; None for what has none, or where nothing could be
        computed."""
        if self.sized is None:
            return None
        return self.rated.get(element, self.sized.contact_a.get(element))

    def contact_a(self, contact: str) -> float:
        """A relay's or switch's contact rating, chosen or fixed; infinite where nothing could be computed."""
        return self.sized.contact_a[contact] if self.sized else math.inf

    def fuse_share_frac(self, fuse: str) -> float:
        """Share of what a fuse stands at the temperature around it that its largest current takes."""
        ambient = self.plan.ambient_at(self.topology.parts[fuse].place)
        return self.peak_a(fuse) / fuses.rerated_a(self.rating_a(fuse), ambient)

    def peak_a(self, element: str) -> float:
        """Largest current of an element over the states."""
        return self.sized.peak_a.get(element, 0.0) if self.sized else 0.0

    def through_contact(self, part: str) -> tuple[str, float]:
        """Of a part's contacts the one that carries most, and how much."""
        return most_a(self.topology, part, self.sized.peak_a if self.sized else {})
