"""Rules about what feeds: blocks, posts and bars, and how much hangs on them."""

from collections.abc import Iterator

from ..analysis import Analysis
from ..findings import Finding, Proposal
from ..plan.edits import MakeBusBar
from ..plan.model import Battery, Block, Junction, Pack
from .registry import CIRCUITS, rule


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
                    CIRCUITS, "", (Proposal(MakeBusBar(post=terminal, keep=keep), "Make a bus bar"),), terminal)


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
