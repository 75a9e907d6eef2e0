"""What a part measures, and what it stands."""

from typing import Annotated, Literal

from pydantic import Field

from ..doc.types import Doc


class Dimensions(Doc):
    """What a part measures and weighs, what water and warmth it stands, and how long its own leads are; null: nobody
    has said."""

    long_mm: Annotated[float, Field(gt=0, le=2000)] | None = None
    wide_mm: Annotated[float, Field(gt=0, le=2000)] | None = None
    deep_mm: Annotated[float, Field(gt=0, le=2000)] | None = None
    mass_g: Annotated[float, Field(gt=0, le=60_000)] | None = None
    water: Literal["", "dry", "splashed", "washed over"] = ""
    most_c: Annotated[float, Field(ge=20, le=200)] | None = None
    lead_m: Annotated[float, Field(ge=0, le=5)] | None = None

    @property
    def box_mm(self) -> tuple[float, ...]:
        """Its three measures, smallest first; empty where they are not all said."""
        found = [mm for mm in (self.long_mm, self.wide_mm, self.deep_mm) if mm is not None]
        return tuple(sorted(found)) if len(found) == 3 else ()

    def fits(self, room_mm: tuple[float, ...]) -> bool:
        """Whether it goes into a room (mm, smallest first), any way around; where either is not said, nothing says no.
        """
        return not (self.box_mm and room_mm) or all(b <= r for b, r in zip(self.box_mm, room_mm, strict=True))
