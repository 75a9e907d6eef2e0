"""From intent to circuit: which parts and wires come with a load, a block, a module, a converter or a second pack.

A recipe only decides topology, places and colours; sizes and ratings are left null for the analysis to choose. What a
kind needs when it arrives, and how it feeds an accessory, it says itself (core/parts). Everything made carries
`made_for`, so that it can be taken out or made again when the intent changes.
"""

from typing import Literal

from ..doc.states import OCCASIONS
from ..doc.types import Colour
from ..doc.wires import Side, Wire
from ..errors import refuse
from ..parts.base import Part
from ..parts.block import Block
from ..parts.can import as_accessory
from ..parts.junction import BOLTED_M, Junction
from ..parts.load import LoadPart
from ..parts.relay import Relay
from ..parts.work import LIVE_COLOUR, MAIN_COLOUR, RETURN_COLOUR, Ends
from ..plan.model import PREFIX, Plan
from ..refs import TerminalRef
from .workpiece import Workpiece

STRIPES: tuple[Colour, ...] = ("", "BK", "WH", "BU", "GN", "VT", "BN", "GY", "PK")
FRAME_COLOUR: Colour = "BN"
BY_THE_PLUG_M = 0.1  # a fuse in a lead sits so far from its plug, as a rule
BAR_USUAL, BAR_MOST = 8, 24  # places on a bus bar


def make(plan: Plan, part: Part) -> Plan:
    """Add a part (its id already taken from the counter) with everything it needs."""
    if accessory := as_accessory(part):
        return make_load(plan, accessory)
    work = Workpiece.of(plan)
    work.parts.append(part)
    part.arrive(work)
    return work.plan()


def make_load(plan: Plan, load: LoadPart) -> Plan:
    """Add a load (its id already taken from the counter) with everything its circuit needs."""
    if plan.supply is None:
        raise refuse("", "feed", "There is no battery, pack or lighting coil yet: enter it under Survey before adding "
                                 "accessories.")
    work = Workpiece.of(plan)
    work.parts.append(load)
    number = int(load.id[len(load.PREFIX):])
    colour, stripe = LIVE_COLOUR[load.live], STRIPES[number % len(STRIPES)]
    if stripe == colour:
        stripe = "WH"
    if load.plugged:
        _plug_in(work, load)
        return work.plan()
    ends = _hung(work, load)
    work.wire(ends.begin, load.at("pos"), colour, load.id, stripe)
    star = work.part(load.return_to).return_at if load.return_to else None
    back = star or (None if load.returns == "frame" else ends.back)
    if back is None:
        joint = work.make("frame", name=f"{load.name} frame joint", place=load.place, made_for=load.id)
        work.wire(load.at("neg"), joint.at("t"), FRAME_COLOUR, load.id)
    else:
        work.wire(load.at("neg"), back, RETURN_COLOUR, load.id, stripe if stripe != RETURN_COLOUR else "")
    return work.plan()


def _plug_in(work: Workpiece, load: LoadPart) -> None:
    """Put an accessory's own lead between it and what it is plugged into; by its plug the fuse that is in it. Where it
    came with bare wires, those are made up there. PlanError where nothing is plugged in there."""
    feed = work.part(load.feed)
    ends = feed.takes_plug(work, load)
    if ends is None or ends.back is None:
        raise refuse(load.id, "plugged", f"Nothing is plugged in at {feed.name}: wire it, or feed it from a connector "
                                         "of the machine or an outlet.")
    assert load.own_lead_m and load.lead_mm2  # else the accessory contradicts itself
    pieces: list[tuple[TerminalRef, TerminalRef, float, Side | Literal[""]]]  # with the side that goes into the plug
    pieces = [(ends.begin, load.at("pos"), load.own_lead_m, "a"), (load.at("neg"), ends.back, load.own_lead_m, "b")]
    if load.lead_fuse_a:
        fuse = work.make("fuse", name=f"fuse in the lead of {load.name}", place=work.part(ends.begin.part).place,
                         made_for=load.id, rating_a=load.lead_fuse_a, supplied=True)
        near_m = min(BY_THE_PLUG_M, load.own_lead_m / 2)
        pieces[:1] = [(ends.begin, fuse.at("a"), near_m, "a"),
                      (fuse.at("b"), load.at("pos"), load.own_lead_m - near_m, "")]
    for a, b, length_m, side in pieces:
        colour = RETURN_COLOUR if a == load.at("neg") else LIVE_COLOUR[load.live]
        work.wires.append(Wire(id=work.new_id("wire"), a=a, b=b, colour=colour, made_for=load.id,
                               area_mm2=load.lead_mm2, length_m=round(length_m, 3), origin="supplied",
                               made="" if load.ends_in_plug else side))


