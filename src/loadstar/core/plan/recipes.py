"""From intent to circuit: which parts and wires a load or a fuse block needs.

A recipe only decides topology, places and colours; sizes and ratings are left null for the analysis to choose.
Everything made carries `made_for`, so that it can be taken out or made again when the intent changes.
"""

from dataclasses import dataclass, field

from .errors import refuse
from .model import PREFIX, AnyPart, Block, Colour, FusePart, Join, LoadPart, Plan, Relay, Tap, Wire

MAIN_COLOUR: Colour = "RD"
LIVE_COLOUR: dict[str, Colour] = {"always": "RD", "key": "OG", "engine": "YE"}
STRIPES: tuple[Colour, ...] = ("", "BK", "WH", "BU", "GN", "VT", "BN", "GY", "PK")
TRIGGER_COLOUR: Colour = "BU"
RETURN_COLOUR: Colour = "BK"


@dataclass
class Workpiece:
    """A plan while a recipe adds to it; `plan()` closes it."""

    base: Plan
    parts: list[AnyPart] = field(default_factory=list)
    wires: list[Wire] = field(default_factory=list)
    joins: list[Join] = field(default_factory=list)
    counters: dict[str, int] = field(default_factory=dict)

    @classmethod
    def of(cls, plan: Plan) -> "Workpiece":
        """Open a plan for additions."""
        return cls(plan, list(plan.parts), list(plan.wires), list(plan.joins), dict(plan.counters))

    def new_id(self, kind: str) -> str:
        """The next id of a kind; numbers are never used twice."""
        prefix = PREFIX[kind]
        self.counters[prefix] = self.counters.get(prefix, 0) + 1
        return f"{prefix}{self.counters[prefix]}"

    def wire(self, a: str, b: str, colour: Colour, made_for: str, stripe: Colour = "") -> None:
        """Add a wire whose size and length are left to Loadstar."""
        self.wires.append(Wire(id=self.new_id("wire"), a=a, b=b, colour=colour, stripe=stripe, made_for=made_for))

    def plan(self) -> Plan:
        """The plan with everything added."""
        return self.base.model_copy(update={
            "parts": tuple(self.parts), "wires": tuple(self.wires), "joins": tuple(self.joins),
            "counters": self.counters})


def make_load(plan: Plan, load: LoadPart) -> Plan:
    """Add a load (its id already taken from the counter) with everything its circuit needs."""
    battery = plan.battery
    if battery is None:
        raise refuse("", "feed", "There is no battery yet: enter it under Survey before adding accessories.")
    work = Workpiece.of(plan)
    work.parts.append(load)
    number = int(load.id[len(PREFIX["load"]):])
    stripe = STRIPES[number % len(STRIPES)]
    colour = LIVE_COLOUR[load.live]
    if stripe == colour:
        stripe = "WH"
    feed = plan.part(load.feed)
    fuse_id = work.new_id("fuse")
    if isinstance(feed, Block):
        _ready_bus(work, feed, load.live)
        work.parts.append(FusePart(id=fuse_id, name=f"{load.name} fuse", place=feed.place, made_for=load.id))
        work.joins.append(Join(a=f"{feed.id}.{load.live}", b=f"{fuse_id}.a"))
        work.wire(f"{fuse_id}.b", f"{load.id}.pos", colour, load.id, stripe)
        work.wire(f"{load.id}.neg", f"{feed.id}.ret", RETURN_COLOUR, load.id, stripe if stripe != "BK" else "")
    elif isinstance(feed, Tap):
        _check_tap(feed, load)
        work.parts.append(FusePart(id=fuse_id, name=f"{load.name} fuse", place=feed.place, made_for=load.id))
        work.wire(f"{feed.id}.pin", f"{fuse_id}.a", colour, load.id)
        work.wire(f"{fuse_id}.b", f"{load.id}.pos", colour, load.id, stripe)
        work.wire(f"{load.id}.neg", f"{feed.id}.gnd", RETURN_COLOUR, load.id)
    else:
        work.parts.append(FusePart(id=fuse_id, name=f"{load.name} fuse", place=battery.place, made_for=load.id))
        work.wire(f"{battery.id}.pos", f"{fuse_id}.a", MAIN_COLOUR, load.id)
        source = f"{fuse_id}.b"
        if load.live != "always":
            relay = _relay(work, plan, load.live, battery.place, load.id, f"{load.name} relay")
            work.wire(source, f"{relay}.30", MAIN_COLOUR, load.id)
            work.wire(f"{relay}.85", f"{battery.id}.neg", RETURN_COLOUR, load.id)
            source = f"{relay}.87"
        work.wire(source, f"{load.id}.pos", colour, load.id, stripe)
        work.wire(f"{load.id}.neg", f"{battery.id}.neg", RETURN_COLOUR, load.id)
    return work.plan()


