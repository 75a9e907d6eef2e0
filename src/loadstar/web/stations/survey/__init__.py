"""Station 1: the machine as it is found."""

from ...frame.station import Station
from .acts import ACTS, open_part
from .page import survey

STATION = Station(
    key="survey", name="Survey", number=1, page=survey, begun=lambda plan: bool(plan.places),
    subjects=("machine",), opens_forms=True, keeps=("view", "side"), acts=ACTS, before_act=open_part, by_state=False)
