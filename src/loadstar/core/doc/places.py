"""Where things are on the machine, and the measured ways between."""

import re
from typing import Annotated, Literal

from pydantic import Field

from .types import ONE_LINE, Doc, Id, Marked, Name, Standing


class Place(Doc):
    """Somewhere on the machine: millimetres on the side elevation (rear axle is 0, up and forward positive).

    The air around its wires is that of its zone by the house rules, or where no zone is given `ambient_c`. `reach` says
    what must come off to get there, `room` the space there ("60 x 40 x 30", mm), `depth_mm` what is free behind its
    panel.
    """

    id: Id
    name: Name
    x_mm: Annotated[float, Field(ge=-800, le=3000)] = 0
    y_mm: Annotated[float, Field(ge=-400, le=2000)] = 0
    zone: Literal["", "open", "under the tank", "near the engine"] = ""
    ambient_c: Annotated[float, Field(ge=-20, le=120)] = 40
    side: Literal["", "left", "right"] = ""
    reach: Annotated[str, Field(max_length=120), ONE_LINE] = ""
    water: Literal["dry", "splashed", "washed over"] = "splashed"
    moves: Literal["still", "with the steering", "with the suspension"] = "still"
    room: Annotated[str, Field(max_length=40), ONE_LINE] = ""
    depth_mm: Annotated[float, Field(ge=1, le=1000)] | None = None
    standing: Standing = "found"

    @property
    def room_mm(self) -> tuple[float, ...]:
        """The room's three measures, smallest first; empty where it is not said in three."""
        found = sorted(float(one) for one in re.findall(r"\d+(?:\.\d+)?", self.room.replace(",", ".")))
        return tuple(found) if len(found) == 3 else ()


Millimetres = Annotated[float, Field(ge=0, le=500)]
MOST_POINTS = 12


class Point(Doc):
    """A point that a run passes, in the map's millimetres."""

    x_mm: Annotated[float, Field(ge=-800, le=3000)]
    y_mm: Annotated[float, Field(ge=-400, le=2000)]


class Run(Marked):
    """A way for wires between two places, with its measured length. Two may lie between the same places.

    `points` are passed on the way from `a` to `b`, as the map draws it. `used` False: wires are not to take it.
    `covering` "": as by the house rule. `edge`, `hot`, `moving`, `pinch`, `jet` and `vibrates` are what lies beside it
    ("": nothing of the kind), "open" where nothing is done about it yet, else what is. `tied_to` is what it is fixed
    to, `tied_mm` how far apart (null: as the house rule says). `bore_mm` is the narrowest hole or tube on it,
    `threaded` says that its connectors are on when it is drawn through, `drip` that it hangs lower before its end than
    there. `slack_mm` is laid in besides. Past the headstock `above_mm` and `below_mm` are the harness's distances from
    the steering's axis over and under it, `high_mm` apart along it, `start_deg` around it from one another straight
    ahead, and `lock_deg` what the bars turn either way.
    """

    id: Id
    a: Id
    b: Id
    length_m: Annotated[float, Field(ge=0.02, le=8)]
    points: Annotated[tuple[Point, ...], Field(max_length=MOST_POINTS)] = ()
    ambient_c: Annotated[float, Field(ge=-20, le=120)] | None = None
    used: bool = True
    side: Literal["", "left", "right"] = ""
    covering: Literal["", "bare", "braided sleeve", "loom tape", "PVC tape", "original sleeve"] = ""
    edge: Literal["", "open", "edge trim", "spiral wrap", "clipped away"] = ""
    hot: Literal["", "open", "heat sleeve", "clipped away"] = ""
    moving: Literal["", "open", "clipped away", "spiral wrap"] = ""
    pinch: Literal["", "open", "clipped away"] = ""
    jet: Literal["", "open", "shielded", "clipped away"] = ""
    vibrates: Literal["", "open", "clip with rubber"] = ""
    tied_to: Literal["", "frame", "brake line or control cable"] = ""
    tied_mm: Annotated[float, Field(ge=20, le=2000)] | None = None
    drip: bool = False
    bore_mm: Annotated[float, Field(ge=2, le=200)] | None = None
    threaded: bool = False
    slack_mm: Millimetres = 0
    above_mm: Millimetres | None = None
    below_mm: Millimetres | None = None
    high_mm: Millimetres | None = None
    start_deg: Annotated[float, Field(ge=-180, le=180)] = 0
    lock_deg: Annotated[float, Field(ge=1, le=60)] = 38
