"""What ends at each place of a harness, in the order in which it lies on the board there: by the run that it goes into,
then by part and terminal."""

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass

from ..doc.wires import SIDES, Side, Wire
from ..plan.model import Plan
from ..refs import TerminalRef
from ..wiring.geometry import WireGeometry


@dataclass(frozen=True)
class Leaving:
    """A wire's end at a place: the run that the wire goes into there ("" where it stays at the place), the terminal
    that it ends at, and the place that it goes to."""

    wire: Wire
    side: Side
    run: str
    at: TerminalRef
    to: str


def leaving(plan: Plan, geometry: Mapping[str, WireGeometry]) -> dict[str, tuple[Leaving, ...]]:
    """Every end of every wire at its place, in the order of the plan's places; a place without any is left out."""
    found: dict[str, list[Leaving]] = defaultdict(list)
    for wire in plan.wires:
        runs = geometry[wire.id].runs
        for side, run in zip(SIDES, (runs[0], runs[-1]) if runs else ("", ""), strict=True):
            at, other = (wire.a, wire.b) if side == SIDES[0] else (wire.b, wire.a)
            found[plan.part(at.part).place].append(Leaving(wire, side, run, at, plan.part(other.part).place))
    order = {run.id: n for n, run in enumerate(plan.runs)}
    return {place.id: tuple(sorted(found[place.id], key=lambda one: (order.get(one.run, -1), _natural(one.at))))
            for place in plan.places if place.id in found}


def _natural(at: TerminalRef) -> tuple[str, int, str]:
    """A terminal's place in a list: parts by their numbers, pins after that."""
    letters = at.part.rstrip("0123456789")
    return letters, int(at.part[len(letters):]), at.name
