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
    """A wire between two places, with its copper in g/m."""

    a: str
    b: str
    copper_g_m: float


@dataclass(frozen=True)
class Cut:
    """Runs to leave out, the copper of the wires then, and how much more that is, g."""

    runs: tuple[str, ...]
    copper_g: float
    more_g: float


def copper_g(stretches: Sequence[Stretch], wires: Sequence[Through]) -> float:
    """Copper of the wires along their shortest ways."""
    return _copper_g(_graph(stretches), wires)


def cuts(stretches: Sequence[Stretch], wires: Sequence[Through]) -> tuple[Cut, ...]:
    """Every set of runs whose leaving out lets the rest lie flat, cheapest first; of more than 200 the cheapest run of
    each loop, one loop after the other. Empty where there is no loop."""
    graph = _graph(stretches)
    loops = graph.number_of_edges() - graph.number_of_nodes() + nx.number_connected_components(graph)
    if loops == 0:
        return ()
    before = _copper_g(graph, wires)
    in_loops = sorted({frozenset((a, b)) for ring in nx.cycle_basis(graph)
                       for a, b in zip(ring, [*ring[1:], ring[0]], strict=True)}, key=sorted)
    if _trees(graph) > MOST_TREES:
        return (_greedy(graph, wires, before),)
    found = []
    for out in combinations(in_loops, loops):
        limits.check()
        rest = graph.copy()
        rest.remove_edges_from(tuple(e) for e in out)
        if nx.number_connected_components(rest) == nx.number_connected_components(graph):
            found.append(_cut(graph, out, _copper_g(rest, wires), before))
    return tuple(sorted(found, key=lambda c: (round(c.copper_g, 6), c.runs)))


def _trees(graph: "nx.Graph") -> float:
    """In how many ways runs can be left out so that nothing is a loop: spanning trees, by Kirchhoff's theorem."""
    count = 1.0
    for nodes in nx.connected_components(graph):
        laplacian = nx.laplacian_matrix(graph.subgraph(nodes), weight=None).toarray()[1:, 1:]
        count *= max(1.0, round(float(np.linalg.det(laplacian)))) if len(laplacian) else 1.0
    return count


def _greedy(graph: "nx.Graph", wires: Sequence[Through], before: float) -> Cut:
    rest, out = graph.copy(), []
    while ring := next(iter(nx.cycle_basis(rest)), None):
        options = []
        limits.check()
        for a, b in zip(ring, [*ring[1:], ring[0]], strict=True):
            tried = rest.copy()
            tried.remove_edge(a, b)
            options.append((round(_copper_g(tried, wires), 6), sorted((a, b))))
        _, (a, b) = min(options)
        rest.remove_edge(a, b)
        out.append(frozenset((a, b)))
    return _cut(graph, out, _copper_g(rest, wires), before)


def _cut(graph: "nx.Graph", out: Sequence[frozenset[str]], after: float, before: float) -> Cut:
    return Cut(tuple(sorted(graph.edges[tuple(e)]["run"] for e in out)), after, after - before)


def _graph(stretches: Sequence[Stretch]) -> "nx.Graph":
    graph = nx.Graph()
    for s in stretches:
        graph.add_edge(s.a, s.b, weight=s.length_mm, run=s.run)
    return graph


def _copper_g(graph: "nx.Graph", wires: Sequence[Through]) -> float:
    from_each = {a: nx.single_source_dijkstra_path_length(graph, a, weight="weight") for a in {w.a for w in wires}}
    return float(sum(w.copper_g_m * from_each[w.a][w.b] / 1000 for w in wires))
