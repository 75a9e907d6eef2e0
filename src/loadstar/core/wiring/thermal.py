"""The geometry of a plan's wires as the heat model takes it: stretches, the bundles they lie in, sizes as arrays."""

from collections.abc import Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..materials.ampacity import TABLE_RISE_K
from ..materials.coverings import HEAT_SLEEVE, around
from ..physics import bundle, heat, surface
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
        layers = {run.id: around(plan.rules.covered_with(run.covering), heat_sleeve=run.hot == HEAT_SLEEVE)
                  for run in plan.runs}
        self.covers = []
        for (where, _), members in groups.items():
            if len(members) > 1:
                bundles.append(range(at, at + len(members)))
                self.covers.append(layers[where])
            at += len(members)
        self.bundle = np.full((len(bundles), max((len(b) for b in bundles), default=0)), -1)
        for row, stretch in enumerate(bundles):
            self.bundle[row, : len(stretch)] = stretch
        self.together = self.bundle >= 0
        self._places = np.maximum(self.bundle, 0)
        self.bundle_c = self.ambient[self._places[:, 0]] if len(self.bundle) else np.zeros(0)
        # Stretches of each wire in turn, for sums and the hottest over them.
        self._in_turn = np.argsort(self.wire, kind="stable")
        self._first = np.searchsorted(self.wire[self._in_turn], np.arange(len(self.wires)))
        self._sized: tuple[tuple[float, ...], Conductors, Stretches] | None = None
        self._near: tuple[Array, Array] | None = None  # the last surfaces, where the next begin
        self.length_m = np.array([topology.geometry[w].length_m for w in self.wires])

    def at(self, area: Mapping[str, float]) -> Conductors:
        """Every wire at its size."""
        return self._at(area)[1]

    def _at(self, area: Mapping[str, float]) -> "tuple[tuple[float, ...], Conductors, Stretches]":
        sizes = tuple(area[w] for w in self.wires)
        if self._sized is None or self._sized[0] != sizes:
            wires = Conductors(conductor(self.plan, w, a) for w, a in zip(self.plan.wires, sizes, strict=True))
            self._sized = sizes, wires, Stretches(self, wires)
        return self._sized

    def ohm(self, area: Mapping[str, float], mean_c: Array) -> Array:
        """Resistance of every wire from end to end at mean temperatures (any number of rows)."""
        wires = self.at(area)
        return np.asarray(heat.resistance_at(wires.r20,
                                             np.minimum(mean_c, surface.RUNAWAY_C)) * self.length_m + 2 * wires.end_ohm)

    def temperatures(self, area: Mapping[str, float], current: Array) -> tuple[Array, Array, Array, Array]:
        """For currents (states, wires): hottest and mean temperature; at the hottest the air with neighbours, and
        without."""
        states, count = current.shape
        if count == 0:
            empty = np.zeros((states, 0))
            return empty, empty, empty, empty
        stretches = self._at(area)[2]
        amps = np.abs(current)[:, self.wire]
        own, warm = stretches.temperatures_c(amps, self._near)
        self._near = stretches.surfaces
        here = own
        if len(self.bundle):
            here = own.copy()
            # A cold neighbour cools a loaded wire; that is not relied on.
            members = self.bundle[self.together]
            here[:, members] = np.fmax(warm[:, self.together], own[:, members])
        mean = np.add.reduceat((here * self.share)[:, self._in_turn], self._first, axis=1)
        # Of each wire's stretches the hottest decides, of alike ones that in the warmest air, and of those the last.
        rank = here + 1e-6 * self.ambient
        order = np.argsort(rank, axis=1, kind="stable")
        at = np.zeros((states, count), int)
        np.put_along_axis(at, self.wire[order], order, axis=1)
        rows = np.arange(states)[:, None]
        with np.errstate(invalid="ignore"):
            near = np.where(np.isfinite(here), here - own, 0.0)[rows, at]
        air = self.ambient[at]
        return here[rows, at], mean, air + near, air


class Stretches:
    """The stretches of a plan's wires at their sizes: each alone in its air, and the bundles that some of them lie in.
    All their surfaces are brought to balance at once."""

    def __init__(self, thermal: Thermal, wires: Conductors) -> None:
        self.thermal = thermal
        self.r20, self.od, d, k, self._table_a = (v[thermal.wire]
                                                  for v in (wires.r20, wires.od, wires.d, wires.k, wires.table_a))
        self.r_ins = heat.insulation_mk_per_w(d, self.od, k)
        there, at = thermal.together, thermal._places
        laid_r20, laid_d, laid_od, laid_k = (np.where(there, v[at], missing) for v, missing in (
            (self.r20, 0.0), (d, 0.0), (self.od, 0.0), (k, heat.K_PVC)))
        self.bundles = bundle.Bundles(laid_r20, laid_d, laid_od, laid_k, thermal.covers) if len(
            thermal.bundle) else None
        self.surfaces: tuple[Array, Array] | None = None

    def temperatures_c(self, amps: Array, near: tuple[Array, Array] | None) -> tuple[Array, Array]:
        """For currents (states, stretches) the temperature of each stretch alone, by the table where that is more; and
        of the bundles (states, bundles, wires)."""
        thermal, states = self.thermal, len(amps)
        alone = heat.WireHeat(amps, self.r20, self.r_ins, thermal.ambient)
        near_alone, near_bundle = near or (None, None)
        if self.bundles is None:
            rise = surface.settled_rise_k(self.od, thermal.ambient, alone.made, alone.more, near_alone)
            self.surfaces = rise, np.zeros((states, 0))
            return self._by_table(alone.temperatures_c(rise), amps), np.zeros((states, 0, 0))
        inside = self.bundles.balance(np.where(thermal.together, amps[:, thermal._places], 0.0), thermal.bundle_c)
        both = [np.concatenate(pair, axis=1) for pair in (
            (np.broadcast_to(self.od, amps.shape), np.broadcast_to(self.bundles.outer_mm, inside.made.shape)),
            (np.broadcast_to(thermal.ambient, amps.shape), np.broadcast_to(thermal.bundle_c, inside.made.shape)),
            (alone.made, inside.made), (alone.more, inside.more))]
        begin = None if near_alone is None or near_bundle is None else np.concatenate([near_alone, near_bundle], axis=1)
        rise = surface.settled_rise_k(both[0], both[1], both[2], both[3], begin)
        self.surfaces = rise[:, : amps.shape[1]], rise[:, amps.shape[1]:]
        return self._by_table(alone.temperatures_c(self.surfaces[0]), amps), inside.temperatures_c(self.surfaces[1])

    def _by_table(self, model_c: Array, amps: Array) -> Array:
        return np.asarray(np.maximum(model_c, self.thermal.ambient + TABLE_RISE_K * (amps / self._table_a) ** 2))
