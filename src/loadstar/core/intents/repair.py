"""A circuit of the machine's own, put down as it is; a piece of new wire in one that is damaged."""

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from ..doc.machine import SystemKind
from ..doc.states import Feeding
from ..doc.types import AreaMm2, Colour, FuseRating, Id, Name
from ..doc.wires import Wire
from ..edits import RemoveWire
from ..edits.builder import Builder
from ..errors import refuse
from ..materials import fuses
from ..parts.asks import BEHAVES, COLOURS, LIVE, Ask
from ..parts.own import OwnLoad
from ..plan.model import Plan
from ..refs import TerminalRef
from ..supply.choose import supply_of
from .base import ANY, ENGINE, NO_WIRES, SIZES, Intent, at_place

RATINGS = (("", "there is none"), *((f"{a:g}", f"{a:g} A") for a in fuses.EVERY_RATING_A if a <= 60))
FOUND_FUSES = tuple((f"{pattern}, {volts} V", f"{kind.words}, {volts} V")
                    for pattern, kind in fuses.KINDS.items() for volts in kind.volts)
USUAL_V = 12  # of a machine whose users are stated at 13.5 V


class FoundCircuit(Intent):
    """A user of the machine's own, with the wires and the fuse that it has."""

    KEY: ClassVar[str] = "found circuit"
    TITLE: ClassVar[str] = "A circuit that is there"
    SAYS: ClassVar[str] = ("One of the machine's own users as it is wired now: what its wires and fuse stand, what its "
                           "meter readings should be. Nothing of it is bought or cut until something is changed.")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        Ask("what", "What it feeds", kind="text"), Ask("power_w", "It draws", unit="W"),
        Ask("behaviour", "Behaves as", kind="choice", choices=BEHAVES), at_place("user_at", "It sits at"),
        at_place("begins_at", "Its fuse sits at"), Ask("live", "It lives", kind="choice", choices=LIVE),
        Ask("fuse_a", "Fuse in it, as found", kind="choice", choices=RATINGS, optional=True),
        Ask("fuse_kind", "That is a", kind="choice", choices=FOUND_FUSES),
        Ask("size_mm2", "Its wires are", kind="choice", choices=SIZES),
        Ask("colour", "Its feed is", kind="choice", choices=COLOURS),
        Ask("returns", "Returns by", kind="choice", choices=(
            ("frame", "the frame"), ("own wire", "a wire of its own"))),
        Ask("length_m", "From fuse to user", "Empty: along the runs.", unit="m", optional=True),
        Ask("counted_in", "Counted so far in", "Its watts are taken off there.", kind="choice", optional=True))
    FITS: ClassVar[tuple[SystemKind, ...]] = ANY
    ADDS: ClassVar[bool] = False
    PLACES: ClassVar[dict[str, str]] = {"user_at": "tail", "begins_at": "block"}
    OF_THE_PLAN: ClassVar[tuple[str, ...]] = ("counted_in",)

    what: Name
    power_w: Annotated[float, Field(gt=0, le=2000)]
    behaviour: Literal["resistor", "power", "current", "filament"] = "filament"
    user_at: Id
    begins_at: Id
    live: Feeding = "key"
    fuse_a: FuseRating | None = None
    fuse_kind: Annotated[str, Field(pattern=r"^[a-zM0-9 ]{3,12}, [0-9]{2,4} V$")] = "blade, 32 V"
    size_mm2: AreaMm2 = 0.75
    colour: Colour = "RD"
    returns: Literal["frame", "own wire"] = "frame"
    length_m: Annotated[float, Field(ge=0.02, le=9.9)] | None = None
    counted_in: Id | None = None

    @classmethod
    def choices(cls, plan: Plan, ask: str) -> list[tuple[str, str]]:
        """What the machine itself uses."""
        return [("", "nothing: it is counted again"),
                *((own.id, f"{own.name} ({own.id}), {own.power_w:g} W") for own in plan.of(OwnLoad))]

    @classmethod
    def lacks(cls, plan: Plan) -> str:
        """What feeds it."""
        return "" if plan.supply else "Enter the battery, pack or coil under Survey first: the circuit is fed from it."

    @classmethod
    def usual(cls, plan: Plan) -> dict[str, Any]:
        """An e-bike's frame carries nothing, and what a magneto feeds lives while it turns."""
        return {"pack": {"returns": "own wire"}, "magneto": {"live": "engine"}}.get(plan.machine.system, {})

    def make(self, b: Builder) -> None:
        """The user, where its feed begins, and the machine's own wires between."""
        if b.plan.supply is None:
            raise refuse("", "what", self.lacks(b.plan))
        if self.returns == "frame" and b.plan.machine.chassis == "floating":
            raise refuse("", "returns", "The frame of this machine is joined to nothing: what is there returns by a "
                                        "wire of its own.")
        self._uncounted(b)
        begin, back, feed = self._begins(b)
        volts = b.plan.machine.system_v
        load = b.add("load", alone=True, name=self.what, amount=self.power_w, behaviour=self.behaviour,
                     place=self.user_at, feed=feed, live=self.live, at_v=volts if volts != USUAL_V else 13.5,
                     window_low_v=0, window_high_v=max(16.0, round(1.35 * volts, 1)), returns=self.returns,
                     category="lamp" if self.behaviour == "filament" else "other")
        if self.returns == "frame":
            back = f"{b.add('frame', alone=True, name=f'{self.what} frame joint'[:80], place=self.user_at)}.t"
        own: dict[str, Any] = {"origin": "found", "area_mm2": self.size_mm2}
        b.lay(begin, f"{load}.pos", colour=self.colour, length_m=self.length_m, **own)
        b.lay(f"{load}.neg", back, colour="BK", length_m=None if self.returns == "frame" else self.length_m, **own)

    def _uncounted(self, b: Builder) -> None:
        """Its watts are no longer counted with the machine's own use."""
        if not self.counted_in:
            return
        own = b.plan.is_one(self.counted_in, OwnLoad)
        if own is None or own.power_w < self.power_w:
            raise refuse("", "counted_in", f"{own.name if own else 'That'} counts {own.power_w if own else 0:g} W: "
                                           "less than this draws.")
        b.change(own.id, power_w=own.power_w - self.power_w)

    def _begins(self, b: Builder) -> tuple[str, str, str]:
        """Where its feed begins, where a return wire ends, and what feeds it: the machine's own wiring to its fuse; on
        a pack or a magneto the supply itself, with the fuse that is there."""
        pattern, _, volts = self.fuse_kind.partition(", ")
        if b.plan.machine.system in ENGINE:
            tap = b.add("tap", name=f"{self.what} feed"[:80], place=self.begins_at, live=self.live,
                        fused_a=self.fuse_a, fuse_pattern=pattern, unfused=self.fuse_a is None,
                        rated_a=self.fuse_a or 5, wire_colour=self.colour, typical=("source_mohm", "rated_a"))
            return f"{tap}.pin", f"{tap}.gnd", tap
        plus, minus = supply_of(b.plan).ends
        supply = b.plan.supply
        assert supply is not None  # or there would be no ends of it
        if self.fuse_a is None:
            return str(plus), str(minus), supply.id
        fuse = b.add("fuse", alone=True, name=f"{self.what} fuse"[:80], place=self.begins_at, rating_a=self.fuse_a,
                     pattern=pattern, volts_v=int(volts.removesuffix(" V")), supplied=True)
        b.lay(str(plus), f"{fuse}.a", colour=self.colour, origin="found", area_mm2=self.size_mm2)
        return f"{fuse}.b", str(minus), supply.id


