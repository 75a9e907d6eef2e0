"""Station 5: which way every wire takes."""

from ..station import Station
from .page import route

STATION = Station(key="route", name="Route", number=5, page=route, begun=lambda plan: bool(plan.runs))
