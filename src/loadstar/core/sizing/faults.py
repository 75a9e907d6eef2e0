"""Where a fault's current flows, and what sees it.

A fault is looked at for every wire (a touch to its source's negative at either end, and a short across every load) with
the loads removed. Where its current flows is the network's answer, so rings, shared returns and several supplies need
no special case. It is solved in each case with what conducts in it: a changeover at each of its positions, joined packs
together and each alone, an ideal diode only forwards, and contacts as they stand in a state wherever it matters which
of them are closed at once. What hangs on the rest by a single way (a branch) carries the whole current of every fault
at its end and none of the others', so that only the core that is left is solved. A converter stands as its output
voltage behind the resistance that lets its limit flow into a short; a generator on leads of its own as its
short-circuit current.
"""


import numpy as np
from numpy.typing import NDArray

from .. import limits
from ..parts.inside import ABSENT
from ..physics.elements import NetworkError
from ..physics.network import System
from ..wiring.results import Choices
from ..wiring.thermal import Thermal
from ..wiring.topology import Topology
from .currents import Faults
from .flows import LEAST_SHARE, FaultCase, Flows, Ways
from .places import FaultPlaces
from .worst import Worst

Array = NDArray[np.float64]
BoolArray = NDArray[np.bool_]
MOST_PATTERNS = 8
LEAST_OHM = 1e-6  # a loop of less is none: both ends of it are one terminal


