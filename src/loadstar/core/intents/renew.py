"""What is there and is renewed: a generator, a battery, the end of a wire."""

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from ..doc.machine import SystemKind
from ..doc.types import AreaMm2, Id
from ..doc.wires import SIDES
from ..edits import PutPlug, SetWire
from ..edits.builder import Builder
from ..errors import refuse
from ..parts.asks import CHEMISTRIES, COLOURS, Ask
from ..parts.generator import Generator
from ..plan.model import Plan
from .base import ANY, NO_WIRES, SIZES, Intent, at_place

Leads = Annotated[str, Field(max_length=400)]
MOST_LEADS = 24
CODES = {code for code, _ in COLOURS}
TERMINALS = (("blade 6.3", "blade receptacles 6.3"), ("bullet 3.9", "bullets 3.9"), ("sealed 2.8", "sealed blades 2.8"),
             ("sealed 6.3", "sealed blades 6.3"))
TURNS = "\N{RIGHTWARDS ARROW}"
Watts = Annotated[float, Field(gt=0, le=3000)]


def colours(text: str, field: str) -> list[tuple[str, str]]:
    """Leads as they are typed, "YE > WH, GN/RD > BU": the colour there now, and that of the new part's. PlanError at
    the field where one is not of that form."""
    found = []
    for lead in (part.strip() for part in text.replace(TURNS, ">").split(",")):
        old, sign, new = (p.strip().upper() for p in lead.partition(">"))
        if lead and not (old and sign and new):
            raise refuse("", field, f"“{lead[:30]}” is no lead: say the old colour, >, the new one, as in YE > WH.")
        if lead:
            found.append((old[:20], new[:20]))
    return found


class RenewGenerator(Intent):
    """Another generator in place of the one that is there."""

    KEY: ClassVar[str] = "renew generator"
    TITLE: ClassVar[str] = "Generator renewed"
    SAYS: ClassVar[str] = ("The new one's watts, and which of its leads goes where an old one was: the winding's in "
                           "any order, the others by colour. The old one is put down as taken off.")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        Ask("high_w", "The new one gives", "At the higher speed that its maker names.", unit="W"),
        Ask("high_rpm", "at", unit="rpm"),
        Ask("low_w", "and at idle", "Empty: as much less as the old one gave.", unit="W", optional=True),
        Ask("phase_ohm", "Resistance of a phase, hot", "Empty: by the watts. Half of what is read between two leads, "
            "times 1.3.", unit="Ω", optional=True),
        Ask("winding", "The winding's leads, old > new", "Like ones, which go in any order: YE > WH, YE > WH, YE > WH",
            kind="note"),
        Ask("others", "Its other leads, old > new", "Pulse, neutral, oil: GN/RD > BU, ... Empty: none.", kind="note",
            optional=True),
        at_place("plug_at", "Their connector sits at"),
        Ask("lead_mm2", "Its leads are", kind="choice", choices=SIZES),
        Ask("terminals", "They get", "As the machine's own connector has them.", kind="choice", choices=TERMINALS))
    FITS: ClassVar[tuple[SystemKind, ...]] = ("battery", "ignition_only")
    ADDS: ClassVar[bool] = False
    PLACES: ClassVar[dict[str, str]] = {"plug_at": "generator"}
    LEADS_TO: ClassVar[tuple[str, str]] = ("survey", "plugs")

    high_w: Watts
    high_rpm: Annotated[float, Field(ge=1000, le=15000)] = 5000
    low_w: Watts | None = None
    phase_ohm: Annotated[float, Field(ge=0.005, le=10)] | None = None
    winding: Leads
    others: Leads = ""
    plug_at: Id
    lead_mm2: AreaMm2 = 1.5
    terminals: Literal["blade 6.3", "sealed 2.8", "sealed 6.3", "bullet 3.9"] = "blade 6.3"

    @classmethod
    def lacks(cls, plan: Plan) -> str:
        """The generator that is there."""
        return "" if plan.generator else "Enter the generator that is there under Survey first."

    def make(self, b: Builder) -> None:
        """The generator's figures, a connector with what goes where, the old one taken off."""
        old = b.plan.generator
        if old is None:
            raise refuse("", "high_w", self.lacks(b.plan))
        like, others = colours(self.winding, "winding"), colours(self.others, "others")
        if len(like) not in (2, 3) or (old.phases == 3) != (len(like) == 3):
            raise refuse("", "winding", f"A winding of {old.phases} phase{'s' * (old.phases > 1)} has "
                                        f"{3 if old.phases == 3 else 2} leads; these are {len(like)}.")
        if len(like) + len(others) > MOST_LEADS:
            raise refuse("", "others", f"At most {MOST_LEADS} leads.")
        share = self.high_w / old.rating2_w
        b.add("removed", name=f"{old.name}, the old one", place=old.place)
        b.change(old.id, rating2_w=self.high_w, rating2_rpm=self.high_rpm,
                 rating1_w=self.low_w or old.rating1_w * share, phase_ohm=self.phase_ohm or old.phase_ohm / share)
        pins = [(pair, True) for pair in like] + [(pair, False) for pair in others]
        b.do(PutPlug(
            values={"name": f"{old.name} connector"[:80], "place": self.plug_at, "use": "generator", "ways": len(pins)},
            pins=tuple({"way": way, "function": "other", "wire_colour": was, "new_colour": new, "phase": phase,
                        "goes_to": "winding" if phase else "by colour", "termination": self.terminals}
                       for way, ((was, new), phase) in enumerate(pins, 1))))
        self._leads(b, old, [new for (_, new), _ in pins])

    def _leads(self, b: Builder, generator: Generator, new: list[str]) -> None:
        """The new one's own leads, made up where they go into the connector."""
        ends = b.add("device", alone=True, name=f"leads of the new {generator.name}"[:80],
                     place=generator.winding_at or generator.place,
                     lines=", ".join(f"lead{way}" for way in range(1, len(new) + 1)))
        plug = b.plan.plugs[-1].id
        for pin, colour in zip(b.plan.pins(plug), new, strict=True):
            base, _, stripe = colour.partition("/")
            b.lay(f"{ends}.lead{pin.way}", f"{pin.id}.pin", origin="supplied", made="b", area_mm2=self.lead_mm2,
                  colour=base if base in CODES else "", stripe=stripe if stripe in CODES else "")


