"""How each figure that may be unknown is measured or read: with what, how long it takes, what to type, and the
arithmetic from there to the figure."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from math import sqrt
from typing import Any, Literal

from ..doc.types import Marked
from ..edits.standing import marked
from ..errors import PlanError, refuse
from ..parts.base import Part
from ..parts.can import as_accessory
from ..plan.model import Plan
from ..plan.speech import unit_of, words_for
from ..plan.standing import MACHINE, Unknown, kind_of

Formula = Callable[[Any, Mapping[str, float]], float]


@dataclass(frozen=True)
class Shown:
    """One thing that an instrument shows or a label says: its symbol in the formula, in words, and its unit."""

    symbol: str
    words: str
    unit: str


@dataclass(frozen=True)
class Measure:
    """How a figure is got. `words` name it within a sentence, with "{}" for whose it is; a `label` is read, and then
    stated; anything else is measured, and then found. `formula` takes the element and what was shown, by symbol."""

    words: str
    how: str
    tool: str
    minutes: int
    shown: tuple[Shown, ...]
    formula: Formula
    by: Literal["measured", "label"] = "measured"

    def value(self, element: Marked, shown: dict[str, float]) -> float:
        """The figure that what was shown amounts to. PlanError where it cannot be."""
        try:
            return self.formula(element, shown)
        except ZeroDivisionError:
            raise refuse("", self.shown[-1].symbol, "With 0 here nothing can be worked out: take the reading again "
                                                    "under load.") from None


CLAMP, METER, LABEL, STRING = "DC clamp and meter", "meter", "label or data sheet", "string and rule"
_AMPS, _VOLTS = Shown("I", "amps", "A"), Shown("U", "volts beside it", "V")
_REST, _UNDER = Shown("U_0", "volts at rest", "V"), Shown("U_1", "volts under load", "V")


def _shown(symbol: str) -> Formula:
    return lambda element, s: s[symbol]


def _watts(element: Any, s: Mapping[str, float]) -> float:
    return s["I"] * s["U"]


def _sagged_mohm(element: Any, s: Mapping[str, float]) -> float:
    """What a source or its wiring has in series: how far the volts fall, over the current."""
    return (s["U_0"] - s["U_1"]) / s["I"] * 1000


def _reactance(coil: Any, s: Mapping[str, float]) -> float:
    """Of a shorted coil: its impedance at that speed, less the winding's ohms at right angles."""
    return sqrt(max((s["U"] / s["I"]) ** 2 - coil.winding_ohm**2, 0.0)) / s["n"] * 1000


def _halved(element: Any, s: Mapping[str, float]) -> float:
    return s["R"] / 2


def _more_with_it_on(element: Any, s: Mapping[str, float]) -> float:
    return (s["I_1"] - s["I_0"]) * s["U"]


def _by_speed(element: Any, s: Mapping[str, float]) -> float:
    return s["U"] / s["n"] * 1000


def _of_a_cell(pack: Any, s: Mapping[str, float]) -> float:
    return s["x"] / float(pack.parallel)


def _a_cell_s_mohm(pack: Any, s: Mapping[str, float]) -> float:
    return float((_sagged_mohm(pack, s) - pack.extra_mohm) * pack.parallel / pack.series)


_AS_IT_SAYS = _shown("x")


def _label(words: str, how: str, unit: str, formula: Formula = _AS_IT_SAYS, minutes: int = 1) -> Measure:
    return Measure(words, how, LABEL, minutes, (Shown("x", "as it says", unit),), formula, "label")


