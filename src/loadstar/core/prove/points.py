"""Where a probe can be put on a circuit: its terminals, each copper point once, in the order of the current."""

from dataclasses import dataclass

from ..figures.figures import Figures
from ..refs import TerminalRef


@dataclass(frozen=True)
class Point:
    """A point of copper: the terminal it is reached at, its node, the place, and what has to come off to reach it."""

    terminal: TerminalRef
    node: str
    place: str
    reach: str


def of_element(figures: Figures, element: str) -> tuple[TerminalRef, TerminalRef] | None:
    """The terminals at both ends of something that conducts; None where one of them is inside the machine."""
    if element in figures.wires:
        wire = figures.plan.wire(element)
        return wire.a, wire.b
    branch = figures.topology.branches.get(element)
    if branch is None or not all(end.part in figures.plan.part_by_id for end in (branch.a, branch.b)):
        return None
    return branch.a, branch.b


def points(figures: Figures, load: str, within: frozenset[str]) -> tuple[Point, ...]:
    """The points of a circuit: along its feed, at the load, along its return, then those of its relays' coils."""
    plan, topology = figures.plan, figures.topology
    path = topology.paths[load]
    ends: list[TerminalRef] = []
    for element in (*(k.element for k in path.feed), *(k.element for k in path.back), *sorted(within)):
        ends += of_element(figures, element) or ()
    part = plan.part(load)
    ends += [part.at(end) for end in part.ends]
    found: dict[str, Point] = {}
    for terminal in ends:
        node = topology.node(terminal)
        if node not in found and terminal.part in plan.part_by_id:
            place = plan.place(plan.part(terminal.part).place)
            found[node] = Point(terminal, node, place.id, place.reach)
    return tuple(found.values())


def ground(figures: Figures) -> TerminalRef:
    """Where the black probe usually sits: the supply's negative terminal."""
    return figures.source.ends[1]

