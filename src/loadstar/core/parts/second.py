"""A second 12 V battery beside the machine's own."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..doc.machine import Machine, SystemKind
from ..doc.states import RUNNING, States
from ..physics import battery as cell
from ..physics import elements as net
from ..refs import TerminalRef
from .asks import Ask, name, place
from .base import Glance, Part
from .inside import Drives, Inside, Point
from .junction import fused_at
from .work import Ends, Rail, Wanted, Work

GIVES_OHM = 1e-4  # beside its own resistance: what it takes is told apart from what it gives
LEAST_V = 1.0  # below which what it takes for charging is a resistance


class SecondBattery(Part):
    """A second battery, for what is to live while the machine's own is kept for starting. With the engine running it
    is charged through whatever joins it (an isolator relay); with the engine off it feeds what hangs on
    it, at the charge that it is judged at."""

    kind: Literal["second_battery"] = "second_battery"
    chemistry: Literal["flooded", "agm", "lfp"] = "agm"
    capacity_ah: Annotated[float, Field(ge=0.5, le=200)] = 12
    internal_mohm: Annotated[float, Field(ge=0.5, le=500)] = 15
    charge_frac: Annotated[float, Field(ge=0.1, le=1)] = 0.8
    charge_a: Annotated[float, Field(ge=0, le=50)] = 1.2
    joined_a: Annotated[float, Field(ge=0, le=100)] = 10

    PREFIX: ClassVar[str] = "BB"
    TITLE: ClassVar[str] = "Second battery"
    GROUP: ClassVar[str] = "Second battery"
    ADD_WORDS: ClassVar[str] = "Add a second battery"
    FITS: ClassVar[tuple[SystemKind, ...]] = ("battery",)
    TERMINALS: ClassVar[tuple[str, ...]] = ("pos", "neg")
    RETURN_END: ClassVar[str] = "neg"
    ASKS: ClassVar[tuple[Ask, ...]] = (
        name(), place(), Ask("chemistry", "Chemistry", kind="choice",
                             choices=(("agm", "AGM"), ("flooded", "flooded"), ("lfp", "LiFePO4"))),
        Ask("capacity_ah", "Capacity"), Ask("internal_mohm", "Internal resistance, full and warm"),
        Ask("charge_frac", "Charge it is judged at, engine off"),
        Ask("charge_a", "Charging current, on average", "A tenth of the Ah is usual. The budget counts it."),
        Ask("joined_a", "Current when the two are joined", "At first, after a deep draw. Wires and fuses are for it."))
    SHORT: ClassVar[str] = "battery"
    RELAYS: ClassVar[bool] = True
    FEED_WORDS: ClassVar[str] = "from the second battery, with a fuse"
    MOST: ClassVar[int] = 1
    STORES: ClassVar[bool] = True

    @property
    def resting_v(self) -> float:
        """Rested voltage at the charge that it is judged at."""
        return cell.rested_v(self.charge_frac, self.chemistry, 12)

    def glance(self, machine: Machine, where: str) -> Glance:
        return (where, self.capacity_ah, "Ah")

    def inside(self, machine: Machine) -> Inside:
        """An EMF behind its resistance that only gives, and what it takes while it is charged."""
        cells = self.at("cells")
        return Inside(
            branches=(), shorted=(), within=(cells,), output=(self.at("pos"), self.at("neg")),
            elements=(net.Source(self.id, cells, self.at("neg"), 1.0, 0.01),
                      net.Diode(self.element("gives"), cells, self.at("pos"), 0.0, GIVES_OHM),
                      net.Load(self.element("takes"), self.at("pos"), self.at("neg"), net.CONSTANT_CURRENT, 0.0,
                               LEAST_V)),
            points=(Point(self.at("neg"), "negative", f"{self.name}, negative"),
                    Point(self.at("pos"), "positive", f"{self.name}, positive")))

    def drives(self, state: States, machine: Machine, *, empty: bool) -> Drives:
        """Its EMF behind its resistance, at the charge that it is judged at."""
        return Drives(1.0, -cell.internal_ohm(self.internal_mohm / 1000, self.charge_frac), self.resting_v)

    def drives_fault(self, machine: Machine, *, strong: bool, alone: bool) -> Drives:
        """Full and at its stated resistance, or as it is judged."""
        if strong:
            return Drives(1.0, -self.internal_mohm / 1000, cell.rested_v(1.0, self.chemistry, 12))
        return self.drives("parked", machine, empty=False)

    def takes(self, state: States, machine: Machine) -> float:
        """What it takes at first while the engine runs: wires and fuses carry that."""
        return self.joined_a if state in RUNNING else 0.0

    def arrive(self, work: Work) -> None:
        """A fuse at either battery, and between them a relay that is in only while the engine runs."""
        rail = work.rail
        first = work.fuse(f"{self.name} fuse at the battery", rail.place, self.id)
        work.wire(rail.live, first.at("a"), "RD", self.id)
        isolator = work.relay("engine", rail.place, self.id, f"{self.name} isolator")
        work.wire(first.at("b"), isolator.at("30"), "RD", self.id)
        work.wire(isolator.at("85"), rail.back, "BK", self.id)
        second = work.fuse(f"{self.name} fuse", self.place, self.id)
        work.wire(isolator.at("87"), second.at("a"), "RD", self.id)
        work.wire(second.at("b"), self.at("pos"), "RD", self.id)
        work.wire(self.at("neg"), rail.back, "BK", self.id)

    def hang(self, work: Work, load: Wanted) -> Ends:
        """A fuse at its post, and a relay there for what does not always live."""
        return fused_at(work, load, Rail(self.at("pos"), self.at("neg"), self.place, work.rail.full_v))

    def back(self, work: Work) -> TerminalRef:
        """Its own post."""
        return self.at("neg")