MEASURES: dict[tuple[str, str], Measure] = {
    ("generator", "rating1_w"): Measure(
        "what the generator gives at idle", "Clamp on the regulator's output lead, engine at idle. Switch on lamps and "
        "heat until the battery's volts fall: only then does the generator give all it has.", CLAMP, 3,
        (_AMPS, _VOLTS), _watts),
    ("generator", "rating2_w"): Measure(
        "what the generator gives at speed", "The same with the engine held at the higher speed: clamp on the "
        "regulator's output lead, everything on.", CLAMP, 3, (_AMPS, _VOLTS), _watts),
    ("generator", "phase_ohm"): Measure(
        "the resistance of a phase of {}", "Generator plug open, engine just run: ohms between two leads, "
        "halved. Subtract the test-lead resistance.", METER, 3, (Shown("R", "ohms between two leads", "Ω"),), _halved),
    ("battery", "capacity_ah"): _label("the battery's capacity", "Read it on the battery, at the 10 h rate.", "Ah"),
    ("battery", "internal_mohm"): Measure(
        "the battery's internal resistance", "Battery charged and rested: its volts; then volts and amps while "
        "cranking, ignition cut so that it does not start.", CLAMP, 3, (_REST, _UNDER, _AMPS), _sagged_mohm),
    ("machine", "cranking_a"): Measure(
        "the starter's current", "Clamp on the starter lead while cranking, ignition cut so that it does not start.",
        CLAMP, 2, (_AMPS,), _shown("I")),
    ("own", "power_w"): Measure(
        "what {} takes", "Clamp on the battery's negative lead, engine off: amps with it switched on, "
        "less those with it off. For ignition and pump: key on, at the moment the pump runs.", CLAMP, 3,
        (Shown("I_1", "amps with it on", "A"), Shown("I_0", "amps with it off", "A"), _VOLTS), _more_with_it_on),
    ("load", "amount"): _label("what {} draws", "Read it on its label, at the volts given there.", ""),
    ("run", "length_m"): Measure(
        "the way from {}", "Lay a string where the wires will lie, steering at full lock, and measure it.", STRING, 2,
        (Shown("L", "length", "m"),), _shown("L")),
    ("tap", "rated_a"): _label("the max. current of {}", "Look for the maker's current limit: handbook, lid of the "
                                                         "fuse "
                               "box. Without one stay at a third of the fuse before it.", "A", minutes=5),
    ("tap", "source_mohm"): Measure(
        "the resistance of the machine's own wiring to {}", "Key on: volts between the pin and battery negative; then "
        "with a 21 W bulb on it, and its amps.", CLAMP, 4, (_REST, _UNDER, _AMPS), _sagged_mohm),
    ("pack", "cell_ah"): _label("the pack's capacity", "Read it on the pack, in ampere-hours (watt-hours over its "
                                "nominal volts).", "Ah", _of_a_cell),
    ("pack", "cell_mohm"): Measure(
        "the pack's resistance", "Volts at its output at rest; then under full power, and the amps.", CLAMP, 5,
        (_REST, _UNDER, _AMPS), _a_cell_s_mohm),
    ("pack", "bms_continuous_a"): _label("what the pack's protection allows", "Read it on the pack or in its "
                                         "data sheet: the continuous current.", "A"),
    ("drive", "full_w"): Measure(
        "what the drive takes at full power", "Clamp on a pack lead, full power uphill or against the brake, machine "
        "held safely.", CLAMP, 5, (_AMPS, _VOLTS), _watts),
    ("port", "limit_w"): _label("what the light port gives", "Read it in the drive's handbook, in watts.", "W"),
    ("coil", "emf_mv_per_rpm"): Measure(
        "the coil's open volts", "Lamps' lead off the coil, engine held at a steady speed: AC volts from coil to "
        "frame.", METER, 3, (Shown("U", "AC volts", "V"), Shown("n", "engine speed", "rpm")), _by_speed),
    ("coil", "reactance_mohm_per_rpm"): Measure(
        "the coil's short-circuit current", "Coil's lead held on the frame through an AC clamp, engine at a steady "
        "speed; its open volts at that speed from before.", "AC clamp and meter", 5,
        (Shown("U", "open AC volts", "V"), Shown("I", "AC amps", "A"), Shown("n", "engine speed", "rpm")),
        _reactance),
    ("coil", "winding_ohm"): Measure(
        "the coil's resistance", "Lamps' lead off the coil: ohms from coil to frame, less the meter's own leads.",
        METER, 2, (Shown("R", "ohms", "Ω"),), _shown("R")),
}


def measure_of(plan: Plan, element: str, field: str) -> Measure | None:
    """How a figure of a plan is measured; None where Loadstar does not know."""
    return MEASURES.get((kind_of(marked(plan, element)), field))


def figure_words(plan: Plan, element: str, field: str) -> str:
    """A figure within a sentence, with whose it is; also of what is no longer in the plan."""
    try:
        found = measure_of(plan, element, field)
    except PlanError:
        found = None
    return found.words.replace("{}", whose(plan, element)) if found else words_for(field)


def whose(plan: Plan, element: str) -> str:
    """What has a figure, by its name; of a way its two ends."""
    if element == MACHINE:
        return plan.machine.name
    for run in plan.runs:
        if run.id == element:
            return f"{plan.place(run.a).name} to {plan.place(run.b).name}"
    return plan.part(element).name


def figure_unit(plan: Plan, unknown: Unknown) -> str:
    """The unit of an unknown figure."""
    owner = marked(plan, unknown.element)
    accessory = as_accessory(owner) if isinstance(owner, Part) else None
    return accessory.unit if accessory and unknown.field == accessory.own_figure else unit_of(unknown.field)
