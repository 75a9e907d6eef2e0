"""How does a 12 V lead-acid battery stand: rested voltage, sag under cranking, hours under load, days parked?

Rested voltage against charge is the usual published curve at 25 C. Internal resistance is stated for the full battery
and rises as charge falls after Shepherd (1965): half of it fixed, half inversely proportional to the charge left; that
split is an assumption, good for a warning and not for a promise. Runtime follows Peukert, never crediting more than
rated capacity.
"""

import math
from itertools import pairwise

OCV_SOURCE = "rested open-circuit voltage of a 12 V lead-acid battery at 25 °C, usual published values"
OCV_V = ((0.0, 11.80), (0.25, 12.00), (0.50, 12.25), (0.75, 12.50), (1.0, 12.73))
SELF_DISCHARGE_FRAC_PER_MONTH = {"flooded": 0.06, "agm": 0.02}
PEUKERT_K = {"flooded": 1.20, "agm": 1.12}
OCV_ADD_V = {"flooded": 0.0, "agm": 0.07}
MONTH_H = 730.5
SHEPHERD_FIXED_SHARE = 0.5


def rested_v(charge_frac: float, chemistry: str = "flooded") -> float:
    """Rested voltage at a state of charge 0..1, linear between the published points."""
    points = OCV_V
    charge = min(max(charge_frac, 0.0), 1.0)
    for (c0, v0), (c1, v1) in pairwise(points):
        if charge <= c1:
            return v0 + (v1 - v0) * (charge - c0) / (c1 - c0) + OCV_ADD_V[chemistry]
    raise AssertionError("unreachable: charge is clipped to the curve")


def charge_frac_at(voltage_v: float, chemistry: str = "flooded") -> float:
    """State of charge at a rested voltage, clipped to 0..1."""
    v = voltage_v - OCV_ADD_V[chemistry]
    if v <= OCV_V[0][1]:
        return 0.0
    for (c0, v0), (c1, v1) in pairwise(OCV_V):
        if v <= v1:
            return c0 + (c1 - c0) * (v - v0) / (v1 - v0)
    return 1.0


def internal_ohm(full_ohm: float, charge_frac: float) -> float:
    """Internal resistance at a state of charge: R_full (0.5 + 0.5 / charge)."""
    return full_ohm * (SHEPHERD_FIXED_SHARE + (1 - SHEPHERD_FIXED_SHARE) / max(charge_frac, 0.02))


def cranking_v(full_ohm: float, charge_frac: float, cranking_a: float, chemistry: str = "flooded") -> float:
    """Voltage at the posts while the starter draws `cranking_a`."""
    return rested_v(charge_frac, chemistry) - cranking_a * internal_ohm(full_ohm, charge_frac)


def least_charge_to_crank(full_ohm: float, cranking_a: float, limit_v: float, chemistry: str = "flooded") -> float:
    """Lowest state of charge that still holds `limit_v` while cranking; above 1 when not even a full one does."""
    if cranking_v(full_ohm, 1.0, cranking_a, chemistry) < limit_v:
        return math.inf
    low, high = 0.0, 1.0
    for _ in range(60):
        middle = (low + high) / 2
        if cranking_v(full_ohm, middle, cranking_a, chemistry) >= limit_v:
            high = middle
        else:
            low = middle
    return high


def peukert_h(capacity_ah: float, rate_h: float, current_a: float, k: float) -> float:
    """Hours from full to empty at a constant current: H (C/(I H))^k, and never more than C/I."""
    if current_a <= 0:
        return math.inf
    return min(rate_h * math.pow(capacity_ah / (current_a * rate_h), k), capacity_ah / current_a)


def parked_h(usable_ah: float, draw_a: float, capacity_ah: float, self_discharge_per_month: float) -> float:
    """Hours until `usable_ah` is gone to a constant draw and self-discharge."""
    loss_a = draw_a + self_discharge_per_month * capacity_ah / MONTH_H
    return usable_ah / loss_a if loss_a > 0 else math.inf
