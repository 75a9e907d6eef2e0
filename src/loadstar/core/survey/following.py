"""The reading that usually follows: at the same point, the same quantity, in the next state that it has none in."""

from dataclasses import dataclass

from ..doc.survey import MeterState, Quantity
from ..plan.model import Plan
from .shows import state_words

SEVERAL: tuple[Quantity, ...] = ("V", "A")  # what is read in one state after another


@dataclass(frozen=True)
class Following:
    """Where and what is read next, in which state, and with what instrument as last time."""

    element: str
    quantity: Quantity
    state: MeterState
    instrument: str


def following(plan: Plan) -> Following | None:
    """After the last reading of volts or amps; None before the first, where its point is gone, or when every state has
    one."""
    last = next((r for r in reversed(plan.readings) if r.quantity in SEVERAL), None)
    if last is None or last.element not in {p.id for p in plan.parts}:
        return None
    states = list(state_words(plan))
    had = {r.state for r in plan.readings if (r.element, r.quantity) == (last.element, last.quantity)}
    at = states.index(last.state) if last.state in states else -1
    turn = [*states[at + 1:], *states[:at + 1]]
    free = next((state for state in turn if state not in had), None)
    return Following(last.element, last.quantity, free, last.instrument) if free else None
