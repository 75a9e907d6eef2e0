"""A battery, charged by a generator where there is one."""

from collections.abc import Sequence
from dataclasses import replace
from typing import ClassVar

from ..doc.states import ENGINE_STATES, RUNNING, States
from ..parts.base import Part
from ..parts.battery import Battery
from ..plan.model import Plan
from .base import Handling, Key, Mode, Supply

HANDLING = Handling(
    "Take the battery's negative lead off first, then the positive; cover what stays live",
    "Put the battery's positive lead on, the negative lead last",
    "Try every lamp and the horn, and start the engine",
    "Disconnect the battery's negative lead before work and connect it last: a short across a battery burns.",
    "Amps: the meter in series with the battery's negative lead, key off, and never while cranking.")
FUSE_V = 15.0  # a charging battery has no more; what a fuse at its post has to break


class BatterySupply(Supply):
    """The regulator's set-point while the engine runs, the battery's rested voltage while it does not."""

    key: ClassVar[Key] = "battery"

    def __init__(self, plan: Plan, part: Battery) -> None:
        super().__init__(plan, part)
        self.battery = part

    @property
    def states(self) -> tuple[States, ...]:
        return self.plan.machine.with_rev(ENGINE_STATES)

    @property
    def breaks_v(self) -> float:
        return FUSE_V

    @property
    def stores(self) -> Sequence[Part]:
        return (self.battery,)

    @property
    def handling(self) -> Handling:
        charges = self.plan.generator is not None
        return replace(HANDLING, tried=f"{HANDLING.tried}; measure the charging volts") if charges else HANDLING

    def mode(self, state: States) -> Mode:
        return "regulated" if self.plan.generator and state in RUNNING else "battery"

    def resting_v(self, state: States) -> float:
        return self.battery.resting_v
