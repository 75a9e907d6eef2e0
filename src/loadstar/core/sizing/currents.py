"""Fault currents of a plan, by wire: what all faults together say."""

from dataclasses import dataclass, field

from .openers import Guard
from .story import Course


@dataclass(frozen=True)
class Bypass:
    """A fault that goes on through a wire after openers have opened, with nothing left that ends it: which, and the
    amps that go on in the wire."""

    opened: tuple[str, ...]
    rest_a: float


@dataclass(frozen=True)
class Faults:
    """Fault currents of a plan, by wire.

    `guards` are what lies before a wire (None: nothing sees a touch of it), `behind` what lies behind one that nothing
    guards. `fault_a` is the largest anywhere on the wire, source strong and copper cold; `near_a` and `far_a` what a
    touch at its two ends draws with the source at the judged charge and the copper warm, less the arc's volts.
    `unknown` are wires whose touch only passes a factory fuse that nobody has found, and which (tap). `bypassed` are
    wires in which a fault goes on after something has opened, with nothing left that ends it; `unfollowed` whether
    there were more stages than are looked at. Courses are those of each wire's worst fault of more than one stage.
    """

    guards: dict[str, Guard | None]
    behind: dict[str, Guard | None]
    fault_a: dict[str, float]
    solved: bool
    near_a: dict[str, float]
    far_a: dict[str, float]
    unknown: dict[str, str]
    bypassed: dict[str, Bypass] = field(default_factory=dict)
    courses: dict[str, tuple[Course, ...]] = field(default_factory=dict)
    unfollowed: bool = False

    def judged_by(self, wire: str) -> Guard | None:
        """What decides how much a fault or an overload drives through a wire."""
        return self.guards.get(wire) or self.behind.get(wire)
