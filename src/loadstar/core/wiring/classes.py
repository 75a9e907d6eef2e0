"""Which voltage class each wire is to be of: what a traction pack's full voltage lies on."""

from ..parts.fuse import FusePart
from ..refs import TerminalRef
from .circuit import Link
from .topology import Topology

USUAL_V = 60.0  # ISO 19642: what a road-vehicle wire of the usual class is for, DC; the next class is for 600 V
CLASS_SOURCE = "ISO 6722-1 / ISO 19642: voltage classes of 60 V and 600 V DC"


def packs_at(topology: Topology, ends: tuple[TerminalRef, ...]) -> set[str]:
    """The packs that copper joins to some terminals without passing a contact of a changeover, which parts them."""
    seen = topology.reached(map(topology.node, ends), lambda link: _passes(topology, link))
    return {p.id for p in topology.plan.packs if topology.node(p.at("pos")) in seen}


def packs_at_fuse(topology: Topology, fuse: FusePart) -> set[str]:
    """The packs that a fuse may have to break."""
    return packs_at(topology, (fuse.at("a"), fuse.at("b")))


def high_wires(topology: Topology) -> dict[str, float]:
    """The wires above the usual class, each with the highest voltage, V, of a full pack that lies on it: everything
    that copper joins to the pack's positive, and of its negative what ends at a part that has both (but for the output
    of a converter, whose negative is often the same)."""
    plan = topology.plan
    outputs = {end for inside in topology.inside.values() for end in inside.output or ()}
    found: dict[str, float] = {}
    for pack in (p for p in plan.packs if p.full_v > USUAL_V):
        live = _reached(topology, pack.at("pos"))
        dead = _reached(topology, pack.at("neg")) - live
        on_it = _parts_at(topology, live)
        for wire in plan.wires:
            ends = {end.part for end in (wire.a, wire.b) if end not in outputs}
            if topology.node(wire.a) in live or (topology.node(wire.a) in dead and ends & on_it):
                found[wire.id] = max(pack.full_v, found.get(wire.id, 0.0))
    return found


def of_600_v(topology: Topology) -> frozenset[str]:
    """The wires that are of the class for 600 V: as it is stated, or as their voltage needs."""
    high = high_wires(topology)
    return frozenset(w.id for w in topology.plan.wires
                     if w.voltage_class == "600 V" or (w.voltage_class is None and w.id in high))


def _reached(topology: Topology, start: TerminalRef) -> set[str]:
    return topology.reached([topology.node(start)], lambda link: _passes(topology, link))


def _passes(topology: Topology, link: Link) -> bool:
    branch = topology.branches.get(link.element)
    return branch is None or not branch.changes_over


def _parts_at(topology: Topology, nodes: set[str]) -> set[str]:
    return {p.id for p in topology.plan.parts if any(topology.node(p.at(t)) in nodes for t in p.ends)}
