"""From intent to circuit: which parts and wires a load, a block, a module, a converter or a second pack needs.

A recipe only decides topology, places and colours; sizes and ratings are left null for the analysis to choose.
Everything made carries `made_for`, so that it can be taken out or made again when the intent changes.
"""

from dataclasses import dataclass, field

from .errors import refuse
from .model import (
    LIVE_STATES,
    PREFIX,
    AnyPart,
    Block,
    Coil,
    Colour,
    Combiner,
    Converter,
    FramePoint,
    FusePart,
    Join,
    Junction,
    Live,
    LoadPart,
    Module,
    Pack,
    Plan,
    Port,
    Relay,
    Starter,
    Switch,
    Tap,
    Way,
    Wire,
)

MAIN_COLOUR: Colour = "RD"
LIVE_COLOUR: dict[str, Colour] = {"always": "RD", "key": "OG", "engine": "YE"}
STRIPES: tuple[Colour, ...] = ("", "BK", "WH", "BU", "GN", "VT", "BN", "GY", "PK")
TRIGGER_COLOUR: Colour = "BU"
RETURN_COLOUR: Colour = "BK"
FRAME_COLOUR: Colour = "BN"
BAR_USUAL, BAR_MOST = 8, 24  # places on a bus bar
LIVE_WORDS = {"always": "always live", "key": "live with the key", "engine": "live with the engine"}


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

    def wire(self, a: str, b: str, colour: Colour, made_for: str | None, stripe: Colour = "") -> str:
        """Add a wire whose size and length are left to Loadstar; its id."""
        wire = Wire(id=self.new_id("wire"), a=a, b=b, colour=colour, stripe=stripe, made_for=made_for)
        self.wires.append(wire)
        return wire.id

    def fuse(self, name: str, place: str, made_for: str, volts_v: float = 0.0) -> str:
        """Add a fuse that may break `volts_v`; its id."""
        breaks = next((v for v in (32, 58, 80, 125) if v >= volts_v), 125)
        part = FusePart.model_validate({"id": self.new_id("fuse"), "name": name, "place": place, "made_for": made_for,
                                        "volts_v": breaks})
        self.parts.append(part)
        return part.id

    def plan(self) -> Plan:
        """The plan with everything added."""
        return self.base.model_copy(update={
            "parts": tuple(self.parts), "wires": tuple(self.wires), "joins": tuple(self.joins),
            "counters": self.counters})


@dataclass(frozen=True)
class _Source:
    """Where a feed wire begins and a return may end, and the volts a fuse there must be able to break."""

    live: str
    back: str
    place: str
    full_v: float


def make_load(plan: Plan, load: LoadPart) -> Plan:
    """Add a load (its id already taken from the counter) with everything its circuit needs."""
    if plan.supply is None:
        raise refuse("", "feed", "There is no battery, pack or lighting coil yet: enter it under Survey before adding "
                                 "accessories.")
    work = Workpiece.of(plan)
    work.parts.append(load)
    number = int(load.id[len(PREFIX["load"]):])
    colour, stripe = LIVE_COLOUR[load.live], STRIPES[number % len(STRIPES)]
    if stripe == colour:
        stripe = "WH"
    feed = plan.part(load.feed)
    if isinstance(feed, Block):
        _ready_bus(work, feed, load.live)
        fuse = work.fuse(f"{load.name} fuse", feed.place, load.id)
        work.joins.append(Join(a=f"{feed.id}.{load.live}", b=f"{fuse}.a"))
        begin, back = f"{fuse}.b", f"{feed.id}.ret"
    elif isinstance(feed, Module):
        begin, back = _way(work, feed, load), f"{feed.id}.ret"
    elif isinstance(feed, Tap):
        _check_tap(plan, feed, load)
        fuse = work.fuse(f"{load.name} fuse", feed.place, load.id)
        work.wire(f"{feed.id}.pin", f"{fuse}.a", colour, load.id)
        begin, back = f"{fuse}.b", f"{feed.id}.gnd"
    elif isinstance(feed, Port):
        _check_port(feed, load)
        begin, back = f"{feed.id}.pos", f"{feed.id}.neg"
    elif isinstance(feed, Coil):
        begin, back = _switched(work, f"{feed.id}.hot", load, load.place, colour), ""
    elif isinstance(feed, Converter):
        begin, back = _switched(work, f"{feed.id}.pos", load, load.place, colour), f"{feed.id}.neg"
    else:
        source = _source(plan, feed)
        fuse = work.fuse(f"{load.name} fuse", source.place, load.id, source.full_v)
        work.wire(source.live, f"{fuse}.a", MAIN_COLOUR, load.id)
        begin, back = f"{fuse}.b", source.back
        if isinstance(feed, Pack):
            begin = _switched(work, begin, load, load.place, colour)
        elif load.live != "always":
            relay = _relay(work, plan, load.live, source.place, load.id, f"{load.name} relay")
            work.wire(begin, f"{relay}.30", MAIN_COLOUR, load.id)
            work.wire(f"{relay}.85", back, RETURN_COLOUR, load.id)
            begin = f"{relay}.87"
    work.wire(begin, f"{load.id}.pos", colour, load.id, stripe)
    if load.returns == "frame" or not back:
        _to_frame(work, load)
    else:
        work.wire(f"{load.id}.neg", back, RETURN_COLOUR, load.id, stripe if stripe != RETURN_COLOUR else "")
    return work.plan()


