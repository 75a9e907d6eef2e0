"""What are the voltages and currents of a network of wires, contacts, sources and loads, in several states at once?

Modified nodal analysis (matrix.py) with Newton steps. One `System` is the union of everything that may
conduct; a state gives every resistor its ohms (infinite: open), every source its equation and every load its value,
and all states are solved together. Elements stamp their current and slope, so a new kind
of load needs no change here. Diodes and converters have modes (on, limiting, off); they are flipped until each agrees
with its voltages. Parts of the network without a connection to the reference get a reference of their own and are
named. Loads fall back to a resistance below their floor voltage, so that a load that cannot be fed does not stop the
solution; they are named too. With complex source terms the same equations are solved for phasors (AC lighting).
Validity: steady state; volts, amps, ohms, watts. Agrees with a circuit simulator to 1e-9 V on the reference cases.
"""

from collections.abc import Sequence
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from .. import limits
from .batch import LIMIT, LOW, OFF, ON, Batch, Conditions, Solution
from .elements import Network, NetworkError
from .joined import Joined
from .layout import Layout
from .matrix import Matrix, Singular
from .modes import converter_wants, diode_wants

Array = NDArray[Any]
IntArray = NDArray[np.int64]
BoolArray = NDArray[np.bool_]
Modes = NDArray[np.int8]
KCL_TOLERANCE_A = 1e-9
MAX_STEPS = 80
BEYOND = 1e9  # volts and amps that no step of a solution goes beyond
DAMPED_AFTER = 12
MODE_ROUNDS = 24
COLD_AFTER = 4  # rounds; then loads of a converter at its limit begin from nothing
Begin = Literal["kept", "on", "low"]


