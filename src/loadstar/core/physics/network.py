"""What are the voltages and currents of a network of wires, contacts, sources and loads, in several states at once?

Modified nodal analysis with Newton steps on a sparse factorisation. One `System` is the union of everything that may
conduct; a state gives every resistor its ohms (infinite: open), every source its equation and every load its value,
and all states are solved together as one block-diagonal matrix. Elements stamp their current and slope, so a new kind
of load needs no change here. Diodes and converters have modes (on, limiting, off); they are flipped until each agrees
with its voltages. Parts of the network without a connection to the reference get a reference of their own and are
named. Loads fall back to a resistance below their floor voltage, so that a load that cannot be fed does not stop the
solution; they are named too. With complex source terms the same equations are solved for phasors (AC lighting).
Validity: steady state; volts, amps, ohms, watts. Agrees with a circuit simulator to 1e-9 V on the reference cases.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csc_array
from scipy.sparse.linalg import SuperLU, splu

from .elements import Network, NetworkError
from .graph import components
from .laws import ConverterLaw, LoadLaw

Array = NDArray[Any]
IntArray = NDArray[np.int64]
BoolArray = NDArray[np.bool_]
KCL_TOLERANCE_A = 1e-9
MAX_STEPS = 80
DAMPED_AFTER = 12
MODE_ROUNDS = 24
COLD_AFTER = 4  # rounds; then loads of a converter at its limit begin from nothing


@dataclass
class Conditions:
    """What is set in each state (rows): resistors' ohms (inf is open), sources' equations, loads' values.

    A source obeys across * (v_plus - v_minus) + series * i = drive, i being the current into its plus terminal:
    (1, -R, EMF) is a battery, (1, 0, V) holds a voltage, (0, 1, -I) pushes a current, (0, 1, 0) is absent.
    """

    ohm: Array
    across: Array
    series: Array
    drive: Array
    value: Array
    converter_on: BoolArray


@dataclass
class Batch:
    """All states solved: potentials and currents by (state, element). `failure` holds why a state has no solution."""

    system: "System"
    given: Conditions
    potential: Array
    branch: Array
    source: Array
    diode: Array
    converter_out: Array
    converter_in: Array
    load: Array
    diode_on: BoolArray
    converter_mode: NDArray[np.int8]
    on_floor: BoolArray
    residual_a: Array
    steps: int
    failure: list[NetworkError | None]

    def solution(self, state: int) -> "Solution":
        """One state by name; raises NetworkError when it has no solution."""
        failed = self.failure[state]
        if failed is not None:
            raise failed
        return Solution(self, state)


class Solution:
    """Node potentials and element currents of one state (positive a to b, plus to minus; a converter's: its output)."""

    def __init__(self, batch: Batch, state: int) -> None:
        self.batch, self.state = batch, state
        self.steps, self.residual_a = batch.steps, float(batch.residual_a[state])

    @cached_property
    def potential_v(self) -> dict[str, float]:
        """Potential of every node."""
        return dict(zip(self.batch.system.nodes, _real(self.batch.potential[self.state]).tolist(), strict=True))

    @cached_property
    def current_a(self) -> dict[str, float]:
        """Current of everything that conducts; a converter's input current is named "name.in"."""
        b, s = self.batch, self.state
        open_ = np.isinf(b.given.ohm[s])
        rows = np.concatenate([b.branch[s], b.source[s], b.load[s], b.diode[s], b.converter_out[s], b.converter_in[s]])
        there = np.concatenate([~open_, np.ones(len(rows) - len(open_), bool)])
        return {name: amps for name, amps, is_there in zip(b.system.names, _real(rows).tolist(), there.tolist(), strict=True)
                if is_there}

    @cached_property
    def islands(self) -> tuple[tuple[str, ...], ...]:
        """Groups of joined nodes that have no connection to the reference."""
        return self.batch.system.islands(self.batch, self.state)

    @cached_property
    def on_floor(self) -> tuple[str, ...]:
        """Loads that the network cannot feed."""
        return tuple(e.name for e, low in zip(self.batch.system.network.loads, self.batch.on_floor[self.state],
                                              strict=True) if low)

    @property
    def converter_modes(self) -> dict[str, str]:
        """By converter: "on", "limit" (gives its most), "low" or "high" (input outside its window), "off"."""
        words = ("off", "on", "limit", "low", "high")
        return {c.name: words[m] for c, m in zip(self.batch.system.network.converters,
                                                 self.batch.converter_mode[self.state].tolist(), strict=True)}

    def across_v(self, plus: str, minus: str) -> float:
        """Voltage between two nodes (AC: its rms amount)."""
        at, row = self.batch.system.index, self.batch.potential[self.state]
        return float(_real(row[at[plus]] - row[at[minus]]))


def _real(values: Array) -> Array:
    """Phasors as their amounts; real values as they are."""
    return np.abs(values) if np.iscomplexobj(values) else values


OFF, ON, LIMIT, LOW, HIGH = range(5)
Begin = Literal["kept", "on", "low"]


class System:
    """A network's topology as arrays; what conducts, drives and draws is given with each solution."""

    def __init__(self, network: Network) -> None:
        self.network = net = network
        bad = tuple(r.name for r in net.resistors if not r.ohm > 0)
        if bad:
            raise NetworkError("a resistance of zero or less", bad)
        pairs = ([(r.a, r.b) for r in net.resistors], [(s.plus, s.minus) for s in net.sources],
                 [(e.plus, e.minus) for e in net.loads], [(d.a, d.b) for d in net.diodes],
                 [(c.out_plus, c.out_minus) for c in net.converters], [(c.in_plus, c.in_minus) for c in net.converters])
        self.nodes = tuple(dict.fromkeys([net.reference, *(n for group in pairs for pair in group for n in pair)]))
        self.index = at = {name: i for i, name in enumerate(self.nodes)}
        self.r, self.s, self.e, self.d, self.co, self.ci = (
            np.array([(at[a], at[b]) for a, b in group], np.int64).reshape(-1, 2).T for group in pairs)
        self.k = np.concatenate([self.s, self.d, self.co], axis=1)  # everything with a current of its own
        self.n, self.size = len(self.nodes), len(self.nodes) + self.k.shape[1]
        self.names = (*(r.name for r in net.resistors), *(s.name for s in net.sources), *(e.name for e in net.loads),
                      *(d.name for d in net.diodes), *(c.name for c in net.converters),
                      *(f"{c.name}.in" for c in net.converters))
        self.law, self.converter_law = LoadLaw(net.loads), ConverterLaw(net.converters)
        self.diode_v, self.diode_ohm = (np.array([getattr(d, f) for d in net.diodes], float) for f in ("drop_v", "ohm"))
        self._prepare_matrix()
        self._grounds: dict[bytes, tuple[Array, Array, Array]] = {}
        self._patterns: dict[int, tuple[Any, Any, Any]] = {}

    # -- the matrix ---------------------------------------------------------------------------------------------

    def _prepare_matrix(self) -> None:
        """The fixed pattern of one state's matrix: where each value goes, and with which sign."""
        nr, nl, nk, nc = self.r.shape[1], self.e.shape[1], self.k.shape[1], self.ci.shape[1]
        starts = np.cumsum([0, nr, nl, self.n, nk, nk, 1, nc, nc])
        g, load, ground, across, series, one, cv, ci, co = (int(x) for x in starts)
        rows, cols, which, sign = [], [], [], []

        def put(row: Array, col: Array, first: int, count: int, s: int, same: bool = False) -> None:
            rows.append(row)
            cols.append(col)
            which.append(np.full(count, first) if same else first + np.arange(count))
            sign.append(np.full(count, s))

        for (a, b), first in ((self.r, g), (self.e, load), (self.ci, cv)):
            for at_row, at_col, s in ((a, a, 1), (b, b, 1), (a, b, -1), (b, a, -1)):
                put(at_row, at_col, first, len(a), s)
        put(np.arange(self.n), np.arange(self.n), ground, self.n, 1)
        p, m, k = self.k[0], self.k[1], self.n + np.arange(nk)
        put(k, p, across, nk, 1)
        put(k, m, across, nk, -1)
        put(k, k, series, nk, 1)
        put(p, k, one, nk, 1, same=True)
        put(m, k, one, nk, -1, same=True)
        own = self.size - nc + np.arange(nc)
        put(self.ci[0], own, ci, nc, 1)
        put(self.ci[1], own, ci, nc, -1)
        for row, col, s in ((0, 0, 1), (1, 1, 1), (0, 1, -1), (1, 0, -1)):
            put(self.ci[row], self.co[col], co, nc, s)
        r, c = np.concatenate(rows), np.concatenate(cols)
        self._which, self._sign = np.concatenate(which), np.concatenate(sign)
        place, self._slot = np.unique(c * self.size + r, return_inverse=True)
        self._indices, self._indptr = place % self.size, np.searchsorted(place, np.arange(self.size + 1) * self.size)

    def _stacked(self, states: int) -> tuple[Any, Any, Any]:
        if states not in self._patterns:
            step = np.arange(states)[:, None]
            nnz = len(self._indices)
            slot = (self._slot + step * nnz).ravel()
            indices = (self._indices + step * self.size).ravel().astype(np.int32)
            indptr = np.append((self._indptr[:-1] + step * nnz).ravel(), states * nnz).astype(np.int32)
            self._patterns[states] = slot, indices, indptr
        return self._patterns[states]

    def _factor(self, values: Array) -> SuperLU:
        states = len(values)
        slot, indices, indptr = self._stacked(states)
        spread = (self._sign * values[:, self._which]).ravel()
        if np.iscomplexobj(spread):
            data = np.bincount(slot, spread.real, len(indices)) + 1j * np.bincount(slot, spread.imag, len(indices))
        else:
            data = np.bincount(slot, spread, len(indices))
        shape = (states * self.size, states * self.size)
        return splu(csc_array((data, indices, indptr), shape=shape), permc_spec="MMD_AT_PLUS_A", relax=1)

    def _gather(self, ends: Array, current: Array) -> Array:
        """Currents (states, elements) that leave the first node and enter the second, summed by node."""
        states = len(current)
        at = (ends[:, None, :] + np.arange(states)[None, :, None] * self.n).reshape(2, -1)

        def total(amps: Array) -> Array:
            return np.asarray(np.bincount(at[0], amps, states * self.n) - np.bincount(at[1], amps, states * self.n))

        flat = current.ravel()
        found = total(flat.real) + 1j * total(flat.imag) if np.iscomplexobj(flat) else total(flat)
        return np.asarray(found.reshape(states, self.n))

    # -- what is joined -----------------------------------------------------------------------------------------

    def _joined(self, given: Conditions, diode_on: BoolArray, mode: NDArray[np.int8],
                soft: bool = True) -> tuple[int, IntArray]:
        """Connected groups of (state, node): number and label. `soft` counts loads and converter inputs as joining."""
        states = len(given.ohm)
        running = (mode == ON) | (mode == LIMIT)
        ties = [(self.r, np.isfinite(given.ohm)), (self.s, given.across != 0), (self.d, diode_on),
                (self.co, mode == ON if soft else running)]  # one at its limit holds no voltage, but its loads begin from it
        if soft:
            ties += [(self.e, (given.value > 0) & ~(self.law.constant_current & (self.law.floor <= 0))),
                     (self.ci, running & (self.converter_law.idle_w > 0))]
        ends = []
        for pair, active in ties:
            row, element = np.nonzero(active)
            ends.append(pair[:, element] + row * self.n)
        return components(np.concatenate(ends, axis=1), states * self.n)

    def _ground(self, given: Conditions, diode_on: BoolArray, mode: NDArray[np.int8]) -> tuple[Array, Array, Array]:
        """Where each group of joined nodes is tied to its 0 V (1 S there); the volts of nodes and loads to start from."""
        key = b"".join((np.isfinite(given.ohm).tobytes(), (given.across != 0).tobytes(), (given.value > 0).tobytes(),
                        diode_on.tobytes(), mode.tobytes(), np.abs(given.drive).round(3).tobytes()))
        if key in self._grounds:
            return self._grounds[key]
        states = len(given.ohm)
        count, label = self._joined(given, diode_on, mode)
        # The reference comes first, then a source's minus terminal, then whichever node was named first.
        rank = np.full(self.n, 2 * self.n) + np.arange(self.n)
        rank[self.k[1]] -= self.n
        rank[0] = 0
        order = np.tile(rank, states)
        best = np.full(count, order.max() + 1)
        np.minimum.at(best, label, order)
        ground = (order == best[label]).astype(float).reshape(states, self.n)
        # Loads start from the volts of a source that they are joined to by copper; without one from nothing.
        parts, part = self._joined(given, diode_on, mode, soft=False)
        level = np.zeros(parts)
        volts = np.concatenate([np.where(given.across != 0, np.abs(given.drive), 0.0),
                                np.zeros((states, self.d.shape[1])), np.where((mode == ON) | (mode == LIMIT), self.converter_law.out_v, 0.0)], axis=1)
        at = (self.k[:, None, :] + np.arange(states)[None, :, None] * self.n)
        np.maximum.at(level, part[at[0].ravel()], volts.ravel())
        group = part.reshape(states, self.n)
        first = np.where(group[:, self.e[0]] == group[:, self.e[1]], level[group[:, self.e[0]]], 0.0)
        self._grounds[key] = ground, level[group], first
        return self._grounds[key]

    def grounds(self, batch: Batch) -> Array:
        """Where each group of joined nodes of a solution has its 0 V: 1 there, by state and node."""
        return self._ground(batch.given, batch.diode_on, batch.converter_mode)[0]

    def islands(self, batch: Batch, state: int) -> tuple[tuple[str, ...], ...]:
        """Groups of two or more joined nodes of a state that have no connection to the reference."""
        one = Conditions(*(x[state:state + 1] for x in vars(batch.given).values()))
        _, label = self._joined(one, batch.diode_on[state:state + 1], batch.converter_mode[state:state + 1])
        groups: dict[int, list[str]] = {}
        for node, group in zip(self.nodes, label.tolist(), strict=True):
            groups.setdefault(group, []).append(node)
        return tuple(tuple(g) for found, g in groups.items() if found != label[0] and len(g) > 1)

    # -- solving ------------------------------------------------------------------------------------------------

    def conditions(self, states: int = 1) -> Conditions:
        """The network's own values, for a number of states."""
        net = self.network
        rows = ([r.ohm for r in net.resistors], [1.0] * len(net.sources), [-s.ohm for s in net.sources],
                [s.emf_v for s in net.sources], [e.value for e in net.loads])
        ohm, across, series, drive, value = (np.tile(np.array(r, float), (states, 1)) for r in rows)
        return Conditions(ohm, across, series, drive, value, np.ones((states, len(net.converters)), bool))

    def solve(self, given: Conditions, start: Batch | None = None, tolerance_a: float = KCL_TOLERANCE_A, begin: Begin = "kept",
              failed: dict[int, NetworkError] | None = None) -> Batch:
        """Solve every state, loads agreeing with their voltages within a tenth of `tolerance_a`. A state that has no solution carries
        its reason; the others stand. `failed` are those that need not be tried.

        Converters begin as in `start` ("kept"), all "on", or all off as if below their windows ("low"), from where they come on when
        their input without them is high enough.
        """
        states, failure = len(given.ohm), self._source_loops(given)
        for s, why in (failed or {}).items():
            failure[s] = why
        complex_v = any(np.iscomplexobj(x) for x in (given.series, given.drive))
        kind: Any = complex if complex_v else float
        fresh = start is None or len(start.potential) != states
        diode_on = np.ones((states, self.d.shape[1]), bool) if fresh else start.diode_on.copy()  # type: ignore[union-attr]
        mode = np.where(given.converter_on, ON, OFF).astype(np.int8)
        if begin == "low":
            mode = np.where(given.converter_on, LOW, OFF).astype(np.int8)
        elif begin == "kept" and not fresh:
            mode = np.where(given.converter_on & (start.converter_mode != OFF), start.converter_mode, mode)  # type: ignore[union-attr]
        x = np.zeros((states, self.size), kind)
        if not fresh:
            x[:, :self.n] = start.potential  # type: ignore[union-attr]
            x[:, self.n:] = np.concatenate([start.source, start.diode, start.converter_out], axis=1)  # type: ignore[union-attr]
        pending = np.array([s for s in range(states) if failure[s] is None], int)
        seen = pending if fresh else pending[np.isfinite(x[pending]).all(axis=1)]
        steps = 0
        warm = np.zeros(states, bool)
        if not fresh:
            warm[seen] = True
        for turn in range(MODE_ROUNDS):
            if not len(pending):
                break
            # A converter at its limit and constant powers may balance at its full voltage, or collapsed: if the one is none, the other.
            cold = turn >= COLD_AFTER
            steps = max(steps, self._newton(given, diode_on, mode, x, pending, warm & (not cold), failure, tolerance_a, cold))
            warm[pending] = True
            pending = np.array([s for s in pending if failure[s] is None], int)
            flips = self._flip(given, diode_on, mode, x, pending, one_at_a_time=turn >= 8, wakes=begin == "low" and turn < 8)
            pending = pending[flips]
        for s in pending.tolist():
            failure[s] = NetworkError("a converter or diode keeps switching on and off: its supply is too weak",
                                      (*(c.name for c in self.network.converters), *(d.name for d in self.network.diodes)))
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

    def _newton(self, given: Conditions, diode_on: BoolArray, mode: NDArray[np.int8], x: Array, rows: IntArray,
                warm: BoolArray, failure: list[NetworkError | None], tolerance_a: float, cold: bool) -> int:
        """Newton steps on the rows of `x` until every load and converter agrees with its voltages."""
        g = Conditions(*(v[rows] for v in vars(given).values()))
        on, converters = diode_on[rows], mode[rows]
        ground, level, first = self._ground(g, on, converters)
        if cold:
            first = np.where((converters == LIMIT).any(axis=1)[:, None], 0.0, first)
        zero = np.zeros((len(rows), 0))
        across = np.concatenate([g.across, on.astype(float), (converters == ON).astype(float)], axis=1)
        series = np.concatenate([g.series, np.where(on, -self.diode_ohm, 1.0) if on.size else zero,
                                 (converters != ON).astype(float)], axis=1)
        held = np.where(converters == LIMIT, -self.converter_law.limit_a, 0.0)
        drive = np.concatenate([g.drive, np.where(on, self.diode_v, 0.0) if on.size else zero,
                                np.where(converters == ON, self.converter_law.out_v, held)], axis=1)
        running = (converters == ON) | (converters == LIMIT)
        nc = self.ci.shape[1]
        fixed = [ground, across, series, np.ones((len(rows), 1))]
        conductance = 1 / g.ohm
        old = warm[rows][:, None]
        v = np.where(old, x[rows, :self.n], level)
        # A constant power that no source feeds would balance at infinite volts: such loads always start from nothing.
        v_load = np.where(old & (first > 0), v[:, self.e[0]] - v[:, self.e[1]], first)
        vin = np.where(old, v[:, self.ci[0]] - v[:, self.ci[1]], level[:, self.ci[0]])
        vout = np.where(old, v[:, self.co[0]] - v[:, self.co[1]], self.converter_law.out_v) if nc else zero
        i_out = np.where(old, x[rows, self.size - nc:], 0.0) if nc else zero
        missed = np.zeros((len(rows), 1))
        for step in range(1, MAX_STEPS + 1):
            current, slope = self.law.current(v_load, g.value)
            i_in, over_v, over_i, over_out = self.converter_law.input(vin, i_out, vout, running)
            right = self._gather(self.e, slope * v_load - current) + self._gather(
                self.ci, over_v * vin + over_i * i_out + over_out * vout - i_in)
            values = np.concatenate([conductance, slope, *fixed, over_v, over_i, over_out], axis=1)
            full = np.concatenate([right, drive], axis=1)
            try:
                fresh = self._factor(values).solve(full.ravel()).reshape(len(rows), self.size)
            except RuntimeError:
                fresh = np.full((len(rows), self.size), np.nan)
            bad = ~np.isfinite(fresh).all(axis=1)
            if bad.any():
                self._alone(given, diode_on, mode, x, rows, warm, failure, tolerance_a, cold)
                return step
            v = fresh[:, :self.n]
            across_load, across_in = v[:, self.e[0]] - v[:, self.e[1]], v[:, self.ci[0]] - v[:, self.ci[1]]
            across_out, through = v[:, self.co[0]] - v[:, self.co[1]], fresh[:, self.size - nc:]
            off = np.abs(self.law.current(across_load, g.value)[0] - current - slope * (across_load - v_load))
            off_in = np.abs(self.converter_law.input(across_in, through, across_out, running)[0] - i_in
                            - over_v * (across_in - vin) - over_i * (through - i_out) - over_out * (across_out - vout))
            missed = np.concatenate([off, off_in], axis=1)
            if np.max(missed, initial=0.0) < tolerance_a / 10:
                x[rows] = fresh
                return step
            # Near a collapse full steps may swing between two branches; half steps settle on one.
            share = 1.0 if step <= DAMPED_AFTER else 0.5
            v_load = v_load + share * (across_load - v_load)
            vin, vout = vin + share * (across_in - vin), vout + share * (across_out - vout)
            i_out = i_out + share * (through - i_out)
        settled = np.max(missed, axis=1, initial=0.0) < tolerance_a / 10
        x[rows[settled]] = fresh[settled]
        names = [*(e.name for e in self.network.loads), *(c.name for c in self.network.converters)]
        for i in np.flatnonzero(~settled).tolist():
            failure[int(rows[i])] = NetworkError("the voltages do not settle", (names[int(np.argmax(missed[i]))],))
        return MAX_STEPS

    def _alone(self, given: Conditions, diode_on: BoolArray, mode: NDArray[np.int8], x: Array, rows: IntArray,
               warm: BoolArray, failure: list[NetworkError | None], tolerance_a: float, cold: bool) -> None:
        """One of several states is singular: solve each by itself to find which."""
        if len(rows) == 1:
            failure[int(rows[0])] = NetworkError("the network is singular: some part of it has no defined voltage",
                                                 tuple(s.name for s in self.network.sources))
            return
        for row in rows.tolist():
            self._newton(given, diode_on, mode, x, np.array([row]), warm, failure, tolerance_a, cold)

    def _flip(self, given: Conditions, diode_on: BoolArray, mode: NDArray[np.int8], x: Array, rows: IntArray,
              one_at_a_time: bool, wakes: bool) -> BoolArray:
        """Change the modes that do not agree with the voltages; says in which rows something changed."""
        changed = np.zeros(len(rows), bool)
        nd, nc = self.d.shape[1], self.co.shape[1]
        if not (nd or nc) or not len(rows):
            return changed
        v, i_k = x[rows, :self.n].real, x[rows, self.n:].real
        ns = self.s.shape[1]
        for j in range(nd):
            amps, volts = i_k[:, ns + j], v[:, self.d[0, j]] - v[:, self.d[1, j]]
            want = np.where(diode_on[rows, j], amps >= -1e-12, volts > self.diode_v[j] + 1e-9)
            wrong = (want != diode_on[rows, j]) & ~(changed & one_at_a_time)
            diode_on[rows[wrong], j] = want[wrong]
            changed |= wrong
        for j in range(nc):
            vin, vout = (v[:, pair[0, j]] - v[:, pair[1, j]] for pair in (self.ci, self.co))
            now, amps = mode[rows, j], -i_k[:, ns + nd + j]
            want = np.where(now == OFF, OFF, np.where(vin < self.converter_law.low_v[j] - 1e-9, LOW, np.where(
                vin > self.converter_law.high_v[j] + 1e-9, HIGH, np.where(
                    (now == ON) & (amps <= self.converter_law.limit_a[j] + 1e-9) | (now == LIMIT) & (vout > self.converter_law.out_v[j] + 1e-9),
                    ON, LIMIT))))
            # From outside its window it starts again as "on"; in the limit it stays while it is asked for more.
            want = np.where(((now == LOW) | (now == HIGH)) & (want == LIMIT), ON, want)
            # Once it has dropped out under its own draw it stays out: with it on, the input would fall again.
            if not wakes:
                want = np.where((now == LOW) & (want == ON), LOW, want)
            wrong = (want != now) & ~(changed & one_at_a_time)
            mode[rows[wrong], j] = want[wrong]
            changed |= wrong
        return changed

    def _extract(self, given: Conditions, diode_on: BoolArray, mode: NDArray[np.int8], x: Array, steps: int,
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
        open-circuit potentials. A converter's output stands as its voltage behind `converter_ohm`; diodes conduct unless told
        otherwise.
        """
        nc, nd = self.ci.shape[1], self.d.shape[1]
        giving = np.zeros(nc) if converter_ohm is None else converter_ohm
        mode = np.where(giving > 0, ON, OFF).astype(np.int8)[None, :]
        bare = Conditions(given.ohm[:1], given.across[:1], given.series[:1], given.drive[:1],
                          np.zeros_like(given.value[:1]), np.zeros_like(given.converter_on[:1]))
        on = np.ones((1, nd), bool) if diode_on is None else diode_on[None, :]
        ground, _, _ = self._ground(bare, on, mode)
        behind = (giving > 0)[None, :]
        values = np.concatenate([
            1 / bare.ohm, np.zeros_like(bare.value), ground, bare.across, on.astype(float), behind.astype(float),
            bare.series, np.where(on, -self.diode_ohm, 1.0), np.where(behind, -giving, 1.0), np.ones((1, 1)), np.zeros((1, 3 * nc))],
            axis=1)
        right = np.zeros((self.size, len(probes) + 1))
        right[np.asarray(probes, int), np.arange(len(probes))] = 1.0
        right[self.n:, -1] = np.concatenate([bare.drive[0], np.zeros(nd), np.where(giving > 0, self.converter_law.out_v, 0.0)])
        try:
            v = self._factor(values).solve(right)[:self.n]
        except RuntimeError as error:
            raise NetworkError("the network is singular: some part of it has no defined voltage") from error
        return v[:, :-1], v[:, -1]


def solve(network: Network) -> Solution:
    """Solve one network as it stands; raises NetworkError when there is no solution."""
    system = System(network)
    return system.solve(system.conditions()).solution(0)
