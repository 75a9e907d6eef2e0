"""Station 9: the papers."""

from ...frame.station import Station
from .acts import ACTS
from .page import handover

STATION = Station(
    key="handover", name="Handover", number=9, page=handover, begun=lambda plan: bool(plan.loads), keeps=("view",),
    acts=ACTS, by_state=False)
