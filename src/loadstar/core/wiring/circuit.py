"""The network that a plan's parts and wires form, and the way from the battery to each load and back.

Terminals that touch (joins) are one node. Every part says here what it puts between its terminals: a fuse its hot
resistance, a relay a coil and a contact, a plug the machine's own wiring. Node names are terminal names.
"""

import heapq
from dataclasses import dataclass
from functools import cached_property

from ..materials import fuses
from ..physics.network import CONSTANT_CURRENT, CONSTANT_POWER, RESISTIVE, Load
from ..plan.model import LIVE_STATES, TERMINALS, FusePart, LoadPart, OwnLoad, Plan, Relay, States, Switch, Tap
from .geometry import WireGeometry, geometries

# Below this a converter or a regulated load is taken as a resistance: it keeps the solution defined, and every
# load that ends there is reported as not carried.
FLOOR_V = 6.0
TAP_RETURN_OHM = 0.001


@dataclass(frozen=True)
class Link:
    """One conducting element between two nodes, in the order battery to load where that is known."""

    element: str
    a: str
    b: str


@dataclass(frozen=True)
class CircuitPath:
    """A load's way: links from battery positive to the load, and from the load to battery negative."""

    load: str
    feed: tuple[Link, ...]
    back: tuple[Link, ...]

    @property
    def complete(self) -> bool:
        """Whether both ways exist."""
        return bool(self.feed) and bool(self.back)


