"""How far copper reaches from a store's terminal before the first thing that opens, and what it goes past."""

import heapq
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from ..wiring.topology import Topology
from .currents import Faults
from .drops import starter_leads


@dataclass(frozen=True)
class Unfused:
    """The way to the far end of a wire that nothing guards: its wires from the store on, and their length together. A
    starter's leads are in it without their length: custom leaves them unfused."""

    way: tuple[str, ...]
    length_m: float


def unfused_ways(topology: Topology, faults: Faults) -> dict[str, Unfused]:
    """For every wire that nothing guards the shortest way to its far end from a store's terminal without passing
    anything that opens; where no store is on such a way, the wire by itself."""
    if not faults.solved:
        return {}
    bare = {w for w, guard in faults.guards.items()
            if guard is None and w not in faults.unknown and faults.fault_a.get(w, 0.0) > 0}
    found: dict[str, Unfused] = {}
    reached = _reached(topology, bare, (topology.node(p.at("pos")) for p in topology.parts.values() if p.STORES))
    length = {w: topology.geometry[w].length_m for w in bare}
    leads = set(starter_leads(topology))
    for name in sorted(bare):
        wire = topology.wires[name]
        ends = [reached[n] for n in (topology.node(wire.a), topology.node(wire.b)) if n in reached]
        begin = min(ends, default=(0.0, ()))
        own = 0.0 if name in leads else length[name]
        found[name] = Unfused((*(w for w in begin[1] if w != name), name), begin[0] + own)
    return found


def _reached(topology: Topology, bare: set[str],
             starts: Iterable[str]) -> Mapping[str, tuple[float, tuple[str, ...]]]:
    """Every node that copper joins to some without passing an opener: how far, and by which wires."""
    leads = set(starter_leads(topology))
    best: dict[str, tuple[float, tuple[str, ...]]] = {}
    queue: list[tuple[float, tuple[str, ...], str]] = [(0.0, (), start) for start in starts]
    heapq.heapify(queue)
    while queue:
        far, way, node = heapq.heappop(queue)
        if node in best:
            continue
        best[node] = (far, way)
        for length, link in topology.neighbours.get(node, ()):
            element = link.element
            if element in topology.wires:
                if element in bare:
                    heapq.heappush(queue, (far + (0.0 if element in leads else length), (*way, element), link.b))
            elif element not in topology.protecting:
                heapq.heappush(queue, (far, way, link.b))
    return best


def bridged(topology: Topology, faults: Faults) -> dict[str, tuple[str, ...]]:
    """The openers that a fault has opened in vain because copper joins their two ends past everything that opens: by
    which wires."""
    bare = {w for w, guard in faults.guards.items() if guard is None}
    ends = {str(link.element): link for link in topology.links}
    found = {}
    for part in sorted({o for past in faults.bypassed.values() for o in past.opened}):
        if part in ends:
            past = _reached(topology, bare, [ends[part].a]).get(ends[part].b)
            if past is not None:
                found[part] = past[1]
    return found
