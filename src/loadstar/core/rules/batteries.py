"""Rules about the battery that starts the engine: whether what is printed on it is enough, and how old it is."""

from collections.abc import Iterator

from ..figures.figures import Figures
from ..findings import Finding
from .registry import Say, rule
from .words import amps

OLD_YEARS = {"flooded": 4.0, "agm": 5.0, "lfp": 8.0}  # after which a battery is to be tested before more is asked of it


@rule(
    "battery.cold-cranking",
    meaning="The starter takes more than the battery is said to give in the cold: on a frosty morning it does not "
            "start, whatever else is switched off.",
    cure="A battery with more cold-cranking amps, or the starter's current measured with a clamp.",
    source="EN 50342-1: cold-cranking amps are given for 10 s at -18 °C, down to 7.5 V")
def cold_cranking(figures: Figures, say: Say) -> Iterator[Finding]:
    """What the starter takes against what is printed on the battery."""
    battery, machine = figures.plan.battery, figures.plan.machine
    if battery is None or battery.cold_cranking_a is None or machine.cranking_a <= battery.cold_cranking_a:
        return
    yield say("caution", (battery.id,), (
        f"The starter takes {amps(machine.cranking_a)}; {battery.name} is said to give "
        f"{amps(battery.cold_cranking_a)} in the cold. It may not start in frost."), "machine")


@rule(
    "battery.old",
    meaning="The battery is of an age at which its kind has often lost a good part of its charge and of its cranking "
            "amps: what is reckoned with its printed figures is too hopeful.",
    cure="Measure it: rested volts, and volts while cranking. Enter what it still has, or renew it.",
    source="usual service lives: flooded 4 years, AGM 5, LiFePO4 8; assumed")
def old(figures: Figures, say: Say) -> Iterator[Finding]:
    """Its age against the usual one of its kind, as long as nobody has measured it."""
    battery = figures.plan.battery
    if battery is None or battery.age_years is None or battery.age_years <= OLD_YEARS[battery.chemistry]:
        return
    if battery.standing_of("internal_mohm") == "found":
        return
    yield say("advice", (battery.id,), (
        f"{battery.name} is {battery.age_years:g} years old; {OLD_YEARS[battery.chemistry]:g} are usual for its kind. "
        "Its printed figures are too hopeful: measure it while the starter turns."), "machine")
