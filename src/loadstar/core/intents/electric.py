"""On a traction pack: its leads, a converter with its switch."""

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from ..doc.machine import SystemKind
from ..doc.types import Id
from ..doc.wires import SIDES, Side
from ..edits import CutWire, MoveEnd
from ..edits.builder import Builder
from ..errors import refuse
from ..materials.fuses import fuse_for
from ..parts.asks import Ask
from ..parts.coupling import Coupling
from ..parts.drive import Drive
from ..parts.fuse import FusePart
from ..parts.pack import Pack
from ..supply.choose import supply_of
from .base import Intent, at_place

CONTACTS_A = (30, 40, 60, 90, 120, 200)  # of connectors for a pack's leads, as they are sold


class Traction(Intent):
    """The leads from a pack to its drive."""

    KEY: ClassVar[str] = "traction"
    TITLE: ClassVar[str] = "Traction leads with a main connector"
    SAYS: ClassVar[str] = "Both leads from the pack to the controller, a fuse at the pack, and a connector between."
    ASKS: ClassVar[tuple[Ask, ...]] = (
        at_place("connector_at", "The connector sits at"),
        Ask("rated_a", "Each contact carries", "Empty: what the drive takes.", unit="A", optional=True),
        Ask("contact_mohm", "Each contact"))
    FITS: ClassVar[tuple[SystemKind, ...]] = ("pack",)
    PLACES: ClassVar[dict[str, str]] = {"connector_at": "pack"}

    connector_at: Id
    rated_a: Annotated[float, Field(gt=0, le=200)] | None = None
    contact_mohm: Annotated[float, Field(ge=0.1, le=50)] = 0.6

    def make(self, b: Builder) -> None:
        """Fuse, two leads, both cut at the connector."""
        drive, pack = b.plan.one(Drive), b.plan.one(Pack)
        if drive is None or pack is None:
            raise refuse("", "connector_at", "Enter the pack and the drive under Survey first.")
        plus, minus = supply_of(b.plan).ends
        if drive.at("pos") in {e for w in b.plan.wires for e in (w.a, w.b)}:
            raise refuse(drive.id, "connector_at", "The drive has its leads already.")
        pattern, breaks = fuse_for(pack.full_v, drive.limit_a / b.plan.rules.fuse_share_frac)
        fuse = b.add("fuse", name="traction fuse", place=pack.place, pattern=pattern, volts_v=breaks)
        b.lay(plus, f"{fuse}.a", colour="RD")
        there = b.lay(f"{fuse}.b", f"{drive.id}.pos", colour="RD")
        back = b.lay(f"{drive.id}.neg", minus, colour="BK")
        b.do(CutWire(id=there, place=self.connector_at))
        main = b.plan.of(Coupling)[-1].id
        b.do(CutWire(id=back, into=main))
        b.change(main, name="main connector", rated_a=self.rated_a or _contact_a(drive),
                 contact_mohm=self.contact_mohm, termination="high current")


def _contact_a(drive: Drive) -> float:
    """The least usual contact that takes a drive's amps."""
    return next((a for a in CONTACTS_A if a >= drive.limit_a), CONTACTS_A[-1])


