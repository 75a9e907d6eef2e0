"""A lighting coil beside a battery: lamps of its own on AC, solved with everything else.

Its lamps are resistances, so all its currents are in phase and real arithmetic gives their rms; only the coil itself
is bent (physics/coil.py), and followed as a straight line until voltage and current agree. Its circuit meets the
battery's in the frame at most, where both currents are taken to add up.
"""

import math

import numpy as np

from ..parts.coil import Coil
from ..physics import coil as winding
from ..physics.batch import Batch, Conditions
from ..physics.network import System
from ..supply.base import Situation
from .topology import Topology

SETTLED_V = 1e-6
BEGINS_FRAC = 0.5  # of its open voltage


class SideCoil:
    """The coil in every row: free, or held by its regulator."""

    def __init__(self, topology: Topology, system: System, rows: tuple[Situation, ...]) -> None:
        self.coil: Coil | None = topology.side_coil
        if self.coil is None:
            return
        self._at = next(i for i, s in enumerate(system.network.sources) if s.name == self.coil.id)
        self._ends = system.s[:, self._at]
        rpm = np.array([topology.machine.rpm(row.state) for row in rows], float)
        self._emf_v = (self.coil.emf_mv_per_rpm * rpm / 1000).tolist()
        self._reactance_ohm = (self.coil.reactance_mohm_per_rpm * rpm / 1000).tolist()
        self._volts = [BEGINS_FRAC * emf for emf in self._emf_v]
        self._held = [False] * len(rows)

    def _given_a(self, i: int, at_v: float) -> tuple[float, float]:
        assert self.coil is not None
        return winding.given_a(self._emf_v[i], self.coil.winding_ohm, self._reactance_ohm[i], at_v)

    def drive(self, i: int, given: Conditions) -> None:
        """Write its equation of row i: its winding alone while the engine stands."""
        if self.coil is None:
            return
        at, across, series, drive = self._at, 1.0, -self.coil.winding_ohm, 0.0
        if self._held[i]:
            series, drive = 0.0, float(self.coil.clamp_v or 0.0)
        elif self._emf_v[i] > 0:
            amps, slope = self._given_a(i, self._volts[i])
            across, series, drive = slope, 1.0, slope * self._volts[i] - amps
        given.across[i, at], given.series[i, at], given.drive[i, at] = across, series, drive

    def follow(self, i: int, batch: Batch) -> bool:
        """Take over what row i's solution says of it; whether that changed anything."""
        if self.coil is None or self._emf_v[i] <= 0 or batch.failure[i] is not None:
            return False
        plus, minus = self._ends
        at_v, clamp_v = float(batch.potential[i, plus] - batch.potential[i, minus]), self.coil.clamp_v or math.inf
        if self._held[i]:
            self._held[i] = -float(batch.source[i, self._at]) <= self._given_a(i, clamp_v)[0] + 1e-9
            return not self._held[i]
        before, self._volts[i] = self._volts[i], min(max(at_v, 0.0), self._emf_v[i])
        self._held[i] = at_v > clamp_v + 1e-9
        return self._held[i] or abs(self._volts[i] - before) > SETTLED_V
