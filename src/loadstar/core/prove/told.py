"""What the proof's readings say of the machine itself: those at the supply, as readings that the survey takes.

Charging volts, volts at rest and while cranking and the standing current are what is measured first on a machine as it
came. Read on the finished work they need not be read again.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from ..doc.survey import MeterState
from ..plan.model import Plan
from .results import Shown, latest

# By the step of the plan of measurement: what of the survey it is. A raised speed is the highest that was read.
AS_SURVEYED: dict[str, tuple[str, MeterState]] = {
    "posts.parked": ("V", "key_off"), "posts.cranking": ("V", "cranking"), "posts.idle": ("V", "idle"),
    "posts.town": ("V", "raised"), "posts.cruise": ("V", "raised"), "posts.rev": ("V", "raised"),
    "standing": ("A", "key_off")}


@dataclass(frozen=True)
class Told:
    """One reading: what it was in the proof, and as the survey takes it."""

    shown: Shown
    quantity: str
    state: MeterState

    def reading(self, supply: str) -> dict[str, Any]:
        """As an edit takes it; an instrument that nobody named is said to be the proof's."""
        return {"element": supply, "quantity": self.quantity, "state": self.state, "value": self.shown.value,
                "instrument": self.shown.instrument or f"read under Prove by {self.shown.by}"[:60]}


def told(plan: Plan, readings: Iterable[Shown]) -> tuple[Told, ...]:
    """Those that the survey does not have yet, with everything on that the state has; none of a magneto's, whose volts
    are AC."""
    if plan.supply is None or not plan.supply.STORES:
        return ()
    known: dict[tuple[str, MeterState], float] = {
        (r.quantity, r.state): r.value for r in plan.readings if r.element == plan.supply.id}
    by_step = latest(r for r in readings if not r.off)
    found = {(q, s): Told(by_step[step], q, s) for step, (q, s) in AS_SURVEYED.items() if step in by_step}
    return tuple(one for at, one in found.items() if known.get(at) != one.shown.value)
