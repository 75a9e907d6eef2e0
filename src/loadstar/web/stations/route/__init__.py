"""Station 5: the harness as a thing."""

from ...frame.station import Station
from .. import on_map
from .page import route

STATION = Station(
    key="route", name="Route", number=5, page=route, begun=lambda plan: bool(plan.wires and plan.runs),
    subjects=("harness",), kinds=("run",), opens_forms=True, keeps=("view", "side", "zoom", "against"),
    acts={"place": on_map.put}, by_state=False)
