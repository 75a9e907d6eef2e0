"""The harness laid flat, every stretch at its true length, no two crossing.

The trunk is the longest way from end to end (of alike ones that with the most copper) and lies straight. What leaves it
has a wedge of its own on one side: along the trunk the wedges turn away from one another, and what leaves a branch lies
in a part of the branch's wedge. Two such wedges never meet, so nothing crosses at any length. A branch that has no
branches needs no width and stands square on the trunk.
"""

import math
from collections.abc import Iterable
from dataclasses import dataclass, field
from itertools import pairwise

import networkx as nx

LOWEST_DEG, HIGHEST_DEG = 45.0, 135.0
CLOSE_MM, CLOSE_DEG, SAME_DEG = 60.0, 15.0, 30.0  # branches nearer than this on a side are turned apart
FORK_DEG = 30.0  # that a branch with branches would like for each of its ends


class Loop(ValueError):
    """The runs form a loop, which cannot lie flat; `runs` are those of one."""

    def __init__(self, runs: tuple[str, ...]) -> None:
        super().__init__("the harness has a loop")
        self.runs = runs


@dataclass(frozen=True)
class Stretch:
    """A run that wires lie in: between two places, its length and the grams of copper in it."""

    run: str
    a: str
    b: str
    length_mm: float
    copper_g: float = 0.0


@dataclass(frozen=True)
class Laid:
    """A stretch on the board, from its end nearer to the trunk's beginning: two points in mm, y upwards."""

    run: str
    a: str
    b: str
    x0: float
    y0: float
    x1: float
    y1: float

    @property
    def length_mm(self) -> float:
        """On the centre line."""
        return math.hypot(self.x1 - self.x0, self.y1 - self.y0)


@dataclass(frozen=True)
class Board:
    """Every stretch laid, where each place came to lie, and the places along the trunk."""

    laid: tuple[Laid, ...]
    at: dict[str, tuple[float, float]] = field(hash=False)  # follows from the stretches
    trunk: tuple[str, ...]


def lay_out(stretches: Iterable[Stretch]) -> tuple[Board, ...]:
    """A board for each connected part, largest first. Raises Loop where one has a loop."""
    graph = nx.Graph()
    for s in sorted(stretches, key=lambda s: s.run):
        if graph.has_edge(s.a, s.b):
            raise Loop((graph.edges[s.a, s.b]["of"].run, s.run))
        graph.add_edge(s.a, s.b, of=s)
    if cycles := nx.cycle_basis(graph):
        ring = cycles[0]
        raise Loop(tuple(graph.edges[a, b]["of"].run for a, b in zip(ring, [*ring[1:], ring[0]], strict=True)))
    parts = [graph.subgraph(nodes) for nodes in nx.connected_components(graph)]
    return tuple(_Layout(part).board() for part in sorted(parts, key=lambda p: (-_length(p), min(p.nodes))))


def _length(graph: "nx.Graph") -> float:
    return float(sum(d["of"].length_mm for _, _, d in graph.edges(data=True)))


