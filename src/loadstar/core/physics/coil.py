"""What a lighting coil gives at a voltage: E = |V + (R + jX) I|, its current in phase with its voltage, as lamps and
heaters leave it. Volts, ohms and amps are rms. Valid while nothing on it shifts the phase."""

import math


def given_a(emf_v: float, winding_ohm: float, reactance_ohm: float, at_v: float) -> tuple[float, float]:
    """Current that it gives at a voltage, A, and its slope over the voltage, A/V (negative). From a short (at 0 V)
    to its open voltage; beyond that it takes what a straight line through its end says.

    With 8 V behind 0.3 ohm and 1.5 ohm, at 4 V: (4 + 0.3 I)^2 + (1.5 I)^2 = 64, so I = 4.045 A.
    """
    ohm2 = winding_ohm**2 + reactance_ohm**2
    volts = min(at_v, emf_v)
    root = math.sqrt(max(emf_v**2 * ohm2 - (reactance_ohm * volts) ** 2, 1e-12))
    slope = -(winding_ohm + reactance_ohm**2 * volts / root) / ohm2
    return (root - winding_ohm * volts) / ohm2 + slope * (at_v - volts), slope
