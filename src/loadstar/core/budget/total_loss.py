"""How long does a machine run that nothing charges, and what must be given back between sessions?"""

import math
from dataclasses import dataclass

from scipy.optimize import brentq

from ..parts.battery import Battery
from ..parts.own import OwnLoad
from ..physics import battery as cell
from ..plan.model import Plan
from ..supply.choose import supply_of
from .ledger import ledger

CHARGE_EFFICIENCY = 0.85  # lead-acid: about 15 % more goes in than came out; usual


@dataclass(frozen=True)
class TotalLoss:
    """Minutes from a full battery to empty, and to the lowest voltage that the ignition stands.

    `low_v` is that voltage and `least_frac` the charge at which it is reached; `give_ah` what a full session takes to
    charge again.
    """

    draw_a: float
    empty_min: float
    usable_min: float
    low_v: float
    least_frac: float
    peukert_k: float
    give_ah: float


def total_loss(plan: Plan) -> TotalLoss | None:
    """The time of a total-loss machine at cruise; None when it has a generator or no battery."""
    battery = plan.battery
    if battery is None or supply_of(plan).key != "total_loss":
        return None
    draw = ledger(plan, "cruise").demand_a
    k = battery.peukert_k or cell.PEUKERT_K[battery.chemistry]
    empty_h = cell.peukert_h(battery.capacity_ah, battery.rate_h, draw, k)
    low_v = max((p.low_v for p in plan.of(OwnLoad)), default=0.0)
    least = least_charge(battery, draw, low_v)
    usable_h = empty_h * (1 - least)
    return TotalLoss(draw, empty_h * 60, usable_h * 60, low_v, least, k,
                     draw * usable_h / CHARGE_EFFICIENCY if math.isfinite(usable_h) else 0.0)


def least_charge(battery: Battery, draw_a: float, low_v: float) -> float:
    """Charge at which the battery, giving this current, falls to a voltage; 0 when it never does, 1 at once."""
    def spare(charge: float) -> float:
        return (cell.rested_v(charge, battery.chemistry, battery.nominal_v)
                - draw_a * cell.internal_ohm(battery.internal_mohm / 1000, charge) - low_v)

    if spare(0.0) >= 0:
        return 0.0
    return 1.0 if spare(1.0) < 0 else float(brentq(spare, 0.0, 1.0))