class SwitchedConverter(Intent):
    """A converter and its switch."""

    KEY: ClassVar[str] = "converter"
    TITLE: ClassVar[str] = "Converter with a switch"
    SAYS: ClassVar[str] = ("Behind the switch it draws nothing while off; before it, it idles all the time and the "
                           "switch carries the low voltage only.")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        at_place("converter_at", "The converter sits at"), at_place("switch_at", "The switch at"),
        Ask("order", "The converter is", kind="choice", choices=(
            ("behind", "behind the switch"), ("before", "before the switch"))),
        Ask("poles", "The switch breaks", "Both: an isolator, where it stands before the converter.", kind="choice",
            choices=(("one", "the live lead"), ("both", "both leads"))),
        Ask("tapped", "Fed from", "The controller's leads have to be on the plan.", kind="choice", choices=(
            ("pack", "the pack"), ("drive", "the controller's leads"))),
        Ask("out_v", "Gives", unit="V"), Ask("rated_a", "Rated", unit="A"))
    FITS: ClassVar[tuple[SystemKind, ...]] = ("pack",)
    PLACES: ClassVar[dict[str, str]] = {"converter_at": "converter", "switch_at": "handlebar"}

    converter_at: Id
    switch_at: Id
    order: Literal["behind", "before"] = "behind"
    poles: Literal["one", "both"] = "one"
    tapped: Literal["pack", "drive"] = "pack"
    out_v: Annotated[float, Field(ge=3, le=30)] = 12
    rated_a: Annotated[float, Field(gt=0, le=60)] = 5

    def make(self, b: Builder) -> None:
        """Switch and converter, the one on the other."""
        pack = b.plan.one(Pack)
        if pack is None:
            raise refuse("", "converter_at", "Enter the pack under Survey first.")
        if self.poles == "both" and self.order == "before":
            raise refuse("", "poles", "Behind the converter there is one live lead to break. To break both, put the "
                                      "converter behind the switch.")
        box: dict[str, Any] = {"name": f"{self.out_v:g} V converter", "place": self.converter_at, "out_v": self.out_v,
               "rated_a": self.rated_a, "window_low_v": max(5, int(pack.empty_v) - 2),
               "window_high_v": int(pack.full_v) + 6}
        isolates = ", nin+nout" if self.poles == "both" else ""
        switch: dict[str, Any] = {"name": "converter isolator" if isolates else "converter switch",
                                  "place": self.switch_at, "positions": f"off; on: in+out{isolates}"}
        there = {wire.id for wire in b.plan.wires}
        if self.order == "behind":
            first = b.add("selector", feed=pack.id, live="key", **switch)
            made = b.add("converter", feed=first, live="key", **box)
        else:
            made = b.add("converter", **box)
            first = b.add("selector", feed=made, live="key", **switch)
        if isolates:
            _into_the_return(b, first, f"{made}.inn")
        if self.tapped == "drive":
            _at_the_drive(b, there)


def _into_the_return(b: Builder, switch: str, end: str) -> None:
    """The wire that a converter returns by goes through a switch's second contact."""
    back = b.wire_to(end)
    wire = b.plan.wire(back)
    far: Side = "b" if str(wire.a) == end else "a"
    to = str(wire.end(far))
    b.do(MoveEnd(id=back, end=far, to=f"{switch}.nout"))
    b.lay(f"{switch}.nin", to, colour="BK")


def _at_the_drive(b: Builder, there: set[str]) -> None:
    """What of the new wires begins at the pack begins where its leads come to the drive, and so does their fuse."""
    drive, ends = b.plan.one(Drive), supply_of(b.plan).ends
    leads = {end for wire in b.plan.wires if wire.id in there for end in (wire.a, wire.b)}
    if drive is None or drive.at("pos") not in leads or drive.at("neg") not in leads:
        raise refuse("", "tapped", "The controller's leads are not on the plan yet: make “Traction leads” first.")
    for wire in b.plan.wires:
        for side in SIDES if wire.id not in there else ():
            if (end := wire.end(side)) in ends:
                b.do(MoveEnd(id=wire.id, end=side, to=str(drive.at("pos" if end == ends[0] else "neg"))))
                other = b.plan.part(wire.end("b" if side == "a" else "a").part)
                if b.plan.is_one(other.id, FusePart):
                    b.change(other.id, place=drive.place)


class BrakeCutoff(Intent):
    """Levers that cut the motor."""

    KEY: ClassVar[str] = "brake cut-off"
    TITLE: ClassVar[str] = "Brake cut-off on both levers"
    SAYS: ClassVar[str] = ("A switch at each lever on the controller's cut-off lines: beside one another where they "
                           "close, one behind the other where they open.")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        at_place("lever_at", "The levers sit at"), at_place("controller_at", "The controller at"),
        Ask("works", "Pulling the brake", kind="choice", choices=(
            ("closes", "closes the contacts"), ("opens", "opens the contacts"))))
    FITS: ClassVar[tuple[SystemKind, ...]] = ("pack",)
    PLACES: ClassVar[dict[str, str]] = {"lever_at": "handlebar", "controller_at": "pack"}

    lever_at: Id
    controller_at: Id
    works: Literal["closes", "opens"] = "closes"

    def make(self, b: Builder) -> None:
        """The controller's two lines, a switch at each lever, their wires."""
        ends = b.add("device", name="controller, cut-off", place=self.controller_at, lines="brake, gnd")
        left, right = (b.add("cutoff", name=f"{side} brake cut-off", place=self.lever_at, works=self.works)
                       for side in ("left", "right"))
        b.lay(f"{ends}.brake", f"{left}.a", colour="YE")
        if self.works == "closes":
            b.lay(f"{left}.a", f"{right}.a", colour="YE")
            b.lay(f"{left}.b", f"{right}.b", colour="BK")
            b.lay(f"{left}.b", f"{ends}.gnd", colour="BK")
        else:
            b.lay(f"{left}.b", f"{right}.a", colour="YE")
            b.lay(f"{right}.b", f"{ends}.gnd", colour="BK")
