"""A battery that nothing charges while the machine runs."""

from typing import ClassVar

from .base import Key
from .battery import BatterySupply


class TotalLossSupply(BatterySupply):
    """A battery's, and what is asked of it is how long it lasts."""

    key: ClassVar[Key] = "total_loss"
