"""A plan while it is added to: ids from its counters, wires, fuses, relays and switches as recipes need them."""

from collections.abc import Sequence
from dataclasses import dataclass, field

from ..doc.states import LIVE_STATES, LIVES_WITH, OCCASIONS, Live
from ..doc.types import MOST_NAME, Colour
from ..doc.wires import Join, Wire
from ..errors import refuse
from ..materials.fuses import fuse_for
from ..parts.base import Part
from ..parts.pack import Pack
from ..parts.registry import KINDS
from ..parts.relay import Relay
from ..parts.selector import Selector
from ..parts.tap import Tap
from ..parts.work import RETURN_COLOUR, TRIGGER_COLOUR, Rail, Wanted
from ..plan.model import PREFIX, Plan
from ..refs import TerminalRef
from ..supply.choose import supply_of

BACK_COLOURS = (RETURN_COLOUR, "BN")  # of returns by wire, and by the frame


@dataclass
class Workpiece:
    """A plan that is open for additions; `plan()` closes it."""

    base: Plan
    parts: list[Part] = field(default_factory=list)
    wires: list[Wire] = field(default_factory=list)
    joins: list[Join] = field(default_factory=list)
    counters: dict[str, int] = field(default_factory=dict)

    @classmethod
    def of(cls, plan: Plan) -> "Workpiece":
        """Open a plan for additions."""
        return cls(plan, list(plan.parts), list(plan.wires), list(plan.joins), dict(plan.counters))

    def plan(self) -> Plan:
        """The plan with everything added."""
        return self.base.model_copy(update={
            "parts": tuple(self.parts), "wires": tuple(self.wires), "joins": tuple(self.joins),
            "counters": self.counters})

    def new_id(self, kind: str) -> str:
        """The next id of a kind; numbers are never used twice."""
        prefix = PREFIX[kind]
        self.counters[prefix] = self.counters.get(prefix, 0) + 1
        return f"{prefix}{self.counters[prefix]}"

    # -- what recipes ask for --------------------------------------------------------------------------------------

    @property
    def rail(self) -> Rail:
        """What everything hangs on; PlanError without a supply."""
        return rail(self.base)

    @property
    def fuse_share_frac(self) -> float:
        """What of a fuse's rating the house uses for good."""
        return self.base.rules.fuse_share_frac

    def make(self, kind: str, **values: object) -> Part:
        """Add a part of a kind, with its id from the counter; named after another part, it is named no longer than
        any."""
        part = KINDS[kind].model_validate({"id": self.new_id(kind), **values, "name": shortened(str(values["name"]))})
        self.parts.append(part)
        return part

    def wire(self, a: TerminalRef, b: TerminalRef, colour: Colour, made_for: str | None, stripe: Colour = "",
             length_m: float | None = None) -> str:
        """Lay a wire whose size is left to Loadstar, and its length too where none is given; its id."""
        if self.base.rules.colours == "red and black":
            colour, stripe = "BK" if colour in BACK_COLOURS else "RD", ""
        wire = Wire(id=self.new_id("wire"), a=a, b=b, colour=colour, stripe=stripe, made_for=made_for,
                    length_m=length_m)
        self.wires.append(wire)
        return wire.id

    def replace(self, wire: Wire, by: Sequence[Wire]) -> None:
        """Put other wires in the place of one."""
        at = self.wires.index(wire)
        self.wires[at:at + 1] = by

    def join(self, a: TerminalRef, b: TerminalRef) -> None:
        """Let two terminals touch."""
        self.joins.append(Join(a=a, b=b))

    def fuse(self, name: str, place: str, made_for: str, volts_v: float = 0.0, amps: float = 0.0,
             short_a: float = 0.0) -> Part:
        """Add a fuse that may break so many volts and so large a short, and comes for so many amps: a blade fuse where
        one does."""
        pattern, breaks = fuse_for(volts_v, amps, short_a)
        return self.make("fuse", name=name, place=place, made_for=made_for, pattern=pattern, volts_v=breaks)

    def part(self, part_id: str) -> Part:
        """A part of the plan so far; PlanError where there is none."""
        found = next((p for p in self.parts if p.id == part_id), None)
        if found is None:
            raise refuse(part_id, "feed", f"There is no {part_id} in this plan (any more).")
        return found

    def relay(self, live: Live, place: str, made_for: str, name: str, *, built_in: bool = False) -> Part:
        """Add a relay whose coil is fed by what lives so: a switch of the plan, or the best found wire."""
        pin = self.trigger(live)
        relay = self.make("relay", name=name, place=place, made_for=made_for, built_in=built_in,
                          **_coil(self.base))
        self.wire(pin, relay.at("86"), TRIGGER_COLOUR, made_for)
        return relay

    def trigger(self, live: Live) -> TerminalRef:
        """Where a wire that lives so begins: at a switch of the plan that is made for it, or the pin of the best found
        wire; PlanError where there is none."""
        own = next((p for p in self.base.of(Selector) if any(at.name == live for at in p.table)), None)
        return own.at(own.output(live) or "") if own else trigger(self.base, live).at("pin")

    def switched(self, begin: TerminalRef, load: Wanted, colour: Colour) -> TerminalRef:
        """Put a switch on the way to a load that is not to live always; where its wire then begins."""
        if load.live == "always" or load.own_switch:
            return begin
        switch = self.make("switch", name=f"{load.name} switch", place=load.place, made_for=load.id,
                           closed_in=LIVE_STATES[load.live])
        self.wire(begin, switch.at("a"), colour, load.id)
        return switch.at("b")

    def packs(self, asker: str) -> Sequence[Pack]:
        """The plan's two packs; PlanError, about the asker, where there are not two."""
        packs = self.base.packs
        if len(packs) != 2:
            raise refuse(asker, "way", f"Joining packs takes two of them; this plan has {len(packs)}.")
        return packs

    def never(self, tap: str) -> str:
        """The system that a found wire belongs to and that is never tapped; "" where there is none."""
        found = self.base.is_one(tap, Tap)
        return self.base.never(found) if found else ""


