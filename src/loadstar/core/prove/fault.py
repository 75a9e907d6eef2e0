"""One thing that is wrong with a circuit: what it changes in the network, and how likely it is."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field

ADDED_OHM = (0.05, 0.1, 0.2, 0.4, 0.8, 1.6, 3.2, 6.4, 12.8, 30.0)  # those that are solved: see `Amounts`
SHORT_OHM = 0.02  # of a wire that touches the return
LEAK_OHM = (2.0, 3.0, 4.5, 7.0, 10.0)  # of one that is chafed or wet, and opens no fuse
DRAWS_TIMES = (1.5, 2.0, 2.5, 3.2, 4.0)
TRIGGER_OHM = (60.0, 120.0, 220.0, 400.0)  # of an output that cannot feed a coil
HELD_LOW, HELD_HIGH = (0.90, 0.93, 0.96), (1.05, 1.12, 1.2)  # of the set-point; with less the battery pays
WEAK_V, WEAK_TIMES = (0.04, 0.08, 0.16), 4.0  # how far a weak battery's EMF is down, share; its resistance, times
# How likely each kind is of something just built, against one another. Guessed from practice, and only their
# proportions matter.
PRIORS = {"none": 0.10, "wire": 0.030, "wire open": 0.012, "frame joint": 0.040, "connector": 0.020, "contact": 0.015,
          "fuse contact": 0.012, "contact open": 0.006, "fuse blown": 0.020, "fuse blown, short": 0.012,
          "leak": 0.006, "draws": 0.006, "crossed": 0.010, "bridged": 0.004, "trigger": 0.006,
          "generator": 0.010, "regulator": 0.010,
          "stays out": 0.010, "stays in": 0.004, "coil open": 0.004, "battery": 0.030, "lamp": 0.025, "load": 0.008,
          "polarity": 0.012, "swapped": 0.012, "converter": 0.015, "wrong pin": 0.010,
          "elsewhere": 0.060}

@dataclass(frozen=True)
class Ghost:
    """Something that conducts only where a fault has made it: between two nodes."""

    name: str
    a: str
    b: str


@dataclass(frozen=True)
class Fault:
    """One thing that is wrong: its class and the class in words, how likely it is, and what it changes: resistance
    added (Ω by element), what is open, what a fault has joined (Ω by ghost), loads that draw nothing or so many times
    as much, converters that are off, what is stuck (by part: in or out), contacts that conduct or not whatever their
    key says, a source's EMF and resistance times so much. `touches` are the elements that it sits in."""

    key: str
    about: str
    words: str
    prior: float
    touches: tuple[str, ...] = ()
    adds: Mapping[str, float] = field(default_factory=dict)
    opens: frozenset[str] = frozenset()
    joins: Mapping[str, float] = field(default_factory=dict)
    dead: frozenset[str] = frozenset()
    off: frozenset[str] = frozenset()
    stuck: Mapping[str, bool] = field(default_factory=dict)
    conducts: Mapping[str, bool] = field(default_factory=dict)
    emf_times: float = 1.0
    ohm_times: float = 1.0
    draws: Mapping[str, float] = field(default_factory=dict)  # times as much as planned, by load
    amount: float = math.nan  # by which those of one class differ: ohms, or times
    held_times: float = 1.0  # the generator's set-point times so much; 0: it gives nothing


NONE = Fault("none", "none", "nothing is wrong", PRIORS["none"])
