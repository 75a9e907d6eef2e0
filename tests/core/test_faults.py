"""Where fault currents flow: the core that is solved, and the branches that hang on it by a single way."""

import numpy as np
import pytest
from builders import Bench
from reference.generated import KINDS, generated

from loadstar.core.analysis import analyse
from loadstar.core.edits import AddWire, apply
from loadstar.core.parts.converter import SHORT_MULTIPLE
from loadstar.core.parts.inside import ABSENT
from loadstar.core.physics.network import System
from loadstar.core.sizing.faults import FaultFinder
from loadstar.core.wiring.thermal import Thermal
from loadstar.core.wiring.topology import Topology


@pytest.mark.parametrize("kind", KINDS)
def test_branches_and_core_together_give_the_whole_network_s_answer(kind):
    """Against a solution with a probe at both ends of every fault, nothing left out."""
    plan = generated(kind, 1)
    topology = Topology(plan)
    system = System(topology.elements)
    finder = FaultFinder(topology, Thermal(topology), system)
    choices = analyse(plan).sized.choices
    for case in (one for cases in finder.cases([]) for one in cases):
        flows, way = finder.flows(case, choices, np.full(len(plan.wires), 40.0), strong=True), finder.way(case.closed)
        given = system.conditions()
        given.ohm[0] = flows.ohm
        for j, source in enumerate(system.network.sources):
            driven = finder.topology.parts[source.name].drives_fault(plan.machine, strong=True,
                                                                     alone=case.alone == source.name) if (
                case.alone in ("", source.name)) else ABSENT
            given.across[0, j], given.series[0, j], given.drive[0, j] = driven.across, driven.series.real, driven.drive
        limits = np.array([c.out_v / (c.limit_a * SHORT_MULTIPLE) for c in system.network.converters])
        node, open_v = system.impedances(given, range(system.n), limits, finder.diodes(case))
        for i, (p, m) in enumerate(zip(finder.plus, finder.minus, strict=True)):
            ohm = node[p, p] - node[p, m] - node[m, p] + node[m, m]
            amps = abs(open_v[p] - open_v[m]) / ohm if ohm > 1e-6 else 0.0
            fall = node @ (np.eye(system.n)[p] - np.eye(system.n)[m])
            backwards = not case.alone and any(fall[b] - fall[a] < -1e-6 for a, b in system.d.T)
            assert flows.prospective_a[i] == pytest.approx(0.0 if backwards else amps, rel=1e-6, abs=1e-6)
            if flows.prospective_a[i] < 1e-3:
                continue
            # Every resistor of its branches carries the whole of it.
            drop = np.abs(fall[system.r[0]] - fall[system.r[1]]) / flows.ohm
            assert drop[way.edge[way.fault == i]] == pytest.approx(1.0)


def test_of_two_like_fuses_in_series_the_nearer_one_is_named():
    b = Bench()
    lamp = b.lamp(30)
    own, main = b.fuse_of(lamp), next(p.id for p in b.plan.parts if p.kind == "fuse" and p.made_for == b.block)
    for fuse in (own, main):
        b.change(fuse, rating_a=10)
    assert analyse(b.plan).wires[b.feed_wire(lamp)].guard.fuse == own


def test_a_ring_is_no_branch():
    b = Bench()
    lamp = b.lamp()
    wire = b.feed_wire(lamp)
    plan = apply(b.plan, AddWire(a=b.plan.wire(wire).a, b=f"{lamp}.pos"))
    topology = Topology(plan)
    finder = FaultFinder(topology, Thermal(topology), System(topology.elements))
    via = finder.way(~finder.coil).branches.via
    rows = [i for i, w in enumerate(finder.wires) if w in (wire, plan.wires[-1].id)]
    assert not set(rows) & set(via.tolist())
    # Two alike wires side by side: each carries half of a touch at their end.
    guards = analyse(plan).wires
    assert guards[wire].guard.share == pytest.approx(0.5, abs=0.01)
