"""The geometry of a plan's wires as the heat model takes it: stretches, the bundles they lie in, sizes as arrays."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..materials.ampacity import table_rise_k
from ..physics import heat
from .conductor import Conductors, conductor
from .topology import Topology

Array = NDArray[Any]


class Thermal:
    """Geometry of the wires' heat as arrays: bundles by run, single wires by place."""

    def __init__(self, topology: Topology) -> None:
        plan = topology.plan
        self.wires = tuple(w.id for w in plan.wires)
        self.plan = plan
        index = {w: i for i, w in enumerate(self.wires)}
        groups: dict[tuple[str, float], list[tuple[int, float]]] = {}
        for wire, geometry in topology.geometry.items():
            for number, segment in enumerate(geometry.segments):
                key = (segment.run or f"{wire}/{number}", segment.ambient_c)
                groups.setdefault(key, []).append((index[wire], segment.length_m / geometry.length_m))
        # Every stretch of every wire, and which of them lie together in a bundle (one row each, padded with -1).
        flat = [(wire, share, key[1]) for key, members in groups.items() for wire, share in members]
        self.wire = np.array([wire for wire, _, _ in flat], int)
        self.share = np.array([share for _, share, _ in flat])
        self.ambient = np.array([ambient for _, _, ambient in flat])
        bundles, at = [], 0
        for members in groups.values():
            if len(members) > 1:
                bundles.append(range(at, at + len(members)))
            at += len(members)
        self.bundle = np.full((len(bundles), max((len(b) for b in bundles), default=0)), -1)
        for row, stretch in enumerate(bundles):
            self.bundle[row, : len(stretch)] = stretch
        self._at: tuple[tuple[float, ...], Conductors] | None = None
        self._near_own: Array | None = None  # the last solution, where the next begins
        self._near_bundle: Array | None = None
        self.length_m = np.array([topology.geometry[w].length_m for w in self.wires])

    def at(self, area: dict[str, float]) -> Conductors:
        """Every wire at its size."""
        sizes = tuple(area[w] for w in self.wires)
        if self._at is None or self._at[0] != sizes:
            self._at = sizes, Conductors(conductor(self.plan, w, a) for w, a in zip(self.plan.wires, sizes, strict=True))
        return self._at[1]

    def ohm(self, area: dict[str, float], mean_c: Array) -> Array:
        """Resistance of every wire from end to end at mean temperatures (any number of rows)."""
        wires = self.at(area)
        return np.asarray(heat.resistance_at(wires.r20, np.minimum(mean_c, heat.RUNAWAY_C)) * self.length_m + 2 * wires.end_ohm)

    def temperatures(self, area: dict[str, float], current: Array) -> tuple[Array, Array, Array, Array]:
        """For currents (states, wires): hottest and mean temperature; at the hottest the air with neighbours, and without."""
        states, count = current.shape
        if count == 0:
            empty = np.zeros((states, 0))
            return empty, empty, empty, empty
        wires = self.at(area)
        r20, d, od, k, size = (values[self.wire] for values in (wires.r20, wires.d, wires.od, wires.k, wires.area))
        amps = np.abs(current)[:, self.wire]
        own = heat.wire_temperature_c(amps, r20, d, od, self.ambient, k, self._near_own)
        self._near_own = own
        own = np.maximum(own, self.ambient + table_rise_k(size, amps))
        here = own.copy()
        if len(self.bundle):
            rows, width = self.bundle.shape
            there, at = self.bundle >= 0, np.maximum(self.bundle, 0)

            def packed(values: Array, missing: float) -> Array:
                return np.tile(np.where(there, values[at], missing), (states, 1))

            warm, _ = heat.bundle_temperatures_c(
                np.where(there, amps[:, at], 0.0).reshape(states * rows, width), packed(r20, 0.0), packed(d, 0.0),
                packed(od, 0.0), np.tile(self.ambient[self.bundle[:, 0]], states), packed(k, heat.K_PVC), self._near_bundle)
            self._near_bundle = warm
            # A cold neighbour cools a loaded wire; that is not relied on.
            together = self.bundle[there]
            here[:, together] = np.fmax(warm.reshape(states, rows, width)[:, there], own[:, together])
        mean = np.zeros((states, count))
        hottest, added, air = (np.zeros((states, count)) for _ in range(3))
        for s in range(states):
            np.add.at(mean[s], self.wire, here[s] * self.share)
            # Of each wire's stretches the hottest decides; the last written wins, so write in rising order.
            order = np.argsort(here[s] + 1e-6 * self.ambient, kind="stable")
            hottest[s, self.wire[order]] = here[s, order]
            with np.errstate(invalid="ignore"):
                near = np.where(np.isfinite(here[s]), here[s] - own[s], 0.0)
            added[s, self.wire[order]] = (self.ambient + near)[order]
            air[s, self.wire[order]] = self.ambient[order]
        return hottest, mean, added, air
