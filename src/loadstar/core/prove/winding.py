"""A generator's or coil's winding, measured with nothing on it: ohms between its leads, ohms to the frame, AC volts at
two speeds.

A winding between two leads is two phases of a star, or the one there is; cold it has less than its hot resistance. Its
AC volts with nothing on it are its EMF, rms: of two leads of a star the root of three of a phase's. What the plate's
two ratings say of it is good to a quarter.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import combinations
from typing import Literal

from ..doc.states import States
from ..figures.figures import Figures
from ..parts.coil import Coil
from ..parts.inside import FRAME
from ..parts.tap import Tap
from ..physics.generator import GeneratorError
from ..refs import TerminalRef
from .predict import LEADS_OHM, Prediction

COLD = 1 / 1.3  # of its hot resistance
OFF = 0.25  # what the plate's figures say of it may be off by
LEAST_OFF_V = 2.0
SPEEDS: dict[States, str] = {"idle": "at idle", "cruise": "at a raised speed"}


@dataclass(frozen=True)
class Check:
    """One reading of a winding: its key, where the probes go, in which state ("": the engine stands), what it should
    show, and where nothing else than the meter may be on."""

    key: str
    red: TerminalRef
    black: TerminalRef
    state: States | Literal[""]
    expects: Prediction
    what: str


def leads(figures: Figures) -> tuple[Tap, ...]:
    """The pins that a winding's leads come to: those of a connector that are marked as its phases."""
    plugs = {plug.id for plug in figures.plan.plugs if plug.use == "generator"}
    return tuple(pin for pin in figures.plan.of(Tap) if pin.plug in plugs and pin.phase)


def checks(figures: Figures) -> Iterator[Check]:
    """Each pair of leads alike, none to the frame unless an end is tied to it, and AC volts between each pair."""
    generator, pins = figures.plan.generator, leads(figures)
    if generator is None or len(pins) < 2:
        return
    phases = 2 if generator.phases == 3 else 1
    ohm = phases * generator.phase_ohm * COLD
    for one, other in combinations(pins, 2):
        yield Check(f"winding.{one.id}.{other.id}", one.at("pin"), other.at("pin"), "",
                    Prediction("ohm", ohm, OFF * ohm + LEADS_OHM),
                    f"Winding, lead {one.way} to lead {other.way}: alike between each pair")
    tied = generator.tied == "frame"
    for pin in pins:
        to_frame = Prediction("ohm", ohm, OFF * ohm + LEADS_OHM) if tied else Prediction("ohm", math.inf, 0.0)
        yield Check(f"winding.frame.{pin.id}", pin.at("pin"), TerminalRef(FRAME), "", to_frame,
                    f"Winding, lead {pin.way} to the frame: {'its end is there' if tied else 'open'}")
    try:
        k_v_per_rpm = generator.winding.k_v_per_rpm
    except GeneratorError:  # ratings that no winding has: said by a finding
        return
    times = math.sqrt(3 / 2) if generator.phases == 3 else math.sqrt(1 / 2)
    for state, words in SPEEDS.items():
        rms_v = k_v_per_rpm * figures.plan.machine.rpm(state) * times
        for one, other in combinations(pins, 2):
            key = f"winding.ac.{one.id}.{other.id}" + ("" if state == "idle" else f".{state}")
            yield Check(key, one.at("pin"), other.at("pin"), state, _ac(rms_v),
                        f"AC volts {words}, lead {one.way} to lead {other.way}: alike between each pair")


def coil_checks(figures: Figures) -> Iterator[Check]:
    """A lighting coil with its lamp lead off: its ohms, and AC volts that rise as the engine's speed."""
    for coil in figures.plan.of(Coil):
        hot, earth = coil.at("hot"), coil.at("earth")
        yield Check(f"coil.{coil.id}", hot, earth, "",
                    Prediction("ohm", coil.winding_ohm, OFF * coil.winding_ohm + LEADS_OHM),
                    f"{coil.name}, its lamp end to the frame")
        for state, words in SPEEDS.items():
            rms_v = coil.emf_mv_per_rpm * figures.plan.machine.rpm(state) / 1000
            yield Check(f"coil.ac.{coil.id}.{state}", hot, earth, state, _ac(rms_v),
                        f"{coil.name}, AC volts {words} with nothing on it")


def _ac(rms_v: float) -> Prediction:
    return Prediction("V", rms_v, max(OFF * rms_v, LEAST_OFF_V))
