"""What is on for seconds only: how long the starter turns, and what wires, contacts and fuses stand of it.

Taken are three tries of five seconds with ten seconds of rest, which is what a reluctant engine gets before the starter
must rest itself. A wire heats by steps (overload.py); a contact carries the multiples of its rating that usual relays
for vehicles state for a time; a fuse must not reach the fast edge of its band in all tries together.
"""

import math
from functools import lru_cache

import numpy as np

from ..materials import fuses
from ..materials.conductors import IDEAL_OHM_MM2_PER_M
from ..physics import overload
from ..wiring.conductor import ConductorAt

CRANK_S, REST_S, TRIES = 5.0, 10.0, 3
SOURCE = "usual of relays for vehicles; see the maker's data"
CONTACT_STANDS = ((1.35, 1800.0), (2.0, 5.0), (3.5, 0.5), (6.0, 0.1))  # multiples of its rating, seconds


def contact_multiple(seconds: float) -> float:
    """The multiple of its rating that a contact carries for so long; 1 beyond the longest."""
    multiples, times = np.log(np.array(CONTACT_STANDS)).T
    if seconds > CONTACT_STANDS[0][1]:
        return 1.0
    return math.exp(float(np.interp(-math.log(seconds), -times, multiples)))


CRANK_MULTIPLE = contact_multiple(CRANK_S)


def after_cranking_c(wire: ConductorAt, amps: float, start_c: float, air_c: float) -> float:
    """How warm all tries of so many amps leave a wire that begins at `start_c`."""
    on, off = [[amps, CRANK_S]], [[0.0, REST_S]]
    steps = np.array([*(on + off) * (TRIES - 1), *on])
    return float(overload.temperatures_after_c(steps[:, :1], steps[:, 1:], wire.insulated,
                                               max(start_c, air_c), air_c)[-1, 0])


def cranks_hot(wire: ConductorAt, amps: float, air_c: float) -> bool:
    """Whether all tries of so many amps heat a wire over its class. In air that is hotter it is the air that does.

    Amps are rounded up to whole ones and the air to 5 K, so that like wires share one computation: to the safe side.
    """
    if amps <= 0 or air_c >= wire.cover.continuous_c:
        return False
    return _cranks_hot(wire, math.ceil(amps), min(5 * math.ceil(air_c / 5), math.ceil(wire.cover.continuous_c) - 1))


@lru_cache(maxsize=20_000)
def _cranks_hot(wire: ConductorAt, amps: int, air_c: int) -> bool:
    top, effective = wire.cover.continuous_c, IDEAL_OHM_MM2_PER_M / wire.r20_ohm_per_m

    def alone_c(seconds: float) -> float:
        return float(overload.adiabatic_c(air_c, amps**2 * seconds, effective))

    # The copper alone is always the warmer; of one try every wire keeps a quarter. Between the two the model is asked.
    if alone_c(CRANK_S * TRIES) <= top:
        return False
    return alone_c(CRANK_S / 4) > top or after_cranking_c(wire, amps, air_c, air_c) > top


def may_open(rating_a: float, amps: float, curve: fuses.Curve) -> bool:
    """Whether a fuse may open before all tries are over, at its fastest."""
    return fuses.opening_times_s(amps, rating_a, curve)[0] < CRANK_S * TRIES
