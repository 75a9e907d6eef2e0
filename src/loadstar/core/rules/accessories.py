"""What an accessory is besides working: live for good, with two returns, on a lead too short, fed by another."""

from collections.abc import Iterator

from ..amounts import percent
from ..budget.ledger import supply_a
from ..edits import ChangeElement
from ..figures.figures import Figures
from ..findings import Finding, Proposal
from ..materials.conductors import BY_AREA
from ..parts.load import LoadPart
from ..parts.second import SecondBattery
from ..parts.tap import Tap
from ..sizing.argument import stands
from ..wiring.circuit import LEAD_NEAR_M
from ..wiring.conductor import conductor
from .registry import Say, rule
from .words import amps, listed, named, opener, state, verb

RUNS_ON_SHARE = 0.05  # of the battery, that a stop may take
LEAD_STOWED_M = 0.3  # more than this over has to be put somewhere
BOX_NEAR_M = 0.05  # room that a new end needs behind a box


@rule(
    "load.always-live",
    meaning="An accessory is live with the key off: it drains the battery, and strangers can use it.",
    cure="Let it live with the key, or say why it must not.",
    source="House rule: switched unless chosen")
def always_live(figures: Figures, say: Say) -> Iterator[Finding]:
    """Constant feeds that nobody has given a reason for; what a second battery is there for needs none."""
    apart = {p.id for p in figures.plan.of(SecondBattery)}
    for load in figures.plan.loads:
        if (load.live == "always" and not load.reason_always.strip() and figures.plan.hangs_on(load) not in apart
                and figures.plan.rules.always_loads == "with a reason"):
            yield say("advice", (load.id,), (
                f"{load.name} is always live and no reason is given: with the key off it drains the battery."),
                "accessory")


@rule(
    "load.runs-on",
    meaning="An accessory stays on for a time after the key is off, and takes from the battery at every stop.",
    cure="A shorter time, or let it go off with the key.",
    source="Amps at the battery's rested voltage times the stated minutes")
def runs_on(figures: Figures, say: Say) -> Iterator[Finding]:
    """What each takes at a stop, against the battery."""
    battery = figures.plan.battery
    for load in figures.plan.loads:
        if load.runs_on_min <= 0 or load.live == "always":
            continue
        at_v = figures.source.resting_v("parked") if figures.source.part else load.at_v
        taken_ah = supply_a(figures.plan, load, at_v) * load.runs_on_min / 60
        share = taken_ah / battery.capacity_ah if battery else 0.0
        yield say("caution" if share > RUNS_ON_SHARE else "note", (load.id,), (
            f"{load.name} stays on for {load.runs_on_min:g} minutes after the key: it takes {taken_ah:.2g} Ah at every "
            f"stop{f', {percent(share)} of the battery' if share >= 0.01 else ''}."), "energy")


@rule(
    "load.two-grounds",
    meaning="An accessory's body is on the frame and it has a return wire of its own: its return current shares the "
            "two ways. A radio hears the rest of the machine through it, and where the engine's strap fails the "
            "starter's current comes back through the thin wire.",
    cure="One of the two: an isolated mounting, or no return wire.",
    source="Return practice: one reference, one way back")
def two_grounds(figures: Figures, say: Say) -> Iterator[Finding]:
    """Loads with both returns on a machine whose frame is negative."""
    for load in figures.plan.loads:
        if load.body == "on the frame" and load.returns == "own wire" and figures.plan.machine.chassis == "negative":
            yield say("advice", (load.id,), (
                f"{load.name} has two grounds, its body on the frame and a wire of its own: a radio may pick up noise "
                "that way, and if the engine's strap fails a starter's current returns through the thin wire."),
                "circuit", "",
                (Proposal(ChangeElement(id=load.id, values={"body": "isolated"}), "Its body is isolated"),))


@rule(
    "load.lead-short",
    meaning="An accessory's own lead does not reach where its feed begins; or it is too long, or ends in a plug that "
            "fits nothing there.",
    cure="Lengthen it by a splice or connector, or feed it from nearer by; cut it past its box, or stow what is left.",
    source="The lead's stated length, box and end against the way along the runs")
