"""What the work is: its kind, what of it is made whole, and the pages that it needs in turn."""

from ...frame.station import Station
from .page import job
from .want import want

STATION = Station(
    key="job", name="Job", number=0, page=job, begun=lambda plan: True, acts={"want": want}, by_state=False)
