"""Which mode diodes and converters belong in by the voltages that they have made."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from .batch import HIGH, LIMIT, LOW, OFF, ON

Array = NDArray[Any]
BoolArray = NDArray[np.bool_]
Modes = NDArray[np.int8]
SLACK = 1e-9


def diode_wants(is_on: BoolArray, amps: Array, volts: Array, drop_v: Array) -> BoolArray:
    """On while it carries current forwards, or once its voltage is over its drop."""
    return np.asarray(np.where(is_on, amps >= -1e-12, volts > drop_v + SLACK))


@dataclass(frozen=True)
class Window:
    """Between what input volts a converter runs, what it gives, and up to how many amps."""

    low_v: float
    high_v: float
    out_v: float
    limit_a: float


def converter_wants(now: Modes, vin: Array, vout: Array, amps: Array, window: Window, *, wakes: bool) -> Modes:
    """On within its window and up to its limit, at its limit while it is asked for more, else off on the side where its
    input is.

    From outside its window it starts again as "on". Once it has dropped out under its own draw it stays out unless it
    `wakes`: with it on, the input would fall again.
    """
    holds = ((now == ON) & (amps <= window.limit_a + SLACK)) | ((now == LIMIT) & (vout > window.out_v + SLACK))
    within = np.where(holds, ON, LIMIT)
    beside = np.where(vin < window.low_v - SLACK, LOW, np.where(vin > window.high_v + SLACK, HIGH, within))
    want = np.where(now == OFF, OFF, beside)
    want = np.where(((now == LOW) | (now == HIGH)) & (want == LIMIT), ON, want)
    if not wakes:
        want = np.where((now == LOW) & (want == ON), LOW, want)
    return np.asarray(want, np.int8)
