"""A terminal on the frame."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..doc.machine import Machine
from .asks import Ask, name, place
from .base import Part
from .inside import FRAME, Branch, Inside
from .terminals import PartTerminal, terminals


class FramePoint(Part):
    """A terminal screwed to the frame: its joint's resistance now; the plan is judged at that times its ageing."""

    kind: Literal["frame"] = "frame"
    joint_mohm: Annotated[float, Field(ge=0.05, le=500)] = 2
    ageing: Annotated[float, Field(ge=1, le=100)] = 5

    PREFIX: ClassVar[str] = "FR"
    HELD_BY: ClassVar[str] = "frame joint"
    TITLE: ClassVar[str] = "Frame joint"
    SHORT: ClassVar[str] = "frame joint"
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = terminals("ring M6", "t")
    RETURN_END: ClassVar[str] = "t"
    PROBED: ClassVar[str] = "to bare frame"
    ASKS: ClassVar[tuple[Ask, ...]] = (
        name(), place(), Ask("joint_mohm", "Resistance of the joint now"),
        Ask("ageing", "Ageing factor", "Corrosion; 5 is usual.", unit="×"))
    SITS: ClassVar[str] = "load"

    def inside(self, machine: Machine) -> Inside:
        """The joint, as aged as it is judged."""
        joint = Branch(self.element(), self.at("t"), FRAME, self.joint_mohm * self.ageing / 1000,
                       f"frame joint, aged {self.ageing:g} times", joint=f"{self.name} ({self.id})")
        return Inside(branches=(joint,), elements=(), shorted=())
