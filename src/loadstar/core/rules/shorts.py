"""Rules about networks that have no sensible solution: a dead short, a state that cannot be computed, a load adrift."""

from collections.abc import Iterator

from ..doc.states import JUDGED_STATES
from ..edits import RemoveWire
from ..figures.figures import Figures
from ..findings import Finding, Proposal
from ..physics.joined import islands
from .registry import Say, rule
from .words import listed, named, state, when


@rule(
    "network.short",
    meaning="Copper joins the two ends of a supply: a dead short. Whatever protects it opens at once; where nothing "
            "does, it burns.",
    cure="Part the wire that closes it.",
    source="What the plan's wires and contacts join in that state")
def dead_short(figures: Figures, say: Say) -> Iterator[Finding]:
    """States in which a supply's positive and negative are one; said once for each way of a short."""
    found: dict[tuple[str, ...], list[str]] = {}
    for row in figures.volts.rows:
        if row.short:
            found.setdefault(row.short, []).append(when(row))
    for (root, *way), states in found.items():
        wires = [e for e in way if e in figures.wires]
        through = f" through {listed(named(figures, e) for e in way)}" if way else ": they are one terminal"
        guarded = next((e for e in way if e in figures.ratings.rated), None)
        burns = (f"{named(figures, guarded)} opens at once" if guarded else "nothing protects this way: it burns")
        yield say("stop", (*(wires[-1:] or [root]), root), (
            f"A dead short: the positive and the negative of {named(figures, root)} are joined{through} "
            f"({', '.join(states)}); {burns}. No figures are shown for "
            f"{'it' if len(states) == 1 else 'these states'}."),
            "circuit", "", tuple(Proposal(RemoveWire(id=w), f"Take {w} out") for w in reversed(wires)))


@rule(
    "network.unsolved",
    meaning="A state's network has no solution; no figures are shown for it.",
    cure="See to the element that is named.",
    source="Nodal analysis of docs/physics.md")
def unsolved(figures: Figures, say: Say) -> Iterator[Finding]:
    """States that could not be solved, once for each reason."""
    found: dict[tuple[str, tuple[str, ...]], list[str]] = {}
    for row in figures.volts.rows:
        if row.solution is None and not row.short:
            found.setdefault((row.failure, row.failed_elements[:3]), []).append(row.words)
    for (why, elements), states in found.items():
        where = f" (at {listed(named(figures, e) for e in elements)})" if elements else ""
        yield say("stop", elements, (
            f"{listed(states)} cannot be computed: {why}{where}."), "circuit")


@rule(
    "network.floating",
    meaning="A load is joined to neither battery post while it should live: its voltage is not defined.",
    cure="Give it a return.",
    source="Solved network")
def floating(figures: Figures, say: Say) -> Iterator[Finding]:
    """Loads on islands without a reference, in a state in which they are to live."""
    seen: set[str] = set()
    own = {root.negative for root in figures.topology.roots}  # an isolated converter's output has its own 0 V
    for name in JUDGED_STATES:
        result = figures.states.get(name)
        if result is None or result.solution is None:
            continue
        adrift = {node for island in islands(result.solution) if not own & set(island) for node in island}
        for load in figures.plan.loads:
            path = figures.path(load.id)
            if (path.complete and name in figures.plan.lives_in(load) and load.id not in seen
                    and figures.topology.node(load.at("neg")) in adrift):
                seen.add(load.id)
                yield say("stop", (load.id,), (
                    f"{load.name} is joined to nothing that has a voltage ({state(name)})."), "circuit")
