"""A starter or lighting battery."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..doc.machine import Machine, SystemKind
from ..doc.states import States
from ..physics import battery as cell
from ..physics import elements as net
from .asks import CHEMISTRIES, Ask, name, place, whole
from .base import Glance, Part
from .inside import Drives, Inside, Point
from .junction import fused_at
from .terminals import PartTerminal, terminals
from .work import Ends, Wanted, Work


class Battery(Part):
    """A 12 V (or 6 V) battery. `charge_frac` is the charge that engine-off states are judged at, `cold_cranking_a` what
    it gives for ten seconds at -18 C (EN 50342-1; null: not said), `age_years` how old it is (null: not known)."""

    kind: Literal["battery"] = "battery"
    chemistry: Literal["flooded", "agm", "lfp"] = "agm"
    nominal_v: Literal[6, 12] = 12
    capacity_ah: Annotated[float, Field(ge=0.5, le=200)]
    rate_h: Annotated[float, Field(ge=1, le=100)] = 10
    internal_mohm: Annotated[float, Field(ge=0.5, le=500)]
    charge_frac: Annotated[float, Field(ge=0.1, le=1)] = 0.8
    charge_a: Annotated[float, Field(ge=0, le=50)] = 1.0
    cold_cranking_a: Annotated[float, Field(ge=10, le=1500)] | None = None
    age_years: Annotated[float, Field(ge=0, le=30)] | None = None
    peukert_k: Annotated[float, Field(ge=1, le=1.5)] | None = None

    PREFIX: ClassVar[str] = "BT"
    TITLE: ClassVar[str] = "Battery"
    GROUP: ClassVar[str] = "Battery"
    ADD_WORDS: ClassVar[str] = "Enter the battery"
    FITS: ClassVar[tuple[SystemKind, ...]] = ("battery", "total_loss", "ignition_only")
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = terminals("ring M6", "pos", "neg")
    RETURN_END: ClassVar[str] = "neg"
    ASKS: ClassVar[tuple[Ask, ...]] = (
        name(), place(),
        Ask("chemistry", "Chemistry", kind="choice",
            choices=CHEMISTRIES),
        whole("nominal_v", "Voltage", (12, 6), "{} V"), Ask("capacity_ah", "Capacity"),
        Ask("rate_h", "stated at the rate of"),
        Ask("internal_mohm", "Internal resistance, full and warm",
            "8-20 mΩ for 8-14 Ah; about 2700 / cold-cranking amps."),
        Ask("cold_cranking_a", "Cold-cranking amps", "EN, as printed on it. Empty: not said.", optional=True),
        Ask("age_years", "How old it is", "Empty: not known.", unit="years", optional=True),
        Ask("charge_frac", "Charge it is judged at, engine off"),
        Ask("charge_a", "Charging current it takes", "A tenth of the Ah is usual."),
        Ask("peukert_k", "Peukert exponent, if known", "Empty: usual for its chemistry.", unit="", optional=True))
    RELAYS: ClassVar[bool] = True
    FEED_WORDS: ClassVar[str] = "straight, with a fuse"
    MOST: ClassVar[int] = 1
    STORES: ClassVar[bool] = True
    BACK_WORDS: ClassVar[str] = "battery negative"
    OWN_ENDS: ClassVar[tuple[str, ...]] = ("pos", "neg")
    POLES: ClassVar[tuple[str, ...]] = ("pos", "neg")
    WRONG_WAY: ClassVar[str] = "All that it feeds gets reversed polarity."

    @property
    def resting_v(self) -> float:
        """Rested voltage at the charge that it is judged at."""
        return cell.rested_v(self.charge_frac, self.chemistry, self.nominal_v)

    @property
    def full_v(self) -> float:
        """Rested voltage when full."""
        return cell.rested_v(1.0, self.chemistry, self.nominal_v)

    def charge_at(self, rested_v: float) -> float:
        """Charge by a rested voltage."""
        return cell.charge_frac_at(rested_v, self.chemistry, self.nominal_v)

    def charge_between(self, rested_v: float) -> cell.Segment:
        """The two points of its curve that a rested voltage lies between."""
        return cell.charge_between(rested_v, self.chemistry, self.nominal_v)

    @property
    def peukert(self) -> float:
        """Peukert's exponent: as stated, or usual for its chemistry."""
        return self.peukert_k or cell.PEUKERT_K[self.chemistry]

    def glance(self, machine: Machine, where: str) -> Glance:
        return ("", self.capacity_ah, "Ah")

    def inside(self, machine: Machine) -> Inside:
        """An EMF behind its resistance."""
        return Inside(
            branches=(), elements=(net.Source(self.id, self.at("pos"), self.at("neg"), 1.0, 0.01),), shorted=(),
            points=(Point(self.at("neg"), "negative", f"{self.name}, negative", first=True),
                    Point(self.at("pos"), "positive", f"{self.name}, positive", first=True)))

    def drives(self, state: States, machine: Machine, *, empty: bool) -> Drives:
        """At the charge that it is judged at."""
        return Drives(1.0, -cell.internal_ohm(self.internal_mohm / 1000, self.charge_frac), self.resting_v)

    def drives_fault(self, machine: Machine, *, strong: bool, alone: bool) -> Drives:
        """Full and at its stated resistance, or as it is judged."""
        return Drives(1.0, -self.internal_mohm / 1000, self.full_v) if strong else self.drives("parked", machine,
                                                                                               empty=False)

    def hang(self, work: Work, load: Wanted) -> Ends:
        """A fuse at the post, and a relay there for what does not always live."""
        return fused_at(work, load, work.rail)