class FaultFinder(FaultPlaces):
    """The ways that a plan's faults take, and what sees them. Sizes and ratings are given."""

    def __init__(self, topology: Topology, thermal: Thermal, system: System) -> None:
        super().__init__(topology, thermal, system)
        self._ways: dict[bytes, Ways] = {}

    def elsewhere(self, position: str) -> BoolArray:
        """The branches that conduct only while the changeover stands somewhere else."""
        return self.are(lambda b: b.changes_over and position not in b.positions)

    # -- cases --------------------------------------------------------------------------------------------------

    def cases(self, patterns: list[BoolArray]) -> list[list[FaultCase]]:
        """Every case that has to be looked at, by what is closed in it: each store alone, all together, a generator on
        leads of its own alone. `patterns` are the contacts' stands in the plan's states."""
        topology, base = self.topology, ~self.coil
        positions = sorted({at for b in topology.branches.values() if b.changes_over for at in b.positions})
        masks = [base & ~self.elsewhere(at) for at in positions] or [base]
        alone = [p.id for p in topology.parts.values() if p.STORES]
        generator = topology.plan.generator
        on_leads = generator is not None and (topology.node(generator.at("pos")),
                                              topology.node(generator.at("neg"))) != (
            topology.positive, topology.negative)
        found = []
        for mask in masks:
            for closed, spare in self._patterned(mask, patterns):
                each = [FaultCase(closed, one, spare) for one in alone] if len(alone) > 1 else []
                each.append(FaultCase(closed, spare=spare))
                if on_leads and generator:
                    each.append(FaultCase(closed, generator.id, spare))
                found.append(each)
        return found

    def _patterned(self, mask: BoolArray, patterns: list[BoolArray]) -> list[tuple[BoolArray, bool]]:
        """The mask with every contact closed; or, where contacts lie in a ring, as they stand in each state."""
        core = self.way(mask).branches.in_core(mask)
        rows = np.flatnonzero(core & self.are(lambda b: b.opens))
        stands = {p[rows - len(self.wires)].tobytes(): p for p in patterns} if len(rows) else {}
        if len(stands) < 2 or len(rows) < 2:
            return [(mask, False)]
        found = []
        for pattern in list(stands.values())[:MOST_PATTERNS]:
            closed = mask.copy()
            closed[rows] &= pattern[rows - len(self.wires)]
            found.append((closed, False))
        return [*found, (mask, True)]

    def way(self, closed: BoolArray) -> Ways:
        """The ways of all faults with these contacts closed."""
        key = closed.tobytes()
        if key not in self._ways:
            self._ways[key] = Ways(self.system, closed, self.plus, self.minus)
        return self._ways[key]

    # -- the answer ---------------------------------------------------------------------------------------------

    def find(self, choices: Choices, ambient_c: Array, patterns: list[BoolArray],
             warm_c: Array | None = None) -> Faults:
        """What guards every wire. Wires at `ambient_c` (cold copper: the largest current), and at `warm_c` for
        touches."""
        names = self.wires
        if not names:
            return Faults({}, {}, {}, True, {}, {}, {})
        worst = self.worst(choices, ambient_c)
        try:
            for cases in self.cases(patterns):
                worst.begin()
                for case in cases:
                    worst.take(case)
                    if warm_c is not None:
                        worst.touch(case, self.flows(case, choices, warm_c, strong=False))
            return worst.faults(tell=warm_c is not None)
        except NetworkError:
            return Faults(dict.fromkeys(names), dict.fromkeys(names), dict.fromkeys(names, 0.0), False, {}, {}, {})

    def worst(self, choices: Choices, ambient_c: Array) -> Worst:
        """What judges cases with these sizes and ratings, sources strong and copper as cold as the air; each stand of
        contacts is solved once."""
        solved: dict[tuple[bytes, str], tuple[Ways, Flows]] = {}

        def solve(case: FaultCase) -> tuple[Ways, Flows]:
            key = (case.closed.tobytes(), case.alone)
            if key not in solved:
                limits.check()
                solved[key] = self.way(case.closed), self.flows(case, choices, ambient_c, strong=True)
            return solved[key]

        return Worst(self, choices, ambient_c, solve)

    def flows(self, case: FaultCase, choices: Choices, wire_c: Array, *, strong: bool) -> Flows:
        """Every fault's prospective current in a case, and what says where it flows."""
        topology, system, way = self.topology, self.system, self.way(case.closed)
        given = system.conditions()
        given.ohm[0, : len(self.wires)] = self.thermal.ohm(choices.area_mm2, wire_c)
        for row in np.flatnonzero(self.fused).tolist():
            given.ohm[0, row] = topology.contact_ohm(self.contacts[row], choices.rating_a)
        given.ohm[0, ~case.closed] = np.inf
        for j, source in enumerate(system.network.sources):
            driven = ABSENT if case.alone not in ("", source.name) else topology.parts[source.name].drives_fault(
                topology.machine, strong=strong, alone=case.alone == source.name)
            given.across[0, j], given.series[0, j], given.drive[0, j] = driven.across, driven.series.real, driven.drive
        limits = np.array([c.out_v / self.limits[c.name].most_a for c in system.network.converters])
        diode_on = self.diodes(case)
        core, open_v = system.impedances(given, way.probes.tolist(), limits, diode_on)
        p, m = way.probes[way.a], way.probes[way.b]
        core_ohm = core[p, way.a] - core[p, way.b] - core[m, way.a] + core[m, way.b]
        branch_ohm = np.bincount(way.fault, given.ohm[0][way.edge], len(self.plus))
        loop_ohm = core_ohm[way.of] + branch_ohm
        volts = np.abs(open_v[p] - open_v[m])[way.of]
        if not strong:
            volts = np.maximum(volts - topology.plan.rules.chafe_arc_v, 0.0)
        if system.d.shape[1] and not case.alone:
            # Unit current drawn at p and given back at m: an ideal diode lets it through forwards only.
            fall = core[:, way.a] - core[:, way.b]
            forwards = (fall[system.d[1]] - fall[system.d[0]]) / system.diode_ohm[:, None]
            volts = np.where((forwards < -LEAST_SHARE).any(axis=0)[way.of], 0.0, volts)
        volts = np.where(self.tied, 0.0, volts)
        if case.opened:  # what has opened may have parted a fault's two ends
            there = self.conducting(case.closed, diode_on, given.across[0] != 0)
            volts = np.where(there[self.plus] == there[self.minus], volts, 0.0)
        amps = np.where(loop_ohm > LEAST_OHM, volts / np.maximum(loop_ohm, LEAST_OHM), 0.0)
        return Flows(given.ohm[0], core, volts, loop_ohm, amps)
