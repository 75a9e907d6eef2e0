"""Rules about what feeds: blocks, posts and bars, and how much hangs on them."""

from collections.abc import Iterator

from ..edits import MakeBusBar
from ..figures.figures import Figures
from ..findings import Finding, Proposal
from ..parts.battery import Battery
from ..parts.block import Block
from ..parts.junction import Junction
from ..parts.pack import Pack
from .registry import Say, rule


@rule(
    "feed.ways",
    meaning="More outputs of a block are used than it has.",
    cure="A larger block, or a second one.",
    source="The block's number of ways")
def ways(figures: Figures, say: Say) -> Iterator[Finding]:
    """Used ways of every block."""
    for block in figures.plan.of(Block):
        used = sum(1 for j in figures.plan.joins if j.a.part == block.id and j.b.part != block.id)
        if used > block.ways:
            yield say("stop", (block.id,), f"{block.name} has {block.ways} ways and {used} are used.",
                          "circuit")


@rule(
    "feed.block-total",
    meaning="A block, or one of its ways, carries more than its maker allows.",
    cure="A second block, or heavy loads from elsewhere.",
    source="The block's stated limits")
def block_total(figures: Figures, say: Say) -> Iterator[Finding]:
    """What goes into each block, and through each of its ways, against its stated limits."""
    for block in figures.plan.of(Block):
        into = [w.id for w in figures.plan.wires if w.b == block.at("in")]
        asked_a = max((figures.ratings.peak_a(w) for w in into), default=0.0)
        if block.total_a is not None and asked_a > block.total_a:
            yield say("stop", (block.id,), (
                f"{block.name} carries {block.total_a:g} A in all and is asked for {asked_a:.1f} A."), "circuit",
                f"peak/{max(into, key=figures.ratings.peak_a)}")
        fuses = [j.b.part for j in figures.plan.joins if j.a.part == block.id and j.b.part != block.id]
        most = max(fuses, key=figures.ratings.peak_a, default=None)
        if block.way_most_a is not None and most is not None and figures.ratings.peak_a(most) > block.way_most_a:
            yield say.of(f"{block.id} way")("stop", (block.id, most), (
                f"An output of {block.name} carries {block.way_most_a:g} A; {figures.topology.parts[most].name} takes "
                f"{figures.ratings.peak_a(most):.1f} A."), "circuit", f"peak/{most}")


@rule(
    "feed.stud",
    meaning="More ring terminals sit on a battery post than the workshop stacks: they work loose.",
    cure="A bus bar, with one lead to the post.",
    source="House rule: terminals on a post")
def stud(figures: Figures, say: Say) -> Iterator[Finding]:
    """Terminals on each battery post."""
    limit = figures.plan.rules.stud_terminals
    for part in (*figures.plan.of(Battery), *figures.plan.of(Pack)):
        for post, word in (("pos", "positive"), ("neg", "negative")):
            terminal = part.at(post)
            ends = [w.id for w in figures.plan.wires if terminal in (w.a, w.b)]
            if len(ends) > limit:
                keep = max(ends, key=lambda w: (figures.wires[w].area_mm2 if w in figures.wires else 0.0, w))
                yield say.of(terminal)("caution", (part.id, *ends), (
                    f"{len(ends)} ring terminals of this plan would sit on {part.name}'s {word} post; the house rule "
                    f"is {limit}. A bus bar takes the {len(ends) - 1} smaller ones over, and one lead goes to the "
                    "post."), "circuit", "", (Proposal(MakeBusBar(post=terminal, keep=keep), "Make a bus bar"),))


@rule(
    "feed.bus-bar",
    meaning="A bus bar or stud holds more terminals than it has places.",
    cure="A longer bar, or a second.",
    source="The bar's stated number of terminals")
def bus_bar(figures: Figures, say: Say) -> Iterator[Finding]:
    """Terminals on each bus bar and stud."""
    for part in figures.plan.of(Junction):
        if part.form not in ("splice", "one barrel"):
            ends = [w.id for w in figures.plan.wires if part.at("t") in (w.a, w.b)]
            if len(ends) > part.terminals:
                yield say("caution", (part.id,), (
                    f"{part.name} has {part.terminals} places and {len(ends)} terminals on it."), "circuit")
