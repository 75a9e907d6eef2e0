"""Station 2: what is wanted on the machine."""

from ...frame.station import Station
from .page import loads

STATION = Station(
    key="loads", name="Loads", number=2, page=loads, begun=lambda plan: bool(plan.loads),
    subjects=("accessory",), kinds=("load",), opens_forms=True)
