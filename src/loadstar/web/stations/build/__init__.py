"""Station 7: the work sheet and its log."""

from ..station import Station
from .acts import ACTS
from .page import build

STATION = Station(
    key="build", name="Build", number=7, page=build, begun=lambda plan: bool(plan.wires), keeps=("view", "group"),
    acts=ACTS, by_state=False,
    mark=lambda row: f"{row.work_done} of {row.work_all}" if row.work_all else "")
