"""What wires weigh: copper as it is guaranteed (by the standard's resistance), and insulation of 1.35 g/cm3."""

import math

from ..wiring.conductor import ConductorAt

COPPER_G_CM3, INSULATION_G_CM3 = 8.89, 1.35
RHO20_OHM_MM2_M = 1 / 58  # IEC 60028 annealed copper


def grams_per_m(wire: ConductorAt) -> float:
    """Grams of a metre: 0.5 mm2 thin wall 5.68, 1 mm2 10.71, 2.5 mm2 24.28."""
    insulation_mm2 = math.pi / 4 * (wire.od_mm**2 - wire.d_mm**2)
    return copper_grams_per_m(wire) + INSULATION_G_CM3 * insulation_mm2


def copper_grams_per_m(wire: ConductorAt) -> float:
    """Of it the copper: its cross-section is what its resistance stands for."""
    return COPPER_G_CM3 * RHO20_OHM_MM2_M / wire.r20_ohm_per_m
