"""Station 4: feed, fuse, relay and wire of every circuit."""

from ...frame.station import Station
from .page import circuits, cut, move

STATION = Station(
    key="circuits", name="Circuits", number=4, page=circuits, begun=lambda plan: bool(plan.wires),
    subjects=("circuit",), kinds=("fuse", "way", "relay", "switch", "wire"), opens_forms=True,
    acts={"cut": cut, "move": move})
