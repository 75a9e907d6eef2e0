"""A fault's story as data: what flows, what opens after how long, what flows on."""

import math
from dataclasses import dataclass


@dataclass(frozen=True)
class Step:
    """So many seconds (infinite: for good) in which the fault draws `fault_a` and the wire carries `wire_a`; at their
    end these openers open."""

    seconds: float
    fault_a: float
    wire_a: float
    opens: tuple[str, ...]


@dataclass(frozen=True)
class Course:
    """A fault of so many ohms, from its beginning to its end. The last step lasts for good where current flows on."""

    fault_ohm: float
    steps: tuple[Step, ...]

    @property
    def rest_a(self) -> float:
        """What flows on in the wire for good; 0 where the fault is ended."""
        last = self.steps[-1]
        return last.wire_a if math.isinf(last.seconds) else 0.0

    @property
    def wire_a2s(self) -> float:
        """What all steps that end leave in the wire, A2s."""
        return sum(s.wire_a**2 * s.seconds for s in self.steps if math.isfinite(s.seconds))

    @property
    def most_a(self) -> float:
        """The most that the wire carries in a step that ends."""
        return max((s.wire_a for s in self.steps if math.isfinite(s.seconds)), default=0.0)

    @property
    def opened(self) -> tuple[str, ...]:
        """What has opened, in its order."""
        return tuple(part for step in self.steps for part in step.opens)

    @property
    def begins_a(self) -> float:
        """What the wire carries at the beginning."""
        return self.steps[0].wire_a
