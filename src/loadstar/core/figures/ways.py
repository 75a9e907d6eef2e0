"""Blocks, modules and connectors: how many of their ways are spare, and what goes into them."""

from ..parts.base import Part
from ..parts.can import as_mated
from ..parts.coupling import Coupling
from ..plan.model import Plan
from ..sizing.drops import LEAST_A
from .figures import Figures


def feeding_side(figures: Figures, part: Coupling) -> str:
    """The side of a connector, "a" or "b", that feeds come to it from; "" where none goes through it, or from both.
    """
    ways = {f"{part.id}.w{n}" for n in range(1, part.ways + 1)}
    flows = [row.current(link.element) for load in figures.plan.loads for link in figures.path(load.id).feed
             if link.element in ways for row in figures.volts.rows]
    found = {"a" if amps > 0 else "b" for amps in flows if abs(amps) > LEAST_A}
    return found.pop() if len(found) == 1 else ""


def spare_ways(plan: Plan, part: Part) -> int | None:
    """Ways of a block, module or connector that nothing is on; None of what has none."""
    if part.plug_in_ways is not None:
        return part.plug_in_ways - sum(1 for j in plan.joins if j.a.part == part.id and j.b.part != part.id)
    if mated := as_mated(part):
        taken = {end for w in plan.wires for end in (w.a, w.b)}
        return sum(not {part.at(f"a{n}"), part.at(f"b{n}")} & taken for n in range(1, mated.ways + 1))
    return None


def into_a(figures: Figures, part: Part) -> float:
    """The most that goes into a block or module at once."""
    return max((figures.ratings.peak_a(w.id) for w in figures.plan.wires if w.b == part.at("in")), default=0.0)