def make_block(plan: Plan, block: Block) -> Plan:
    """Add a fuse block with its main fuse at the battery, feed wire and return wire."""
    battery = plan.battery
    if battery is None:
        raise refuse("", "place", "There is no battery yet: enter it before the block that it feeds.")
    work = Workpiece.of(plan)
    work.parts.append(block)
    fuse_id = work.new_id("fuse")
    work.parts.append(FusePart(id=fuse_id, name=f"{block.name} main fuse", place=battery.place, made_for=block.id))
    work.wire(f"{battery.id}.pos", f"{fuse_id}.a", MAIN_COLOUR, block.id)
    work.wire(f"{fuse_id}.b", f"{block.id}.in", MAIN_COLOUR, block.id)
    work.wire(f"{block.id}.ret", f"{battery.id}.neg", RETURN_COLOUR, block.id)
    work.joins.append(Join(a=f"{block.id}.in", b=f"{block.id}.always"))
    return work.plan()


def take_out(plan: Plan, owner: str) -> Plan:
    """Remove a part with everything made for it, and block relays that no way uses any more."""
    gone = {p.id for p in plan.parts if p.id == owner or p.made_for == owner}
    plan = _without(plan, gone, owner)
    idle_relays = {
        part.id for part in plan.parts
        if isinstance(part, Relay) and part.made_for and isinstance(plan.part(part.made_for), Block)
        and not _bus_in_use(plan, part)
    }
    return _without(plan, idle_relays, None)


def _without(plan: Plan, gone: set[str], owner: str | None) -> Plan:
    def stays(end: str) -> bool:
        return end.split(".")[0] not in gone

    return plan.model_copy(update={
        "parts": tuple(p for p in plan.parts if p.id not in gone),
        "wires": tuple(w for w in plan.wires
                       if stays(w.a) and stays(w.b) and (owner is None or w.made_for != owner)),
        "joins": tuple(j for j in plan.joins if stays(j.a) and stays(j.b)),
    })


def _bus_in_use(plan: Plan, relay: Relay) -> bool:
    buses = [w.b for w in plan.wires if w.a == f"{relay.id}.87"]
    return any(j.a in buses for j in plan.joins)


def _ready_bus(work: Workpiece, block: Block, live: str) -> None:
    """See that the block has a relay for ways that live with the key or the engine."""
    if live == "always" or any(w.b == f"{block.id}.{live}" for w in work.wires):
        return
    relay = _relay(work, work.base, live, block.place, block.id, f"{block.name} {live} relay")
    work.wire(f"{block.id}.in", f"{relay}.30", MAIN_COLOUR, block.id)
    work.wire(f"{relay}.87", f"{block.id}.{live}", LIVE_COLOUR[live], block.id)
    work.wire(f"{relay}.85", f"{block.id}.ret", RETURN_COLOUR, block.id)


def _relay(work: Workpiece, plan: Plan, live: str, place: str, owner: str, name: str) -> str:
    tap = next((t for t in plan.parts if isinstance(t, Tap) and t.live == live), None)
    if tap is None:
        word = {"key": "with the key", "engine": "with the engine"}[live]
        raise refuse("", "live", f"No wire that lives {word} has been found on this machine yet: add one under Survey "
                                 "(a relay needs it as its trigger), or let this accessory live otherwise.")
    relay = work.new_id("relay")
    work.parts.append(Relay(id=relay, name=name, place=place, made_for=owner))
    work.wire(f"{tap.id}.pin", f"{relay}.86", TRIGGER_COLOUR, owner)
    return relay


def _check_tap(tap: Tap, load: LoadPart) -> None:
    if tap.live != load.live:
        words = {"always": "always live", "key": "live with the key", "engine": "live with the engine"}
        raise refuse(load.id, "live", f"{tap.name} is {words[tap.live]}, so an accessory on it is too: choose that, "
                                      "or another feed.")