def rail(plan: Plan) -> _Source:
    """What everything of a plan hangs on: the battery's posts, or the pack's (behind the combiner of two)."""
    supply = plan.supply
    if supply is None:
        raise refuse("", "feed", "There is no battery or pack yet: enter it under Survey first.")
    combiner = next((p for p in plan.parts if isinstance(p, Combiner)), None)
    if isinstance(supply, Pack):
        full_v = {"nmc": 4.2, "lfp": 3.65}[supply.chemistry] * max(p.series for p in plan.packs)
        live = f"{combiner.id}.out" if combiner else f"{supply.id}.pos"
        return _Source(live, f"{supply.id}.neg", (combiner or supply).place, full_v)
    if isinstance(supply, Coil):
        return _Source(f"{supply.id}.hot", f"{supply.id}.earth", supply.place, 0.0)
    return _Source(f"{supply.id}.pos", f"{supply.id}.neg", supply.place, 15.0)


def _source(plan: Plan, feed: AnyPart) -> _Source:
    main = rail(plan)
    if isinstance(feed, Junction):
        return _Source(f"{feed.id}.t", main.back, feed.place, main.full_v)
    return main


def make_block(plan: Plan, block: Block | Module) -> Plan:
    """Add a block or module with its main fuse at the source, feed wire and return wire; a module also senses."""
    source = rail(plan)
    work = Workpiece.of(plan)
    work.parts.append(block)
    fuse = work.fuse(f"{block.name} main fuse", source.place, block.id, source.full_v)
    work.wire(source.live, f"{fuse}.a", MAIN_COLOUR, block.id)
    work.wire(f"{fuse}.b", f"{block.id}.in", MAIN_COLOUR, block.id)
    work.wire(f"{block.id}.ret", source.back, RETURN_COLOUR, block.id)
    if isinstance(block, Block):
        work.joins.append(Join(a=f"{block.id}.in", b=f"{block.id}.always"))
    return work.plan()


def make_converter(plan: Plan, converter: Converter) -> Plan:
    """Add a step-down converter with a fuse at the pack that may break its full voltage, and both input wires."""
    source = rail(plan)
    work = Workpiece.of(plan)
    work.parts.append(converter)
    fuse = work.fuse(f"{converter.name} input fuse", source.place, converter.id, source.full_v)
    work.wire(source.live, f"{fuse}.a", MAIN_COLOUR, converter.id)
    work.wire(f"{fuse}.b", f"{converter.id}.inp", MAIN_COLOUR, converter.id)
    work.wire(f"{converter.id}.inn", source.back, RETURN_COLOUR, converter.id)
    return work.plan()


