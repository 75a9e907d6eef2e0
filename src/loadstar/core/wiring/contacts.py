"""Which contacts conduct: by the state, by where the changeover stands, and by what has pulled in.

A coil pulls in at its pull-in voltage with its contact still open, and holds down to its much lower holding voltage.
What the key has closed before the starter turns is closed when it begins to turn.
"""

import copy
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..materials.conductors import ALPHA20_PER_K
from ..physics.batch import Batch
from ..physics.graph import components
from ..physics.network import System
from ..supply.base import Situation
from .topology import Topology

Array = NDArray[Any]
BoolArray = NDArray[np.bool_]


class Contacts:
    """Everything of a network that is no wire, over all situations: what is open, and the coils that decide it."""

    def __init__(self, topology: Topology, system: System, rows: tuple[Situation, ...]) -> None:
        self.topology, self.system, self.rows = topology, system, rows
        self.first = len(topology.wires)  # of the network's resistors, behind the wires
        self.elements = [k.element for k in (*topology.links, *topology.coils)][self.first:]
        branches = [topology.branches[e] for e in self.elements]
        self.coil = np.array([b.control for b in branches], bool)
        self.fuses = [(i, b.ref) for i, b in enumerate(branches, self.first) if b.ohm is None]
        self.ohm = np.array([1.0 if b.ohm is None else b.ohm for b in branches])
        self.parts = list(topology.actuators)
        number = {part: i for i, part in enumerate(self.parts)}
        self._follows = np.array([number.get(b.follows, -1) for b in branches], int)
        self._ready = np.array(
            [[b.ready(r.state, r.stands) for b in branches] for r in rows], bool).reshape(len(rows), len(branches))
        actuators = topology.actuators.values()
        at, node = system.index, topology.node
        self._plus, self._minus = (np.array([at[node(getattr(a, end))] for a in actuators], int)
                                   for end in ("plus", "minus"))
        self._pulls_v, self._holds_v = (np.array([getattr(a, f) for a in actuators], float)
                                        for f in ("pull_in_v", "holds_v"))
        warm = [topology.plan.ambient_at(topology.parts[part].place) for part in self.parts]
        self._hot_v = np.array([hot_pull_in_v(a.pull_in_v, c) for a, c in zip(actuators, warm, strict=True)])
        states = [r.state for r in rows]
        self._states = len(topology.source.states)
        self._cranking = states.index("cranking") if "cranking" in states else -1
        self._key_on = states.index("key_on") if "key_on" in states else -1
        shape = (len(rows), len(self.parts))
        self.pulled = np.zeros(shape, bool)  # which have pulled in
        self._seen = np.zeros(shape, bool)  # to pull in with their contact open
        self._let_go = np.zeros(shape, bool)  # were pulled in and did not hold
        self._guess()

    def repeated(self, count: int, pulled: BoolArray) -> "Contacts":
        """The same of one situation for so many rows of it, with these parts pulled in to begin with (part by part);
        what is in then holds as it would have been in."""
        assert len(self.rows) == 1
        made = copy.copy(self)
        made.rows = self.rows * count
        made._ready = np.repeat(self._ready, count, axis=0)
        made._states, made._cranking, made._key_on = count, -1, -1
        made.pulled = np.repeat(pulled[None, :], count, axis=0)
        made._seen, made._let_go = np.zeros_like(made.pulled), np.zeros_like(made.pulled)
        return made

    def force(self, row: int, element: str, *, closed: bool) -> None:
        """In one row, an element that conducts, or does not, whatever its switch or key says."""
        self._ready[row, self.elements.index(element)] = closed  # type: ignore[arg-type]

    def open(self) -> BoolArray:
        """Which are open, by (situation, element)."""
        if not self.parts:
            return ~self._ready
        follows = np.where(self._follows >= 0, self.pulled[:, np.maximum(self._follows, 0)], True)
        return np.asarray(~(self._ready & follows))

    def _guess(self) -> None:
        """Pulled in are those whose coil is joined to the source when every contact is: a start that is nearly always
        right."""
        begun: dict[bytes, Array] = {}
        for i in range(len(self.rows) if self.parts else 0):
            key = self.open()[i].tobytes()
            while key not in begun:
                closed = ~(self.open()[i] | self.coil)
                _, group = components(self.system.r[:, :self.first + len(closed)][
                    :, np.concatenate([np.ones(self.first, bool), closed])], self.system.n)
                live = group[self._plus] == group[self.system.index[self.topology.positive]]
                if (live == self.pulled[i]).all():
                    begun[key] = self.pulled[i].copy()
                self.pulled[i] = live
            self.pulled[i] = begun[key]

    def coil_v(self, batch: Batch) -> Array:
        """Volts over the coils, by (situation, part)."""
        return np.asarray(np.abs(batch.potential[:, self._plus] - batch.potential[:, self._minus]))

    def follow(self, batch: Batch) -> BoolArray:
        """Close what pulls in, open what no longer holds; which did. One that is in under its pull-in voltage is let go
        once, to see whether it would pull in; then it may hold."""
        moved = np.zeros_like(self.pulled)
        if not self.parts:
            return moved
        volts = self.coil_v(batch)
        solved = np.array([f is None for f in batch.failure], bool)
        every = np.arange(len(self.rows))
        for rows in (every[every != self._cranking], every[every == self._cranking]):
            rows = rows[solved[rows]]
            cranking = np.array([[r == self._cranking] for r in rows], bool).reshape(-1, 1)
            if cranking.any():
                self._seen[rows] |= self.pulled[self._key_on] & ~self._let_go[rows]
            v, shut, seen = volts[rows], self.pulled[rows], self._seen[rows]
            stays_in = v >= np.where(seen, self._holds_v, self._pulls_v)
            held = seen & cranking & (v >= self._holds_v)
            stays_out = (v < self._pulls_v) & ~held
            flips = np.where(shut, ~stays_in, ~stays_out)
            seen = seen | (shut & (v >= self._pulls_v)) | (~shut & flips)
            drops = flips & shut & seen
            self._let_go[rows] |= drops
            self._seen[rows] = seen & ~drops
            self.pulled[rows] = shut ^ flips
            moved[rows] = flips
        return moved

    def weak(self, batch: Batch) -> BoolArray:
        """In the plan's states, however its switches stand, which parts are in with less than their hot coil needs, by
        (situation, part)."""
        solved = np.array([f is None for f in batch.failure], bool)
        found = self.pulled & solved[:, None] & (self.coil_v(batch) < self._hot_v) if self.parts else self.pulled.copy()
        found[[i for i, row in enumerate(self.rows) if i >= self._states and not row.turned]] = False
        return found

    def closed(self, i: int) -> dict[str, bool]:
        """Which parts have pulled in, in a situation."""
        return dict(zip(self.parts, self.pulled[i].tolist(), strict=True))

    def follows(self, part: str) -> BoolArray:
        """The elements that a part closes, by element."""
        return np.asarray(self._follows == self.parts.index(part))


def hot_pull_in_v(pull_in_v: float, coil_c: float) -> float:
    """Volts that a coil needs to pull in when it is so warm: copper's resistance rises from 20 C, the ampere-turns
    stay."""
    return pull_in_v * (1 + ALPHA20_PER_K * (coil_c - 20))