class Topology:
    """What does not change with sizes: nodes, links, and the ways to the loads."""

    def __init__(self, plan: Plan) -> None:
        self.plan = plan
        self.geometry: dict[str, WireGeometry] = geometries(plan)
        self._parent = {f"{p.id}.{t}": f"{p.id}.{t}" for p in plan.parts for t in TERMINALS[p.kind]}
        for join in plan.joins:
            self._parent[self._root(join.b)] = self._root(join.a)
        self.wires = {w.id: w for w in plan.wires}
        self.parts = {p.id: p for p in plan.parts}
        battery = plan.battery
        self.positive = self.node(f"{battery.id}.pos") if battery else ""
        self.negative = self.node(f"{battery.id}.neg") if battery else ""

    def _root(self, terminal: str) -> str:
        while self._parent[terminal] != terminal:
            terminal = self._parent[terminal]
        return terminal

    def node(self, terminal: str) -> str:
        """The node a terminal belongs to."""
        return self._root(terminal)

    @cached_property
    def links(self) -> tuple[Link, ...]:
        """Every element that can carry load current, contacts taken as closed. Coils are not among them."""
        n = self.node
        found = [Link(w.id, n(w.a), n(w.b)) for w in self.plan.wires]
        for part in self.plan.parts:
            if isinstance(part, FusePart | Switch):
                found.append(Link(part.id, n(f"{part.id}.a"), n(f"{part.id}.b")))
            elif isinstance(part, Relay):
                found.append(Link(part.id, n(f"{part.id}.30"), n(f"{part.id}.87")))
            elif isinstance(part, Tap) and self.positive:
                found.append(Link(part.id, self.positive, n(f"{part.id}.pin")))
                found.append(Link(f"{part.id}.gnd", n(f"{part.id}.gnd"), self.negative))
        return tuple(found)

    def conducting(self, state: States, closed: dict[str, bool]) -> tuple[Link, ...]:
        """What conducts in a state: wires, fuses, closed contacts, live plugs, coils (named "K1.coil")."""
        found = [link for link in self.links if self._conducts(link.element, state, closed)]
        found += [Link(f"{part.id}.coil", self.node(f"{part.id}.86"), self.node(f"{part.id}.85"))
                  for part in self.plan.parts if isinstance(part, Relay)]
        return tuple(found)

    def reached(self, state: States, closed: dict[str, bool]) -> set[str]:
        """Nodes joined to battery positive in a state by anything but a coil, a load or battery negative."""
        near: dict[str, list[str]] = {}
        for link in self.links:
            if self._conducts(link.element, state, closed):
                near.setdefault(link.a, []).append(link.b)
                near.setdefault(link.b, []).append(link.a)
        found, queue = {self.positive}, [self.positive]
        while queue:
            for node in near.get(queue.pop(), ()):
                if node not in found and node != self.negative:
                    found.add(node)
                    queue.append(node)
        return found

    def _conducts(self, element: str, state: States, closed: dict[str, bool]) -> bool:
        part = self.parts.get(element.split(".")[0])
        if isinstance(part, Relay):
            return closed.get(part.id, False)
        if isinstance(part, Switch):
            return state in part.closed_in
        if isinstance(part, Tap) and not element.endswith(".gnd"):
            return state in LIVE_STATES[part.live]
        return True

    def contact_ohm(self, element: str, rating_a: dict[str, float]) -> float:
        """Resistance of a fuse, contact, plug or coil."""
        part = self.parts[element.split(".")[0]]
        if isinstance(part, FusePart):
            return fuses.BY_RATING[rating_a[part.id]].hot_ohm
        if isinstance(part, Relay):
            return part.coil_ohm if element.endswith(".coil") else part.contact_mohm / 1000
        if isinstance(part, Switch):
            return part.contact_mohm / 1000
        assert isinstance(part, Tap)
        return TAP_RETURN_OHM if element.endswith(".gnd") else part.source_mohm / 1000

    def loads(self, state: States) -> tuple[Load, ...]:
        """Accessories (fed or not, as the contacts decide) and the machine's own consumption in a state."""
        made = [accessory(part, self.node(f"{part.id}.pos"), self.node(f"{part.id}.neg")) for part in self.plan.loads]
        for part in self.plan.parts:
            if isinstance(part, OwnLoad) and state in LIVE_STATES[part.live]:
                made.append(Load(part.id, self.positive, self.negative, CONSTANT_POWER, part.power_w, FLOOR_V))
        return tuple(made)

    @cached_property
    def paths(self) -> dict[str, CircuitPath]:
        """The way to each load and back, by load id; empty where there is none."""
        there, back = self._ways_from(self.positive), self._ways_from(self.negative)
        return {
            load.id: CircuitPath(load.id, self._trace(there, self.node(f"{load.id}.pos"), self.positive),
                                 tuple(Link(k.element, k.b, k.a) for k in reversed(
                                     self._trace(back, self.node(f"{load.id}.neg"), self.negative))))
            for load in self.plan.loads
        }

    @cached_property
    def loads_behind(self) -> dict[str, tuple[LoadPart, ...]]:
        """For every element, the accessories whose way goes through it."""
        table: dict[str, dict[str, LoadPart]] = {}
        for load in self.plan.loads:
            path = self.paths[load.id]
            for link in (*path.feed, *path.back):
                table.setdefault(link.element, {})[load.id] = load
        return {element: tuple(found.values()) for element, found in table.items()}

    def _ways_from(self, start: str) -> dict[str, Link]:
        """Shortest ways (in metres, contacts count a little) from a node: the last link to each node."""
        neighbours: dict[str, list[tuple[float, Link]]] = {}
        for link in self.links:
            length = self.geometry[link.element].length_m if link.element in self.geometry else 0.01
            neighbours.setdefault(link.a, []).append((length, link))
            neighbours.setdefault(link.b, []).append((length, Link(link.element, link.b, link.a)))
        best: dict[str, float] = {start: 0.0}
        last: dict[str, Link] = {}
        queue = [(0.0, start)]
        while queue:
            so_far, node = heapq.heappop(queue)
            if so_far > best[node] or (node in (self.positive, self.negative) and node != start):
                continue
            for length, link in neighbours.get(node, ()):
                far = so_far + length
                if far < best.get(link.b, float("inf")):
                    best[link.b], last[link.b] = far, link
                    heapq.heappush(queue, (far, link.b))
        return last

    @staticmethod
    def _trace(last: dict[str, Link], node: str, start: str) -> tuple[Link, ...]:
        way: list[Link] = []
        while node != start:
            if node not in last:
                return ()
            way.append(last[node])
            node = last[node].a
        return tuple(reversed(way))


def accessory(part: LoadPart, plus: str, minus: str) -> Load:
    """The network element of an accessory: resistor by V^2/P at its stated voltage, else constant watts or amps."""
    if part.behaviour == "resistor":
        return Load(part.id, plus, minus, RESISTIVE, part.at_v**2 / part.power_w)
    if part.behaviour == "power":
        return Load(part.id, plus, minus, CONSTANT_POWER, part.power_w, FLOOR_V)
    return Load(part.id, plus, minus, CONSTANT_CURRENT, part.current_a, FLOOR_V)


def accessory_current_a(part: LoadPart, voltage_v: float) -> float:
    """What an accessory draws at a voltage across it."""
    if part.behaviour == "resistor":
        return voltage_v * part.power_w / part.at_v**2
    return part.power_w / voltage_v if part.behaviour == "power" else part.current_a
