"""The solved network in every state: sources, relays and wire temperatures brought to agree.

Engine off, the battery is an EMF behind its resistance at the charge the plan is judged at; a pack always is one (while
charging: at its full voltage). Engine running, the regulator holds its set-point as long as the generator can give what
is drawn; when it cannot, the generator gives all it has as a current and the battery the rest, at battery voltage. What
the battery takes while charging is the plan's charging allowance. A lighting coil is an EMF behind its winding's
resistance and reactance, solved by phasors. Relays are opened and closed until nothing changes. A state in which copper
joins a supply's two ends is a dead short: it has no figures, only the way of the short.
"""

from collections.abc import Collection
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..parts.inside import ABSENT
from ..physics import surface
from ..physics.batch import LOW, ON, Batch, Conditions
from ..physics.elements import NetworkError
from ..physics.graph import components
from ..physics.network import KCL_TOLERANCE_A, Begin, System
from .contacts import Contacts
from .results import Choices, Solved
from .sources import Sources
from .thermal import Thermal
from .topology import Topology

Array = NDArray[Any]
BoolArray = NDArray[np.bool_]
TEMPERATURE_ROUNDS = 5
TEMPERATURE_SETTLED_K = 0.02
TURNS, ROUGH_TURNS = 14, 3  # of relays and sources, until they agree with the voltages
ROUGH_A = 1e-5
NEAR_WINDOW = 1.05  # a converter this near to the end of its window is looked at from both sides


