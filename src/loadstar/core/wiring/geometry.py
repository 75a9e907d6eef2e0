"""How long is each wire, and through which runs does it go?

Along the shortest way over the measured runs that are to be used, with what slack is laid in and an allowance at each
end; a wire within one place takes the house
rule's local length. A wire with a measured length keeps it, spread over its runs in proportion.
"""

import math
from dataclasses import dataclass
from itertools import pairwise

import networkx as nx

from ..doc.places import Run
from ..doc.wires import Wire
from ..plan.model import Plan


@dataclass(frozen=True)
class Segment:
    """A stretch of a wire: the run (or None within a place), its length and the temperature around it."""

    run: str | None
    length_m: float
    ambient_c: float


@dataclass(frozen=True)
class WireGeometry:
    """A wire's way. `way_known` is False when no runs connect its ends and no length was measured."""

    wire: str
    length_m: float
    segments: tuple[Segment, ...]
    way_known: bool = True

    @property
    def hottest_ambient_c(self) -> float:
        """The warmest surroundings along the way."""
        return max(s.ambient_c for s in self.segments)


def geometries(plan: Plan) -> dict[str, WireGeometry]:
    """The way of every wire, by wire id."""
    places = {p.id: p for p in plan.places}
    warm = {p.id: plan.ambient_at(p.id) for p in plan.places}
    at = {p.id: p.place for p in plan.parts}
    graph = nx.Graph()
    graph.add_nodes_from(places)
    runs: dict[frozenset[str], Run] = {}
    for run in (r for r in plan.runs if r.used):
        graph.add_edge(run.a, run.b, weight=run.length_m)
        runs[frozenset((run.a, run.b))] = run
    ways: dict[tuple[str, str], list[Run] | None] = {}

    def way(a: str, b: str) -> list[Run] | None:
        if (a, b) not in ways:
            try:
                nodes = nx.shortest_path(graph, a, b, weight="weight")
                ways[a, b] = [runs[frozenset(pair)] for pair in pairwise(nodes)]
            except nx.NetworkXNoPath:
                ways[a, b] = None
        return ways[a, b]

    def ambient(run: Run) -> float:
        return run.ambient_c if run.ambient_c is not None else max(warm[run.a], warm[run.b])

    def measure(wire: Wire) -> WireGeometry:
        a, b = at[wire.a.part], at[wire.b.part]
        ends = 2 * plan.rules.end_allowance_m
        known = True
        if a == b:
            base = [Segment(None, plan.rules.local_length_m + ends, warm[a])]
        else:
            found = way(a, b)
            if found is None:
                known = wire.length_m is not None
                straight = math.dist((places[a].x_mm, places[a].y_mm), (places[b].x_mm, places[b].y_mm)) / 1000
                base = [Segment(None, max(straight, plan.rules.local_length_m) + ends, max(warm[a], warm[b]))]
            else:
                run_m = sum(r.length_m for r in found)
                base = [Segment(r.id, r.length_m * (1 + ends / run_m) + r.slack_mm / 1000, ambient(r)) for r in found]
        total = sum(s.length_m for s in base)
        if wire.length_m is not None:
            base = [Segment(s.run, s.length_m * wire.length_m / total, s.ambient_c) for s in base]
            total = wire.length_m
        return WireGeometry(wire.id, total, tuple(base), known)

    return {wire.id: measure(wire) for wire in plan.wires}
