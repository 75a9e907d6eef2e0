"""Rules about what feeds: plugs, blocks, relays, and the network as a whole."""

from collections.abc import Iterator

from ..analysis import Analysis
from ..findings import Finding
from ..plan.edits import MakeBusBar
from ..plan.model import JUDGED_STATES, STATE_NAMES, Battery, Block, Junction, Pack, Relay, Switch
from .registry import rule

CIRCUITS, SURVEY = "circuits", "survey"


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
    limit = analysis.plan.rules.stud_terminals
    for part in analysis.plan.parts:
        if not isinstance(part, Battery | Pack):
            continue
        for post, word in (("pos", "positive"), ("neg", "negative")):
            terminal = f"{part.id}.{post}"
            ends = [w.id for w in analysis.plan.wires if terminal in (w.a, w.b)]
            if len(ends) > limit:
                keep = max(ends, key=lambda w: (analysis.wires[w].area_mm2 if w in analysis.wires else 0.0, w))
                yield Finding("feed.stud", "caution", (part.id, *ends), (
                    f"{len(ends)} ring terminals of this plan would sit on {part.name}'s {word} post; the house rule is "
                    f"{limit}. A bus bar takes the {len(ends) - 1} smaller ones over, and one lead goes to the post."),
                    CIRCUITS, "", MakeBusBar(post=terminal, keep=keep), "Make a bus bar")


@rule("feed.bus-bar", meaning="A bus bar or stud holds more terminals than it has places.", cure="A longer bar, or a second.",
      source="The bar's stated number of terminals")
def bus_bar(analysis: Analysis) -> Iterator[Finding]:
    """Terminals on each bus bar and stud."""
    for part in analysis.plan.parts:
        if isinstance(part, Junction) and part.form != "splice":
            ends = [w.id for w in analysis.plan.wires if f"{part.id}.t" in (w.a, w.b)]
            if len(ends) > part.terminals:
                yield Finding("feed.bus-bar", "caution", (part.id,), (
                    f"{part.name} has {part.terminals} places and {len(ends)} terminals on it."), CIRCUITS)


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
        own = {root.negative for root in analysis.topology.roots}  # an isolated converter's output has its own 0 V
        adrift = {node for island in result.solution.islands if not own & set(island) for node in island}
        for load in analysis.plan.loads:
            if analysis.topology.node(f"{load.id}.neg") in adrift and load.id not in seen:
                seen.add(load.id)
                yield Finding("network.floating", "stop", (load.id,), (
                    f"{load.name} is joined to nothing that has a voltage ({STATE_NAMES[state].lower()})."), CIRCUITS)
