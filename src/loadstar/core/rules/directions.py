"""Rules about parts and coils that are joined the wrong way round, or by one lead only: said first, and what follows
from it beneath."""

from collections.abc import Iterator

from ..edits import AddWire, MoveEnd, Several
from ..figures.figures import Figures
from ..findings import Finding, Proposal
from ..parts.base import Part
from ..parts.work import MAIN_COLOUR, RETURN_COLOUR
from ..refs import TerminalRef
from ..wiring.direction import is_turned
from .registry import Say, rule
from .words import named


@rule(
    "source.reversed",
    meaning="A battery, pack, generator, drive or converter has its positive lead on the negative and its negative "
            "lead on the positive: it shorts what feeds it, or is destroyed.",
    cure="Change its two leads over.",
    source="What the plan's wires join")
def is_reversed(figures: Figures, say: Say) -> Iterator[Finding]:
    """Parts with poles that stand the wrong way round."""
    for one in figures.turned:
        if one.how == "reversed":
            part = figures.topology.parts[one.part]
            yield say("stop", (part.id,), (
                f"{part.name} is the wrong way round: its positive lead is on the negative, its negative lead on the "
                f"positive. {part.WRONG_WAY}"), "circuit", "",
                (Proposal(changed_over(figures, part), f"Change the two leads of {part.name} over"),))


@rule(
    "source.open",
    meaning="A generator is joined by one lead only: nothing flows, whatever it could give.",
    cure="Lead its other pole to the battery too.",
    source="What the plan's wires join")
def is_open(figures: Figures, say: Say) -> Iterator[Finding]:
    """What should give, and has no way for the current to close."""
    for one in figures.turned:
        if one.how == "open":
            part = figures.topology.parts[one.part]
            back = one.lacks == part.POLES[1]
            which = "no way back" if back else "no way to the battery's positive"
            lead = AddWire(a=part.at(one.lacks), b=figures.source.ends[back],
                           values={"colour": RETURN_COLOUR if back else MAIN_COLOUR})
            yield say("stop", (part.id,), f"{part.name} gives nothing: it has {which}.", "circuit",
                          "", (Proposal(lead, f"Lay its lead to {named(figures, figures.source.ends[back])}"),))


@rule(
    "relay.diode-reversed",
    meaning="The diode across a coil conducts: it lies the wrong way round and shorts what is to trigger the coil.",
    cure="Change the coil's two leads over.",
    source="What the plan's wires join; a diode across a coil blocks the supply and carries the coil's own current")
def diode_reversed(figures: Figures, say: Say) -> Iterator[Finding]:
    """Coils with a diode across them whose plus is on the negative and whose minus is fed."""
    for part, coil in figures.actuators:
        if coil.across == "diode" and is_turned(figures.topology, coil.plus, coil.minus):
            yield say("stop", (part.id,), (
                f"{part.name}'s coil is the wrong way round: its {coil.plus.name} is on the negative and its "
                f"{coil.minus.name} is fed. The diode across it shorts its trigger, and the contact never closes."),
                "circuit", "", (Proposal(_over(figures, part, coil.plus, coil.minus),
                                         f"Change {coil.plus.name} and {coil.minus.name} over"),))


def changed_over(figures: Figures, part: Part) -> Several:
    """The edit that changes the wires at a part's two poles over."""
    plus, minus = (part.at(end) for end in part.POLES)
    return _over(figures, part, plus, minus)


def _over(figures: Figures, part: Part, plus: TerminalRef, minus: TerminalRef) -> Several:
    over = {plus: minus, minus: plus}
    moves = tuple(MoveEnd(id=w.id, end=end, to=over[at]) for w in figures.plan.wires
                  for end, at in (("a", w.a), ("b", w.b)) if at in over)
    return Several(edits=moves, words=f"leads of {part.name} changed over")