class System(Layout):
    """A network that can be solved; what conducts, drives and draws is given with each solution."""

    def __init__(self, network: Network) -> None:
        super().__init__(network)
        self.matrix = Matrix(self.n, self.r, self.e, self.k, self.ci, self.co)
        self.joined = Joined(self)

    def _gather(self, ends: Array, current: Array) -> Array:
        """Currents (states, elements) that leave the first node and enter the second, summed by node."""
        states = len(current)
        at = (ends[:, None, :] + np.arange(states)[None, :, None] * self.n).reshape(2, -1)

        def total(amps: Array) -> Array:
            return np.asarray(np.bincount(at[0], amps, states * self.n) - np.bincount(at[1], amps, states * self.n))

        flat = current.ravel()
        found = total(flat.real) + 1j * total(flat.imag) if np.iscomplexobj(flat) else total(flat)
        return np.asarray(found.reshape(states, self.n))

    def grounds(self, batch: Batch) -> Array:
        """Where each group of joined nodes of a solution has its 0 V: 1 there, by state and node."""
        return self.joined.ground(batch.given, batch.diode_on, batch.converter_mode)[0]

    # -- solving ------------------------------------------------------------------------------------------------

    def conditions(self, states: int = 1) -> Conditions:
        """The network's own values, for a number of states."""
        net = self.network
        rows = ([r.ohm for r in net.resistors], [1.0] * len(net.sources), [-s.ohm for s in net.sources],
                [s.emf_v for s in net.sources], [e.value for e in net.loads])
        ohm, across, series, drive, value = (np.tile(np.array(r, float), (states, 1)) for r in rows)
        return Conditions(ohm, across, series, drive, value, np.ones((states, len(net.converters)), bool))

    def solve(self, given: Conditions, start: Batch | None = None, tolerance_a: float = KCL_TOLERANCE_A,
              begin: Begin = "kept",
              failed: dict[int, NetworkError] | None = None) -> Batch:
        """Solve every state, loads agreeing with their voltages within a tenth of `tolerance_a`. A state that has no
        solution carries its reason; the others stand. `failed` are those that need not be tried.

        Converters begin as in `start` ("kept"), all "on", or all off as if below their windows ("low"), from where they
        come on when their input without them is high enough.
        """
        states, failure = len(given.ohm), self._source_loops(given)
        for s, why in (failed or {}).items():
            failure[s] = why
        complex_v = any(np.iscomplexobj(x) for x in (given.series, given.drive))
        kind: Any = complex if complex_v else float
        kept = start if start is not None and len(start.potential) == states else None
        diode_on = np.ones((states, self.d.shape[1]), bool) if kept is None else kept.diode_on.copy()
        mode = np.where(given.converter_on, ON, OFF).astype(np.int8)
        if begin == "low":
            mode = np.where(given.converter_on, LOW, OFF).astype(np.int8)
        elif begin == "kept" and kept is not None:
            mode = np.where(given.converter_on & (kept.converter_mode != OFF), kept.converter_mode, mode)
        x = np.zeros((states, self.size), kind)
        pending = np.array([s for s in range(states) if failure[s] is None], int)
        steps = 0
        warm = np.zeros(states, bool)
        if kept is not None:
            x[:, :self.n] = kept.potential
            x[:, self.n:] = np.concatenate([kept.source, kept.diode, kept.converter_out], axis=1)
            warm[pending[np.isfinite(x[pending]).all(axis=1)]] = True
        for turn in range(MODE_ROUNDS):
            if not len(pending):
                break
            # A converter at its limit and constant powers may balance at its full voltage, or collapsed: if the one is
            # none, the other.
            cold = turn >= COLD_AFTER
            steps = max(steps,
                        self._newton(given, diode_on, mode, x, pending, warm & (not cold), failure, tolerance_a, cold))
            warm[pending] = True
            pending = np.array([s for s in pending if failure[s] is None], int)
            flips = self._flip(given, diode_on, mode, x, pending, one_at_a_time=turn >= 8,
                               wakes=begin == "low" and turn < 8)
            pending = pending[flips]
        for s in pending.tolist():
            failure[s] = NetworkError("a converter or diode keeps switching on and off: its supply is too weak",
                                      (*(c.name for c in self.network.converters),
                                       *(d.name for d in self.network.diodes)))
        return self._extract(given, diode_on, mode, x, steps, failure)

    def _source_loops(self, given: Conditions) -> list[NetworkError | None]:
        failure: list[NetworkError | None] = [None] * len(given.ohm)
        ideal = np.concatenate([(given.across != 0) & (given.series == 0), given.converter_on], axis=1)
        ends = np.concatenate([self.s, self.co], axis=1)
        names = [*(x.name for x in self.network.sources), *(c.name for c in self.network.converters)]
        for s in np.flatnonzero(ideal.sum(axis=1) > 1).tolist():
            seen: dict[int, int] = {}

            def root(i: int, seen: dict[int, int] = seen) -> int:
                while seen.get(i, i) != i:
                    i = seen[i]
                return i

            for j in np.flatnonzero(ideal[s]).tolist():
                a, b = root(int(ends[0, j])), root(int(ends[1, j]))
                if a == b:
                    failure[s] = NetworkError("two sources without resistance are joined in a loop", (names[j],))
                seen[a] = b
        return failure

    def _newton(self, given: Conditions, diode_on: BoolArray, mode: Modes, x: Array, rows: IntArray,
                warm: BoolArray, failure: list[NetworkError | None], tolerance_a: float, cold: bool) -> int:
        """Newton steps on the rows of `x` until every load and converter agrees with its voltages."""
        g = Conditions(*(v[rows] for v in vars(given).values()))
        on, converters = diode_on[rows], mode[rows]
        ground, level, first = self.joined.ground(g, on, converters)
        if cold:
            first = np.where((converters == LIMIT).any(axis=1)[:, None], 0.0, first)
        across, series, drive = self._own_equations(g, on, converters)
        running = (converters == ON) | (converters == LIMIT)
        nc = self.ci.shape[1]
        old = warm[rows][:, None]
        v = np.where(old, x[rows, :self.n], level)
        # A constant power that no source feeds would balance at infinite volts: such loads always start from nothing.
        v_load = np.where(old & (first > 0), v[:, self.e[0]] - v[:, self.e[1]], first)
        vin = np.where(old, v[:, self.ci[0]] - v[:, self.ci[1]], level[:, self.ci[0]])
        vout = np.where(old, v[:, self.co[0]] - v[:, self.co[1]], self.converter_law.out_v)
        i_out = np.where(old, x[rows, self.size - nc:], 0.0)
        conductance = 1 / g.ohm
        current, slope = self.law.current(v_load, g.value)
        drawn = self.converter_law.input(vin, i_out, vout, running)
        fresh, missed = x[rows], np.zeros((len(rows), 1))
        for step in range(1, MAX_STEPS + 1):
            limits.check()
            i_in, over_v, over_i, over_out = drawn
            right = self._gather(self.e, slope * v_load - current)
            if nc:
                right = right + self._gather(self.ci, over_v * vin + over_i * i_out + over_out * vout - i_in)
            try:
                fresh = self.matrix.solve(
                    np.concatenate([conductance, slope, ground, across, series, over_v, over_i, over_out], axis=1),
                                          np.concatenate([right, drive], axis=1))
            except Singular:
                fresh = np.full((len(rows), self.size), np.nan)
            if np.abs(fresh).max(initial=0.0) > BEYOND:  # near a singular point: the next steps come back
                fresh = fresh * np.minimum(1.0, BEYOND / np.maximum(np.abs(fresh), 1.0))
            if not np.isfinite(fresh).all():
                self._alone(given, diode_on, mode, x, rows, warm, failure, tolerance_a, cold)
                return step
            v = fresh[:, :self.n]
            across_load = v[:, self.e[0]] - v[:, self.e[1]]
            then, then_slope = self.law.current(across_load, g.value)
            missed = np.abs(then - current - slope * (across_load - v_load))
            if nc:
                across_in, across_out = v[:, self.ci[0]] - v[:, self.ci[1]], v[:, self.co[0]] - v[:, self.co[1]]
                through = fresh[:, self.size - nc:]
                then_drawn = self.converter_law.input(across_in, through, across_out, running)
                missed = np.concatenate([missed,
                    np.abs(then_drawn[0] - i_in - over_v * (across_in - vin) - over_i * (through - i_out)
                                                        - over_out * (across_out - vout))], axis=1)
            if np.max(missed, initial=0.0) < tolerance_a / 10:
                x[rows] = fresh
                return step
            # Near a collapse full steps may swing between two branches; half steps settle on one.
            if step <= DAMPED_AFTER:
                v_load, current, slope = across_load, then, then_slope
                if nc:
                    vin, vout, i_out, drawn = across_in, across_out, through, then_drawn
                continue
            v_load = v_load + 0.5 * (across_load - v_load)
            current, slope = self.law.current(v_load, g.value)
            if nc:
                vin, vout, i_out = vin + 0.5 * (across_in - vin), vout + 0.5 * (across_out
                                                                                - vout), i_out + 0.5 * (through - i_out)
                drawn = self.converter_law.input(vin, i_out, vout, running)
        settled = np.max(missed, axis=1, initial=0.0) < tolerance_a / 10
        x[rows[settled]] = fresh[settled]
        names = [*(e.name for e in self.network.loads), *(c.name for c in self.network.converters)]
        for i in np.flatnonzero(~settled).tolist():
            failure[int(rows[i])] = NetworkError("the voltages do not settle", (names[int(np.argmax(missed[i]))],))
        return MAX_STEPS

    def _own_equations(self, given: Conditions, on: BoolArray, converters: Modes) -> tuple[Array, Array, Array]:
        """How everything with a current of its own weighs its voltage and that current, and what drives it: sources,
        diodes, converters' outputs."""
        across = np.concatenate([given.across, on.astype(float), (converters == ON).astype(float)], axis=1)
        series = np.concatenate([given.series, np.where(on, -self.diode_ohm, 1.0), (converters != ON).astype(float)],
                                axis=1)
        held = np.where(converters == LIMIT, -self.converter_law.limit_a, 0.0)
        drive = np.concatenate([given.drive, np.where(on, self.diode_v, 0.0),
                                np.where(converters == ON, self.converter_law.out_v, held)], axis=1)
        return across, series, drive

    def straightened(self, batch: Batch, state: int) -> Array:
        """The equations of one solved state, straight around its solution, as a matrix (size, size): what its nodes
        and currents do for a little more current at a node or volts in a source. Of phasors with every load at its
        conductance."""
        given = Conditions(*(v[state:state + 1] for v in vars(batch.given).values()))
        on, mode = batch.diode_on[state:state + 1], batch.converter_mode[state:state + 1]
        ground, _, _ = self.joined.ground(given, on, mode)
        across, series, _ = self._own_equations(given, on, mode)
        v = batch.potential[state:state + 1]
        _, slope = self.law.current(v[:, self.e[0]] - v[:, self.e[1]], given.value)
        running = (mode == ON) | (mode == LIMIT)
        _, over_v, over_i, over_out = self.converter_law.input(
            v[:, self.ci[0]] - v[:, self.ci[1]], batch.converter_out[state:state + 1],
            v[:, self.co[0]] - v[:, self.co[1]], running)
        values = np.concatenate([1 / given.ohm, slope, ground, across, series, over_v, over_i, over_out], axis=1)
        return np.asarray(self.matrix.full(values)[0])

    def islands(self, batch: Batch) -> IntArray:
        """Which island of joined nodes each node is on, by (state, node): no current flows from one to another."""
        _, label = self.joined.groups(batch.given, batch.diode_on, batch.converter_mode)
        return np.asarray(label.reshape(len(batch.given.ohm), self.n))

    def _alone(self, given: Conditions, diode_on: BoolArray, mode: Modes, x: Array, rows: IntArray,
               warm: BoolArray, failure: list[NetworkError | None], tolerance_a: float, cold: bool) -> None:
        """One of several states is singular: solve each by itself to find which."""
        if len(rows) == 1:
            failure[int(rows[0])] = NetworkError("the network is singular: some part of it has no defined voltage",
                                                 tuple(s.name for s in self.network.sources))
            return
        for row in rows.tolist():
            self._newton(given, diode_on, mode, x, np.array([row]), warm, failure, tolerance_a, cold)

    def _flip(self, given: Conditions, diode_on: BoolArray, mode: Modes, x: Array, rows: IntArray,
              one_at_a_time: bool, wakes: bool) -> BoolArray:
        """Change the modes that do not agree with the voltages; says in which rows something changed."""
        changed = np.zeros(len(rows), bool)
        nd, nc = self.d.shape[1], self.co.shape[1]
        if not (nd or nc) or not len(rows):
            return changed
        v, i_k = x[rows, :self.n].real, x[rows, self.n:].real
        ns, law = self.s.shape[1], self.converter_law
        for j in range(nd):
            want = diode_wants(diode_on[rows, j], i_k[:, ns + j], v[:, self.d[0, j]] - v[:, self.d[1, j]],
                               self.diode_v[j])
            wrong = (want != diode_on[rows, j]) & ~(changed & one_at_a_time)
            diode_on[rows[wrong], j] = want[wrong]
            changed |= wrong
        for j in range(nc):
            vin, vout = (v[:, pair[0, j]] - v[:, pair[1, j]] for pair in (self.ci, self.co))
            now = mode[rows, j]
            mine = converter_wants(now, vin, vout, -i_k[:, ns + nd + j], low_v=law.low_v[j], high_v=law.high_v[j],
                                   out_v=law.out_v[j],
                                   limit_a=law.limit_a[j], wakes=wakes)
            wrong = (mine != now) & ~(changed & one_at_a_time)
            mode[rows[wrong], j] = mine[wrong]
            changed |= wrong
        return changed

    def _extract(self, given: Conditions, diode_on: BoolArray, mode: Modes, x: Array, steps: int,
                 failure: list[NetworkError | None]) -> Batch:
        lost = np.array([f is not None for f in failure], bool)
        x[lost] = np.nan
        v, i_k = x[:, :self.n], x[:, self.n:]
        ns, nd, nc = self.s.shape[1], self.d.shape[1], self.ci.shape[1]
        through = (v[:, self.r[0]] - v[:, self.r[1]]) / given.ohm
        across = v[:, self.e[0]] - v[:, self.e[1]]
        drawn, _ = self.law.current(across, given.value)
        running = (mode == ON) | (mode == LIMIT)
        taken = self.converter_law.input(v[:, self.ci[0]] - v[:, self.ci[1]], i_k[:, self.size - self.n - nc:],
                                 v[:, self.co[0]] - v[:, self.co[1]], running)[0] if nc else np.zeros((len(v), 0))
        balance = (self._gather(self.r, through) + self._gather(self.e, drawn) + self._gather(self.k, i_k)
                   + self._gather(self.ci, taken))
        drawn[lost], taken[lost] = np.nan, np.nan
        size = np.abs(across) if np.iscomplexobj(across) else across
        low = (size < self.law.floor - 1e-9) & (given.value > 0) & (self.law.power | self.law.constant_current)
        return Batch(self, given, v, through, i_k[:, :ns], i_k[:, ns:ns + nd], i_k[:, ns + nd:], taken, drawn, diode_on,
                     mode, low, np.max(np.abs(balance), axis=1, initial=0.0), steps, failure)

    # -- faults -------------------------------------------------------------------------------------------------

    def impedances(self, given: Conditions, probes: Sequence[int],
                   converter_ohm: Array | None = None, diode_on: BoolArray | None = None) -> tuple[Array, Array]:
        """Transfer resistances without loads, EMFs shorted: unit current drawn at each probe node (first state).

        Returns node[n, p], how far node n falls per ampere drawn at probe p (less the fall of its 0 V), and the
        open-circuit potentials. A converter's output stands as its voltage behind `converter_ohm`; diodes conduct
        unless told otherwise.
        """
        nc, nd = self.ci.shape[1], self.d.shape[1]
        giving = np.zeros(nc) if converter_ohm is None else converter_ohm
        mode = np.where(giving > 0, ON, OFF).astype(np.int8)[None, :]
        bare = Conditions(given.ohm[:1], given.across[:1], given.series[:1], given.drive[:1],
                          np.zeros_like(given.value[:1]), np.zeros_like(given.converter_on[:1]))
        on = np.ones((1, nd), bool) if diode_on is None else diode_on[None, :]
        # A converter's input draws nothing here: it ties nothing to the rest.
        ground, _, _ = self.joined.ground(bare, on, mode, soft=False)
        behind = (giving > 0)[None, :]
        values = np.concatenate([
            1 / bare.ohm, np.zeros_like(bare.value), ground, bare.across, on.astype(float), behind.astype(float),
            bare.series, np.where(on, -self.diode_ohm, 1.0), np.where(behind, -giving, 1.0), np.zeros((1, 3 * nc))],
            axis=1)
        right = np.zeros((self.size, len(probes) + 1))
        right[np.asarray(probes, int), np.arange(len(probes))] = 1.0
        right[self.n:,
              -1] = np.concatenate([bare.drive[0], np.zeros(nd), np.where(giving > 0, self.converter_law.out_v, 0.0)])
        try:
            v = self.matrix.solve(values, right[None])[0, :self.n]
        except Singular as error:
            raise NetworkError("the network is singular: some part of it has no defined voltage") from error
        return v[:, :-1], v[:, -1]


def solve(network: Network) -> Solution:
    """Solve one network as it stands; raises NetworkError when there is no solution."""
    system = System(network)
    return system.solve(system.conditions()).solution(0)
