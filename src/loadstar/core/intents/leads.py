"""What is done to a lead that an accessory came with: a plug on its bare wires."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..doc.machine import SystemKind
from ..doc.types import AreaMm2, Id
from ..edits import CutWire
from ..edits.builder import Builder
from ..errors import refuse
from ..materials.terminals import TERMINALS
from ..parts.asks import Ask
from ..parts.coupling import Coupling
from ..parts.load import LoadPart
from ..plan.model import Plan
from .base import ANY, SIZES, Intent

PLUGS = (("sealed small", "small sealed contacts"), ("sealed 1.5", "sealed 1.5 mm blades"),
         ("sealed 2.8", "sealed 2.8 mm blades"), ("sealed 6.3", "sealed 6.3 mm blades"),
         ("blade 6.3", "blades 6.3, dry places"))


def _bare(plan: Plan) -> list[LoadPart]:
    """Accessories whose bare lead is still joined to new wires, at both ends."""
    new = {end for wire in plan.wires if wire.origin == "new" for end in (wire.a, wire.b)}
    return [p for p in plan.loads if not p.ends_in_plug and not p.plugged and {p.at("pos"), p.at("neg")} <= new]


class LeadPlug(Intent):
    """A plug of its own on an accessory's bare lead."""

    KEY: ClassVar[str] = "plug on a lead"
    TITLE: ClassVar[str] = "A plug on an accessory's bare lead"
    SAYS: ClassVar[str] = ("Both wires of its lead cut to one length, a terminal on each, one connector to the "
                           "harness. The lead is its own: not bought, and counted in the drop.")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        Ask("lead_of", "Whose lead", kind="choice"),
        Ask("lead_m", "Its wires, cut to", "Both alike, from the accessory to the plug.", unit="m"),
        Ask("lead_mm2", "They are", kind="choice", choices=SIZES),
        Ask("family", "Its plug has", kind="choice", choices=PLUGS),
        Ask("live_wire", "Its live wire is", "Colour, stripe: as its maker says, or as found.", kind="text",
            optional=True))
    FITS: ClassVar[tuple[SystemKind, ...]] = ANY
    ADDS: ClassVar[bool] = False
    LEADS_TO: ClassVar[tuple[str, str]] = ("ends", "connectors")
    OF_THE_PLAN: ClassVar[tuple[str, ...]] = ("lead_of",)

    lead_of: Id
    lead_m: Annotated[float, Field(ge=0.03, le=5)] = 0.3
    lead_mm2: AreaMm2 = 0.75
    family: Literal["sealed small", "sealed 1.5", "sealed 2.8", "sealed 6.3", "blade 6.3"] = "sealed 2.8"
    live_wire: Annotated[str, Field(max_length=40)] = ""

    @classmethod
    def choices(cls, plan: Plan, ask: str) -> list[tuple[str, str]]:
        """Accessories with a bare lead."""
        return [(p.id, f"{p.name} ({p.id})") for p in _bare(plan)]

    @classmethod
    def lacks(cls, plan: Plan) -> str:
        """An accessory with a bare lead."""
        return "" if _bare(plan) else ("There is no accessory with a bare lead and two new wires to it on this plan: "
                                       "add it under Loads first. One that returns through its body has one wire.")

    def make(self, b: Builder) -> None:
        """Its two wires led through a connector; what lies on its side is its own lead, made up there."""
        load = next((p for p in _bare(b.plan) if p.id == self.lead_of), None)
        if load is None:
            raise refuse("", "lead_of", "Choose an accessory with a bare lead.")
        if not any(t.family == self.family and t.area_mm2[0] <= self.lead_mm2 <= t.area_mm2[1] for t in TERMINALS):
            raise refuse("", "family", f"No terminal of that plug takes {self.lead_mm2:g} mm²: choose another.")
        if self.live_wire:
            b.change(load.id, live_wire=self.live_wire)
        ends = [str(load.at(name)) for name in ("pos", "neg")]
        b.do(CutWire(id=b.wire_to(ends[0]), place=load.place))
        plug = b.plan.of(Coupling)[-1].id
        b.do(CutWire(id=b.wire_to(ends[1]), into=plug))
        b.change(plug, name=f"{load.name} plug"[:80], termination=self.family)
        for end in ends:
            wire = b.plan.wire(b.wire_to(end))
            b.fix(wire.id, origin="supplied", made="a" if str(wire.b) == end else "b", area_mm2=self.lead_mm2,
                  length_m=self.lead_m, colour="", stripe="")  # not the harness's: what it came in
