"""How long is each wire, and through which runs does it go?

Along the way it is told, or the shortest over the measured runs that are to be used, with what slack is laid in and an
allowance at each end; a wire within one place takes the house rule's local length. A wire with a measured length keeps
it, spread over its runs in proportion.
"""

import math
from dataclasses import dataclass
from itertools import pairwise

import networkx as nx

from ..doc.places import Run
from ..doc.wires import Wire
from ..plan.model import Plan
from ..plan.ways import why_not


@dataclass(frozen=True)
class Segment:
    """A stretch of a wire: the run (or None within a place), its length and the temperature around it."""

    run: str | None
    length_m: float
    ambient_c: float


@dataclass(frozen=True)
class WireGeometry:
    """A wire's way. `way_known` is False when no runs connect its ends and no length was measured; `told` when it goes
    as it was told, `lost` why it cannot ("" where it can, or was told nothing). `way_m` is how long the way is,
    whatever length the wire was given."""

    wire: str
    length_m: float
    segments: tuple[Segment, ...]
    way_known: bool = True
    told: bool = False
    lost: str = ""
    way_m: float = 0.0

    @property
    def hottest_ambient_c(self) -> float:
        """The warmest surroundings along the way."""
        return max(s.ambient_c for s in self.segments)

    @property
    def runs(self) -> tuple[str, ...]:
        """The runs it goes through, in turn."""
        return tuple(s.run for s in self.segments if s.run is not None)


class Ways:
    """The shortest way between any two places over the runs that are to be used."""

    def __init__(self, plan: Plan) -> None:
        self.runs = {r.id: r for r in plan.runs if r.used}
        self.graph = nx.Graph()
        self.graph.add_nodes_from(p.id for p in plan.places)
        for run in self.runs.values():
            known = self.graph.get_edge_data(run.a, run.b)
            if known is None or run.length_m < known["weight"]:  # of two between the same places the shorter
                self.graph.add_edge(run.a, run.b, weight=run.length_m, run=run.id)
        self._found: dict[tuple[str, str], list[Run] | None] = {}

    def shortest(self, a: str, b: str) -> list[Run] | None:
        """The runs from one to the other; None where they do not reach."""
        if (a, b) not in self._found:
            try:
                nodes = nx.shortest_path(self.graph, a, b, weight="weight")
                self._found[a, b] = [self.runs[self.graph.edges[pair]["run"]] for pair in pairwise(nodes)]
            except nx.NetworkXNoPath:
                self._found[a, b] = None
        return self._found[a, b]


def geometries(plan: Plan) -> dict[str, WireGeometry]:
    """The way of every wire, by wire id."""
    places = {p.id: p for p in plan.places}
    warm = {p.id: plan.ambient_at(p.id) for p in plan.places}
    at = {p.id: p.place for p in plan.parts}
    ways = Ways(plan)

    def ambient(run: Run) -> float:
        return run.ambient_c if run.ambient_c is not None else max(warm[run.a], warm[run.b])

    def measure(wire: Wire) -> WireGeometry:
        a, b = at[wire.a.part], at[wire.b.part]
        ends = 2 * plan.rules.end_allowance_m
        known = True
        lost = why_not(plan, wire.way, a, b) if wire.way else ""
        told = bool(wire.way) and not lost
        if a == b and not told:
            base = [Segment(None, plan.rules.local_length_m + ends, warm[a])]
        else:
            found = [ways.runs[r] for r in wire.way] if told else ways.shortest(a, b)
            if found is None:
                known = wire.length_m is not None
                straight = math.dist((places[a].x_mm, places[a].y_mm), (places[b].x_mm, places[b].y_mm)) / 1000
                base = [Segment(None, max(straight, plan.rules.local_length_m) + ends, max(warm[a], warm[b]))]
            else:
                run_m = sum(r.length_m for r in found)
                base = [Segment(r.id, r.length_m * (1 + ends / run_m) + r.slack_mm / 1000, ambient(r)) for r in found]
        total = way_m = sum(s.length_m for s in base)
        if wire.length_m is not None:
            base = [Segment(s.run, s.length_m * wire.length_m / total, s.ambient_c) for s in base]
            total = wire.length_m
        return WireGeometry(wire.id, total, tuple(base), known, told, lost, way_m)

    return {wire.id: measure(wire) for wire in plan.wires}
