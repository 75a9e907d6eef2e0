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

from .batch import LIMIT, LOW, OFF, ON, Batch, Conditions, Solution
from .elements import Network, NetworkError
from .equations import Equations
from .matrix import Singular
from .modes import Window, converter_wants, diode_wants
from .newton import Attempt, settle

Array = NDArray[Any]
IntArray = NDArray[np.int64]
BoolArray = NDArray[np.bool_]
Modes = NDArray[np.int8]
KCL_TOLERANCE_A = 1e-9
MODE_ROUNDS = 24
ALL_AT_ONCE = 8  # rounds; then one mode of a state at a time
COLD_AFTER = 4  # rounds; then loads of a converter at its limit begin from nothing
Begin = Literal["kept", "on", "low"]


class System(Equations):
    """A network that can be solved; what conducts, drives and draws is given with each solution."""

    def __init__(self, network: Network) -> None:
        super().__init__(network)
        self.windows = [Window(c.window_low_v, c.window_high_v, c.out_v, c.limit_a) for c in network.converters]

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
        attempt = self._begun(given, start, tolerance_a, begin)
        for state, why in (failed or {}).items():
            attempt.failure[state] = why
        pending = np.array(attempt.standing(np.arange(len(given.ohm))), int)
        if start is not None:
            attempt.warm[pending] &= np.isfinite(attempt.x[pending]).all(axis=1)
        steps = 0
        for turn in range(MODE_ROUNDS):
            if not len(pending):
                break
            # A converter at its limit and constant powers may balance at its full voltage, or collapsed: if the one is
            # none, the other.
            cold = turn >= COLD_AFTER
            if cold:
                attempt.warm[:] = False
            steps = max(steps, settle(self, attempt, pending, cold))
            attempt.warm[pending] = True
            pending = np.array(attempt.standing(pending), int)
            pending = pending[self._flip(attempt, pending, one_at_a_time=turn >= ALL_AT_ONCE,
                                         wakes=begin == "low" and turn < ALL_AT_ONCE)]
        for state in pending.tolist():
            attempt.failure[state] = NetworkError(
                "a converter or diode keeps switching on and off: its supply is too weak",
                (*(c.name for c in self.network.converters), *(d.name for d in self.network.diodes)))
        return self._extract(attempt, steps)

    def _begun(self, given: Conditions, start: Batch | None, tolerance_a: float, begin: Begin) -> Attempt:
        """Modes and unknowns as a solution begins with: those of `start` where it has as many states, or nothing."""
        states = len(given.ohm)
        kept = start if start is not None and len(start.potential) == states else None
        mode = np.where(given.converter_on, LOW if begin == "low" else ON, OFF).astype(np.int8)
        if begin == "kept" and kept is not None:
            mode = np.where(given.converter_on & (kept.converter_mode != OFF), kept.converter_mode, mode)
        complex_v = any(np.iscomplexobj(x) for x in (given.series, given.drive))
        x: Array = np.zeros((states, self.size), complex if complex_v else float)
        if kept is not None:
            x[:, :self.n] = kept.potential
            x[:, self.n:] = np.concatenate([kept.source, kept.diode, kept.converter_out], axis=1)
        diode_on = np.ones((states, self.d.shape[1]), bool) if kept is None else kept.diode_on.copy()
        warm = np.full(states, kept is not None)
        return Attempt(given, diode_on, mode, x, warm, self._source_loops(given), tolerance_a)

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

    def straightened(self, batch: Batch, state: int) -> Array:
        """The equations of one solved state, straight around its solution, as a matrix (size, size): what its nodes
        and currents do for a little more current at a node or volts in a source. Of phasors with every load at its
        conductance."""
        given = Conditions(*(v[state:state + 1] for v in vars(batch.given).values()))
        on, mode = batch.diode_on[state:state + 1], batch.converter_mode[state:state + 1]
        ground, _, _ = self.joined.ground(given, on, mode)
        across, series, _ = self.own_equations(given, on, mode)
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

    def _flip(self, attempt: Attempt, rows: IntArray, *, one_at_a_time: bool, wakes: bool) -> BoolArray:
        """Change the modes that do not agree with the voltages; says in which rows something changed."""
        x, diode_on, mode = attempt.x, attempt.diode_on, attempt.mode
        changed = np.zeros(len(rows), bool)
        nd, nc = self.d.shape[1], self.co.shape[1]
        if not (nd or nc) or not len(rows):
            return changed
        v, i_k = x[rows, :self.n].real, x[rows, self.n:].real
        ns = self.s.shape[1]
        for j in range(nd):
            want = diode_wants(diode_on[rows, j], i_k[:, ns + j], v[:, self.d[0, j]] - v[:, self.d[1, j]],
                               self.diode_v[j])
            wrong = (want != diode_on[rows, j]) & ~(changed & one_at_a_time)
            diode_on[rows[wrong], j] = want[wrong]
            changed |= wrong
        for j in range(nc):
            vin, vout = (v[:, pair[0, j]] - v[:, pair[1, j]] for pair in (self.ci, self.co))
            now = mode[rows, j]
            mine = converter_wants(now, vin, vout, -i_k[:, ns + nd + j], self.windows[j], wakes=wakes)
            wrong = (mine != now) & ~(changed & one_at_a_time)
            mode[rows[wrong], j] = mine[wrong]
            changed |= wrong
        return changed

    def _extract(self, attempt: Attempt, steps: int) -> Batch:
        given, mode, x, failure = attempt.given, attempt.mode, attempt.x, attempt.failure
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
        balance = (self.gather(self.r, through) + self.gather(self.e, drawn) + self.gather(self.k, i_k)
                   + self.gather(self.ci, taken))
        drawn[lost], taken[lost] = np.nan, np.nan
        size = np.abs(across) if np.iscomplexobj(across) else across
        low = (size < self.law.floor - 1e-9) & (given.value > 0) & (self.law.power | self.law.constant_current)
        return Batch(self, given, v, through, i_k[:, :ns], i_k[:, ns:ns + nd], i_k[:, ns + nd:], taken, drawn,
                     attempt.diode_on, mode, low, np.max(np.abs(balance), axis=1, initial=0.0), steps, failure)

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
