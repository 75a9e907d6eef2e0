"""Station 6: what every wire ends in, connectors, fewest pins, and what to buy."""

from ...frame.station import Station
from .acts import ACTS
from .page import ends

STATION = Station(
    key="ends", name="Ends", number=6, page=ends, begun=lambda plan: bool(plan.wires), subjects=("ends",),
    kinds=("coupling",), keeps=("view",), acts=ACTS, by_state=False)
