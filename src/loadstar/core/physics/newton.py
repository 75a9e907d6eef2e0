"""Newton steps: loads and converters are made straight around where they are, what follows is solved, and again, until
each agrees with its voltages.

One `Attempt` holds what is being worked out of every state at once; `settle` does the steps for some of its rows.
"""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from .. import limits
from .batch import LIMIT, ON, Conditions
from .elements import NetworkError
from .equations import Equations
from .matrix import Singular

Array = NDArray[Any]
IntArray = NDArray[np.int64]
BoolArray = NDArray[np.bool_]
Modes = NDArray[np.int8]
MAX_STEPS = 80
BEYOND = 1e9  # volts and amps that no step of a solution goes beyond
DAMPED_AFTER = 12


@dataclass
class Attempt:
    """What is being worked out, by state: modes of diodes and converters, unknowns (potentials, then currents), which
    rows begin from where they are (`warm`), and why some have no solution. Loads agree within a tenth of
    `tolerance_a`."""

    given: Conditions
    diode_on: BoolArray
    mode: Modes
    x: Array
    warm: BoolArray
    failure: list[NetworkError | None]
    tolerance_a: float

    def standing(self, rows: IntArray) -> list[int]:
        """Those of some rows that have not failed."""
        return [row for row in rows.tolist() if self.failure[row] is None]


@dataclass
class _Point:
    """Where loads and converters are straight: volts across each load with its amps and slope; of each converter volts
    in and out, its output's amps, and what it draws with the slopes of that."""

    v_load: Array
    current: Array
    slope: Array
    vin: Array
    vout: Array
    i_out: Array
    drawn: tuple[Array, Array, Array, Array]


