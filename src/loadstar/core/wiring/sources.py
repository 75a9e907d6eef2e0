"""How a plan's sources follow the voltages they make, row by row of the solution.

"regulated": the regulator holds its set-point at its own terminals and the battery takes its charge; "helped": it holds
it, but so much is lost on the way to the posts that the battery pays too; "short": the generator gives all it has as a
current and the battery the rest; "battery", "pack", "coil": nothing regulates; "clamped": an AC regulator holds a coil
at its limit.
"""

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..physics.batch import Batch, Conditions
from ..physics.network import System
from ..supply.base import Situation
from ..supply.magneto import MagnetoSupply
from .side_coil import SideCoil
from .topology import Topology

Array = NDArray[Any]
SETTLED_V = 5e-3  # the straight line through the generator's current is exact to microvolts within this
SLOPE_V = 0.05


class Sources:
    """The mode of every row, and what goes with it."""

    def __init__(self, topology: Topology, system: System, rows: tuple[Situation, ...]) -> None:
        self.topology, self.plan, self.rows = topology, topology.plan, rows
        self.mode: list[str] = [topology.source.mode(row.state) for row in rows]
        self._coil = topology.source.coil if isinstance(topology.source, MagnetoSupply) else None
        self.charge_a = np.zeros(len(rows))
        self._push_v = np.full(len(rows), math.nan)  # the generator's volts that its current was taken at
        self.generator, self.battery = self.plan.generator, self.plan.battery
        rpm = [self.plan.machine.rpm(row.state) for row in rows]
        self._rpm = rpm
        self._at_set_point_a = [self.generator.available_a(n, self.generator.set_v) if self.generator else 0.0
                                for n in rpm]
        self._at = {s.name: i for i, s in enumerate(system.network.sources)}
        self._rail = system.index.get(topology.positive, 0)
        generator = self.generator
        self._ends = tuple(system.index[topology.node(generator.at(end))]
                           for end in ("pos", "neg")) if generator else (0, 0)
        self.side = SideCoil(topology, system, rows)
        self.begin()

    def begin(self) -> None:
        """Before other sizes are solved: the battery asks for its whole charging current again."""
        self.charge_a[:] = self.battery.charge_a if self.battery else 0.0

    def drive(self, i: int, given: Conditions, generator_joined: bool) -> float:
        """Write the sources' equations of row i for its mode; what the generator can give there."""
        generator, battery = self.generator, self.battery
        self.side.drive(i, given)
        if self.mode[i] == "clamped" and (coil := self._coil):
            at = self._at[coil.id]
            given.series[i, at], given.drive[i, at] = 0.0, float(coil.clamp_v or 0.0)
            return 0.0
        if generator is None or self.mode[i] not in ("regulated", "helped", "short"):
            return 0.0
        if not generator_joined and battery:
            self.mode[i] = "battery"
            return 0.0
        at, rpm = self._at[generator.id], self._rpm[i]
        if self.mode[i] in ("regulated", "helped"):
            given.across[i, at], given.series[i, at], given.drive[i, at] = 1.0, 0.0, generator.set_v
            if battery and self.mode[i] == "regulated":
                own = self._at[battery.id]
                given.across[i, own], given.series[i, own], given.drive[i, own] = 0.0, 1.0, self.charge_a[i]
            return self._at_set_point_a[i]
        if math.isnan(self._push_v[i]):
            self._push_v[i] = battery.resting_v if battery else generator.set_v
        # Its current over voltage as a straight line around the last voltage: i = I + I' (v - v_0), flowing out.
        most = generator.available_a(rpm, self._push_v[i])
        slope = (generator.available_a(rpm, self._push_v[i] + SLOPE_V) - generator.available_a(
            rpm, self._push_v[i] - SLOPE_V)) / (2 * SLOPE_V)
        given.across[i, at], given.series[i, at] = slope, 1.0
        given.drive[i, at] = slope * self._push_v[i] - most
        return most

    def follow(self, i: int, batch: Batch, available: Array) -> bool:
        """Change what does not agree with row i's voltages; whether anything did."""
        aside = self.side.follow(i, batch)
        return self._follow(i, batch, available) or aside

    def _follow(self, i: int, batch: Batch, available: Array) -> bool:
        if batch.failure[i] is not None:
            return False
        generator, battery = self.generator, self.battery
        if coil := self._coil:
            clamp, volts = coil.clamp_v, float(abs(batch.potential[i, self._rail]))
            if clamp and self.mode[i] == "coil" and volts > clamp + 1e-9:
                self.mode[i] = "clamped"
                return True
            return False
        if generator is None or self.mode[i] not in ("regulated", "helped", "short"):
            return False
        own_v = float(batch.potential[i, self._ends[0]] - batch.potential[i, self._ends[1]])
        given = -float(batch.source[i, self._at[generator.id]])
        if self.mode[i] == "short":
            if own_v > generator.set_v + 1e-9:
                self.mode[i], self._push_v[i] = "regulated", math.nan
                return True
            before, self._push_v[i] = self._push_v[i], own_v
            available[i] = given
            return bool(abs(own_v - before) > SETTLED_V)
        over = given - available[i]
        if over > 1e-9:
            if self.mode[i] == "regulated" and self.charge_a[i] > 0:
                self.charge_a[i] = max(0.0, self.charge_a[i] - over)
            else:
                self.mode[i] = "short"
            return True
        if self.mode[i] == "helped" and given < -1e-9 and battery:
            self.mode[i] = "battery"  # its rectifier lets nothing back in
            return True
        least = min(battery.resting_v, generator.set_v) - 1e-6 if battery else 0.0
        if battery and self.mode[i] == "regulated" and float(batch.potential[i, self._rail]) < least:
            if self.charge_a[i] > 0:
                self.charge_a[i] = 0.0
            else:
                self.mode[i] = "helped"
            return True
        return False
