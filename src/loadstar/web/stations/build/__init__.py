"""Station 7: the work sheet and its log."""

from ...frame.station import Station
from .acts import ACTS
from .page import build

STATION = Station(
    key="build", name="Build", number=7, page=build, begun=lambda plan: bool(plan.wires), keeps=("view", "go"),
    acts=ACTS, by_state=False,
    mark=lambda plan: f"{plan.work_done} of {plan.work_all}" if plan.work_all else "")
