"""The way from a plan's sources to each load and back, over the network that its parts and wires form."""

import heapq
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import cached_property

from ..parts.base import Part
from ..parts.load import LoadPart
from ..refs import ElementRef
from .circuit import Circuit, Link, Root


@dataclass(frozen=True)
class CircuitPath:
    """A load's way: its root, links from the root's positive to the load, and from the load to the root's negative."""

    load: str
    root: Root
    feed: tuple[Link, ...]
    back: tuple[Link, ...]

    @property
    def links(self) -> tuple[Link, ...]:
        """Both ways."""
        return (*self.feed, *self.back)

    @property
    def complete(self) -> bool:
        """Whether both ways exist."""
        return bool(self.feed) and bool(self.back)


class Topology(Circuit):
    """A plan's network with the ways through it."""

    @cached_property
    def paths(self) -> dict[str, CircuitPath]:
        """The way to each load and back, by load id; empty where there is none."""
        found = {}
        for load in self.loads:
            own = self.plan.hangs_on(load)  # its own supply comes first, where another one reaches it too
            found[load.id] = self._path(load.id, self.node(load.at("pos")), self.node(load.at("neg")),
                                        sorted(self._ways, key=lambda way: way[0].part != own))
        return found

    @cached_property
    def _ways(self) -> list[tuple[Root, dict[str, Link], dict[str, Link]]]:
        """The shortest ways from both ends of every root."""
        return [(root, self._ways_from(root.positive, root), self._ways_from(root.negative, root))
                for root in self.roots]

    def _path(self, name: str, pos: str, neg: str,
              ways: list[tuple[Root, dict[str, Link], dict[str, Link]]]) -> CircuitPath:
        best = CircuitPath(name, self.roots[0] if self.roots else Root("", "", ""), (), ())
        for root, there, back in ways:
            found = CircuitPath(name, root, self._trace(there, pos, root.positive),
                                tuple(Link(k.element, k.b, k.a) for k in reversed(
                                    self._trace(back, neg, root.negative))))
            if found.complete or (found.feed and not best.feed):
                best = found
            if best.complete:
                break
        return best

    @cached_property
    def loads_behind(self) -> dict[str, tuple[LoadPart, ...]]:
        """For every element, the accessories whose way goes through it (through a converter: to its input too)."""
        table: dict[str, dict[str, LoadPart]] = {}
        inputs = {part: self.converter_path(part) for part, inside in self.inside.items() if inside.input}
        for load in self.loads:
            path: CircuitPath | None = self.paths[load.id]
            while path is not None:
                for link in path.links:
                    table.setdefault(link.element, {})[load.id] = load
                table.setdefault(path.root.part, {})[load.id] = load
                path = inputs.get(path.root.part) if path.root.part != path.load else None
        return {element: tuple(found.values()) for element, found in table.items()}

    @cached_property
    def loads_fed_through(self) -> dict[str, tuple[LoadPart, ...]]:
        """For every element, the accessories that it feeds directly, not by way of a converter."""
        table: dict[str, list[LoadPart]] = {}
        for load in self.loads:
            for link in self.paths[load.id].feed:
                table.setdefault(link.element, []).append(load)
        return {element: tuple(found) for element, found in table.items()}

    @cached_property
    def protecting(self) -> frozenset[str]:
        """Everything that a fuse or limit is at: fuses, ways of modules, and what the machine's own wiring feeds."""
        return frozenset(p.id for p in self.plan.parts if p.protection or p.FUSED_BEFORE)

    @cached_property
    def protected_behind(self) -> dict[str, tuple[str, ...]]:
        """For every fuse, way and plug, the fuses and ways behind it on the way to a load."""
        table: dict[str, dict[str, None]] = {}
        for load in self.loads:
            chain = [k.element for k in self.paths[load.id].feed if k.element in self.protecting]
            for i, upstream in enumerate(chain):
                table.setdefault(upstream, {}).update(dict.fromkeys(chain[i + 1:]))
        return {element: tuple(found) for element, found in table.items()}

    def nearest_protection(self, load: str) -> tuple[Part, str] | None:
        """What ends a current to a load by itself, the nearest on its way, and the converter that it lies before ("":
        on the load's own way). None where nothing does."""
        path, before = self.paths[load], ""
        while True:
            for link in reversed(path.feed):
                part = self.parts.get(link.element)
                if part is not None and part.protection:
                    return part, before
            if path.root.part not in self.inside or not self.inside[path.root.part].input:
                return None
            before = before or path.root.part
            path = self.converter_path(path.root.part)

    @cached_property
    def pack_leads(self) -> frozenset[str]:
        """What leads from the traction packs to the rail that everything hangs on, and back."""
        found: set[str] = set()
        for rail, end in ((self.positive, "pos"), (self.negative, "neg")):
            for pack in self.plan.packs:
                found.update(self.way_of_short(Root(pack.id, rail, self.node(pack.at(end))), set()))
        return frozenset(found)

    def converter_path(self, converter: str) -> CircuitPath:
        """The way from the main supply to a converter's input and back."""
        ends = self.inside[converter].input
        assert ends, converter
        return self.way_to(converter, *ends)

    def way_to(self, name: str, plus: str, minus: str) -> CircuitPath:
        """The way from the main supply to a pair of terminals and back; empty without a supply."""
        if not self.roots:
            return CircuitPath(name, Root("", "", ""), (), ())
        return self._path(name, self.node(plus), self.node(minus), self._ways[:1])

    def way_of_short(self, root: Root, dead: set[str]) -> tuple[str, ...]:
        """The elements that join a root's two ends directly, without what is `dead`; empty where the two are one
        terminal."""
        before: dict[str, Link | None] = {root.positive: None}
        queue = [root.positive]
        for node in queue:
            for _, link in self.neighbours.get(node, ()):
                if link.b not in before and link.element not in dead:
                    before[link.b] = link
                    queue.append(link.b)
        way: list[str] = []
        at: str = root.negative
        while (link_in := before.get(at)) is not None:
            way.append(link_in.element)
            at = link_in.a
        return tuple(reversed(way))

    def _ways_from(self, start: str, root: Root) -> dict[str, Link]:
        """Shortest ways (in metres, contacts count a little) from a node: the last link to each node."""
        rails = (root.positive, root.negative)
        best: dict[str, float] = {start: 0.0}
        last: dict[str, Link] = {}
        queue = [(0.0, start)]
        while queue:
            so_far, node = heapq.heappop(queue)
            if so_far > best[node] or (node in rails and node != start):
                continue
            for length, link in self.neighbours.get(node, ()):
                far = so_far + length
                if far < best.get(link.b, float("inf")):
                    best[link.b], last[link.b] = far, link
                    heapq.heappush(queue, (far, link.b))
        return last

    def reached(self, starts: Iterable[str], passes: Callable[[Link], bool]) -> set[str]:
        """The nodes that copper, closed contacts and diodes join to some, by links that may be passed."""
        queue = list(starts)
        seen = set(queue)
        for node in queue:
            for _, link in self.neighbours.get(node, ()):
                if link.b not in seen and passes(link):
                    seen.add(link.b)
                    queue.append(link.b)
        return seen

    @cached_property
    def neighbours(self) -> dict[str, list[tuple[float, Link]]]:
        """From every node the links that leave it, each with its metres (a contact counts a little)."""
        found: dict[str, list[tuple[float, Link]]] = {}
        diodes = [Link(ElementRef(d.name), d.a, d.b) for d in self.elements.diodes]
        for link in (*self.links, *diodes):
            length = self.geometry[link.element].length_m if link.element in self.geometry else 0.01
            found.setdefault(link.a, []).append((length, link))
            found.setdefault(link.b, []).append((length, Link(link.element, link.b, link.a)))
        return found

    @staticmethod
    def _trace(last: dict[str, Link], node: str, start: str) -> tuple[Link, ...]:
        way: list[Link] = []
        while node != start:
            if node not in last:
                return ()
            way.append(last[node])
            node = last[node].a
        return tuple(reversed(way))
