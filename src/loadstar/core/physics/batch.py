"""What is set in each state of a network, and what comes out: arrays by (state, element), and one state by names."""

from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from .elements import NetworkError
from .graph import components
from .layout import Layout

Array = NDArray[Any]
BoolArray = NDArray[np.bool_]
OFF, ON, LIMIT, LOW, HIGH = range(5)  # modes of a converter
LEAST_COIL_OHM = 8.0  # a resistor of so much or more is a coil, not a way
MODE_WORDS = ("off", "on", "limit", "low", "high")


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

    system: Layout
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

    @cached_property
    def fed(self) -> BoolArray:
        """By (state, load): whether a source drives it. One of its ends is joined to the plus terminal of a source or
        of a running converter, by copper or through coils and other loads; a ground that others' currents lift feeds
        nothing, though a little flows through loads whose feed is open."""
        s, given, states = self.system, self.given, len(self.given.ohm)
        running = (self.converter_mode == ON) | (self.converter_mode == LIMIT)
        drives = (given.across != 0) | (given.drive != 0)

        def on(ends: Array, active: Array) -> Array:
            row, element = np.nonzero(active)
            return np.asarray(ends[..., element] + row * s.n)

        copper = np.concatenate([on(s.r, given.ohm < LEAST_COIL_OHM), on(s.d, self.diode_on)], axis=1)
        plus, minus = (np.concatenate([on(s.s[end], drives), on(s.co[end], running)]) for end in (0, 1))
        count, label = components(copper, states * s.n)
        has_plus, has_minus = (_marked(count, label[nodes]) for nodes in (plus, minus))
        ground = (has_minus & ~has_plus)[label]
        coils = np.isfinite(given.ohm) & (given.ohm >= LEAST_COIL_OHM)
        through = np.concatenate([on(s.e, given.value > 0), on(s.r, coils)], axis=1)
        through = through[:, ~ground[through].any(axis=0)]
        count, label = components(np.concatenate([copper, through], axis=1), states * s.n)
        found = _marked(count, label[plus])[label].reshape(states, s.n)
        return np.asarray(found[:, s.e[0]] | found[:, s.e[1]])

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
        return {name: amps for name, amps,
                is_there in zip(b.system.names, _real(rows).tolist(), there.tolist(), strict=True)
                if is_there}

    @cached_property
    def on_floor(self) -> tuple[str, ...]:
        """Loads that the network cannot feed."""
        return tuple(e.name for e, low in zip(self.batch.system.network.loads, self.batch.on_floor[self.state],
                                              strict=True) if low)

    @property
    def converter_modes(self) -> dict[str, str]:
        """By converter: "on", "limit" (gives its most), "low" or "high" (input outside its window), "off"."""
        return {c.name: MODE_WORDS[m] for c, m in zip(self.batch.system.network.converters,
                                                 self.batch.converter_mode[self.state].tolist(), strict=True)}

    @cached_property
    def fed(self) -> frozenset[str]:
        """Loads that a source drives."""
        every = zip(self.batch.system.network.loads, self.batch.fed[self.state].tolist(), strict=True)
        return frozenset(e.name for e, is_fed in every if is_fed)

    def load_volts(self, least_a: float) -> dict[str, float]:
        """Volts across every load that a source drives and that carries at least so many amps; negative where it is
        reversed (AC: its amount)."""
        system, row = self.batch.system, self.batch.potential[self.state]
        volts = _real(row[system.e[0]] - row[system.e[1]]).tolist()
        amps = np.abs(self.batch.load[self.state]).tolist()
        return {e.name: v for e, v, i in zip(system.network.loads, volts, amps, strict=True)
                if i >= least_a and e.name in self.fed}

    def across_v(self, plus: str, minus: str) -> float:
        """Voltage between two nodes (AC: its rms amount)."""
        at, row = self.batch.system.index, self.batch.potential[self.state]
        return float(_real(row[at[plus]] - row[at[minus]]))


def _marked(count: int, groups: Array) -> BoolArray:
    """Which of so many groups are named."""
    found = np.zeros(count, bool)
    found[groups] = True
    return found


def _real(values: Array) -> Array:
    """Phasors as their amounts; real values as they are."""
    return np.abs(values) if np.iscomplexobj(values) else values
