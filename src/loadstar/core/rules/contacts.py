"""Rules about triggers, relays, contacts, modules and plugs: what their pins and contacts may carry."""

from collections.abc import Iterator

from ..edits import ChangeElement
from ..figures.figures import Figures
from ..findings import Finding, Proposal
from ..parts.base import Part
from ..sizing.contacts import CONTACT_SHARE, INRUSH_MULTIPLE, highest_made, most_a, most_of_kind_a
from ..sizing.short import CRANK_MULTIPLE, CRANK_S
from ..sizing.short import SOURCE as SHORT_SOURCE
from ..wiring.contacts import hot_pull_in_v
from .registry import Say, rule
from .words import amps, listed, named, state, when

KIND_WORDS = {"lamp": "lamps (their cold filaments take about ten times as much)", "motor": "motors (stall and spark)"}


@rule(
    "relay.pull-in",
    meaning="A hot coil needs more volts than it gets: the contact may not close.",
    cure="A cooler place, a trigger with less drop, a relay with a lower pull-in voltage.",
    source="V(T) = V20 (1 + 0.00393 (T - 20)), copper coil")
def pull_in(figures: Figures, say: Say) -> Iterator[Finding]:
    """Hot pull-in voltage of every coil against the volts over its coil, its contact still open, where its loads must
    live."""
    for part, coil in figures.actuators:
        warm = figures.plan.ambient_at(part.place)
        needs = hot_pull_in_v(coil.pull_in_v, warm)
        for result in figures.volts.rows:
            name, volts = result.state, result.coil_v.get(part.id)
            if volts is None or volts >= needs or (name == "cranking" and _closed_before_cranking(figures, part.id)):
                continue  # one that is closed when the starter begins to turn only has to hold
            yield say("caution", (part.id,), (
                f"{part.name}, its coil at {warm:.0f} °C, needs {needs:.1f} V to pull in and gets {volts:.1f} V "
                f"({state(name)}): it may not pull in."), "circuit", f"pull_in/{part.id}")
            break


def _closed_before_cranking(figures: Figures, relay: str) -> bool:
    """Whether a relay is already closed with the key on, before the starter turns."""
    return "key_on" in figures.states and figures.states["key_on"].closed.get(relay, False)


@rule(
    "relay.suppression",
    meaning="A coil without suppression throws a spike back into its trigger; a bare diode makes it let go slowly and "
            "its contact burn.",
    cure="A relay with a resistor (or zener) across the coil.",
    source="Relay practice: a diode slows release 3-10 times")
def suppression(figures: Figures, say: Say) -> Iterator[Finding]:
    """Coils without suppression."""
    for part, coil in figures.actuators:
        if coil.across == "none":
            yield say("advice", (part.id,), (
                f"{part.name} has nothing across its coil: its spike goes into the trigger."), "circuit", "",
                (Proposal(ChangeElement(id=part.id, values={"suppression": "resistor"}), "Take one with a resistor"),))


@rule(
    "coil.loose",
    meaning="A coil has an end that nothing is wired to: its contact never closes.",
    cure="A wire to that end: one from what is to switch it, the other back to the supply.",
    source="A coil needs both its ends")
def loose(figures: Figures, say: Say) -> Iterator[Finding]:
    """Coils with an end that no wire or post reaches."""
    plan = figures.plan
    reached = {end for w in plan.wires for end in (w.a, w.b)} | {end for j in plan.joins for end in (j.a, j.b)}
    for part, coil in figures.actuators:
        open_ends = [end.name for end in (coil.plus, coil.minus) if end not in reached]
        if open_ends:
            yield say("caution", (part.id,), (
                f"Nothing is wired to {part.name}'s coil at {listed(open_ends)}: its contact never closes."), "circuit")


@rule(
    "contact.kind",
    meaning="A contact's rating is for resistive loads; lamps and motors wear it out at less.",
    cure="A stronger relay, or a relay beside the switch.",
    source="Relay data: 40-60 % for lamps, 30-60 % for motors")
