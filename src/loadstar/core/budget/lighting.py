"""Lamps on a magneto's coil: volts over speed, with everything on that may be on together and with each lamp failed.

Every stand of the switches at cruise is looked at, and in each every speed. Every speed is one state of the plan's own
network, solved together by phasors: the coil as an EMF behind resistance and reactance that rise with speed, the lamps
as filaments (I ~ V^0.55), wires at the temperature of the running state. Lamp life goes as V^-13. With a regulator
(clamp) the coil's voltage is held at its limit.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .. import limits
from ..parts.coil import Coil
from ..physics.batch import Conditions
from ..physics.elements import Load, Network, Resistor
from ..physics.network import System
from ..plan.stands import Stands, turned
from ..wiring.conductor import conductor
from ..wiring.results import Choices
from ..wiring.topology import Topology

LIFE_EXPONENT = -13.0
SPEEDS = 25
UNLIT_V = 0.05  # a lamp with less is not lit
Array = NDArray[np.float64]


@dataclass(frozen=True)
class LampVolts:
    """Volts of every lamp (speeds, lamps): the most of any stand of the switches in which it is lit, the `least` of
    these, and the most with each lamp failed in turn that is lit with it (failed, speeds, lamps)."""

    rpm: tuple[float, ...]
    lamps: tuple[str, ...]
    volts: Array
    least: Array
    failed: Array

    def at(self, lamp: str, rpm: float) -> float:
        """Volts of a lamp at a speed, all on (between the computed speeds linearly)."""
        return float(np.interp(rpm, self.rpm, self.volts[:, self.lamps.index(lamp)]))

    def least_at(self, lamp: str, rpm: float) -> float:
        """Least volts of a lamp at a speed, of any stand of the switches in which it is lit."""
        return float(np.interp(rpm, self.rpm, self.least[:, self.lamps.index(lamp)]))

    def at_failed(self, gone: str, lamp: str, rpm: float) -> float:
        """Volts of a lamp at a speed when another has failed."""
        rows = self.failed[self.lamps.index(gone)]
        return float(np.interp(rpm, self.rpm, rows[:, self.lamps.index(lamp)]))

    def most(self, lamp: str) -> float:
        """Highest volts of a lamp up to the top speed, all on."""
        return float(self.volts[:, self.lamps.index(lamp)].max())


def life_share(volts_v: float, nominal_v: float) -> float:
    """Lamp life at a voltage, as a share of that at its nominal voltage."""
    return float((max(volts_v, 1e-6) / nominal_v) ** LIFE_EXPONENT)


def lamp_volts(topology: Topology, choices: Choices, mean_c: dict[str, float],
               rpm: Array | None = None) -> LampVolts | None:
    """Lamp volts over speed; None when nothing of the plan hangs on a lighting coil."""
    plan, coil = topology.plan, topology.plan.one(Coil)
    if coil is None:
        return None
    island = _island(topology, coil)
    names = [e.name for e in island.loads]
    lamps = [i for i, load in enumerate(topology.loads) if load.behaviour == "filament" and load.id in names]
    if not lamps:
        return None
    top_rpm = max(plan.machine.cruise_rpm * 1.2, plan.machine.rev_rpm or 0.0, 3000)
    speeds = rpm if rpm is not None else np.linspace(500, top_rpm, SPEEDS)
    system = System(island)
    stands, cases = _stands(topology, system), 1 + len(lamps)
    given = system.conditions(len(stands) * cases * len(speeds))
    for at, stand in enumerate(stands):
        _set_wires(topology, system, choices, mean_c, stand, given.ohm[at * cases * len(speeds):][:cases * len(speeds)])
    by_case = given.value.reshape(len(stands), cases, len(speeds), -1)
    columns = [names.index(topology.loads[i].id) for i in lamps]
    for k, column in enumerate(columns):
        by_case[:, k + 1, :, column] = 0.0
    potential = _driven(system, given, coil, np.tile(speeds, len(stands) * cases))
    across = np.abs(potential[:, system.e[0, columns]] - potential[:, system.e[1, columns]])
    shaped = across.reshape(len(stands), cases, len(speeds), len(lamps))
    return _told(speeds, tuple(topology.loads[i].id for i in lamps), shaped)


def _told(speeds: Array, lamps: tuple[str, ...], volts: Array) -> LampVolts:
    """Of volts by (stand, case, speed, lamp), the first case with all lamps whole, what counts of each lamp."""
    lit = volts[:, 0] > UNLIT_V
    least = np.where(lit, volts[:, 0], np.inf).min(axis=0)
    with_it = lit.transpose(2, 0, 1)[..., None]  # that the one that fails is lit, by (lamp, stand, speed)
    failed = np.where(with_it, volts[:, 1:].transpose(1, 0, 2, 3), volts[None, :, 0]).max(axis=1)
    return LampVolts(tuple(speeds.tolist()), lamps, volts[:, 0].max(axis=0), np.where(np.isfinite(least), least, 0.0),
                     failed)


def _driven(system: System, given: Conditions, coil: Coil, rpm: Array) -> Array:
    """Potentials with the coil at these speeds, one for each state; no more than its clamp lets it give."""
    given.series, given.drive = given.series.astype(complex), given.drive.astype(complex)
    given.drive[:, 0] = coil.emf_mv_per_rpm * rpm / 1000
    given.series[:, 0] = -(coil.winding_ohm + 1j * coil.reactance_mohm_per_rpm * rpm / 1000)
    potential = _potential(system, given)
    hot, earth = system.s[:, 0]
    if coil.clamp_v is not None:
        over = np.abs(potential[:, hot] - potential[:, earth]) > coil.clamp_v
        given.series[over, 0], given.drive[over, 0] = 0.0, coil.clamp_v
        potential = _potential(system, given)
    return potential


def _potential(system: System, given: Conditions) -> Array:
    """Potentials by (state, node), some states at a time: all lamps at all speeds would not fit into memory."""
    states, at_once = len(given.ohm), limits.rows_at_once(system.size)
    return np.concatenate([
        system.solve(Conditions(*(v[first: first + at_once] for v in vars(given).values()))).potential
        for first in range(0, states, at_once)])


def _island(topology: Topology, coil: Coil) -> Network:
    """The coil's own circuits: everything that current from its lamp end reaches before it is back at the coil's end
    on the frame."""
    whole = topology.elements
    source = next(s for s in whole.sources if s.name == coil.id)
    beside: dict[str, list[Resistor | Load]] = {}
    every: tuple[Resistor | Load, ...] = (*whole.resistors, *whole.loads)
    for element in every:
        for node in _ends(element):
            beside.setdefault(node, []).append(element)
    reached, found, ahead = {source.plus, source.minus}, set[str](), [source.plus]
    while ahead:
        for element in beside.get(ahead.pop(), ()):
            found.add(element.name)
            ahead += [node for node in _ends(element) if node not in reached]
            reached.update(_ends(element))
    return Network(source.minus, tuple(r for r in whole.resistors if r.name in found), (source,),
                   tuple(e for e in whole.loads if e.name in found))


def _ends(element: Resistor | Load) -> tuple[str, str]:
    return (element.a, element.b) if isinstance(element, Resistor) else (element.plus, element.minus)


def _stands(topology: Topology, system: System) -> list[Stands]:
    """Every stand of the switches that moves something in the coil's circuits."""
    usual = topology.stands("cruise")
    moving = {b.moved_by for r in system.network.resistors if (b := topology.branches.get(r.name)) and b.moved_by}
    return [usual, *(other.stands for other in turned(topology.plan, "cruise")
                     if any(other.stands.get(key) != usual.get(key) for key in moving))]


def _set_wires(topology: Topology, system: System, choices: Choices, mean_c: dict[str, float], stands: Stands,
               ohm: Array) -> None:
    for row, element in enumerate(r.name for r in system.network.resistors):
        if element in topology.wires:
            wire = conductor(topology.plan, topology.wires[element], choices.area_mm2[element])
            ohm[:, row] = wire.ohm(topology.geometry[element].length_m, min(mean_c.get(element, 40.0), 250.0))
        elif not topology.conducts(element, "cruise", {}, stands):
            ohm[:, row] = np.inf
        elif element in choices.rating_a:
            ohm[:, row] = topology.contact_ohm(element, choices.rating_a)
