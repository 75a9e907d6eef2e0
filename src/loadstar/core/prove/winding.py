"""A generator's winding, measured with its connector parted: ohms between its leads, ohms to the frame, AC volts.

A winding between two leads is two phases of a star, or the one there is; cold it has less than its hot resistance. Its
AC volts with nothing on it are its EMF, rms: of two leads of a star the root of three of a phase's. What the plate's
two ratings say of it is good to a quarter.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import combinations

from ..figures.figures import Figures
from ..parts.inside import FRAME
from ..parts.tap import Tap
from ..physics.generator import GeneratorError
from ..refs import TerminalRef
from .predict import LEADS_OHM, Prediction

COLD = 1 / 1.3  # of its hot resistance
OFF = 0.25  # what the plate's figures say of it may be off by
LEAST_OFF_V = 2.0


@dataclass(frozen=True)
class Check:
    """One reading of a winding: its key, where the probes go, whether the engine idles, what it should show."""

    key: str
    red: TerminalRef
    black: TerminalRef
    idling: bool
    expects: Prediction
    what: str


def leads(figures: Figures) -> tuple[Tap, ...]:
    """The pins that a winding's leads come to: those of a connector that are marked as its phases."""
    plugs = {plug.id for plug in figures.plan.plugs if plug.use == "generator"}
    return tuple(pin for pin in figures.plan.of(Tap) if pin.plug in plugs and pin.phase)


def checks(figures: Figures) -> Iterator[Check]:
    """Each pair of leads alike, none to the frame unless an end is tied to it, and AC volts between each pair at
    idle."""
    generator, pins = figures.plan.generator, leads(figures)
    if generator is None or len(pins) < 2:
        return
    phases = 2 if generator.phases == 3 else 1
    ohm = phases * generator.phase_ohm * COLD
    for one, other in combinations(pins, 2):
        yield Check(f"winding.{one.id}.{other.id}", one.at("pin"), other.at("pin"), False,
                    Prediction("ohm", ohm, OFF * ohm + LEADS_OHM),
                    f"Winding, lead {one.way} to lead {other.way}: alike between each pair")
    tied = generator.tied == "frame"
    for pin in pins:
        to_frame = Prediction("ohm", ohm, OFF * ohm + LEADS_OHM) if tied else Prediction("ohm", math.inf, 0.0)
        yield Check(f"winding.frame.{pin.id}", pin.at("pin"), TerminalRef(FRAME), False, to_frame,
                    f"Winding, lead {pin.way} to the frame: {'its end is there' if tied else 'open'}")
    try:
        peak_v = generator.winding.k_v_per_rpm * figures.plan.machine.idle_rpm
    except GeneratorError:  # ratings that no winding has: said by a finding
        return
    rms_v = peak_v / math.sqrt(2) * (math.sqrt(3) if generator.phases == 3 else 1.0)
    for one, other in combinations(pins, 2):
        yield Check(f"winding.ac.{one.id}.{other.id}", one.at("pin"), other.at("pin"), True,
                    Prediction("V", rms_v, max(OFF * rms_v, LEAST_OFF_V)),
                    f"AC volts, lead {one.way} to lead {other.way}: alike between each pair")
