"""What was measured where, and how likely it is by what a state of the machine shows."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..refs import TerminalRef
from ..wiring.results import StateResult
from .predict import OPEN_BEGINS_OHM, Quantity

Array = NDArray[Any]
SOUND, ANYTHING = 0.98, 0.02  # of a reading: as the meter shows it, or anything at all (a slipped probe, a wrong range)
MOVED_FRAC, MOVED_V = 0.20, 0.5  # how far volts are moved by it at most, either way: of themselves, or at least
METER_A, METER_B, METER_C = 0.01, 0.005, 0.03
UNPOWERED = ""


@dataclass(frozen=True)
class Probe:
    """A reading that could be taken: of what, in which state (its row's key; "": unpowered), red and black."""

    quantity: Quantity
    row: str
    red: TerminalRef
    black: TerminalRef


@dataclass(frozen=True)
class Taken:
    """A reading as it was taken."""

    probe: Probe
    value: float


def row_key(row: StateResult, rows: Sequence[StateResult]) -> str:
    """A solved row's name in addresses: its state, and which stand of its switches."""
    same = [r for r in rows if r.state == row.state]
    turn = next(i for i, r in enumerate(same) if r is row)
    return f"{row.state}/{turn}" if turn else row.state


def row_of(rows: Sequence[StateResult], key: str) -> StateResult | None:
    """A solved row by its name in addresses; None where there is none."""
    state, _, turn = key.partition("/")
    same = [r for r in rows if r.state == state and r.solution is not None]
    n = int(turn) if turn.isascii() and turn.isdigit() else 0
    return same[n] if n < len(same) else None


def meter_sigma(values: Array | float, quantity: Quantity) -> Array:
    """One standard deviation of a reading, at the values shown."""
    size = np.abs(np.asarray(values, float))
    return np.asarray(np.hypot(METER_A + METER_B * size, METER_C) if quantity != "ohm" else 0.15 + 0.05 * size)


def on_scale(values: Array, quantity: Quantity) -> Array:
    """Values on a scale on which the meter's uncertainty is everywhere one."""
    values = np.nan_to_num(np.asarray(values, float), nan=1e9, posinf=1e9)
    if quantity == "ohm":
        return np.asarray(np.log1p(np.minimum(values, 1e7) * 0.05 / 0.15) / 0.05)
    size = np.abs(values)
    scaled = (np.arcsinh((METER_A + METER_B * size) / METER_C) - np.arcsinh(METER_A / METER_C)) / METER_B
    return np.asarray(np.sign(values) * scaled)


def off_sigmas(shown: float, reading: Taken) -> float:
    """How far a reading is from what a fault would show, in standard deviations."""
    if reading.probe.quantity == "ohm" and (math.isinf(shown) or reading.value >= OPEN_BEGINS_OHM):
        return 0.0 if math.isinf(shown) and reading.value >= OPEN_BEGINS_OHM else math.inf
    if math.isnan(shown):
        return math.inf
    return abs(reading.value - shown) / float(meter_sigma(shown, reading.probe.quantity))


def likelihood(shown: Array, reading: Taken) -> Array:
    """How likely a reading is under each fault: density about what it would show, and a little of anything."""
    quantity = reading.probe.quantity
    span = 50.0 if quantity == "ohm" else max(16.0, 1.5 * abs(reading.value))
    anything = np.full(len(shown), ANYTHING / span)
    if quantity == "ohm":
        is_open = np.isinf(shown)
        if reading.value >= OPEN_BEGINS_OHM:
            return np.asarray(anything + SOUND * is_open)
        shown = np.where(is_open, np.nan, shown)
    sigma = meter_sigma(np.nan_to_num(shown), quantity)
    density = np.exp(-0.5 * np.minimum(((reading.value - shown) / sigma) ** 2, 1e4)) / (sigma * math.sqrt(2 * math.pi))
    return np.asarray(anything + SOUND * np.nan_to_num(density))


def moved(sound: float, reading: Taken) -> float:
    """How likely a reading is where something outside the circuit is wrong: volts anywhere near those of the sound
    circuit, or anything at all."""
    anything = float(likelihood(np.array([math.nan]), reading)[0])
    reach = max(MOVED_FRAC * abs(sound), MOVED_V)
    if reading.probe.quantity == "ohm" or not abs(reading.value - sound) <= reach:
        return anything
    return anything + SOUND / (2 * reach)
