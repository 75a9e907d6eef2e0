"""What an accessory is besides working: live for good, with two returns, fed by another."""

from collections.abc import Iterator

from ..amounts import percent
from ..budget.ledger import supply_a
from ..edits import ChangeElement
from ..figures.figures import Figures
from ..findings import Finding, Proposal
from ..parts.second import SecondBattery
from .registry import Say, rule
from .words import listed, named, state, verb

RUNS_ON_SHARE = 0.05  # of the battery, that a stop may take


@rule(
    "load.always-live",
    meaning="An accessory is live with the key off: it drains the battery, and strangers can use it.",
    cure="Make it live with the key only, or say why it must not.",
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
    "feed.back-feed",
    meaning="A wire or accessory is reached from two feeds that are not live together: the one that is live wakes "
            "what is on the other, through its fuse and contacts.",
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