def _where(plan: Plan, end: TerminalRef) -> str:
    """Where an end of a wire is."""
    return plan.place(plan.part(end.part).place).name


class RepairWire(Intent):
    """A damaged stretch of a wire, and a new piece in its place."""

    KEY: ClassVar[str] = "repair wire"
    TITLE: ClassVar[str] = "A piece of new wire in a damaged one"
    SAYS: ClassVar[str] = ("Cut back to bright copper at both ends of the damage, a piece between, two sealed splices "
                           "that do not lie side by side. Both halves stay.")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        Ask("broken", "Which wire", kind="choice"), at_place("damage_at", "The damage is at"),
        Ask("piece_m", "New piece", "The damage, and as far on both sides as the copper is dark.", unit="m"))
    FITS: ClassVar[tuple[SystemKind, ...]] = ANY
    ADDS: ClassVar[bool] = False
    PLACES: ClassVar[dict[str, str]] = {"damage_at": "tail"}

    OF_THE_PLAN: ClassVar[tuple[str, ...]] = ("broken",)

    broken: Annotated[str, Field(pattern=r"^W[0-9]{1,6}$")]
    damage_at: Id
    piece_m: Annotated[float, Field(ge=0.02, le=5)] = 0.15

    @classmethod
    def choices(cls, plan: Plan, ask: str) -> list[tuple[str, str]]:
        """The wires that are there."""
        return [(w.id, f"{w.id}, {w.colours}, {_where(plan, w.a)} to {_where(plan, w.b)}")
                for w in plan.wires if w.origin != "new"]

    @classmethod
    def lacks(cls, plan: Plan) -> str:
        """A wire that is there."""
        return "" if cls.choices(plan, "broken") else NO_WIRES

    def make(self, b: Builder) -> None:
        """Two splices and the piece between; the halves are made up where they meet it."""
        wire = b.plan.wire_by_id.get(self.broken)
        if wire is None or wire.origin == "new":
            raise refuse("", "broken", "Choose a wire that is there: what is new is made whole.")
        whole_m = wire.length_m
        if whole_m is not None and whole_m <= self.piece_m:
            raise refuse("", "piece_m", f"{wire.id} is only {whole_m:g} m long: lay a new wire in its place.")
        half_m = None if whole_m is None else round((whole_m - self.piece_m) / 2, 3)
        near, far = (b.add("junction", alone=True, name=f"splice {n} in {wire.id}", place=self.damage_at,
                           form="splice") for n in (1, 2))
        b.do(RemoveWire(id=wire.id))
        self._half(b, wire, (str(wire.a), f"{near}.t"), half_m)
        b.lay(f"{near}.t", f"{far}.t", colour=wire.colour, stripe=wire.stripe, area_mm2=wire.area_mm2,
              length_m=self.piece_m)
        self._half(b, wire, (f"{far}.t", str(wire.b)), half_m)

    @staticmethod
    def _half(b: Builder, wire: Wire, ends: tuple[str, str], length_m: float | None) -> None:
        """What is left of the wire on one side: made up where the piece begins."""
        inner = "b" if ends[0] == str(wire.a) else "a"
        kept = "".join(side for side in wire.made if side != inner)
        b.lay(*ends, colour=wire.colour, stripe=wire.stripe, area_mm2=wire.area_mm2, length_m=length_m,
              insulation=wire.insulation, wall=wire.wall, origin=wire.origin, made="".join(sorted({*kept, inner})),
              carries_a=wire.carries_a)
