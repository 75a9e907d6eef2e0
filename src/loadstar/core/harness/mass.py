"""What wires weigh: copper as it is guaranteed (by the standard's resistance), and insulation of 1.35 g/cm3."""

import math

from ..materials.conductors import copper_mass_g
from ..wiring.conductor import ConductorAt

INSULATION_G_CM3 = 1.35


def grams_per_m(wire: ConductorAt) -> float:
    """Grams of a metre: 0.5 mm2 thin wall 5.68, 1 mm2 10.71, 2.5 mm2 24.28."""
    insulation_mm2 = math.pi / 4 * (wire.od_mm**2 - wire.d_mm**2)
    return copper_grams_per_m(wire) + INSULATION_G_CM3 * insulation_mm2


def copper_grams_per_m(wire: ConductorAt) -> float:
    """Of it the copper."""
    return copper_mass_g(wire.area_mm2, 1.0)
