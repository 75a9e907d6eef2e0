"""What lets current through to a second battery and none back."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..doc.machine import Machine, SystemKind
from ..physics import elements as net
from .asks import Ask, name, place
from .base import Glance, Part
from .inside import Inside
from .terminals import PartTerminal, terminals

THROUGH_OHM = 0.003  # beyond its knee; usual of power diodes


class ChargingDiode(Part):
    """A diode between two batteries, or one side of a split diode. `drop_mv` is what it takes at usual currents."""

    kind: Literal["charging_diode"] = "charging_diode"
    rated_a: Annotated[float, Field(gt=0, le=400)] = 30
    drop_mv: Annotated[float, Field(ge=0, le=1500)] = 550

    PREFIX: ClassVar[str] = "DI"
    TITLE: ClassVar[str] = "Charging diode"
    SHORT: ClassVar[str] = "diode"
    GROUP: ClassVar[str] = "Charging diode"
    ADD_WORDS: ClassVar[str] = "Add a charging diode"
    FITS: ClassVar[tuple[SystemKind, ...]] = ("battery",)
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = terminals("ring M6", "in", "out")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        name(), place(), Ask("rated_a", "Rated"),
        Ask("drop_mv", "Takes", "Silicon 700 to 900 mV, Schottky 400 to 600, an ideal one 30.", unit="mV"))
    BRIDGED: ClassVar[bool] = True

    def glance(self, machine: Machine, where: str) -> Glance:
        return ("rated", self.rated_a, "A")

    def inside(self, machine: Machine) -> Inside:
        """Nothing backwards; forwards its drop."""
        return Inside(branches=(), shorted=(), elements=(
            net.Diode(self.element(), self.at("in"), self.at("out"), self.drop_mv / 1000, THROUGH_OHM),))
