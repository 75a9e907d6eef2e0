"""A magneto's lighting coil."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..doc.machine import Machine, SystemKind
from ..doc.states import States
from ..physics import elements as net
from ..refs import TerminalRef
from .asks import Ask, name, place
from .base import Glance, Part
from .inside import FRAME, Drives, Inside, Limit, Point
from .terminals import OWN_LEAD, PartTerminal, terminals
from .work import LIVE_COLOUR, Ends, Wanted, Work


class Coil(Part):
    """A magneto's lighting coil: EMF and reactance rise with speed (rms per rpm); lamps run on its AC directly.

    `clamp_v` is the AC regulator's limit where there is one. Beside a battery it feeds lamps of its own.
    """

    kind: Literal["coil"] = "coil"
    emf_mv_per_rpm: Annotated[float, Field(ge=0.1, le=200)]
    reactance_mohm_per_rpm: Annotated[float, Field(ge=0.01, le=50)]
    winding_ohm: Annotated[float, Field(ge=0.01, le=20)]
    clamp_v: Annotated[float, Field(ge=5, le=20)] | None = None

    PREFIX: ClassVar[str] = "C"
    TITLE: ClassVar[str] = "Lighting coil"
    GROUP: ClassVar[str] = "Lighting coil"
    ADD_WORDS: ClassVar[str] = "Enter the coil"
    FITS: ClassVar[tuple[SystemKind, ...]] = ("magneto", "ignition_only", "battery")
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = terminals(OWN_LEAD, "hot", "earth")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        name(), place(),
        Ask("emf_mv_per_rpm", "Open voltage per rpm, rms", "Volts read open, times 1000, over the rpm.", unit="mV/rpm"),
        Ask("reactance_mohm_per_rpm", "Reactance per rpm", "Open volts over short-circuit amps, over the rpm.",
            unit="mΩ/rpm"),
        Ask("winding_ohm", "Winding resistance"),
        Ask("clamp_v", "AC regulator's limit, if there is one", optional=True))
    SWITCHES: ClassVar[bool] = True
    FEED_WORDS: ClassVar[str] = "the magneto's AC"
    MOST: ClassVar[int] = 1
    BACK_WORDS: ClassVar[str] = "the coil's end on the frame"
    OWN_ENDS: ClassVar[tuple[str, ...]] = ("hot", "earth")

    def glance(self, machine: Machine, where: str) -> Glance:
        return ("per 1000 rpm", self.emf_mv_per_rpm, "V")

    def inside(self, machine: Machine) -> Inside:
        """An EMF behind its winding, one end of which is its core and so the frame."""
        return Inside(
            branches=(), elements=(net.Source(self.id, self.at("hot"), self.at("earth"), 1.0, 0.01),), shorted=(),
            touches=((self.at("earth"), FRAME),), output=(self.at("hot"), self.at("earth")),
            points=(Point(self.at("earth"), "winding", f"{self.name}, the end on the frame", first=True),
                    Point(self.at("hot"), "positive", f"{self.name}, lamp end (AC)", first=True)))

    def drives(self, state: States, machine: Machine, *, empty: bool) -> Drives:
        """Its EMF behind resistance and reactance, as phasors."""
        rpm = machine.rpm(state)
        return Drives(1.0, -complex(self.winding_ohm, self.reactance_mohm_per_rpm * rpm / 1000),
                      self.emf_mv_per_rpm * rpm / 1000)

    def drives_fault(self, machine: Machine, *, strong: bool, alone: bool) -> Drives:
        """EMF over reactance, at any speed; here as at 1000 rpm."""
        return Drives(1.0, -self.reactance_mohm_per_rpm, self.emf_mv_per_rpm)

    def limit(self, machine: Machine) -> Limit:
        """Its reactance lets no more through, however hard it is shorted."""
        return Limit(self.emf_mv_per_rpm / self.reactance_mohm_per_rpm, "behind")

    def back(self, work: Work) -> TerminalRef:
        """Its end on the frame."""
        return self.at("earth")

    def hang(self, work: Work, load: Wanted) -> Ends:
        """A switch at the load; it returns by the frame, or by a wire to the coil's end on it."""
        return Ends(work.switched(self.at("hot"), load, LIVE_COLOUR[load.live]), self.back(work))
