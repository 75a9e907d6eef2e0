"""A loop of runs cannot lie flat: which run to leave out, at the least copper."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

import networkx as nx
import numpy as np

from .. import limits
from .board import Stretch

MOST_TREES = 200


@dataclass(frozen=True)
class Through:
    """A wire between two places, with its copper in g/m, and the runs it is told to take (none: the shortest way)."""

    a: str
    b: str
    copper_g_m: float
    told: tuple[str, ...] = ()


@dataclass(frozen=True)
class Cut:
    """Runs to leave out, the copper of the wires then, and how much more that is, g."""

    runs: tuple[str, ...]
    copper_g: float
    more_g: float


def copper_g(stretches: Sequence[Stretch], wires: Sequence[Through]) -> float:
    """Copper of the wires along their ways."""
    return _copper_g(_graph(stretches), wires)


def cuts(stretches: Sequence[Stretch], wires: Sequence[Through]) -> tuple[Cut, ...]:
    """Every set of runs whose leaving out lets the rest lie flat, cheapest first; of more than 200 the cheapest run of
    each loop, one loop after the other. Empty where there is no loop."""
    graph = _graph(stretches)
    loops = len(stretches) - len(_places(graph)) + nx.number_connected_components(graph)
    if loops == 0:
        return ()
    before = _copper_g(graph, wires)
    in_loops = sorted({run for ring in nx.cycle_basis(graph) for run in _runs(ring)})
    if _trees(stretches) > MOST_TREES:
        return (_greedy(graph, wires, before),)
    found = []
    for out in combinations(in_loops, loops):
        limits.check()
        rest = _without(graph, out)
        if nx.number_connected_components(rest) == nx.number_connected_components(graph):
            found.append(_cut(out, _copper_g(rest, wires), before))
    return tuple(sorted(found, key=lambda c: (round(c.copper_g, 6), c.runs)))


def _trees(stretches: Sequence[Stretch]) -> float:
    """In how many ways runs can be left out so that nothing is a loop: spanning trees, by Kirchhoff's theorem."""
    graph = nx.MultiGraph([(s.a, s.b) for s in stretches])
    count = 1.0
    for nodes in nx.connected_components(graph):
        laplacian = nx.laplacian_matrix(graph.subgraph(nodes), weight=None).toarray()[1:, 1:]
        count *= max(1.0, round(float(np.linalg.det(laplacian)))) if len(laplacian) else 1.0
    return count


def _greedy(graph: "nx.Graph", wires: Sequence[Through], before: float) -> Cut:
    rest, out = graph, []
    while ring := next(iter(nx.cycle_basis(rest)), None):
        limits.check()
        options = [(round(_copper_g(_without(rest, (run,)), wires), 6), run) for run in _runs(ring)]
        out.append(min(options)[1])
        rest = _without(rest, out[-1:])
    return _cut(out, _copper_g(rest, wires), before)


def _cut(out: Sequence[str], after: float, before: float) -> Cut:
    return Cut(tuple(sorted(out)), after, after - before)


# A run stands in the graph as a node between its two places, so that two runs may join the same places.
_Run = tuple[str]


def _graph(stretches: Sequence[Stretch]) -> "nx.Graph":
    graph = nx.Graph()
    for s in stretches:
        graph.add_edge(s.a, (s.run,), weight=s.length_mm / 2)
        graph.add_edge((s.run,), s.b, weight=s.length_mm / 2)
    return graph


def _places(graph: "nx.Graph") -> list[str]:
    return [node for node in graph if isinstance(node, str)]


def _runs(ring: "Sequence[str | _Run]") -> list[str]:
    return sorted(node[0] for node in ring if isinstance(node, tuple))


def _without(graph: "nx.Graph", runs: Sequence[str]) -> "nx.Graph":
    rest = graph.copy()
    rest.remove_nodes_from([(run,) for run in runs])
    return rest


def _copper_g(graph: "nx.Graph", wires: Sequence[Through]) -> float:
    from_each = {a: nx.single_source_dijkstra_path_length(graph, a, weight="weight") for a in {w.a for w in wires}}
    return float(sum(w.copper_g_m * _way_mm(graph, w, from_each[w.a][w.b]) / 1000 for w in wires))


def _way_mm(graph: "nx.Graph", wire: Through, shortest_mm: float) -> float:
    """Of a wire that goes as told the way through those runs, so long as they are all there."""
    if not wire.told or not all((run,) in graph for run in wire.told):
        return shortest_mm
    return float(sum(d["weight"] for run in wire.told for _, _, d in graph.edges((run,), data=True)))
