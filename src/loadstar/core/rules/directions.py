"""Rules about parts that are joined the wrong way round, or by one lead only: said first, and what follows from it
beneath."""

from collections.abc import Iterator

from ..edits import AddWire, MoveEnd, Several
from ..figures.figures import Figures
from ..findings import Finding, Proposal
from ..parts.base import Part
from ..parts.work import MAIN_COLOUR, RETURN_COLOUR
from .registry import rule
from .words import named


@rule(
    "source.reversed",
    meaning="A battery, pack, generator, drive or converter has its positive lead on the negative and its negative "
            "lead on the positive: it shorts what it hangs on, or is destroyed.",
    cure="Change its two leads over.",
    source="What the plan's wires join")
def is_reversed(figures: Figures) -> Iterator[Finding]:
    """Parts with poles that stand the wrong way round."""
    for one in figures.turned:
        if one.how == "reversed":
            part = figures.topology.parts[one.part]
            yield Finding("source.reversed", "stop", (part.id,), (
                f"{part.name} is the wrong way round: its positive lead is on the negative, its negative lead on the "
                f"positive. {part.WRONG_WAY}"), "circuit", "",
                (Proposal(changed_over(figures, part), f"Change the two leads of {part.name} over"),))


@rule(
    "source.open",
    meaning="A generator is joined by one lead only: nothing flows, whatever it could give.",
    cure="Lead its other pole to the battery too.",
    source="What the plan's wires join")
def is_open(figures: Figures) -> Iterator[Finding]:
    """What should give, and has no way for the current to close."""
    for one in figures.turned:
        if one.how == "open":
            part = figures.topology.parts[one.part]
            back = one.lacks == part.POLES[1]
            which = "no way back" if back else "no way to the battery's positive"
            lead = AddWire(a=part.at(one.lacks), b=figures.source.ends[back],
                           values={"colour": RETURN_COLOUR if back else MAIN_COLOUR})
            yield Finding("source.open", "stop", (part.id,), f"{part.name} gives nothing: it has {which}.", "circuit",
                          "", (Proposal(lead, f"Lay its lead to {named(figures, figures.source.ends[back])}"),))


def changed_over(figures: Figures, part: Part) -> Several:
    """The edit that changes the wires at a part's two poles over."""
    plus, minus = (part.at(end) for end in part.POLES)
    over = {plus: minus, minus: plus}
    moves = tuple(MoveEnd(id=w.id, end=end, to=over[at]) for w in figures.plan.wires
                  for end, at in (("a", w.a), ("b", w.b)) if at in over)
    return Several(edits=moves, words=f"leads of {part.name} changed over")
