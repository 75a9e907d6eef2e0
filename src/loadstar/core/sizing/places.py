"""Where a plan may be shorted: a touch at either end of every wire, and every pair of terminals that a part may
short."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ..parts.inside import Branch
from ..physics.graph import components
from ..physics.network import System
from ..wiring.thermal import Thermal
from ..wiring.topology import Topology
from .flows import FaultCase

IntArray = NDArray[np.int64]
BoolArray = NDArray[np.bool_]


class FaultPlaces:
    """The places where a plan may be shorted, and what lies there. Made once."""

    def __init__(self, topology: Topology, thermal: Thermal, system: System) -> None:
        self.topology, self.thermal, self.system = topology, thermal, system
        self.wires = thermal.wires
        self.contacts = [k.element for k in (*topology.links, *topology.coils)]
        self.branches = [topology.branches.get(c) for c in self.contacts]
        self.coil, self.fused = self.are(lambda b: b.control), self.are(lambda b: b.ohm is None)
        n, at = topology.node, system.index
        shorts = [(n(a), n(b)) for inside in topology.inside.values() for a, b in inside.shorted]
        ends = [n(w.a) for w in topology.plan.wires] + [n(w.b) for w in topology.plan.wires]
        self.touches = len(ends)
        self.group = self.joined(~self.coil, np.ones(system.d.shape[1], bool))
        self.apart = self.joined(~self.coil, np.zeros(system.d.shape[1], bool))  # as groups, no diode conducting
        plus = np.array([at[e] for e in ends] + [at[a] for a, _ in shorts], int)
        minus = np.concatenate([self._negatives(plus[: len(ends)]), np.array([at[b] for _, b in shorts], int)])
        # What wires and joints alone join to its own negative lies at its volts: a touch of it drives nothing.
        fixed = self.joined(~(self.coil | self.are(lambda b: b.opens)), np.zeros(system.d.shape[1], bool))
        self.tied = fixed[plus] == fixed[minus]
        self.plus, self.minus = plus, minus
        self.limits = {p.id: replace(limit, reach="all") if p is topology.supply else limit
                       for p in topology.parts.values() if (limit := p.limit(topology.machine))}

    def are(self, what: Callable[[Branch], bool]) -> BoolArray:
        """Of which resistors something is true; of a wire it never is."""
        return np.array([b is not None and what(b) for b in self.branches], bool)

    def joined(self, closed: BoolArray, diode_on: BoolArray) -> IntArray:
        """The group of every node that copper joins."""
        pairs = np.concatenate([self.system.r, self.system.d], axis=1)[:, np.concatenate([closed, diode_on])]
        return components(pairs, self.system.n)[1]

    def conducting(self, closed: BoolArray, diode_on: BoolArray, feeds: BoolArray) -> IntArray:
        """The group of every node that copper or a source joins."""
        system = self.system
        pairs = np.concatenate([system.r[:, closed], system.d[:, diode_on], system.s[:, feeds], system.co], axis=1)
        return components(pairs, system.n)[1]

    def _negatives(self, nodes: IntArray) -> IntArray:
        """For each node the negative of the supply whose positive it is joined to by copper: of the store before whose
        fuse it lies, else of the rail or converter that it hangs on."""
        at = self.system.index
        roots = [(self.group[at[r.positive]], at[r.negative]) for r in self.topology.roots]
        negative = dict(reversed(roots))
        bare = ~(self.coil | self.are(lambda b: b.divides))
        zone = self.joined(bare, np.zeros(self.system.d.shape[1], bool))
        own = {zone[at[self.topology.node(p.at("pos"))]]: at[self.topology.node(p.at("neg"))]
               for p in self.topology.parts.values() if p.STORES}
        return np.array([own.get(zone[i], negative.get(self.group[i], roots[0][1])) for i in nodes.tolist()], int)

    def diodes(self, case: FaultCase) -> BoolArray:
        """Ideal diodes that conduct: those that what feeds reaches from the front."""
        if not case.alone:
            return np.ones(self.system.d.shape[1], bool)
        part = self.topology.parts[case.alone]
        reached = {self.apart[self.system.index[self.topology.node(part.at("pos"))]]}
        begin, end = self.apart[self.system.d]
        while (further := reached | set(end[np.isin(begin, list(reached))].tolist())) != reached:
            reached = further
        return np.isin(begin, list(reached))
