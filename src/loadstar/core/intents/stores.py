"""A second source beside the first: a battery, a pack."""

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from ..doc.machine import SystemKind
from ..doc.types import Id
from ..edits.builder import Builder
from ..errors import refuse
from ..parts.asks import CHEMISTRIES, Ask, whole
from ..parts.drive import Drive
from ..parts.pack import Pack
from ..parts.second import SecondBattery
from ..plan.model import Plan
from .base import Intent, at_place


class SecondStore(Intent):
    """A second 12 V battery."""

    KEY: ClassVar[str] = "second battery"
    TITLE: ClassVar[str] = "Second battery beside the first"
    SAYS: ClassVar[str] = ("For what lives while parked; charged while the engine runs, through a relay or a diode, "
                           "with a fuse at either battery.")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        at_place("battery_at", "It sits at"),
        Ask("chemistry", "Its kind", kind="choice", choices=CHEMISTRIES),
        Ask("capacity_ah", "Capacity", unit="Ah"),
        Ask("joined_by", "Charged through", kind="choice", choices=(
            ("isolator", "a relay, in while it runs"), ("diode", "a charging diode"))))
    FITS: ClassVar[tuple[SystemKind, ...]] = ("battery",)
    ADDS: ClassVar[bool] = False
    PLACES: ClassVar[dict[str, str]] = {"battery_at": "panel"}

    battery_at: Id
    chemistry: Literal["agm", "flooded", "lfp"] = "agm"
    capacity_ah: Annotated[float, Field(ge=0.5, le=200)] = 7
    joined_by: Literal["isolator", "diode"] = "isolator"

    @classmethod
    def usual(cls, plan: Plan) -> dict[str, Any]:
        """A diode, where no wire has been found that lives with the engine and could pull a relay in."""
        return {} if any(tap.live == "engine" for tap in plan.taps) else {"joined_by": "diode"}

    def make(self, b: Builder) -> None:
        """The battery with what joins it."""
        if b.plan.battery is None or b.plan.one(SecondBattery):
            raise refuse("", "battery_at", "A second battery is there already." if b.plan.battery else
                         "Enter the machine's own battery under Survey first.")
        b.add("second_battery", name="second battery", place=self.battery_at, chemistry=self.chemistry,
              capacity_ah=self.capacity_ah, charge_a=round(self.capacity_ah / 10, 2), joined_by=self.joined_by,
              internal_mohm=round(180 / self.capacity_ah, 1), typical=("internal_mohm", "charge_a", "joined_a"))


class SecondPack(Intent):
    """A second traction pack."""

    KEY: ClassVar[str] = "second pack"
    TITLE: ClassVar[str] = "Second pack beside the first"
    SAYS: ClassVar[str] = ("Its leads with a fuse at each pack, and what joins the two: a changeover, ideal diodes, or "
                           "plain parallel, which asks for like packs at like volts before they are joined.")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        at_place("pack_at", "It sits at"), whole("series", "In series", range(3, 25)),
        whole("parallel", "In parallel", range(1, 41)), Ask("cell_ah", "Capacity of a cell"),
        Ask("bms_a", "Its protection allows", unit="A"),
        Ask("way", "Joined by", kind="choice", choices=(
            ("changeover", "a changeover switch"), ("diode", "ideal diodes"), ("parallel", "plain parallel"))),
        at_place("joined_at", "They meet at"),
        Ask("rated_a", "What joins them carries", "Empty: what the drive takes.", unit="A", optional=True))
    FITS: ClassVar[tuple[SystemKind, ...]] = ("pack",)
    ADDS: ClassVar[bool] = False
    PLACES: ClassVar[dict[str, str]] = {"pack_at": "tail", "joined_at": "pack"}

    pack_at: Id
    series: Annotated[int, Field(ge=3, le=24)]
    parallel: Annotated[int, Field(ge=1, le=40)] = 4
    cell_ah: Annotated[float, Field(ge=0.5, le=120)] = 3.0
    bms_a: Annotated[float, Field(ge=1, le=400)] = 20
    way: Literal["changeover", "diode", "parallel"] = "changeover"
    joined_at: Id
    rated_a: Annotated[float, Field(gt=0, le=400)] | None = None

    @classmethod
    def usual(cls, plan: Plan) -> dict[str, Any]:
        """Cells as the first pack has them: only such may be joined."""
        first = plan.one(Pack)
        return {"series": first.series, "parallel": first.parallel, "cell_ah": first.cell_ah,
                "bms_a": first.bms_continuous_a} if first else {}

    def make(self, b: Builder) -> None:
        """The pack, and what joins it."""
        if len(b.plan.packs) != 1:
            raise refuse("", "pack_at", "Enter the first pack under Survey first." if not b.plan.packs else
                         "There are two packs already.")
        first, drive = b.plan.packs[0], b.plan.one(Drive)
        b.add("pack", name="second pack", place=self.pack_at, series=self.series, parallel=self.parallel,
              cell_ah=self.cell_ah, chemistry=first.chemistry, bms_continuous_a=self.bms_a, bms_peak_a=2 * self.bms_a,
              cell_mohm=first.cell_mohm, typical=("cell_mohm", "bms_peak_a", "charge_frac"))
        b.add("combiner", name="joining of the packs", place=self.joined_at, way=self.way,
              rated_a=self.rated_a or (drive.limit_a if drive else self.bms_a))
