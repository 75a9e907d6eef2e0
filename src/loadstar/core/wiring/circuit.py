"""The network that a plan's parts and wires form, and the way from its source to each load and back.

Terminals that touch (joins) are one node. Every part says here what it puts between its terminals: a fuse its hot
resistance, a relay a coil and a contact, a plug the machine's own wiring, a pack its cells, a converter a second
supply. Node names are terminal names; the machine's frame is one node, "frame".
"""

import heapq
import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

from ..materials import fuses
from ..physics import elements as net
from ..plan.model import (
    LIVE_STATES,
    TERMINALS,
    AnyPart,
    Battery,
    Coil,
    Combiner,
    Converter,
    Drive,
    FramePoint,
    FusePart,
    LoadPart,
    OwnLoad,
    Pack,
    Plan,
    Port,
    Relay,
    Starter,
    States,
    Switch,
    Tap,
    Way,
)
from .geometry import WireGeometry, geometries

# Below this share of its stated voltage a converter or a regulated load is taken as a resistance: it keeps the
# solution defined, and every load that ends there is reported as not carried.
FLOOR_SHARE = 0.44
OWN_FLOOR_SHARE = 0.5
TAP_RETURN_OHM = 0.001
STRAP_OHM = 0.001  # the machine's own strap from battery negative to its frame, assumed
BODY_OHM = 0.010  # an accessory's negative through its mounting to the frame, assumed
FRAME, STRAP = "frame", "strap"
PORT_EFFICIENCY = 0.9


@dataclass(frozen=True)
class Link:
    """One conducting element between two nodes, in the order source to load where that is known."""

    element: str
    a: str
    b: str


@dataclass(frozen=True)
class Root:
    """Where circuits begin: the main supply, or the output of a converter or light port."""

    part: str
    positive: str
    negative: str