class _Rows:
    """The equations of some rows of an attempt, with the modes as they are."""

    def __init__(self, system: Equations, attempt: Attempt, rows: IntArray, cold: bool) -> None:
        self.system, self.converters = system, system.ci.shape[1]
        self.given = Conditions(*(v[rows] for v in vars(attempt.given).values()))
        on, mode = attempt.diode_on[rows], attempt.mode[rows]
        self.ground, level, first = system.joined.ground(self.given, on, mode)
        if cold:
            first = np.where((mode == LIMIT).any(axis=1)[:, None], 0.0, first)
        self.across, self.series, self.drive = system.own_equations(self.given, on, mode)
        self.running = (mode == ON) | (mode == LIMIT)
        self.conductance = 1 / self.given.ohm
        self.point = self._begin(attempt.x[rows], attempt.warm[rows][:, None], level, first)

    def _begin(self, x: Array, old: BoolArray, level: Array, first: Array) -> _Point:
        """Where what is warm was, or as it would be with nothing lost on the way."""
        s = self.system
        v = np.where(old, x[:, :s.n], level)
        # A constant power that no source feeds would balance at infinite volts: such loads always start from nothing.
        v_load = np.where(old & (first > 0), v[:, s.e[0]] - v[:, s.e[1]], first)
        vin = np.where(old, v[:, s.ci[0]] - v[:, s.ci[1]], level[:, s.ci[0]])
        vout = np.where(old, v[:, s.co[0]] - v[:, s.co[1]], s.converter_law.out_v)
        i_out = np.where(old, x[:, s.size - self.converters:], 0.0)
        return self._straight(v_load, vin, vout, i_out)

    def _straight(self, v_load: Array, vin: Array, vout: Array, i_out: Array) -> _Point:
        current, slope = self.system.law.current(v_load, self.given.value)
        drawn = self.system.converter_law.input(vin, i_out, vout, self.running)
        return _Point(v_load, current, slope, vin, vout, i_out, drawn)

    def solved(self) -> Array:
        """What follows from the straight equations; nan where they are singular."""
        s, p = self.system, self.point
        i_in, over_v, over_i, over_out = p.drawn
        right = s.gather(s.e, p.slope * p.v_load - p.current)
        if self.converters:
            right = right + s.gather(s.ci, over_v * p.vin + over_i * p.i_out + over_out * p.vout - i_in)
        try:
            fresh = s.matrix.solve(
                np.concatenate([self.conductance, p.slope, self.ground, self.across, self.series, over_v, over_i,
                                over_out], axis=1),
                np.concatenate([right, self.drive], axis=1))
        except Singular:
            return np.full((len(right), s.size), np.nan)
        if np.abs(fresh).max(initial=0.0) > BEYOND:  # near a singular point: the next steps come back
            fresh = fresh * np.minimum(1.0, BEYOND / np.maximum(np.abs(fresh), 1.0))
        return np.asarray(fresh)

    def at(self, fresh: Array) -> _Point:
        """The straight equations around a solution."""
        s = self.system
        v = fresh[:, :s.n]
        v_load = v[:, s.e[0]] - v[:, s.e[1]]
        if not self.converters:
            current, slope = s.law.current(v_load, self.given.value)
            return _Point(v_load, current, slope, self.point.vin, self.point.vout, self.point.i_out, self.point.drawn)
        return self._straight(v_load, v[:, s.ci[0]] - v[:, s.ci[1]], v[:, s.co[0]] - v[:, s.co[1]],
                              fresh[:, s.size - self.converters:])

    def missed(self, then: _Point) -> Array:
        """By how much each load and converter differs there from what the straight equations took it for, A."""
        now = self.point
        missed = np.asarray(np.abs(then.current - now.current - now.slope * (then.v_load - now.v_load)))
        if not self.converters:
            return missed
        i_in, over_v, over_i, over_out = now.drawn
        of_converters = np.abs(then.drawn[0] - i_in - over_v * (then.vin - now.vin)
                               - over_i * (then.i_out - now.i_out) - over_out * (then.vout - now.vout))
        return np.concatenate([missed, of_converters], axis=1)

    def halfway(self, then: _Point) -> _Point:
        """Near a collapse full steps may swing between two branches; half steps settle on one."""
        now = self.point
        v_load = now.v_load + 0.5 * (then.v_load - now.v_load)
        if not self.converters:
            current, slope = self.system.law.current(v_load, self.given.value)
            return _Point(v_load, current, slope, now.vin, now.vout, now.i_out, now.drawn)
        return self._straight(v_load, now.vin + 0.5 * (then.vin - now.vin), now.vout + 0.5 * (then.vout - now.vout),
                              now.i_out + 0.5 * (then.i_out - now.i_out))


def settle(system: Equations, attempt: Attempt, rows: IntArray, cold: bool) -> int:
    """Newton steps on some rows of an attempt; how many were needed. What does not settle fails."""
    equations, enough = _Rows(system, attempt, rows, cold), attempt.tolerance_a / 10
    for step in range(1, MAX_STEPS + 1):
        limits.check()
        fresh = equations.solved()
        if not np.isfinite(fresh).all():
            _each_alone(system, attempt, rows, cold)
            return step
        then = equations.at(fresh)
        missed = equations.missed(then)
        if np.max(missed, initial=0.0) < enough:
            attempt.x[rows] = fresh
            return step
        equations.point = then if step <= DAMPED_AFTER else equations.halfway(then)
    settled = np.max(missed, axis=1, initial=0.0) < enough
    attempt.x[rows[settled]] = fresh[settled]
    names = [*(e.name for e in system.network.loads), *(c.name for c in system.network.converters)]
    for i in np.flatnonzero(~settled).tolist():
        attempt.failure[int(rows[i])] = NetworkError("the voltages do not settle", (names[int(np.argmax(missed[i]))],))
    return MAX_STEPS


def _each_alone(system: Equations, attempt: Attempt, rows: IntArray, cold: bool) -> None:
    """One of several states is singular: solve each by itself to find which."""
    if len(rows) == 1:
        attempt.failure[int(rows[0])] = NetworkError(
            "the network is singular: some part of it has no defined voltage",
            tuple(s.name for s in system.network.sources))
        return
    for row in rows.tolist():
        settle(system, attempt, np.array([row]), cold)
