"""A traction pack."""

from collections.abc import Iterator
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..doc.machine import Machine, SystemKind
from ..doc.states import States
from ..doc.types import ONE_LINE
from ..physics import battery as cell
from ..physics import elements as net
from .asks import Ask, name, place, whole
from .base import Glance, Part
from .inside import Drives, Inside, Point
from .terminals import PartTerminal, terminals
from .work import LIVE_COLOUR, MAIN_COLOUR, Ends, Wanted, Work


class Pack(Part):
    """A traction pack: cells in series and parallel behind a protection circuit (BMS) with its limits."""

    kind: Literal["pack"] = "pack"
    chemistry: Literal["nmc", "lfp"] = "nmc"
    series: Annotated[int, Field(ge=3, le=24)]
    parallel: Annotated[int, Field(ge=1, le=40)] = 4
    cell_ah: Annotated[float, Field(ge=0.5, le=120)] = 3.0
    cell_mohm: Annotated[float, Field(ge=0.2, le=200)] = 35
    extra_mohm: Annotated[float, Field(ge=0, le=500)] = 15
    charge_frac: Annotated[float, Field(ge=0, le=1)] = 0.8
    rested_v: Annotated[float, Field(ge=8, le=110)] | None = None
    empty_v_per_cell: Annotated[float, Field(ge=2.0, le=3.6)] | None = None
    bms_continuous_a: Annotated[float, Field(ge=1, le=400)] = 20
    bms_peak_a: Annotated[float, Field(ge=1, le=800)] = 40
    charge_limit_a: Annotated[float, Field(ge=0.1, le=200)] = 4
    bms: Literal["in place", "bypassed"] = "in place"
    bypass_by: Annotated[str, Field(max_length=80), ONE_LINE] = ""
    data_line: bool = False

    PREFIX: ClassVar[str] = "PK"
    TITLE: ClassVar[str] = "Traction pack"
    GROUP: ClassVar[str] = "Packs"
    ADD_WORDS: ClassVar[str] = "Enter a pack"
    FITS: ClassVar[tuple[SystemKind, ...]] = ("pack",)
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = terminals("high current", "pos", "neg")
    RETURN_END: ClassVar[str] = "neg"
    ASKS: ClassVar[tuple[Ask, ...]] = (
        name(), place(), Ask("chemistry", "Cells", kind="choice", choices=(("nmc", "NMC / NCA"), ("lfp", "LiFePO4"))),
        whole("series", "In series", range(3, 25)), whole("parallel", "In parallel", range(1, 41)),
        Ask("cell_ah", "Capacity of a cell"),
        Ask("cell_mohm", "Resistance of a cell", "25-60 mΩ is usual for round cells."),
        Ask("extra_mohm", "Protection circuit and wiring"), Ask("charge_frac", "Charge it is judged at"),
        Ask("rested_v", "or its measured rested voltage", optional=True),
        Ask("empty_v_per_cell", "Cut-off voltage per cell", "Empty: usual for its cells.", unit="V", optional=True),
        Ask("bms_continuous_a", "Protection: continuous"), Ask("bms_peak_a", "Protection: peak"),
        Ask("charge_limit_a", "May be charged with"), Ask("data_line", "Has a data line", kind="yes"),
        Ask("bms", "Protection circuit", kind="choice", choices=(("in place", "in place"), ("bypassed", "bypassed"))),
        Ask("bypass_by", "If bypassed: by whom", kind="text", optional=True))
    SWITCHES: ClassVar[bool] = True
    FEED_WORDS: ClassVar[str] = "straight from the pack"
    MOST: ClassVar[int] = 2
    SYSTEMS: ClassVar[tuple[SystemKind, ...]] = ("pack",)
    STORES: ClassVar[bool] = True
    POLES: ClassVar[tuple[str, ...]] = ("pos", "neg")
    MAIN_WORDS: ClassVar[str] = "Joined pack"
    WRONG_WAY: ClassVar[str] = "Joined so, packs drive a short through each other, and what they feed dies."
    BACK_WORDS: ClassVar[str] = "the pack's negative"
    OWN_ENDS: ClassVar[tuple[str, ...]] = ("pos", "neg")

    def contradictions(self) -> Iterator[tuple[str, str]]:
        """A protection that is bypassed has somebody's name to it."""
        if self.bms == "bypassed" and not self.bypass_by:
            yield "bypass_by", f"The protection of {self.name} is bypassed: write down who says so."

    @property
    def ohm(self) -> float:
        """Its resistance: cells, and protection circuit and wiring."""
        return (self.series / self.parallel * self.cell_mohm + self.extra_mohm) / 1000

    @property
    def energy_wh(self) -> float:
        """What it holds when full, by its cells' nominal volts."""
        return self.parallel * self.cell_ah * self.series * cell.NOMINAL_CELL_V[self.chemistry]

    @property
    def resting_v(self) -> float:
        """Rested voltage: as measured, or at the charge that it is judged at."""
        return self.rested_v or cell.pack_v(self.charge_frac, self.chemistry, self.series)

    @property
    def full_v(self) -> float:
        """Voltage when full, on the charger."""
        return cell.pack_v(1.0, self.chemistry, self.series)

    @property
    def empty_v(self) -> float:
        """Voltage at which the protection circuit ends it."""
        return self.series * self.empty_v_per_cell if self.empty_v_per_cell else cell.pack_v(0.0, self.chemistry,
                                                                                             self.series)

    def charge_at(self, rested_v: float) -> float:
        """Charge by a rested voltage (approximate)."""
        return cell.pack_charge_frac(rested_v, self.chemistry, self.series)

    def charge_between(self, rested_v: float) -> cell.Segment:
        """The two points of its curve that a rested voltage lies between."""
        return cell.pack_charge_between(rested_v, self.chemistry, self.series)

    def glance(self, machine: Machine, where: str) -> Glance:
        return (f"{self.series} in series", self.parallel * self.cell_ah, "Ah")

    def inside(self, machine: Machine) -> Inside:
        """An EMF behind its resistance."""
        return Inside(
            branches=(), elements=(net.Source(self.id, self.at("pos"), self.at("neg"), 1.0, 0.01),), shorted=(),
            points=(Point(self.at("neg"), "negative", f"{self.name}, negative", first=True),
                    Point(self.at("pos"), "positive", f"{self.name}, positive", first=True)))

    def drives(self, state: States, machine: Machine, *, empty: bool) -> Drives:
        """At its charge; full while charging, and nearly empty where that is asked."""
        return Drives(1.0, -self.ohm, self.full_v if state == "charging" else self.empty_v if empty else self.resting_v)

    def drives_fault(self, machine: Machine, *, strong: bool, alone: bool) -> Drives:
        """Full, or as it is judged."""
        return Drives(1.0, -self.ohm, self.full_v if strong else self.resting_v)

    def hang(self, work: Work, load: Wanted) -> Ends:
        """A fuse at the pack that breaks its full voltage, and a switch at the load."""
        rail = work.rail
        fuse = work.fuse(f"{load.name} fuse", rail.place, load.id, rail.full_v)
        work.wire(rail.live, fuse.at("a"), MAIN_COLOUR, load.id)
        return Ends(work.switched(fuse.at("b"), load, LIVE_COLOUR[load.live]), rail.back)