def _hung(work: Workpiece, load: LoadPart) -> Ends:
    """What lies between a feed and a load: by the feed alone where it can live so; by a switch of its own; or through a
    relay that an occasion's wire or switch pulls in."""
    feed = work.part(load.feed)
    if load.live not in OCCASIONS or feed.gives(load.live) or feed.TELLS_WHEN or (
            load.live == "switch" and feed.SWITCHES):
        return feed.hang(work, load)
    if load.live == "switch":
        ends = feed.hang(work, load.model_copy(update={"live": "key"}))
        return Ends(work.switched(ends.begin, load, LIVE_COLOUR[load.live]), ends.back)
    if not feed.RELAYS:
        raise refuse(load.id, "live", f"{feed.name} cannot tell when that is. Put a switch for it there first, and "
                                      f"feed {load.name} from the switch; or let it live otherwise.")
    ends = feed.hang(work, load.model_copy(update={"live": feed.lives_unswitched}))
    relay = work.relay(load.live, feed.place, load.id, f"{load.name} relay")
    work.wire(ends.begin, relay.at("30"), MAIN_COLOUR, load.id)
    work.wire(relay.at("85"), ends.back or work.rail.back, RETURN_COLOUR, load.id)
    return Ends(relay.at("87"), ends.back)


def make_bus_bar(plan: Plan, post: TerminalRef, keep: str) -> Plan:
    """Put a bus bar beside a post: one lead to it, and every wire on the post but `keep` moved over. Fuse holders
    there are bolted to the bar, so that no more copper is without a fuse than before."""
    owner = plan.part(post.part)
    work = Workpiece.of(plan)
    moved = [w for w in work.wires if post in (w.a, w.b) and w.id != keep]
    if not moved:
        raise refuse(owner.id, "post", f"Nothing sits on {post} that could move to a bus bar.")
    if len(moved) + 1 > BAR_MOST:
        raise refuse(owner.id, "post",
                     f"{len(moved)} wires would move: a bus bar takes up to {BAR_MOST - 1} and its lead.")
    bar = work.make("junction", name=f"{owner.name} bus bar", place=owner.place, form="bus bar",
                    terminals=max(BAR_USUAL, len(moved) + 1))
    here = {w.id for w in moved}
    holders = {p.id for p in work.parts if p.protection and p.place == owner.place}
    work.wires = [_ends_moved(w, {post}, bar.at("t")) if w.id in here else w for w in work.wires]
    work.wires = [w.model_copy(update={"length_m": BOLTED_M})
                  if w.id in here and w.length_m is None and {w.a.part, w.b.part} & holders else w for w in work.wires]
    work.wire(post, bar.at("t"), MAIN_COLOUR if post.name == "pos" else RETURN_COLOUR, bar.id)
    return work.plan()


def _ends_moved(wire: Wire, ends: set[TerminalRef], to: TerminalRef) -> Wire:
    return wire.model_copy(update={end: to for end in ("a", "b") if getattr(wire, end) in ends})


def take_out(plan: Plan, owner: str, *, idle: bool = True) -> Plan:
    """Remove a part with everything made for it, and (`idle`) block relays that no way uses any more."""
    gone = {p.id for p in plan.parts if p.id == owner or p.made_for == owner}
    plan = without(plan, gone, owner)
    return take_out_idle(plan) if idle else plan


def take_out_idle(plan: Plan) -> Plan:
    """Remove block relays that no way uses any more."""
    idle_relays = {r.id for r in plan.of(Relay) if r.made_for and plan.is_one(r.made_for, Block)
                   and not _bus_in_use(plan, r)}
    return without(plan, idle_relays, None)


def _bus_in_use(plan: Plan, relay: Relay) -> bool:
    begins = relay.at("87")
    buses = [*(w.b for w in plan.wires if w.a == begins), *(j.b for j in plan.joins if j.a == begins)]
    return any(j.a in buses for j in plan.joins)


def bridge(plan: Plan, part: Part) -> Plan:
    """Take a fuse or switch out of a conductor and let its two wires meet where it was (a splice)."""
    number = plan.counters.get(Junction.PREFIX, 0) + 1
    splice = Junction(id=f"{PREFIX['junction']}{number}", name=f"splice for {part.id}", place=part.place,
                      made_for=part.made_for)
    ends = {part.at(t) for t in part.ends}

    def moved(end: TerminalRef) -> TerminalRef:
        return splice.at("t") if end in ends else end

    return plan.model_copy(update={
        "parts": tuple(splice if p.id == part.id else p for p in plan.parts),
        "wires": tuple(_ends_moved(w, ends, splice.at("t")) for w in plan.wires),
        "joins": tuple(j.model_copy(update={"a": moved(j.a), "b": moved(j.b)}) for j in plan.joins),
        "counters": {**plan.counters, Junction.PREFIX: number}})


def without(plan: Plan, gone: set[str], owner: str | None) -> Plan:
    """A plan without some parts, what is plugged into them, their wires, and all wires made for an owner."""
    def stays(end: TerminalRef) -> bool:
        return end.part not in gone

    return plan.model_copy(update={
        "parts": tuple(_believed_of(p, gone) for p in plan.parts if p.id not in gone),
        "wires": tuple(w for w in plan.wires
                       if stays(w.a) and stays(w.b) and (owner is None or w.made_for != owner)),
        "joins": tuple(j for j in plan.joins if stays(j.a) and stays(j.b)),
    })


def _believed_of(part: Part, gone: set[str]) -> Part:
    """A part, nothing believed any more of it and of what is gone."""
    load = as_accessory(part)
    if load is None or not gone.intersection(load.never_with):
        return part
    return load.model_copy(update={"never_with": tuple(other for other in load.never_with if other not in gone)})