@dataclass(frozen=True)
class CircuitPath:
    """A load's way: its root, links from the root's positive to the load, and from the load to the root's negative."""

    load: str
    root: Root
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
        self._parent[FRAME] = FRAME
        for join in plan.joins:
            self._parent[self._root(join.b)] = self._root(join.a)
        self.wires = {w.id: w for w in plan.wires}
        self.parts: dict[str, AnyPart] = {p.id: p for p in plan.parts}
        self.loads = plan.loads
        self.supply = plan.supply
        self._wired = {end for w in plan.wires for end in (w.a, w.b)} | {end for j in plan.joins for end in (j.a, j.b)}
        self._join_what_touches()
        self._node = {terminal: self._root(terminal) for terminal in self._parent}
        self.positive, self.negative = self._rails()

    def _join_what_touches(self) -> None:
        for part in self.plan.parts:
            if isinstance(part, Coil):  # one end of a lighting coil is its core, and so the frame
                self._parent[self._root(f"{part.id}.earth")] = self._root(FRAME)
            elif isinstance(part, Converter) and not part.isolated:
                self._parent[self._root(f"{part.id}.neg")] = self._root(f"{part.id}.inn")
            elif isinstance(part, Port) and self.supply:
                self._parent[self._root(f"{part.id}.neg")] = self._root(f"{self.supply.id}.neg")

    def _rails(self) -> tuple[str, str]:
        """The rail that everything hangs on: behind the combiner where packs are joined, else the supply's ends."""
        if self.supply is None:
            return "", ""
        if isinstance(self.supply, Coil):
            return self.node(f"{self.supply.id}.hot"), self.node(f"{self.supply.id}.earth")
        combiner = next((p for p in self.plan.parts if isinstance(p, Combiner)), None)
        positive = f"{combiner.id}.out" if combiner else f"{self.supply.id}.pos"
        return self.node(positive), self.node(f"{self.supply.id}.neg")

    def _root(self, terminal: str) -> str:
        while self._parent[terminal] != terminal:
            terminal = self._parent[terminal]
        return terminal

    def node(self, terminal: str) -> str:
        """The node a terminal belongs to."""
        return self._node[terminal]

    def ends(self, part: AnyPart) -> tuple[str, str]:
        """The nodes of a generator, drive or the machine's own load: its terminals where they are wired, else the rail."""
        plus, minus = f"{part.id}.pos", f"{part.id}.neg"
        return (self.node(plus) if plus in self._wired else self.positive,
                self.node(minus) if minus in self._wired else self.negative)

    @cached_property
    def uses_frame(self) -> bool:
        """Whether anything of the plan touches the frame, beyond the machine's own strap."""
        return any(isinstance(p, FramePoint | Coil) or (isinstance(p, LoadPart) and p.body == "on the frame")
                   for p in self.plan.parts)

    @cached_property
    def links(self) -> tuple[Link, ...]:
        """Every element that can carry load current, contacts taken as closed: wires first. Coils are not among them."""
        n = self.node
        found = [Link(w.id, n(w.a), n(w.b)) for w in self.plan.wires]
        for part in self.plan.parts:
            found += self._contacts(part)
        if self.uses_frame and self.supply and self.plan.machine.chassis == "negative" and n(FRAME) != self.negative:
            found.append(Link(STRAP, n(FRAME), self.negative))
        return tuple(found)

    def _contacts(self, part: AnyPart) -> Iterator[Link]:
        n, p = self.node, part.id
        if isinstance(part, FusePart | Switch | Way):
            yield Link(p, n(f"{p}.a"), n(f"{p}.b"))
        elif isinstance(part, Relay):
            yield Link(p, n(f"{p}.30"), n(f"{p}.87"))
        elif isinstance(part, Tap) and part.function == "feed" and self.supply:
            yield Link(p, self.positive, n(f"{p}.pin"))
            yield Link(f"{p}.gnd", n(f"{p}.gnd"), self.negative)
        elif isinstance(part, FramePoint):
            yield Link(p, n(f"{p}.t"), n(FRAME))
        elif isinstance(part, LoadPart) and part.body == "on the frame":
            yield Link(f"{p}.body", n(f"{p}.neg"), n(FRAME))
        elif isinstance(part, Combiner) and part.way != "diode":
            for side in ("a", "b"):
                yield Link(f"{p}.{side}", n(f"{p}.{side}"), n(f"{p}.out"))

    @cached_property
    def taps_unknown(self) -> tuple[Tap, ...]:
        """Found wires and pins whose factory fuse nobody has found yet."""
        return tuple(p for p in self.plan.parts if isinstance(p, Tap) and p.fused_a is None and not p.unfused)

    @cached_property
    def coils(self) -> tuple[Link, ...]:
        """Relay coils, named "K1.coil"."""
        return tuple(Link(f"{p.id}.coil", self.node(f"{p.id}.86"), self.node(f"{p.id}.85"))
                     for p in self.plan.parts if isinstance(p, Relay))

    def conducts(self, element: str, state: States, closed: dict[str, bool], position: str = "") -> bool:
        """Whether a link conducts in a state, with these relays closed and the changeover where it is, or at `position`."""
        part = self.parts.get(element.split(".")[0])
        if isinstance(part, Relay):
            return element.endswith(".coil") or closed.get(part.id, False)
        if isinstance(part, Switch):
            return state in part.closed_in
        if isinstance(part, Way):
            return state in LIVE_STATES[part.live]
        if isinstance(part, Tap) and not element.endswith(".gnd"):
            return state in LIVE_STATES[part.live]
        if isinstance(part, Combiner) and part.way == "changeover":
            return element.endswith(f".{position or part.position}")
        return True

    def contact_ohm(self, element: str, rating_a: dict[str, float]) -> float:
        """Resistance of a fuse, contact, plug, joint or coil."""
        part = self.parts.get(element.split(".")[0])
        if isinstance(part, FusePart):
            return fuses.BY_RATING[rating_a[part.id]].hot_ohm
        if isinstance(part, Relay):
            return part.coil_ohm if element.endswith(".coil") else part.contact_mohm / 1000
        if isinstance(part, Switch | Way | Combiner):
            return part.contact_mohm / 1000
        if isinstance(part, FramePoint):
            return part.joint_mohm * part.ageing / 1000
        if isinstance(part, LoadPart):
            return BODY_OHM
        if isinstance(part, Tap):
            return TAP_RETURN_OHM if element.endswith(".gnd") else part.source_mohm / 1000
        return STRAP_OHM

    @cached_property
    def elements(self) -> net.Network:
        """Everything that may ever conduct, as one network; a state says what does. Fuses stand at 1 ohm."""
        closed = {p.id: 1.0 for p in self.plan.parts if isinstance(p, FusePart)}
        resistors = tuple(
            net.Resistor(k.element, k.a, k.b, 1.0 if k.element in self.wires or k.element in closed
                         else self.contact_ohm(k.element, {}))
            for k in (*self.links, *self.coils))
        sources, loads, diodes, converters = [], [], [], []
        for part in self.plan.parts:
            p = part.id
            if isinstance(part, Battery | Pack):
                sources.append(net.Source(p, self.node(f"{p}.pos"), self.node(f"{p}.neg"), 1.0, 0.01))
            elif isinstance(part, Coil) and part is self.supply:
                sources.append(net.Source(p, self.positive, self.negative, 1.0, 0.01))
            elif part.kind == "generator":
                sources.append(net.Source(p, *self.ends(part), 1.0))
            elif isinstance(part, LoadPart):
                loads.append(accessory(part, self.node(f"{p}.pos"), self.node(f"{p}.neg")))
            elif isinstance(part, OwnLoad | Drive):
                floor = OWN_FLOOR_SHARE * self.plan.machine.system_v
                limit = part.limit_a if isinstance(part, Drive) else math.inf
                loads.append(net.Load(p, *self.ends(part), net.CONSTANT_POWER, 1.0, floor, limit_a=limit))
            elif isinstance(part, Combiner) and part.way == "diode":
                diodes += [net.Diode(f"{p}.{side}", self.node(f"{p}.{side}"), self.node(f"{p}.out"),
                                     part.drop_mv / 1000, part.contact_mohm / 1000) for side in ("a", "b")]
            elif isinstance(part, Converter):
                converters.append(net.Converter(
                    p, self.node(f"{p}.inp"), self.node(f"{p}.inn"), self.node(f"{p}.pos"), self.node(f"{p}.neg"),
                    part.out_v, part.rated_a, part.efficiency_frac, part.idle_w, part.window_low_v, part.window_high_v))
            elif isinstance(part, Port):
                converters.append(net.Converter(p, self.positive, self.negative, self.node(f"{p}.pos"),
                                                self.node(f"{p}.neg"), part.out_v, part.limit_w / part.out_v,
                                                PORT_EFFICIENCY))
        starter = next((p for p in self.plan.parts if isinstance(p, Starter)), None)
        ends = (self.node(f"{starter.id}.pos"), self.node(f"{starter.id}.neg")) if starter else (
            self.positive, self.negative)
        loads.append(net.Load(starter.id if starter else CRANK, *ends, net.CONSTANT_CURRENT, 0.0, 1.0))
        return net.Network(self.negative, resistors, tuple(sources), tuple(loads), tuple(diodes), tuple(converters))

    # -- ways ---------------------------------------------------------------------------------------------------

    @cached_property
    def roots(self) -> tuple[Root, ...]:
        """The main supply, then every converter and light port."""
        found = [Root(self.supply.id, self.positive, self.negative)] if self.supply else []
        found += [Root(p.id, self.node(f"{p.id}.pos"), self.node(f"{p.id}.neg")) for p in self.plan.parts
                  if isinstance(p, Converter | Port)]
        return tuple(found)

    @cached_property
    def paths(self) -> dict[str, CircuitPath]:
        """The way to each load and back, by load id; empty where there is none."""
        ways = [(root, self._ways_from(root.positive, root), self._ways_from(root.negative, root))
                for root in self.roots]
        return {load.id: self._path(load.id, self.node(f"{load.id}.pos"), self.node(f"{load.id}.neg"), ways)
                for load in self.loads}

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
        inputs = {p.id: self.converter_path(p.id) for p in self.plan.parts if isinstance(p, Converter)}
        for load in self.loads:
            path: CircuitPath | None = self.paths[load.id]
            while path is not None:
                for link in (*path.feed, *path.back):
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
    def protected_behind(self) -> dict[str, tuple[str, ...]]:
        """For every fuse, way and plug, the fuses and ways behind it on the way to a load."""
        table: dict[str, dict[str, None]] = {}
        for load in self.loads:
            chain = [k.element for k in self.paths[load.id].feed if isinstance(self.parts.get(k.element), FusePart | Way | Tap)]
            for i, upstream in enumerate(chain):
                table.setdefault(upstream, {}).update(dict.fromkeys(chain[i + 1:]))
        return {element: tuple(found) for element, found in table.items()}

    @cached_property
    def pack_leads(self) -> frozenset[str]:
        """What leads from the traction packs to the rail that everything hangs on, and back."""
        found: set[str] = set()
        for rail, end in ((self.positive, "pos"), (self.negative, "neg")):
            for pack in self.plan.packs:
                found.update(self.way_of_short(Root(pack.id, rail, self.node(f"{pack.id}.{end}")), set()))
        return frozenset(found)

    def converter_path(self, converter: str) -> CircuitPath:
        """The way from the main supply to a converter's input and back."""
        return self.way_to(converter, f"{converter}.inp", f"{converter}.inn")

    def way_to(self, name: str, plus: str, minus: str) -> CircuitPath:
        """The way from the main supply to a pair of terminals and back; empty without a supply."""
        if not self.roots:
            return CircuitPath(name, Root("", "", ""), (), ())
        root = self.roots[0]
        ways = [(root, self._ways_from(root.positive, root), self._ways_from(root.negative, root))]
        return self._path(name, self.node(plus), self.node(minus), ways)

    def way_of_short(self, root: Root, dead: set[str]) -> tuple[str, ...]:
        """The elements that join a root's two ends directly, without what is `dead`; empty where the two are one terminal."""
        before: dict[str, Link | None] = {root.positive: None}
        queue = [root.positive]
        for node in queue:
            for _, link in self._neighbours.get(node, ()):
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
            for length, link in self._neighbours.get(node, ()):
                far = so_far + length
                if far < best.get(link.b, float("inf")):
                    best[link.b], last[link.b] = far, link
                    heapq.heappush(queue, (far, link.b))
        return last

    @cached_property
    def _neighbours(self) -> dict[str, list[tuple[float, Link]]]:
        found: dict[str, list[tuple[float, Link]]] = {}
        diodes = [Link(d.name, d.a, d.b) for d in self.elements.diodes]
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


CRANK = "starter"


def accessory(part: LoadPart, plus: str, minus: str) -> net.Load:
    """The network element of an accessory: resistor by V^2/P at its stated voltage, lamp, or constant watts or amps."""
    if part.behaviour == "resistor":
        return net.Load(part.id, plus, minus, net.RESISTIVE, part.at_v**2 / part.power_w)
    if part.behaviour == "filament":
        return net.Load(part.id, plus, minus, net.FILAMENT, part.power_w, 0.0, part.at_v)
    floor = FLOOR_SHARE * part.at_v
    if part.behaviour == "power":
        return net.Load(part.id, plus, minus, net.CONSTANT_POWER, part.power_w, floor)
    return net.Load(part.id, plus, minus, net.CONSTANT_CURRENT, part.current_a, floor)


def accessory_current_a(part: LoadPart, voltage_v: float) -> float:
    """What an accessory draws at a voltage across it."""
    if part.behaviour == "resistor":
        return voltage_v * part.power_w / part.at_v**2
    if part.behaviour == "filament":
        return float(part.current_a * (voltage_v / part.at_v) ** net.FILAMENT_EXPONENT)
    return part.power_w / voltage_v if part.behaviour == "power" else part.current_a
