"""A wire chafes through and touches the frame: what flows, what opens, and does the wire survive?

The current of a touch anywhere on a wire lies between that at its two ends (Thevenin values with the loads removed,
source at the judged charge, copper warm, less the arc's volts). It is judged at the far end, where the fuse is
slowest. The fuse is taken at its slowest, the wire from the temperature of 0.8 of its fuse's rating; below 1 s the
adiabatic limit is used, which is the safe side.
"""

import math
from dataclasses import dataclass

import numpy as np

from ..physics import overload
from ..wiring.conductor import Conductors, conductor
from ..wiring.topology import Topology
from .argument import opens_s
from .choose import Sized
from .openers import PRELOAD, Guard

LEAST_TOUCH_A = 0.5  # a return wire has no volts to drive anything into the frame


@dataclass(frozen=True)
class Chafe:
    """A touch on one wire. `opens_s` is infinite when the fuse need not open at all, `damage_s` when it stands it.

    `near_a` and `far_a` are the currents for a touch at its two ends (the larger and the smaller).
    """

    wire: str
    near_a: float
    far_a: float
    guard: Guard | None
    opens_s: float
    damage_s: float
    start_c: float

    @property
    def survives(self) -> bool:
        """Whether the fuse opens before the wire is damaged, or the wire stands the current for good."""
        return self.guard is not None and (self.opens_s <= self.damage_s or math.isinf(self.damage_s))


def chafes(topology: Topology, sized: Sized) -> dict[str, Chafe]:
    """A touch on every wire that can carry a fault, by wire id."""
    faults, plan = sized.faults, topology.plan
    names = [w.id for w in plan.wires if faults.far_a.get(w.id, 0.0) > LEAST_TOUCH_A]
    if not names:
        return {}
    guards = [faults.guards.get(w) for w in names]
    far = np.array([faults.far_a[w] for w in names])
    opens = np.array([opens_s(g, float(a)) for g, a in zip(guards, far, strict=True)])
    wires = Conductors(conductor(plan, topology.wires[w], sized.choices.area_mm2[w]) for w in names)
    air = np.array([sized.surround_c[w] for w in names])
    preload = np.array([g.lets_a(PRELOAD) if g else 0.0 for g in guards])
    start = np.minimum(wires.temperature_c(preload, air), wires.overload_c - 1)
    # The adiabatic time is always the shorter: only where the fuse is slower than that is the full model needed.
    damage = (overload.adiabatic_k(start, wires.overload_c) * wires.effective_mm2 / far) ** 2
    slow = np.flatnonzero(opens > damage)
    if len(slow):
        damage[slow] = overload.time_to_temperature_s(
            far[slow], wires.take(slow).insulated, wires.overload_c[slow], start[slow], air[slow])
    return {w: Chafe(w, faults.near_a[w], faults.far_a[w], guard, float(o), float(t), float(s))
            for w, guard, o, t, s in zip(names, guards, opens, damage, start, strict=True)}