class _Layout:
    """One tree being laid."""

    def __init__(self, graph: "nx.Graph") -> None:
        self.graph = graph
        self.at: dict[str, tuple[float, float]] = {}
        self.laid: list[Laid] = []
        self._counted: dict[tuple[str, str], int] = {}

    def board(self) -> Board:
        """Trunk along the x axis, then the branches above and below it."""
        trunk = self._trunk()
        self.at[trunk[0]] = (0.0, 0.0)
        for a, b in pairwise(trunk):
            self._lay(a, b, 0.0)
        for side, branches in enumerate(self._sides(trunk)):
            self._fan(branches, -1 if side else 1)
        return Board(tuple(self.laid), dict(self.at), trunk)

    def _lay(self, a: str, b: str, direction_deg: float) -> None:
        """Lay the stretch from a place already laid."""
        stretch: Stretch = self.graph.edges[a, b]["of"]
        x, y = self.at[a]
        end = (x + stretch.length_mm * math.cos(math.radians(direction_deg)),
               y + stretch.length_mm * math.sin(math.radians(direction_deg)))
        self.at[b] = end
        self.laid.append(Laid(stretch.run, a, b, x, y, *end))

    def _trunk(self) -> tuple[str, ...]:
        """The longest way between two ends, by millimetres, then copper, then names."""
        best, between = (-1.0, -1.0), ("", "")
        ends = sorted(n for n in self.graph if self.graph.degree(n) == 1)
        beside = {n: [(m, d["of"].length_mm, d["of"].copper_g) for m, d in self.graph.adj[n].items()]
                  for n in self.graph}
        for a in ends:
            far, ahead = {a: (0.0, 0.0)}, [a]
            while ahead:
                here = ahead.pop()
                for there, length_mm, copper_g in beside[here]:
                    if there not in far:
                        far[there] = far[here][0] + length_mm, far[here][1] + copper_g
                        ahead.append(there)
            for b in (b for b in ends if b > a):
                found = round(far[b][0], 6), round(far[b][1], 6)
                if found > best:
                    best, between = found, (a, b)
        return tuple(nx.shortest_path(self.graph, *between))

    def _below(self, node: str, parent: str) -> list[str]:
        return sorted(n for n in self.graph.neighbors(node) if n != parent)

    def _leaves(self, node: str, parent: str) -> int:
        """Ends of a branch; each counted once."""
        if (node, parent) in self._counted:
            return self._counted[node, parent]
        count, ahead = 0, [(node, parent)]
        while ahead:
            here, above = ahead.pop()
            below = self._below(here, above)
            count += not below
            ahead += [(n, here) for n in below]
        self._counted[node, parent] = count
        return count

    def _sides(self, trunk: tuple[str, ...]) -> tuple[list[tuple[str, str]], list[tuple[str, str]]]:
        """The branches (trunk place, first place of the branch) above and below, from left to right: each where less
        stands near it so far."""
        sides: tuple[list[tuple[str, str]], list[tuple[str, str]]] = ([], [])
        weight = [0, 0]
        on = set(trunk)
        for node in trunk:
            for first in sorted(self._below(node, ""), key=lambda n: (-self._leaves(n, node), n)):
                if first in on:
                    continue
                near = [bool(side) and self.at[node][0] - self.at[side[-1][0]][0] < CLOSE_MM for side in sides]
                pick = near.index(min(near)) if near[0] != near[1] else weight.index(min(weight))
                sides[pick].append((node, first))
                weight[pick] += self._leaves(first, node)
        return sides

    def _fan(self, branches: list[tuple[str, str]], side: int) -> None:
        """Wedges from left to right, each turned further to the right than the one before."""
        if not branches:
            return
        widths = [FORK_DEG * (self._leaves(first, node) - 1) for node, first in branches]
        gaps = [0.0]
        for (one, _), (two, _) in pairwise(branches):
            apart = self.at[two][0] - self.at[one][0]
            gaps.append(SAME_DEG if one == two else CLOSE_DEG if apart < CLOSE_MM else 0.0)
        total = sum(widths) + sum(gaps)
        scale = min(1.0, (HIGHEST_DEG - LOWEST_DEG) / total) if total > 0 else 1.0
        turned = 90 + total * scale / 2
        for (node, first), width, gap in zip(branches, widths, gaps, strict=True):
            high = turned - gap * scale
            turned = high - width * scale
            self._branch(node, first, turned, high, side)

    def _branch(self, node: str, first: str, low_deg: float, high_deg: float, side: int) -> None:
        """A branch in its wedge; what leaves it further on gets parts of the wedge."""
        ahead = [(node, first, low_deg, high_deg)]
        while ahead:
            parent, here, low, high = ahead.pop()
            self._lay(parent, here, side * (low + high) / 2)
            below = self._below(here, parent)
            if len(below) == 1:
                ahead.append((here, below[0], low, high))
                continue
            leaves = [self._leaves(n, here) for n in below]
            edge = low
            for n, count in zip(below, leaves, strict=True):
                width = (high - low) * count / sum(leaves)
                ahead.append((here, n, edge, edge + width))
                edge += width