class RenewBattery(Intent):
    """Another battery in place of the one that is there."""

    KEY: ClassVar[str] = "renew battery"
    TITLE: ClassVar[str] = "Battery renewed"
    SAYS: ClassVar[str] = ("Kind and Ah of the new one: what it leaves for starting and for parking. The old one is "
                           "put down as taken off.")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        Ask("chemistry", "Its kind", kind="choice", choices=CHEMISTRIES),
        Ask("capacity_ah", "Capacity", unit="Ah"),
        Ask("internal_mohm", "Internal resistance", "Empty: the old one's, by their Ah.", unit="mΩ", optional=True))

    ADDS: ClassVar[bool] = False
    LEADS_TO: ClassVar[tuple[str, str]] = ("budget", "")

    chemistry: Literal["agm", "flooded", "lfp"] = "agm"
    capacity_ah: Annotated[float, Field(ge=0.5, le=200)]
    internal_mohm: Annotated[float, Field(ge=0.5, le=500)] | None = None

    @classmethod
    def usual(cls, plan: Plan) -> dict[str, Any]:
        """As the old one is."""
        there = plan.battery
        return {"chemistry": there.chemistry, "capacity_ah": there.capacity_ah} if there else {}

    @classmethod
    def lacks(cls, plan: Plan) -> str:
        """The battery that is there."""
        return "" if plan.battery else "There is no battery on this plan to renew: enter it under Survey first."

    def make(self, b: Builder) -> None:
        """Its figures, and the old one taken off."""
        old = b.plan.battery
        if old is None:
            raise refuse("", "capacity_ah", self.lacks(b.plan))
        name = f"{old.name}, the old one ({old.chemistry}, {old.capacity_ah:g} Ah)"[:80]
        b.add("removed", name=name, place=old.place)
        by_size = old.internal_mohm * old.capacity_ah / self.capacity_ah
        b.change(old.id, chemistry=self.chemistry, capacity_ah=self.capacity_ah,
                 internal_mohm=self.internal_mohm or min(500, max(0.5, round(by_size, 1))))


class NewEnd(Intent):
    """The end of a wire that stays, made up anew."""

    KEY: ClassVar[str] = "new end"
    TITLE: ClassVar[str] = "New termination on a wire"
    SAYS: ClassVar[str] = ("Cut back to bright copper, stripped, a new terminal: the wire stays. For a corroded joint, "
                           "a burnt blade, a ring that broke off.")
    ASKS: ClassVar[tuple[Ask, ...]] = (Ask("old_end", "Which end", kind="choice"),)
    FITS: ClassVar[tuple[SystemKind, ...]] = ANY
    ADDS: ClassVar[bool] = False

    OF_THE_PLAN: ClassVar[tuple[str, ...]] = ("old_end",)

    old_end: Annotated[str, Field(pattern=r"^W[0-9]{1,6}\.[ab]$")]

    @classmethod
    def choices(cls, plan: Plan, ask: str) -> list[tuple[str, str]]:
        """The ends of wires that stay and are not made up anew yet."""
        return [(f"{wire.id}.{side}", f"{wire.id}, {wire.colours}, at {plan.part(wire.end(side).part).name}")
                for wire in plan.wires for side in SIDES if wire.keeps(side)]

    @classmethod
    def lacks(cls, plan: Plan) -> str:
        """A wire that stays."""
        return "" if cls.choices(plan, "old_end") else NO_WIRES

    def make(self, b: Builder) -> None:
        """The wire is made up at that side."""
        name, _, side = self.old_end.partition(".")
        wire = b.plan.wire_by_id.get(name)
        if wire is None or wire.origin == "new":
            raise refuse("", "old_end", "Only a wire that is there, or that came with something, gets a new "
                                        "termination.")
        b.do(SetWire(id=name, values={"made": wire.also_made("a" if side == "a" else "b")}))
