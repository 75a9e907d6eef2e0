"""The equations of a network: what each element weighs in them, and currents summed by node."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from .batch import LIMIT, ON, Conditions
from .elements import Network
from .joined import Joined
from .layout import Layout
from .matrix import Matrix

Array = NDArray[Any]
BoolArray = NDArray[np.bool_]
Modes = NDArray[np.int8]


class Equations(Layout):
    """A network with its matrix, and which of its nodes are joined."""

    def __init__(self, network: Network) -> None:
        super().__init__(network)
        self.matrix = Matrix(self.n, self.r, self.e, self.k, self.ci, self.co)
        self.joined = Joined(self)

    def gather(self, ends: Array, current: Array) -> Array:
        """Currents (states, elements) that leave the first node and enter the second, summed by node."""
        states = len(current)
        at = (ends[:, None, :] + np.arange(states)[None, :, None] * self.n).reshape(2, -1)

        def total(amps: Array) -> Array:
            return np.asarray(np.bincount(at[0], amps, states * self.n) - np.bincount(at[1], amps, states * self.n))

        flat = current.ravel()
        found = total(flat.real) + 1j * total(flat.imag) if np.iscomplexobj(flat) else total(flat)
        return np.asarray(found.reshape(states, self.n))

    def own_equations(self, given: Conditions, on: BoolArray, converters: Modes) -> tuple[Array, Array, Array]:
        """How everything with a current of its own weighs its voltage and that current, and what drives it: sources,
        diodes, converters' outputs."""
        across = np.concatenate([given.across, on.astype(float), (converters == ON).astype(float)], axis=1)
        series = np.concatenate([given.series, np.where(on, -self.diode_ohm, 1.0), (converters != ON).astype(float)],
                                axis=1)
        held = np.where(converters == LIMIT, -self.converter_law.limit_a, 0.0)
        drive = np.concatenate([given.drive, np.where(on, self.diode_v, 0.0),
                                np.where(converters == ON, self.converter_law.out_v, held)], axis=1)
        return across, series, drive
