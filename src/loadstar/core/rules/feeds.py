"""Rules about what feeds: plugs, blocks, relays, and the network as a whole."""

from collections.abc import Iterator

from ..analysis import Analysis
from ..findings import Finding
from ..plan.model import JUDGED_STATES, STATE_NAMES, Block, Relay, Switch, Tap
from .registry import rule

CIRCUITS, SURVEY = "circuits", "survey"


@rule("feed.plug-overloaded", meaning="What is on a factory plug or wire at the same time is over its rating.",
      cure="Never both at once, a second feed, or a relay from the battery.", source="The plug's stated rating")
def plug_overloaded(analysis: Analysis) -> Iterator[Finding]:
    """Largest coincident current of every tap against its rating."""
    for part in analysis.plan.parts:
        if isinstance(part, Tap) and analysis.peak_a(part.id) > part.rated_a:
            amps = analysis.peak_a(part.id)
            yield Finding("feed.plug-overloaded", "stop" if amps > 1.35 * part.rated_a else "caution", (part.id,), (
                f"{part.name} is rated {part.rated_a:g} A; with everything on it that may be on together it gives "
                f"{amps:.3g} A."), CIRCUITS, f"peak/{part.id}")


@rule("feed.ways", meaning="More ways of a block are used than it has.", cure="A larger block, or a second one.",
      source="The block's number of ways")
def ways(analysis: Analysis) -> Iterator[Finding]:
    """Used ways of every block."""
    for part in analysis.plan.parts:
        if isinstance(part, Block):
            used = sum(1 for j in analysis.plan.joins
                       if j.a.split(".")[0] == part.id and j.b.split(".")[0] != part.id)
            if used > part.ways:
                yield Finding("feed.ways", "stop", (part.id,), (
                    f"{part.name} has {part.ways} ways and {used} are used."), CIRCUITS)


@rule("feed.stud", meaning="More ring terminals sit on a battery post than the workshop stacks: they work loose.",
      cure="A bus bar, with one lead to the post.", source="House rule: terminals on a post")
def stud(analysis: Analysis) -> Iterator[Finding]:
    """Terminals on each battery post."""
    battery, limit = analysis.plan.battery, analysis.plan.rules.stud_terminals
    if battery is None:
        return
    for post, word in (("pos", "positive"), ("neg", "negative")):
        ends = [w.id for w in analysis.plan.wires if f"{battery.id}.{post}" in (w.a, w.b)]
        if len(ends) > limit:
            yield Finding("feed.stud", "caution", (battery.id, *ends), (
                f"{len(ends)} ring terminals of this plan would sit on the battery's {word} post; the house rule is "
                f"{limit}."), CIRCUITS)


@rule("contact.rating", meaning="A relay's or switch's contact carries more than it is rated for.",
      cure="A stronger relay, or share the loads out.", source="The contact's stated rating")
def contact(analysis: Analysis) -> Iterator[Finding]:
    """Contact current against rating."""
    for part in analysis.plan.parts:
        if isinstance(part, Relay | Switch) and analysis.peak_a(part.id) > part.contact_a:
            yield Finding("contact.rating", "stop", (part.id,), (
                f"{part.name} carries {analysis.peak_a(part.id):.3g} A; its contact is rated {part.contact_a:g} A."),
                CIRCUITS, f"peak/{part.id}")


@rule("relay.undecided", meaning="A relay's own load pulls its trigger down so that it would chatter.",
      cure="Another trigger, or a relay with a larger coil resistance.", source="Solved network")
def undecided(analysis: Analysis) -> Iterator[Finding]:
    """Relays that settle neither open nor closed."""
    for state, result in analysis.states.items():
        for relay in result.undecided:
            yield Finding("relay.undecided", "stop", (relay,), (
                f"{relay} settles neither open nor closed ({STATE_NAMES[state].lower()}): it would chatter."), CIRCUITS)


@rule("network.unsolved", meaning="A state's network has no solution; no figures are shown for it.",
      cure="See to the element that is named.", source="Nodal analysis of docs/physics.md")
def unsolved(analysis: Analysis) -> Iterator[Finding]:
    """States that could not be solved."""
    for state, result in analysis.states.items():
        if result.solution is None:
            where = f" (at {', '.join(result.failed_elements[:3])})" if result.failed_elements else ""
            yield Finding("network.unsolved", "stop", result.failed_elements[:3], (
                f"{STATE_NAMES[state]} cannot be computed: {result.failure}{where}."), CIRCUITS)


@rule("network.floating", meaning="A load is joined to neither battery post in a state: its voltage is not defined.",
      cure="Give it a return.", source="Solved network")
def floating(analysis: Analysis) -> Iterator[Finding]:
    """Loads on islands without a reference."""
    seen: set[str] = set()
    for state in JUDGED_STATES:
        result = analysis.states.get(state)
        if result is None or result.solution is None:
            continue
        adrift = {node for island in result.solution.islands for node in island}
        for load in analysis.plan.loads:
            if analysis.topology.node(f"{load.id}.neg") in adrift and load.id not in seen:
                seen.add(load.id)
                yield Finding("network.floating", "stop", (load.id,), (
                    f"{load.name} is joined to nothing that has a voltage ({STATE_NAMES[state].lower()})."), CIRCUITS)
