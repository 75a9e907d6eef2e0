"""Station 3: whether the supply carries it."""

from loadstar.core.plan.model import Plan
from loadstar.core.supply.choose import supply_of

from ...frame.station import Station
from .page import budget


def _begun(plan: Plan) -> bool:
    """Whether something is known of what gives: a battery alone does not charge itself."""
    return bool(plan.generator) or supply_of(plan).key in ("pack", "magneto", "total_loss")


STATION = Station(key="budget", name="Budget", number=3, page=budget, begun=_begun, subjects=("energy",), keeps=("of",))
