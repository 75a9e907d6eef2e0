"""The machine that a plan is for."""

from typing import Annotated, Literal

from pydantic import Field

from .states import States
from .types import Marked, Name

SystemKind = Literal["battery", "total_loss", "magneto", "ignition_only", "pack"]
# What the work on it is: what is asked for, and in which order, follows (core/jobs.py).
JobKind = Literal["fit", "renew", "repair", "convert", "second source", "strip down", "write down"]


class Machine(Marked):
    """The machine: what feeds it, what its frame is joined to, and the speeds or powers that its states stand for.
    `rev_rpm` is the speed that it may be over-revved to (null: not looked at), `range_wh` the energy of the pack that
    `range_km` is known with (null: the first pack as it is).

    `size` names its size class (materials/typical.py), whose usual figures it began with; "": none was chosen.
    """

    name: Name = "New machine"
    kind: Literal["touring motorcycle", "motorcycle", "small motorcycle", "scooter", "utility bike", "trail e-bike",
                  "cargo e-bike", "e-scooter"] = "motorcycle"
    size: Annotated[str, Field(pattern=r"^[a-z0-9 -]{0,30}$")] = ""
    system: SystemKind = "battery"
    system_v: Literal[6, 12, 18, 24, 36, 48, 52, 60, 72] = 12
    chassis: Literal["negative", "floating", "winding"] = "negative"
    idle_rpm: Annotated[float, Field(ge=300, le=6000)] = 1300
    town_rpm: Annotated[float, Field(ge=500, le=12000)] = 3000
    cruise_rpm: Annotated[float, Field(ge=800, le=15000)] = 5000
    rev_rpm: Annotated[float, Field(ge=1000, le=20000)] | None = None
    cranking_a: Annotated[float, Field(ge=0, le=600)] = 110
    wheelbase_mm: Annotated[float, Field(ge=600, le=2600)] | None = None
    range_km: Annotated[float, Field(ge=1, le=500)] = 60
    range_wh: Annotated[float, Field(ge=10, le=40000)] | None = None

    @property
    def fastest(self) -> States:
        """The state with the highest speed that is looked at."""
        return "rev" if self.rev_rpm else "cruise"

    def with_rev(self, states: tuple[States, ...]) -> tuple[States, ...]:
        """Those states, and over-revving where its speed is given."""
        return (*states, "rev") if self.rev_rpm else states

    def rpm(self, state: States) -> float:
        """Engine speed in a state; 0 when the engine does not run by itself."""
        return {"idle": self.idle_rpm, "town": self.town_rpm, "cruise": self.cruise_rpm,
                "rev": self.rev_rpm or 0.0}.get(state, 0.0)