def lead_short(figures: Figures, say: Say) -> Iterator[Finding]:
    """What each accessory's own lead is short of, where a long one may be cut, and what becomes of its plug."""
    for load in figures.plan.loads:
        lead_m = load.own_lead_m
        if lead_m is None:
            continue
        way_m = max((figures.topology.geometry[w.id].length_m for w in figures.plan.wires
                     if load.id in (w.a.part, w.b.part)), default=lead_m)
        comes = f"{load.name} comes with {lead_m:.2f} m of lead and needs {way_m:.2f} m"
        plug = load.lead_end == "plug"
        if way_m > lead_m + LEAD_NEAR_M:
            how = ", with the like of its plug, or past the plug cut off" if plug else ""
            yield say("advice", (load.id,), (
                f"{comes}: lengthen it by {way_m - lead_m:.2f} m{how}."), "circuit")
        elif lead_m > way_m + LEAD_STOWED_M:
            yield say("note", (load.id,), (
                f"{comes}: {_cut_or_stow(load, lead_m, way_m)}"), "circuit")
        elif plug and figures.plan.is_one(load.feed, Tap) is None:
            yield say("note", (load.id,), (
                f"{load.name}'s lead ends in a plug, and it is fed from {figures.plan.part(load.feed).name}: fit the "
                "like there, or cut the plug off."), "circuit")


@rule(
    "load.lead-thin",
    meaning="The lead that an accessory came with is thinner than what guards it allows: it burns before that opens.",
    cure="A smaller fuse, as its maker asks, or a thicker lead.",
    source="The argument of docs/physics.md, with the lead's stated size")
def lead_thin(figures: Figures, say: Say) -> Iterator[Finding]:
    """Each accessory's own lead, where the wire at it is another one, behind what guards that wire."""
    for load in figures.plan.loads:
        if load.lead_mm2 is None or load.lead_mm2 not in BY_AREA:
            continue
        for wire in figures.wires.values():
            laid = figures.topology.wires[wire.id]
            if load.id not in (laid.a.part, laid.b.part) or wire.supplied or wire.area_mm2 <= load.lead_mm2:
                continue
            lead = conductor(figures.plan, laid.model_copy(update={"wall": "thin"}), load.lead_mm2)
            found, = stands([wire.coordination.duty.at(lead)])
            guard = wire.judged_by
            if guard is None or found.protected:
                continue
            last = [k.element for k in figures.path(load.id).feed if figures.topology.parts.get(k.element)
                    and figures.topology.parts[k.element].by_hand and k.element == guard.fuse]
            yield say("stop", (load.id, guard.fuse), (
                f"{load.name}'s own lead ({load.lead_mm2:g} mm²) is not protected: {opener(figures, guard)} lets more "
                f"through than the {amps(found.limit_a)} that it stands for good."), "circuit", "", tuple(
                    Proposal(ChangeElement(id=part, values={figures.topology.parts[part].CHOSEN: load.maker_fuse_a}),
                             f"Take {load.maker_fuse_a:g} A" if load.maker_fuse_a else f"Let Loadstar choose {part}")
                    for part in last))
            break


def _cut_or_stow(load: LoadPart, lead_m: float, way_m: float) -> str:
    """What to do with the rest of a lead that is too long."""
    rest = f"{lead_m - way_m:.2f} m have to be stowed"
    if load.lead_box_m is not None and load.lead_box_m > way_m - BOX_NEAR_M:
        return f"{rest}; its box sits {load.lead_box_m:.2f} m from it and has to stay, so do not cut."
    past = f", past its box at {load.lead_box_m:.2f} m," if load.lead_box_m is not None else ""
    lost = " Its plug goes with it." if load.lead_end == "plug" else ""
    return f"{rest}, or it is cut {way_m:.2f} m from it{past or ''} and made up anew.{lost}"


@rule(
    "feed.back-feed",
    meaning="A wire or accessory is reached from two feeds that are not live together: the one that is live wakes "
            "what hangs on the other, through its fuse and contacts.",
    cure="Part the two; or a diode or relay for each where both must reach it.",
    source="What copper joins in each state")
def back_feed(figures: Figures, say: Say) -> Iterator[Finding]:
    """Dead plugs and wires of the machine, and loads, that another feed brings to life."""
    for source, states, victims in figures.joins.back_fed:
        part = figures.topology.parts[source]
        who = listed(named(figures, v) for v in victims)
        when = listed(state(s) for s in states)
        if part.FUSED_BEFORE:  # the machine's own, with whatever hangs on it
            also = f" With it {verb(len(victims), 'wakes', 'wake')} {who}." if who else ""
            yield say("stop", (source, *victims), (
                f"{part.name} is dead in {when}, yet the plan joins it to what is live then: everything that the "
                f"machine has on it wakes, through wires and fuses not meant for that.{also}"), "circuit")
        else:
            yield say("caution", (source, *victims), (
                f"{part.name} is open in {when}, yet what it switches is live from another feed: {who} "
                f"{verb(len(victims), 'wakes', 'wake')} when not meant to."), "circuit")
