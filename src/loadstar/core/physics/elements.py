"""What a network is made of: named elements between named nodes. Volts, amps, ohms, watts; DC, or AC by phasors."""

import math
from dataclasses import dataclass

RESISTIVE, CONSTANT_POWER, CONSTANT_CURRENT, FILAMENT = "resistor", "power", "current", "filament"
KINDS = (RESISTIVE, CONSTANT_POWER, CONSTANT_CURRENT, FILAMENT)
FILAMENT_EXPONENT = 0.55  # I ~ V^0.55 of an incandescent lamp
FILAMENT_COLD_FRAC = 0.05  # below this share of its nominal voltage a filament is taken as a cold resistance


class NetworkError(ValueError):
    """The network cannot be solved; `elements` names where."""

    def __init__(self, message: str, elements: tuple[str, ...] = ()) -> None:
        super().__init__(message)
        self.elements = elements


@dataclass(frozen=True)
class Resistor:
    """A wire, contact, fuse or strap: `ohm` above zero."""

    name: str
    a: str
    b: str
    ohm: float


@dataclass(frozen=True)
class Source:
    """An EMF behind a resistance; with `ohm` 0 it is held exactly."""

    name: str
    plus: str
    minus: str
    emf_v: float
    ohm: float = 0.0


@dataclass(frozen=True)
class Load:
    """A load of a kind; `value` is ohm, W, A, or (filament) W at `at_v`. Below `floor_v` it behaves as a resistance.

    A constant power takes no more than `limit_a`: a controller lets its power fall rather than its current rise.
    """

    name: str
    plus: str
    minus: str
    kind: str
    value: float
    floor_v: float = 0.0
    at_v: float = 0.0
    limit_a: float = math.inf


@dataclass(frozen=True)
class Diode:
    """Lets current through from a to b only, losing `drop_v` and `ohm` times the current (an ideal-diode branch)."""

    name: str
    a: str
    b: str
    drop_v: float
    ohm: float


@dataclass(frozen=True)
class Converter:
    """A step-down converter: holds `out_v` up to `limit_a` while its input is within the window, else gives nothing.

    It draws output power over efficiency plus `idle_w` from its input.
    """

    name: str
    in_plus: str
    in_minus: str
    out_plus: str
    out_minus: str
    out_v: float
    limit_a: float
    efficiency: float = 1.0
    idle_w: float = 0.0
    window_low_v: float = 0.0
    window_high_v: float = 1000.0


@dataclass(frozen=True)
class Network:
    """Elements between named nodes, and the node that is 0 V."""

    reference: str
    resistors: tuple[Resistor, ...] = ()
    sources: tuple[Source, ...] = ()
    loads: tuple[Load, ...] = ()
    diodes: tuple[Diode, ...] = ()
    converters: tuple[Converter, ...] = ()