def _coil(plan: Plan) -> dict[str, float]:
    """The coil of a relay for a machine whose battery is not of 12 V: as one of 12 V is, by its watts and by the share
    of its volts at which it pulls in."""
    share = plan.machine.system_v / 12 if plan.battery else 1.0
    usual = Relay.model_fields
    return {} if share == 1 else {"coil_ohm": usual["coil_ohm"].default * share**2,
                                  "pull_in_v": usual["pull_in_v"].default * share}


def rail(plan: Plan) -> Rail:
    """What everything of a plan hangs on."""
    supply = supply_of(plan)
    if supply.part is None:
        raise refuse("", "feed", "There is no battery or pack yet: enter it under Survey first.")
    return Rail(*supply.ends, supply.place, supply.breaks_v)


def trigger(plan: Plan, live: Live) -> Tap:
    """The found wire with the most to spare that lives when it should; refused when there is none."""
    taps = [t for t in plan.taps if t.live == live and not plan.never(t)]
    # One that has been found here goes before one that is only believed.
    taps = [t for t in taps if t.standing == "found"] or taps
    if not taps:
        also = " or a switch for it" if live in OCCASIONS else ""
        raise refuse("", "live", f"No wire that is live {LIVES_WITH[live]} has been found on this machine yet: add one"
                                 f"{also} under Survey (a relay needs it as its trigger), or let this accessory live "
                                 "otherwise.")
    return max(taps, key=lambda t: (t.rated_a - t.others_a, -t.off_delay_s))


def shortened(name: str) -> str:
    """A name of at most `MOST_NAME` letters: what it is (its last word) stays, of what it belongs to as much as there
    is room for."""
    if len(name) <= MOST_NAME:
        return name
    owner, _, what = name.rpartition(" ")
    return f"{owner[:MOST_NAME - len(what) - 2]}… {what}"
