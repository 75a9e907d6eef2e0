"""A magneto's lighting coil: AC that rises with the engine's speed."""

from collections.abc import Sequence
from typing import ClassVar

from ..doc.states import NO_BATTERY_STATES, RUNNING, States
from ..parts.base import Part
from ..parts.coil import Coil
from ..plan.model import Plan
from .base import Handling, Key, Mode, Supply

HANDLING = Handling(
    "Engine off, and see that nobody starts it", "The engine may run again",
    "Start it and try every lamp, from idle to full speed",
    "Work with the engine off: while it turns its coils give volts, most with nothing connected.",
    "Amps: the meter in series with the coil's hot lead, at idle first.")


class MagnetoSupply(Supply):
    """Nothing while the engine stands; solved by phasors while it runs."""

    key: ClassVar[Key] = "magneto"

    def __init__(self, plan: Plan, part: Coil) -> None:
        super().__init__(plan, part)
        self.coil = part

    @property
    def states(self) -> tuple[States, ...]:
        return self.plan.machine.with_rev(NO_BATTERY_STATES)

    @property
    def breaks_v(self) -> float:
        return 0.0

    @property
    def stores(self) -> Sequence[Part]:
        return ()

    @property
    def handling(self) -> Handling:
        return HANDLING

    def mode(self, state: States) -> Mode:
        return "coil"

    def resting_v(self, state: States) -> float:
        return float(self.plan.machine.system_v)

    def gives_in(self, state: States) -> bool:
        return state in RUNNING
