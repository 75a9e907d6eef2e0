"""A second 12 V battery beside the machine's own."""

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from ..doc.machine import Machine, SystemKind
from ..doc.states import RUNNING, States
from ..physics import battery as cell
from ..physics import elements as net
from ..refs import TerminalRef
from .asks import CHEMISTRIES, Ask, name, place
from .base import Glance, Part
from .inside import Drives, Inside, Point
from .junction import fused_at
from .terminals import PartTerminal, terminals
from .work import MAIN_COLOUR, RETURN_COLOUR, Ends, Rail, Wanted, Work

JOINED_V = 14.4  # what a regulator usually holds, at which the current when joined is stated
ACCEPTS_OHM_AH = 1.2  # a lead battery of so many Ah takes its charge behind one ohm (assumed: 0.1 ohm at 12 Ah)
DIODE_A, DIODE_FRAC = 30.0, 1.5  # a charging diode that is made with it: at least so much, and by what flows
DRAWN_FRAC = 0.5  # of its charge: as it is when the engine starts after a deep draw


class SecondBattery(Part):
    """A second battery, for what is to live while the machine's own is kept for starting.

    With the engine off it feeds what hangs on it, at the charge that it is judged at. With the engine running it is
    taken half empty, behind the resistance at which it takes `joined_a` from a regulator: what joins it (`joined_by`:
    an isolator relay, or a charging diode) and its fuses are for that.
    """

    kind: Literal["second_battery"] = "second_battery"
    chemistry: Literal["flooded", "agm", "lfp"] = "agm"
    capacity_ah: Annotated[float, Field(ge=0.5, le=200)] = 12
    internal_mohm: Annotated[float, Field(ge=0.5, le=500)] = 15
    charge_frac: Annotated[float, Field(ge=0.1, le=1)] = 0.8
    charge_a: Annotated[float, Field(ge=0, le=50)] = 1.2
    joined_a: Annotated[float, Field(ge=1, le=100)] = 10
    joined_by: Literal["isolator", "diode", "nothing"] = "isolator"

    PREFIX: ClassVar[str] = "BB"
    CONSUMES: ClassVar[bool] = True
    TITLE: ClassVar[str] = "Second battery"
    GROUP: ClassVar[str] = "Second battery"
    ADD_WORDS: ClassVar[str] = "Add a second battery"
    FITS: ClassVar[tuple[SystemKind, ...]] = ("battery",)
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = terminals("ring M6", "pos", "neg")
    RETURN_END: ClassVar[str] = "neg"
    ASKS: ClassVar[tuple[Ask, ...]] = (
        name(), place(), Ask("chemistry", "Chemistry", kind="choice",
                             choices=CHEMISTRIES),
        Ask("capacity_ah", "Capacity"), Ask("internal_mohm", "Internal resistance, full and warm"),
        Ask("charge_frac", "Charge it is judged at, engine off"),
        Ask("charge_a", "Charging current, on average", "A tenth of the Ah is usual. The budget counts it."),
        Ask("joined_a", "Takes when joined, half empty", "At first, from 14.4 V. Wires and fuses are for it."),
        Ask("joined_by", "Charged through", kind="choice", choices=(
            ("isolator", "a relay that is in while the engine runs"), ("diode", "a charging diode"),
            ("nothing", "what I wire myself"))))
    SHORT: ClassVar[str] = "battery"
    RELAYS: ClassVar[bool] = True
    FEED_WORDS: ClassVar[str] = "from the second battery, with a fuse"
    MOST: ClassVar[int] = 1
    STORES: ClassVar[bool] = True
    POLES: ClassVar[tuple[str, ...]] = ("pos", "neg")
    MAIN_WORDS: ClassVar[str] = "Second store"
    WRONG_WAY: ClassVar[str] = "The two batteries drive a short through each other."

    @property
    def resting_v(self) -> float:
        """Rested voltage at the charge that it is judged at."""
        return cell.rested_v(self.charge_frac, self.chemistry, 12)

    @property
    def drawn_v(self) -> float:
        """Rested voltage after a deep draw."""
        return cell.rested_v(DRAWN_FRAC, self.chemistry, 12)

    def ohm_at(self, charge_frac: float) -> float:
        """Its own resistance at a charge, ohm."""
        return cell.internal_ohm(self.internal_mohm / 1000, charge_frac)

    @property
    def accepts_ohm(self) -> float:
        """Behind what resistance it takes its first current after a deep draw, ohm: lithium its own, a lead battery
        that of its plates too."""
        own_ohm = self.ohm_at(DRAWN_FRAC)
        return own_ohm if self.chemistry == "lfp" else max(own_ohm, ACCEPTS_OHM_AH / self.capacity_ah)

    @property
    def hangs_by(self) -> tuple[Any, ...]:
        return (self.joined_by,)

    def glance(self, machine: Machine, where: str) -> Glance:
        return (where, self.capacity_ah, "Ah")

    def inside(self, machine: Machine) -> Inside:
        """An EMF behind its resistance."""
        return Inside(
            branches=(), shorted=(), output=(self.at("pos"), self.at("neg")),
            elements=(net.Source(self.id, self.at("pos"), self.at("neg"), 1.0, 0.01),),
            points=(Point(self.at("neg"), "negative", f"{self.name}, negative"),
                    Point(self.at("pos"), "positive", f"{self.name}, positive")))

    def drives(self, state: States, machine: Machine, *, empty: bool) -> Drives:
        """Engine off, its EMF behind its resistance; engine running, half empty behind what it takes when joined."""
        if state in RUNNING:
            return Drives(1.0, -(JOINED_V - self.drawn_v) / self.joined_a, self.drawn_v)
        return Drives(1.0, -self.ohm_at(self.charge_frac), self.resting_v)

    def drives_fault(self, machine: Machine, *, strong: bool, alone: bool) -> Drives:
        """Full and at its stated resistance, or as it is judged."""
        if strong:
            return Drives(1.0, -self.internal_mohm / 1000, cell.rested_v(1.0, self.chemistry, 12))
        return self.drives("parked", machine, empty=False)

    def arrive(self, work: Work) -> None:
        """A fuse at either battery, and between them what joins the two."""
        rail = work.rail
        if self.joined_by != "nothing":
            first = work.fuse(f"{self.name} fuse at the battery", rail.place, self.id)
            work.wire(rail.live, first.at("a"), MAIN_COLOUR, self.id)
            begin, end = self._joint(work, rail)
            work.wire(first.at("b"), begin, MAIN_COLOUR, self.id)
            second = work.fuse(f"{self.name} fuse", self.place, self.id)
            work.wire(end, second.at("a"), MAIN_COLOUR, self.id)
            work.wire(second.at("b"), self.at("pos"), MAIN_COLOUR, self.id)
        work.wire(self.at("neg"), rail.back, RETURN_COLOUR, self.id)

    def _joint(self, work: Work, rail: Rail) -> tuple[TerminalRef, TerminalRef]:
        """What joins the two: where the machine's own battery comes to it, and where it goes on."""
        if self.joined_by == "diode":
            diode = work.make("charging_diode", name=f"{self.name} diode", place=rail.place, made_for=self.id,
                              rated_a=max(DIODE_A, DIODE_FRAC * self.joined_a))
            return diode.at("in"), diode.at("out")
        isolator = work.relay("engine", rail.place, self.id, f"{self.name} isolator")
        work.wire(isolator.at("85"), rail.back, RETURN_COLOUR, self.id)
        return isolator.at("30"), isolator.at("87")

    def hang(self, work: Work, load: Wanted) -> Ends:
        """A fuse at its post, and a relay there for what does not always live."""
        return fused_at(work, load, Rail(self.at("pos"), self.at("neg"), self.place, work.rail.full_v))

    def back(self, work: Work) -> TerminalRef:
        """Its own post."""
        return self.at("neg")
