"""Which supply a plan has: by what has been entered, and for an empty one by what its machine is said to run on."""

from collections.abc import Sequence

from ..doc.states import ENGINE_STATES, NO_BATTERY_STATES, PACK_STATES, States
from ..parts.base import Part
from ..parts.coil import Coil
from ..plan.model import Plan
from .base import Handling, Supply
from .battery import HANDLING as OF_A_BATTERY
from .battery import BatterySupply
from .magneto import HANDLING as OF_A_COIL
from .magneto import MagnetoSupply
from .pack import HANDLING as OF_A_PACK
from .pack import PackSupply
from .total_loss import TotalLossSupply


class NoSupply(Supply):
    """Nothing has been entered yet that circuits could hang on: states and volts are those of the machine's kind."""

    @property
    def states(self) -> tuple[States, ...]:
        system = self.plan.machine.system
        return PACK_STATES if system == "pack" else ENGINE_STATES if system in ("battery",
                                                                                "total_loss") else NO_BATTERY_STATES

    @property
    def stores(self) -> Sequence[Part]:
        return ()

    @property
    def handling(self) -> Handling:
        system = self.plan.machine.system
        return OF_A_PACK if system == "pack" else OF_A_BATTERY if system in ("battery", "total_loss") else OF_A_COIL

    def resting_v(self, state: States) -> float:
        return float(self.plan.machine.system_v)


def supply_of(plan: Plan) -> Supply:
    """What a plan's circuits hang on: the battery, else the first pack, else the lighting coil."""
    if battery := plan.battery:
        return (TotalLossSupply if plan.machine.system == "total_loss" else BatterySupply)(plan, battery)
    if packs := plan.packs:
        return PackSupply(plan, packs[0])
    coil = plan.one(Coil)
    return MagnetoSupply(plan, coil) if coil else NoSupply(plan, None)