def make_combiner(plan: Plan, combiner: Combiner) -> Plan:
    """Join the plan's two packs: a fuse at each, leads to the combiner, the negatives joined."""
    packs = plan.packs
    if len(packs) != 2:
        raise refuse(combiner.id, "way", f"Joining packs takes two of them; this plan has {len(packs)}.")
    work = Workpiece.of(plan)
    work.parts.append(combiner)
    for side, pack in zip("ab", packs, strict=True):
        full_v = {"nmc": 4.2, "lfp": 3.65}[pack.chemistry] * pack.series
        fuse = work.fuse(f"{pack.name} fuse", pack.place, combiner.id, full_v)
        work.wire(f"{pack.id}.pos", f"{fuse}.a", MAIN_COLOUR, combiner.id)
        work.wire(f"{fuse}.b", f"{combiner.id}.{side}", MAIN_COLOUR, combiner.id)
    work.wire(f"{packs[1].id}.neg", f"{packs[0].id}.neg", RETURN_COLOUR, combiner.id)
    return work.plan()


def make_starter(plan: Plan, starter: Starter) -> Plan:
    """Add the starter with its two leads from the battery."""
    source = rail(plan)
    work = Workpiece.of(plan)
    work.parts.append(starter)
    work.wire(source.live, f"{starter.id}.pos", MAIN_COLOUR, starter.id)
    work.wire(f"{starter.id}.neg", source.back, RETURN_COLOUR, starter.id)
    return work.plan()


def make_bar(plan: Plan, bar: Junction) -> Plan:
    """Add a bus bar or stud with its lead from the source (behind a fuse there, where the bar sits elsewhere), or a star point with
    its lead to the source's negative."""
    work = Workpiece.of(plan)
    work.parts.append(bar)
    if bar.form in ("bus bar", "stud"):
        source = rail(plan)
        begin = source.live
        if source.place != bar.place:
            fuse = work.fuse(f"{bar.name} main fuse", source.place, bar.id, source.full_v)
            work.wire(begin, f"{fuse}.a", MAIN_COLOUR, bar.id)
            begin = f"{fuse}.b"
        work.wire(begin, f"{bar.id}.t", MAIN_COLOUR, bar.id)
    elif bar.form == "star point":
        work.wire(f"{bar.id}.t", rail(plan).back, RETURN_COLOUR, bar.id)
    return work.plan()


def make_bus_bar(plan: Plan, post: str, keep: str) -> Plan:
    """Put a bus bar beside a post: one lead to it, and every wire on the post but `keep` moved over."""
    owner = plan.part(post.split(".")[0])
    work = Workpiece.of(plan)
    moved = [w for w in work.wires if post in (w.a, w.b) and w.id != keep]
    if not moved:
        raise refuse(owner.id, "post", f"Nothing sits on {post} that could move to a bus bar.")
    if len(moved) + 1 > BAR_MOST:
        raise refuse(owner.id, "post", f"{len(moved)} wires would move: a bus bar takes up to {BAR_MOST - 1} and its lead.")
    bar = Junction(id=work.new_id("junction"), name=f"{owner.name} bus bar", place=owner.place, form="bus bar",
                   terminals=max(BAR_USUAL, len(moved) + 1))
    work.parts.append(bar)
    here = {w.id for w in moved}
    work.wires = [w.model_copy(update={"a": f"{bar.id}.t" if w.a == post else w.a,
                                       "b": f"{bar.id}.t" if w.b == post else w.b}) if w.id in here else w
                  for w in work.wires]
    work.wire(post, f"{bar.id}.t", MAIN_COLOUR if post.endswith("pos") else RETURN_COLOUR, bar.id)
    return work.plan()


def take_out(plan: Plan, owner: str, *, idle: bool = True) -> Plan:
    """Remove a part with everything made for it, and (`idle`) block relays that no way uses any more."""
    gone = {p.id for p in plan.parts if p.id == owner or p.made_for == owner}
    plan = without(plan, gone, owner)
    return take_out_idle(plan) if idle else plan


def take_out_idle(plan: Plan) -> Plan:
    """Remove block relays that no way uses any more."""
    idle_relays = {
        part.id for part in plan.parts
        if isinstance(part, Relay) and part.made_for and isinstance(plan.part(part.made_for), Block)
        and not _bus_in_use(plan, part)
    }
    return without(plan, idle_relays, None)


