"""How do a battery and a pack stand: rested voltage, sag under cranking, hours under load, days parked?

Rested voltage against charge is the usual published curve at 25 C: of a 12 V lead-acid battery (6 V: half of it), and
of lithium cells, whose curve is flat and so only approximate. Internal resistance is stated for the full battery and
rises as charge falls after Shepherd (1965): half of it fixed, half inversely proportional to the charge left; that
split is an assumption, good for a warning and not for a promise. Runtime follows Peukert, never crediting more than
rated capacity.
"""

import math
from itertools import pairwise

OCV_SOURCE = "rested open-circuit voltage at 25 °C, usual published values"
Curve = tuple[tuple[float, float], ...]
Segment = tuple[tuple[float, float], tuple[float, float]]  # two points of a curve: charge and volts
LEAD_V: Curve = ((0.0, 11.80), (0.25, 12.00), (0.50, 12.25), (0.75, 12.50), (1.0, 12.73))
# Volts per cell; the ends are the usual limits, the middle is approximate (it differs by maker and temperature).
CELL_V: dict[str, Curve] = {
    "nmc": ((0.0, 3.00), (0.05, 3.30), (0.10, 3.42), (0.20, 3.53), (0.30, 3.59), (0.40, 3.63), (0.50, 3.68),
            (0.60, 3.76), (0.70, 3.85), (0.80, 3.95), (0.90, 4.06), (1.0, 4.20)),
    "lfp": ((0.0, 2.50), (0.05, 3.00), (0.10, 3.16), (0.20, 3.22), (0.40, 3.27), (0.60, 3.30), (0.80, 3.33),
            (0.95, 3.36), (1.0, 3.65)),
}
NOMINAL_CELL_V = {"nmc": 3.6, "lfp": 3.2}
LFP_CELLS_IN_12V = 4
SELF_DISCHARGE_FRAC_PER_MONTH = {"flooded": 0.06, "agm": 0.02, "lfp": 0.02, "nmc": 0.02}
PEUKERT_K = {"flooded": 1.20, "agm": 1.12, "lfp": 1.03, "nmc": 1.03}
LEAD_ADD_V = {"flooded": 0.0, "agm": 0.07}
MONTH_H = 730.5
SHEPHERD_FIXED_SHARE = 0.5


def _curve(chemistry: str, nominal_v: float) -> Curve:
    if chemistry in LEAD_ADD_V:
        scale = nominal_v / 12
        return tuple((c, (v + LEAD_ADD_V[chemistry]) * scale) for c, v in LEAD_V)
    cells = LFP_CELLS_IN_12V * nominal_v / 12
    return tuple((c, v * cells) for c, v in CELL_V[chemistry])


def _at(points: Curve, charge_frac: float) -> float:
    charge = min(max(charge_frac, 0.0), 1.0)
    for (c0, v0), (c1, v1) in pairwise(points):
        if charge <= c1:
            return v0 + (v1 - v0) * (charge - c0) / (c1 - c0)
    raise AssertionError("unreachable: charge is clipped to the curve")


def _segment(points: Curve, voltage_v: float) -> Segment:
    """The two points of a curve that a voltage lies between; the outermost two beyond its ends."""
    pairs = list(pairwise(points))
    return next((pair for pair in pairs if voltage_v <= pair[1][1]), pairs[-1])


def _charge(points: Curve, voltage_v: float) -> float:
    (c0, v0), (c1, v1) = _segment(points, voltage_v)
    return min(max(c0 + (c1 - c0) * (voltage_v - v0) / (v1 - v0), 0.0), 1.0)


def rested_v(charge_frac: float, chemistry: str = "flooded", nominal_v: float = 12) -> float:
    """Rested voltage of a battery at a state of charge 0..1, linear between the published points."""
    return _at(_curve(chemistry, nominal_v), charge_frac)


def charge_frac_at(voltage_v: float, chemistry: str = "flooded", nominal_v: float = 12) -> float:
    """State of charge at a rested voltage, clipped to 0..1."""
    return _charge(_curve(chemistry, nominal_v), voltage_v)


def charge_between(voltage_v: float, chemistry: str, nominal_v: float = 12) -> Segment:
    """The published points (charge, volts) that a rested battery voltage lies between."""
    return _segment(_curve(chemistry, nominal_v), voltage_v)


def pack_charge_between(voltage_v: float, chemistry: str, series: int) -> Segment:
    """The published points (charge, volts of a pack) that a rested pack voltage lies between."""
    (c0, v0), (c1, v1) = _segment(CELL_V[chemistry], voltage_v / series)
    return (c0, v0 * series), (c1, v1 * series)


def pack_v(charge_frac: float, chemistry: str, series: int) -> float:
    """Rested voltage of a pack of cells in series at a state of charge (approximate between the ends)."""
    return series * _at(CELL_V[chemistry], charge_frac)


def pack_charge_frac(voltage_v: float, chemistry: str, series: int) -> float:
    """State of charge of a pack at a rested voltage (approximate between the ends)."""
    return _charge(CELL_V[chemistry], voltage_v / series)


def internal_ohm(full_ohm: float, charge_frac: float) -> float:
    """Internal resistance at a state of charge: R_full (0.5 + 0.5 / charge)."""
    return full_ohm * (SHEPHERD_FIXED_SHARE + (1 - SHEPHERD_FIXED_SHARE) / max(charge_frac, 0.02))


def cranking_v(full_ohm: float, charge_frac: float, cranking_a: float, chemistry: str = "flooded",
               nominal_v: float = 12) -> float:
    """Voltage at the posts while the starter draws `cranking_a`."""
    return rested_v(charge_frac, chemistry, nominal_v) - cranking_a * internal_ohm(full_ohm, charge_frac)


def least_charge_to_crank(full_ohm: float, cranking_a: float, limit_v: float, chemistry: str = "flooded",
                          nominal_v: float = 12) -> float:
    """Lowest state of charge that still holds `limit_v` while cranking; above 1 when not even a full one does."""
    if cranking_v(full_ohm, 1.0, cranking_a, chemistry, nominal_v) < limit_v:
        return math.inf
    low, high = 0.0, 1.0
    for _ in range(60):
        middle = (low + high) / 2
        if cranking_v(full_ohm, middle, cranking_a, chemistry, nominal_v) >= limit_v:
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