def contact_kind(figures: Figures, say: Say) -> Iterator[Finding]:
    """Contacts against their rating for the kind of load behind them."""
    for part in figures.plan.parts:
        if part.contact is None or figures.ratings.through_contact(part.id)[1] > figures.ratings.contact_a(part.id):
            continue
        rated = figures.ratings.contact_a(part.id)
        for kind, share in CONTACT_SHARE.items():
            switched = most_of_kind_a(figures.topology, part.id, kind, figures.sized.peak_a if figures.sized else {})
            if switched > share * rated:
                yield say("caution", (part.id,), (
                    f"{part.name} switches {amps(switched)} of {KIND_WORDS[kind]}; its {rated:g} A contact stands "
                    f"{amps(share * rated)} of that.{_stronger(part)}"), "circuit",
                    f"peak/{figures.ratings.through_contact(part.id)[0]}", _left(part))


def _left(part: Part) -> tuple[Proposal, ...]:
    if not part.by_hand:
        return ()
    return (Proposal(ChangeElement(id=part.id, values={part.CHOSEN: None}), f"Let Loadstar choose {part.id}"),)


def _stronger(part: Part) -> str:
    return "" if part.by_hand else " No usual contact is large enough: share the load out."


@rule(
    "contact.needs-relay",
    meaning="A switch carries a load that it should only trigger.",
    cure="A relay near the load, the switch in its coil's wire.",
    source="Practice: inrush against the contact")
def needs_relay(figures: Figures, say: Say) -> Iterator[Finding]:
    """Switches whose loads' inrush, what comes on together summed, is over six times their rating."""
    for part in figures.plan.parts:
        found = highest_made(figures.topology, part.id) if part.contact and part.contact.makes_inrush else None
        if found and found.peak_a > INRUSH_MULTIPLE * figures.ratings.contact_a(part.id):
            yield say("caution", (part.id,), (
                f"{part.name} ({figures.ratings.contact_a(part.id):g} A) would switch an inrush of "
                f"{found.peak_a:.3g} A ({listed(p.name for p in found.loads)}): let it trigger a relay."),
                "circuit", "", _left(part))


@rule(
    "contact.rating",
    meaning="A relay's or switch's contact carries more than it is rated for.",
    cure="A stronger relay, or share the loads out.",
    source="The contact's stated rating")
def contact(figures: Figures, say: Say) -> Iterator[Finding]:
    """Contact current against rating."""
    for part in figures.plan.parts:
        if part.contact is None:
            continue
        contact, carried_a = figures.ratings.through_contact(part.id)
        if carried_a > figures.ratings.contact_a(part.id):
            yield say("stop", (part.id,), (
                f"{part.name} carries {amps(carried_a)}; its contact is rated "
                f"{figures.ratings.contact_a(part.id):g} A.{_stronger(part)}"), "circuit", f"peak/{contact}",
                _left(part))


@rule(
    "contact.cranking",
    meaning="A contact carries more while the starter turns than it stands for those seconds.",
    cure="A stronger solenoid or relay, or a button that only triggers one.",
    source=f"{CRANK_MULTIPLE:.2g} times its rating for {CRANK_S:g} s: {SHORT_SOURCE}")
def cranking(figures: Figures, say: Say) -> Iterator[Finding]:
    """Contact current while cranking against what the contact stands for seconds."""
    for part in figures.plan.parts:
        if part.contact is None or figures.sized is None:
            continue
        rated = figures.ratings.contact_a(part.id)
        _, carried_a = most_a(figures.topology, part.id, figures.sized.short_a)
        if carried_a > CRANK_MULTIPLE * rated and figures.ratings.through_contact(part.id)[1] <= rated:
            yield say("stop", (part.id,), (
                f"{part.name} carries {amps(carried_a)} while the starter turns; its {rated:g} A contact stands "
                f"{amps(CRANK_MULTIPLE * rated)} for {CRANK_S:g} s.{_stronger(part)}"), "circuit", "", _left(part))


@rule(
    "relay.undecided",
    meaning="A relay's own load pulls its trigger down so far that it lets go, and then pulls in again: it chatters.",
    cure="Another trigger, or a relay with a larger coil resistance.",
    source="Solved network; pull-in and holding voltage")
def undecided(figures: Figures, say: Say) -> Iterator[Finding]:
    """Relays that settle neither open nor closed."""
    told: set[tuple[str, str]] = set()
    for result in figures.volts.rows:
        for relay in result.undecided:
            if (relay, result.state) not in told:
                told.add((relay, result.state))
                yield say("stop", (relay,), (
                    f"{named(figures, relay)} settles neither open nor closed ({when(result)}): it would chatter."),
                    "circuit")