class StateSolver:
    """All situations of a plan. Keeps the last temperatures, relays and voltages as the next start."""

    def __init__(self, topology: Topology, thermal: Thermal) -> None:
        self.topology, self.thermal, self.plan = topology, thermal, topology.plan
        self.rows = topology.source.situations()
        self.states = tuple(row.state for row in self.rows)
        self.system = System(topology.elements)
        self.mean_c = np.full((len(self.rows), len(thermal.wires)), 50.0)
        self.batch: Batch | None = None
        self.contacts = Contacts(topology, self.system, self.rows)
        self._facts: dict[bytes, tuple[tuple[str, ...], bool]] = {}
        self._base = self._base_conditions()
        self.sources = Sources(topology, self.system, self.rows)

    def without(self, loads: Collection[str]) -> None:
        """Switch some loads off in every row, whatever its state has."""
        resistive = self.system.law.resistive
        for j, load in enumerate(self.system.network.loads):
            if load.name in loads:
                self._base.value[:, j] = np.inf if resistive[j] else 0.0

    def solve(self, choices: Choices, *, rough: bool = False) -> Solved:
        """Every row, with wires at their temperature; one round is enough (`rough`) while sizes still change."""
        self.sources.begin()
        for turn in range(1 if rough else TEMPERATURE_ROUNDS):
            ohm = self.thermal.ohm(choices.area_mm2, self.mean_c)
            # Sizes have changed since the last solution: what a converter did with those says nothing about these.
            available, undecided = self._settle(ohm, choices.rating_a, rough, "on" if turn == 0 else "kept")
            assert self.batch is not None
            current = np.abs(np.nan_to_num(self.batch.branch[:, : len(self.thermal.wires)]))
            if "cranking" in self.states:
                current[self.states.index("cranking")] = 0.0  # over in seconds: the wires stay as warm as the air
            before = self.mean_c
            hottest, self.mean_c, surround, ambient = self.thermal.temperatures(choices.area_mm2, current)
            change = np.abs(np.minimum(self.mean_c, surface.RUNAWAY_C) - np.minimum(before, surface.RUNAWAY_C))
            if np.max(change, initial=0.0) < TEMPERATURE_SETTLED_K:
                break
        assert self.batch is not None
        shorts, _ = self._shorts_and_joined(self.contacts.open())
        return Solved(self.topology, self.thermal.wires, self.rows, self.batch, tuple(self.sources.mode), available,
                      tuple(self.contacts.closed(i) for i in range(len(self.rows))), undecided, hottest, before,
                      surround, ambient,
                      self.sources.charge_a.copy(), shorts, () if rough else self._open_coils(),
                      () if rough else self._either())

    def patterns(self) -> list[BoolArray]:
        """Which contacts and coils conduct in each situation: the different ones."""
        conducts = ~self.contacts.open()
        return list({row.tobytes(): row for row in conducts}.values())

    # -- what a stand of the contacts means ------------------------------------------------------------------------

    def _shorts_and_joined(self, is_open: BoolArray) -> tuple[tuple[tuple[str, ...], ...], list[bool]]:
        """By row: the way of a dead short (empty: none), and whether copper joins the generator to the rail."""
        found = []
        for row in is_open:
            key = row.tobytes()
            if key not in self._facts:
                self._facts[key] = self._fact(row | self.contacts.coil)
            found.append(self._facts[key])
        return tuple(short for short, _ in found), [joined for _, joined in found]

    def _fact(self, gone: BoolArray) -> tuple[tuple[str, ...], bool]:
        topology, at = self.topology, self.system.index
        _, group = components(self.system.r[:, np.concatenate([np.ones(self.contacts.first, bool), ~gone])],
                              self.system.n)
        short: tuple[str, ...] = ()
        for root in topology.roots:
            if group[at[root.positive]] == group[at[root.negative]]:
                dead: set[str] = {e
                                  for e, is_gone in zip(self.contacts.elements, gone.tolist(), strict=True) if is_gone}
                dead |= {d.name for d in self.system.network.diodes}
                short = (root.part, *topology.way_of_short(root, dead))
                break
        generator = self.plan.generator
        joined = generator is not None and all(
            group[at[topology.node(generator.at(end))]] == group[at[rail]]
            for end, rail in (("pos", topology.positive), ("neg", topology.negative)))
        return short, joined

    # -- conditions ------------------------------------------------------------------------------------------------

    def _base_conditions(self) -> Conditions:
        """What does not change: live loads and converters, batteries and packs, contacts' ohms."""
        machine, parts = self.plan.machine, self.topology.parts
        network = self.system.network
        given = self.system.conditions(len(self.rows))
        for i, row in enumerate(self.rows):
            for j, load in enumerate(network.loads):
                takes = self.topology.takes(load.name, row.state)
                if takes is not None:
                    given.value[i, j] = takes
            for j, converter in enumerate(network.converters):
                given.converter_on[i, j] = parts[converter.name].converts_in(row.state)
        aside = self.topology.side_coil  # which writes its own equations (wiring/side_coil.py)
        driven = [[ABSENT if s.name in row.away or (aside and s.name == aside.id)
                   else parts[s.name].drives(row.state, machine, empty=row.empty)
                   for s in network.sources] for row in self.rows]
        given.across, given.series, given.drive = (
            np.array([[getattr(d, f) for d in row] for row in driven]).reshape(len(self.rows), len(network.sources))
            for f in ("across", "series", "drive"))
        if np.iscomplexobj(given.series):
            given.drive = given.drive.astype(complex)
        return given

    def _ohms(self, wire_ohm: Array, rating_a: dict[str, float], is_open: BoolArray) -> Array:
        ohm = np.empty_like(self._base.ohm)
        first = self.contacts.first
        ohm[:, :first] = wire_ohm
        ohm[:, first:] = self.contacts.ohm
        for row, fuse in self.contacts.fuses:
            ohm[:, row] = self.topology.contact_ohm(fuse, rating_a)
        ohm[:, first:][is_open] = np.inf
        return ohm

    def _settle(self, wire_ohm: Array, rating_a: dict[str, float], rough: bool,
                begin: Begin) -> tuple[Array, tuple[tuple[str, ...], ...]]:
        """Solve, and let relays and sources follow the voltages until all agree; `rough` while sizes still change."""
        turns, tolerance_a = (ROUGH_TURNS, ROUGH_A) if rough else (TURNS, KCL_TOLERANCE_A)
        given, base = self.system.conditions(len(self.rows)), self._base
        given.value, given.converter_on = base.value, base.converter_on
        available = np.zeros(len(self.rows))
        undecided: tuple[tuple[str, ...], ...] = ((),) * len(self.rows)
        for turn in range(turns):
            is_open = self.contacts.open()
            shorts, joined = self._shorts_and_joined(is_open)
            given.ohm = self._ohms(wire_ohm, rating_a, is_open)
            given.across, given.series, given.drive = base.across.copy(), base.series.copy(), base.drive.copy()
            for i in range(len(self.rows)):
                available[i] = self.sources.drive(i, given, joined[i])
            failed = {i: NetworkError("a dead short", short) for i, short in enumerate(shorts) if short}
            self.batch = self.system.solve(given, self.batch, tolerance_a, begin if turn == 0 else "kept", failed)
            moved = [self.sources.follow(i, self.batch, available) for i in range(len(self.rows))]
            flipped = self.contacts.follow(self.batch)
            if turn == turns - 1:
                undecided = tuple(tuple(p for p, moves in zip(self.contacts.parts, row, strict=True) if moves)
                                  for row in flipped.tolist())
            if not any(moved) and not flipped.any():
                break
        return available, undecided

    # -- looked at once a solution stands --------------------------------------------------------------------------

    def _open_coils(self) -> tuple[dict[str, float], ...]:
        """Per row: volts over the coil of each part that is in with less than its hot coil needs, its contact still
        open."""
        assert self.batch is not None
        weak = self.contacts.weak(self.batch)
        if not weak.any():
            return ()
        found: tuple[dict[str, float], ...] = tuple({} for _ in self.rows)
        for k in np.flatnonzero(weak.any(axis=0)):  # its own contact alone: what it hangs on stays in
            part, rows = self.contacts.parts[k], weak[:, k]
            given = Conditions(*(v.copy() for v in vars(self.batch.given).values()))
            given.ohm[:, self.contacts.first:][rows[:, None] & self.contacts.follows(part)] = np.inf
            failed = {i: f or NetworkError("not asked")
                      for i, f in enumerate(self.batch.failure) if f is not None or not rows[i]}
            apart = self.system.solve(given, self.batch, failed=failed)
            volts = self.contacts.coil_v(apart)[:, k]
            for i in np.flatnonzero(rows):
                if apart.failure[i] is None:
                    found[i][part] = float(volts[i])
        return found

    def _either(self) -> tuple[tuple[str, ...], ...]:
        """Per row: converters that are on, and would stay off if they were off: near the lower end of their window."""
        assert self.batch is not None
        batch, law = self.batch, self.system.converter_law
        vin = np.real(batch.potential[:, self.system.ci[0]] - batch.potential[:, self.system.ci[1]])
        near = (batch.converter_mode == ON) & (vin < NEAR_WINDOW * law.low_v)
        if not near.any():
            return ()
        failed = {i: f for i, f in enumerate(batch.failure) if f is not None}
        low = self.system.solve(batch.given, batch, begin="low", failed=failed)
        names = [c.name for c in self.system.network.converters]
        return tuple(tuple(n
            for j, n in enumerate(names) if near[i, j] and low.failure[i] is None and low.converter_mode[i, j] == LOW)
                     for i in range(len(self.rows)))
