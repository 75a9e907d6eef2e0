"""The house rules of a plan: a page beside the stations."""

from ...frame.station import Station
from .page import rules

STATION = Station(
    key="rules", name="House rules", number=0, page=rules, begun=lambda plan: True, opens_forms=True, by_state=False)