def bridge(plan: Plan, part: FusePart | Switch) -> Plan:
    """Take a fuse or switch out of a conductor and let its two wires meet where it was (a splice)."""
    splice = Junction(id=f"{PREFIX['junction']}{plan.counters.get(PREFIX['junction'], 0) + 1}", name=f"splice for {part.id}",
                      place=part.place, made_for=part.made_for)
    ends = {f"{part.id}.a", f"{part.id}.b"}

    def moved(end: str) -> str:
        return f"{splice.id}.t" if end in ends else end

    return plan.model_copy(update={
        "parts": tuple(splice if p.id == part.id else p for p in plan.parts),
        "wires": tuple(w.model_copy(update={"a": moved(w.a), "b": moved(w.b)}) for w in plan.wires),
        "joins": tuple(j.model_copy(update={"a": moved(j.a), "b": moved(j.b)}) for j in plan.joins),
        "counters": {**plan.counters, PREFIX["junction"]: plan.counters.get(PREFIX["junction"], 0) + 1}})


def without(plan: Plan, gone: set[str], owner: str | None) -> Plan:
    """A plan without some parts, what is plugged into them, their wires, and all wires made for an owner."""
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


def _way(work: Workpiece, module: Module, load: LoadPart) -> str:
    """A way of a module for a load, and the sense wire that tells the module when; where the load's wire begins."""
    sense = f"{module.id}.{load.live}"
    if load.live != "always" and not any(w.b == sense for w in work.wires):
        work.wire(f"{trigger(work.base, load.live).id}.pin", sense, TRIGGER_COLOUR, module.id)
    way = Way(id=work.new_id("way"), name=f"{load.name} way", place=module.place, made_for=load.id, live=load.live,
              contact_mohm=module.way_mohm)
    work.parts.append(way)
    work.joins.append(Join(a=f"{module.id}.in", b=f"{way.id}.a"))
    return f"{way.id}.b"


def _switched(work: Workpiece, begin: str, load: LoadPart, place: str, colour: Colour) -> str:
    """A switch on the way to a load that is not to live always; where the load's wire begins."""
    if load.live == "always":
        return begin
    switch = Switch(id=work.new_id("switch"), name=f"{load.name} switch", place=place, made_for=load.id,
                    closed_in=LIVE_STATES[load.live])
    work.parts.append(switch)
    work.wire(begin, f"{switch.id}.a", colour, load.id)
    return f"{switch.id}.b"


def _to_frame(work: Workpiece, load: LoadPart) -> None:
    point = FramePoint(id=work.new_id("frame"), name=f"{load.name} frame joint", place=load.place, made_for=load.id)
    work.parts.append(point)
    work.wire(f"{load.id}.neg", f"{point.id}.t", FRAME_COLOUR, load.id)


def trigger(plan: Plan, live: Live | str) -> Tap:
    """The found wire with the most to spare that lives when it should; refused when there is none."""
    taps = [t for t in plan.taps if t.live == live and not plan.never(t)]
    # One that has been found here goes before one that is only believed.
    taps = [t for t in taps if t.standing == "found"] or taps
    if not taps:
        word = {"key": "with the key", "engine": "with the engine"}[live]
        raise refuse("", "live", f"No wire that lives {word} has been found on this machine yet: add one under Survey "
                                 "(a relay needs it as its trigger), or let this accessory live otherwise.")
    return max(taps, key=lambda t: (t.rated_a - t.others_a, -t.off_delay_s))


def _relay(work: Workpiece, plan: Plan, live: str, place: str, owner: str, name: str) -> str:
    tap = trigger(plan, live)
    relay = work.new_id("relay")
    work.parts.append(Relay(id=relay, name=name, place=place, made_for=owner))
    work.wire(f"{tap.id}.pin", f"{relay}.86", TRIGGER_COLOUR, owner)
    return relay


def _check_tap(plan: Plan, tap: Tap, load: LoadPart) -> None:
    if never := plan.never(tap):
        raise refuse(load.id, "feed", f"{tap.name} belongs to the {never} system: nothing is ever fed from it.")
    if tap.function != "feed":
        raise refuse(load.id, "feed", f"{tap.name} has not been found to be a live pin: probe it under Survey first.")
    if tap.live != load.live:
        raise refuse(load.id, "live", f"{tap.name} is {LIVE_WORDS[tap.live]}, so an accessory on it is too: choose that, "
                                      "or another feed.")


def _check_port(port: Port, load: LoadPart) -> None:
    if port.live != load.live:
        raise refuse(load.id, "live", f"{port.name} is {LIVE_WORDS[port.live]}, so an accessory on it is too: choose "
                                      "that, or another feed.")
