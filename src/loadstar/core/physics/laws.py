"""What a load or a converter draws at a voltage, and how that changes: the laws that the solver's Newton steps follow.

Arrays are (states, elements). Below its floor voltage a load is a resistance, so that one which cannot be fed does
not stop the solution. With phasors a step keeps each load's conductance.
"""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from .elements import (
    CONSTANT_CURRENT,
    CONSTANT_POWER,
    FILAMENT,
    FILAMENT_COLD_FRAC,
    FILAMENT_EXPONENT,
    KINDS,
    RESISTIVE,
    Converter,
    Load,
)

Array = NDArray[Any]
BoolArray = NDArray[np.bool_]
CONVERTER_FLOOR_V = 3.0


class LoadLaw:
    """The loads of a network by kind. `floor` is the voltage below which each behaves as a resistance."""

    def __init__(self, loads: tuple[Load, ...]) -> None:
        kind = np.array([KINDS.index(e.kind) for e in loads], int)
        self.resistive, self.power, self.constant_current, self.filament = (
            kind == KINDS.index(k) for k in (RESISTIVE, CONSTANT_POWER, CONSTANT_CURRENT, FILAMENT))
        self.at_v = np.array([e.at_v or 1.0 for e in loads], float)
        floor = np.array([e.floor_v for e in loads], float)
        self.floor = np.where(self.filament, self.at_v * FILAMENT_COLD_FRAC, floor)
        self.limit_a = np.array([e.limit_a for e in loads], float)
        self._any_limit = bool(np.isfinite(self.limit_a).any())

    def current(self, v: Array, value: Array) -> tuple[Array, Array]:
        """Current and its slope at the voltages across the loads; `value` is ohm, W or A after their kind."""
        size = np.abs(v)
        phasors = np.iscomplexobj(v)
        floor_g = self.floor_g(value)
        straight = self.resistive | ((self.floor > 0) & ((size if phasors else v) < self.floor))
        safe = np.where(size > 1e-12, v, 1e-12)
        hot = value / self.at_v * (np.maximum(np.abs(safe), 1e-12) / self.at_v) ** FILAMENT_EXPONENT
        if phasors:
            amps = np.where(self.filament, hot, np.where(self.power, value / np.abs(safe), value))
            g = np.where(straight, floor_g, amps / np.abs(safe))
            return v * g, g
        current = np.where(straight, v * floor_g,
                           np.where(self.power, value / safe, np.where(self.filament, hot, value)))
        slope = np.where(straight, floor_g,
                         np.where(self.power, -value / safe**2,
                                  np.where(self.filament, FILAMENT_EXPONENT * hot / safe, 0.0)))
        if self._any_limit:
            limited = self.power & ~straight & (current > self.limit_a)
            current, slope = np.where(limited, self.limit_a, current), np.where(limited, 0.0, slope)
        return current, slope

    def floor_g(self, value: Array) -> Array:
        """Conductance below the floor; a resistor's own at any voltage."""
        floor = np.where(self.floor > 0, self.floor, 1.0)
        cold = value * floor ** (FILAMENT_EXPONENT - 1) / self.at_v ** (1 + FILAMENT_EXPONENT)
        ohmic = np.where(value > 0, 1 / np.where(value > 0, value, 1.0), 0.0)
        power = np.minimum(value / floor, self.limit_a) / floor
        return np.where(self.resistive, ohmic,
                        np.where(self.power, power, np.where(self.filament, cold, value / floor)))


class ConverterLaw:
    """The step-down converters of a network."""

    def __init__(self, converters: tuple[Converter, ...]) -> None:
        (self.out_v, self.limit_a, self.efficiency, self.idle_w, self.low_v, self.high_v) = (
            np.array([getattr(c, f) for c in converters], float)
            for f in ("out_v", "limit_a", "efficiency", "idle_w", "window_low_v", "window_high_v"))

    def input(self, vin: Array, i: Array, vout: Array, on: BoolArray) -> tuple[Array, Array, Array, Array]:
        """Input current and its slopes over input volts, output current (negative when giving) and output volts."""
        giving = (-vout * i > 0) & on
        watts = np.where(giving, -vout * i / self.efficiency, 0.0) + np.where(on, self.idle_w, 0.0)
        low = vin < CONVERTER_FLOOR_V
        safe = np.where(low, CONVERTER_FLOOR_V, vin)
        per_watt = np.where(low, vin / CONVERTER_FLOOR_V**2, 1 / safe)
        over_v = np.where(low, watts / CONVERTER_FLOOR_V**2, -watts / safe**2)
        return (watts * per_watt, over_v, np.where(giving, -vout / self.efficiency, 0.0) * per_watt,
                np.where(giving, -i / self.efficiency, 0.0) * per_watt)
