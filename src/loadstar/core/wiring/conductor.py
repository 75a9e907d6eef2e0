"""A wire at a size: the one place that knows its copper, its insulation and its two ends.

Resistance counts the house rule's tinned copper; temperatures are those of the heat model or of the published table,
whichever is the higher (materials/ampacity.py).
"""

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..doc.rules import HouseRules
from ..doc.wires import Wire
from ..materials.ampacity import TABLE_RISE_K, table_a
from ..materials.conductors import (
    ALPHA20_PER_K,
    BY_AREA,
    IDEAL_OHM_MM2_PER_M,
    INSULATIONS,
    TINNED_FACTOR,
    Insulation,
    termination_ohm,
)
from ..physics import heat
from ..physics.overload import Insulated
from ..plan.model import Plan

Array = NDArray[np.float64]


@dataclass(frozen=True)
class ConductorAt:
    """A wire of a size. `contact_mohm` is the house rule's resistance of one termination."""

    area_mm2: float
    wall: str
    insulation: str
    tinned: bool
    contact_mohm: float

    @property
    def cover(self) -> Insulation:
        """Its insulation class."""
        return INSULATIONS[self.insulation]

    @cached_property
    def r20_ohm_per_m(self) -> float:
        """Resistance per metre at 20 C, tinned or not."""
        return BY_AREA[self.area_mm2].r20_ohm_per_m * (TINNED_FACTOR if self.tinned else 1.0)

    @cached_property
    def d_mm(self) -> float:
        """Diameter of the stranded conductor."""
        return BY_AREA[self.area_mm2].d_mm

    @cached_property
    def od_mm(self) -> float:
        """Overall diameter."""
        return BY_AREA[self.area_mm2].od_mm(self.wall)

    @cached_property
    def table_a(self) -> float:
        """Amps of the published table for its size; infinite where that has none."""
        return float(table_a(self.area_mm2))

    @property
    def insulated(self) -> Insulated:
        """It as what warms up."""
        return Insulated(self.area_mm2, self.r20_ohm_per_m, self.d_mm, self.od_mm, self.cover.k_w_per_mk)

    @property
    def end_ohm(self) -> float:
        """Resistance of one of its two terminations."""
        return termination_ohm(self.contact_mohm, self.area_mm2)

    def ohm(self, length_m: float, mean_c: float) -> float:
        """Resistance from end to end at a mean temperature, both terminations included."""
        return self.r20_ohm_per_m * (1 + ALPHA20_PER_K * (mean_c - 20)) * length_m + 2 * self.end_ohm


@lru_cache(maxsize=4096)
def _conductor(area_mm2: float, wall: str, insulation: str, tinned: bool, contact_mohm: float) -> ConductorAt:
    return ConductorAt(area_mm2, wall, insulation, tinned, contact_mohm)


def conductor(plan: Plan, wire: Wire, area_mm2: float) -> ConductorAt:
    """A wire of a plan at a size (mm2, one of the listed)."""
    rules = plan.rules
    return _conductor(area_mm2, wire.wall, wire.insulation or rules.insulation, rules.tinned, rules.contact_mohm)


def conductor_of(rules: HouseRules, area_mm2: float) -> ConductorAt:
    """A thin-wall wire of the house's insulation at a size (mm2, one of the listed)."""
    return _conductor(area_mm2, "thin", rules.insulation, rules.tinned, rules.contact_mohm)


class Conductors:
    """Many of them as arrays, in the order given."""

    def __init__(self, rows: Iterable[ConductorAt]) -> None:
        table = [(r.area_mm2, r.r20_ohm_per_m, r.d_mm, r.od_mm, r.cover.k_w_per_mk, r.cover.continuous_c, r.end_ohm,
                  r.table_a) for r in rows]
        self._set(np.array(table, float).reshape(-1, 8).T)

    def _set(self, columns: Array) -> None:
        self._columns = columns
        self.area, self.r20, self.d, self.od, self.k, self.class_c, self.end_ohm, self.table_a = columns

    def take(self, which: NDArray[np.int64]) -> "Conductors":
        """Some of them, in the order asked for."""
        found = Conductors(())
        found._set(self._columns[:, which])
        return found

    @property
    def insulated(self) -> Insulated:
        """They as what warms up."""
        return Insulated(self.area, self.r20, self.d, self.od, self.k)

    @property
    def overload_c(self) -> Array:
        """What each stands for six hours: class + 50 K."""
        return np.asarray(self.class_c + 50)

    @cached_property
    def effective_mm2(self) -> Array:
        """The copper that is guaranteed: that of ideal copper over R20."""
        return np.asarray(IDEAL_OHM_MM2_PER_M / self.r20)

    def temperature_c(self, current_a: ArrayLike, air_c: ArrayLike) -> Array:
        """Steady temperature of each alone in its air: by the heat model or by the table, the higher. Rows of currents
        may be given."""
        model = heat.wire_temperature_c(current_a, self.r20, self.d, self.od, air_c, self.k)
        return np.asarray(np.maximum(model,
                                     np.asarray(air_c) + TABLE_RISE_K * (np.asarray(current_a) / self.table_a) ** 2))

    def allowed_a(self, conductor_c: ArrayLike, air_c: ArrayLike) -> Array:
        """Current that brings each to a temperature in its air: by the heat model or by the table, the lower."""
        model = heat.ampacity_a(self.r20, self.d, self.od, conductor_c, air_c, self.k)
        over = np.maximum(np.asarray(conductor_c, float) - air_c, 0.0)
        with np.errstate(invalid="ignore"):
            table = self.table_a * np.sqrt(over / TABLE_RISE_K)
        return np.asarray(np.fmin(model, table))

    def carry(self, current_a: ArrayLike, conductor_c: ArrayLike, air_c: ArrayLike) -> NDArray[np.bool_]:
        """Whether each stays at or below a temperature in its air at a current: by the heat model and by the table."""
        by_table = TABLE_RISE_K * (np.asarray(current_a) / self.table_a) ** 2 <= np.asarray(conductor_c, float) - air_c
        watts = np.asarray(current_a) ** 2 * heat.resistance_at(self.r20, conductor_c)
        r_ins = heat.insulation_mk_per_w(self.d, self.od, self.k)
        return np.asarray(by_table & heat.carries(watts, r_ins, self.od, conductor_c, air_c))
