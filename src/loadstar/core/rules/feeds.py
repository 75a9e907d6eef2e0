"""Rules about what feeds: blocks, posts and bars, and how much hangs on them."""

from collections.abc import Iterator

from ..edits import MakeBusBar
from ..figures.figures import Figures
from ..findings import Finding, Proposal
from ..parts.battery import Battery
from ..parts.block import Block
from ..parts.junction import Junction
from ..parts.pack import Pack
from .registry import rule


@rule(
    "feed.ways",
    meaning="More ways of a block are used than it has.",
    cure="A larger block, or a second one.",
    source="The block's number of ways")
def ways(figures: Figures) -> Iterator[Finding]:
    """Used ways of every block."""
    for block in figures.plan.of(Block):
        used = sum(1 for j in figures.plan.joins if j.a.part == block.id and j.b.part != block.id)
        if used > block.ways:
            yield Finding("feed.ways", "stop", (block.id,), f"{block.name} has {block.ways} ways and {used} are used.",
                          "circuit")


@rule(
    "feed.stud",
    meaning="More ring terminals sit on a battery post than the workshop stacks: they work loose.",
    cure="A bus bar, with one lead to the post.",
    source="House rule: terminals on a post")
def stud(figures: Figures) -> Iterator[Finding]:
    """Terminals on each battery post."""
    limit = figures.plan.rules.stud_terminals
    for part in (*figures.plan.of(Battery), *figures.plan.of(Pack)):
        for post, word in (("pos", "positive"), ("neg", "negative")):
            terminal = part.at(post)
            ends = [w.id for w in figures.plan.wires if terminal in (w.a, w.b)]
            if len(ends) > limit:
                keep = max(ends, key=lambda w: (figures.wires[w].area_mm2 if w in figures.wires else 0.0, w))
                yield Finding("feed.stud", "caution", (part.id, *ends), (
                    f"{len(ends)} ring terminals of this plan would sit on {part.name}'s {word} post; the house rule "
                    f"is {limit}. A bus bar takes the {len(ends) - 1} smaller ones over, and one lead goes to the "
                    "post."), "circuit", "", (Proposal(MakeBusBar(post=terminal, keep=keep), "Make a bus bar"),),
                    terminal)


@rule(
    "feed.bus-bar",
    meaning="A bus bar or stud holds more terminals than it has places.",
    cure="A longer bar, or a second.",
    source="The bar's stated number of terminals")
def bus_bar(figures: Figures) -> Iterator[Finding]:
    """Terminals on each bus bar and stud."""
    for part in figures.plan.of(Junction):
        if part.form != "splice":
            ends = [w.id for w in figures.plan.wires if part.at("t") in (w.a, w.b)]
            if len(ends) > part.terminals:
                yield Finding("feed.bus-bar", "caution", (part.id,), (
                    f"{part.name} has {part.terminals} places and {len(ends)} terminals on it."), "circuit")
