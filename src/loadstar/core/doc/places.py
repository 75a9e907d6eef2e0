"""Where things are on the machine, and the measured ways between."""

from typing import Annotated, Literal

from pydantic import Field

from .types import ONE_LINE, Doc, Id, Marked, Name, Standing


class Place(Doc):
    """Somewhere on the machine: millimetres on the side elevation (rear axle is 0, up and forward positive).

    The air around its wires is that of its zone by the house rules, or where no zone is given `ambient_c`. `reach` says
    what must come off to get there, `room` what fits in (mm), `depth_mm` what is free behind a panel.
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
    standing: Standing = "found"


class Run(Marked):
    """A way for wires between two places, with its measured length."""

    id: Id
    a: Id
    b: Id
    length_m: Annotated[float, Field(ge=0.02, le=8)]
    ambient_c: Annotated[float, Field(ge=-20, le=120)] | None = None
