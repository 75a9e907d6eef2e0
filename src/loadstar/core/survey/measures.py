"""How each figure that may be unknown is measured or read: with what, how long it takes, what to type, and the
arithmetic from there to the figure."""

from dataclasses import dataclass
from typing import Literal

from ..doc.types import Marked
from ..errors import refuse
from ..figures.working import Input, evaluate


@dataclass(frozen=True)
class Shown:
    """One thing that an instrument shows or a label says: its symbol in the formula, in words, and its unit."""

    symbol: str
    words: str
    unit: str


@dataclass(frozen=True)
class Measure:
    """How a figure is got. `words` name it within a sentence; a `label` is read, and then stated; anything else is
    measured, and then found. `formula` is over what is shown and over the element's own fields."""

    words: str
    how: str
    tool: str
    minutes: int
    shown: tuple[Shown, ...]
    formula: str
    by: Literal["measured", "label"] = "measured"

    def value(self, element: Marked, shown: dict[str, float]) -> float:
        """The figure that what was shown amounts to. PlanError where it cannot be."""
        own = {name: getattr(element, name) for name in type(element).model_fields}
        inputs = [Input(name, float(value), "", "") for name, value in own.items()
                  if isinstance(value, int | float) and not isinstance(value, bool)]
        inputs += [Input(s.symbol, shown[s.symbol], s.unit, s.words) for s in self.shown]
        try:
            return evaluate(self.formula, inputs)
        except ZeroDivisionError:
            raise refuse("", self.shown[-1].symbol, "With 0 here nothing can be worked out: take the reading again "
                                                    "under load.") from None


CLAMP, METER, LABEL, STRING = "DC clamp and meter", "meter", "label or data sheet", "string and rule"
_AMPS, _VOLTS = Shown("I", "amps", "A"), Shown("U", "volts beside it", "V")
_REST, _UNDER = Shown("U_0", "volts at rest", "V"), Shown("U_1", "volts under load", "V")
_LOADED = "(U_0 - U_1) / I * 1000"


def _label(words: str, how: str, unit: str, formula: str = "x", minutes: int = 1) -> Measure:
    return Measure(words, how, LABEL, minutes, (Shown("x", "as it says", unit),), formula, "label")


MEASURES: dict[tuple[str, str], Measure] = {
    ("generator", "rating1_w"): Measure(
        "what the generator gives at idle", "Clamp on the regulator's output lead, engine at idle. Switch on lamps and "
        "heat until the battery's volts fall: only then does the generator give all it has.", CLAMP, 3,
        (_AMPS, _VOLTS), "I * U"),
    ("generator", "rating2_w"): Measure(
        "what the generator gives at speed", "The same with the engine held at the higher speed: clamp on the "
        "regulator's output lead, everything on.", CLAMP, 3, (_AMPS, _VOLTS), "I * U"),
    ("generator", "phase_ohm"): Measure(
        "the resistance of a phase", "Generator plug open, engine just run: ohms between two leads, halved. Take the "
        "meter's own leads off it.", METER, 3, (Shown("R", "ohms between two leads", "Ω"),), "R / 2"),
    ("battery", "capacity_ah"): _label("the battery's capacity", "Read it on the battery, at the 10 h rate.", "Ah"),
    ("battery", "internal_mohm"): Measure(
        "the battery's internal resistance", "Battery charged and rested: its volts; then volts and amps while "
        "cranking, ignition cut so that it does not start.", CLAMP, 3, (_REST, _UNDER, _AMPS), _LOADED),
    ("machine", "cranking_a"): Measure(
        "the starter's current", "Clamp on the starter lead while cranking, ignition cut so that it does not start.",
        CLAMP, 2, (_AMPS,), "I"),
    ("own", "power_w"): Measure(
        "what the machine itself uses", "Clamp on the battery's negative lead, engine off: amps with it switched on, "
        "less those with it off. For ignition and pump: key on, at the moment the pump runs.", CLAMP, 3,
        (Shown("I_1", "amps with it on", "A"), Shown("I_0", "amps with it off", "A"), _VOLTS), "(I_1 - I_0) * U"),
    ("load", "amount"): _label("what it draws", "Read it on its label, at the volts given there.", ""),
    ("run", "length_m"): Measure(
        "the way's length", "Lay a string where the wires will lie, steering at full lock, and measure it.", STRING, 2,
        (Shown("L", "length", "m"),), "L"),
    ("tap", "rated_a"): _label("what the pin may give", "Look for the machine's own words: handbook, lid of the fuse "
                               "box. Without them stay at a third of the fuse before it.", "A", minutes=5),
    ("tap", "source_mohm"): Measure(
        "the resistance of the machine's own wiring to it", "Key on: volts between the pin and battery negative; then "
        "with a 21 W bulb on it, and its amps.", CLAMP, 4, (_REST, _UNDER, _AMPS), _LOADED),
    ("pack", "cell_ah"): _label("the pack's capacity", "Read it on the pack, in ampere-hours (watt-hours over its "
                                "nominal volts).", "Ah", "x / parallel"),
    ("pack", "cell_mohm"): Measure(
        "the pack's resistance", "Volts at its output at rest; then under full power, and the amps.", CLAMP, 5,
        (_REST, _UNDER, _AMPS), f"({_LOADED} - extra_mohm) * parallel / series"),
    ("pack", "bms_continuous_a"): _label("what the pack's protection lets through", "Read it on the pack or in its "
                                         "data sheet: the continuous current.", "A"),
    ("drive", "full_w"): Measure(
        "what the drive takes at full power", "Clamp on a pack lead, full power uphill or against the brake, machine "
        "held safely.", CLAMP, 5, (_AMPS, _VOLTS), "I * U"),
    ("port", "limit_w"): _label("what the light port gives", "Read it in the drive's handbook, in watts.", "W"),
    ("coil", "emf_mv_per_rpm"): Measure(
        "the coil's open volts", "Lamps' lead off the coil, engine held at a steady speed: AC volts from coil to "
        "frame.", METER, 3, (Shown("U", "AC volts", "V"), Shown("n", "engine speed", "rpm")), "U / n * 1000"),
    ("coil", "reactance_mohm_per_rpm"): Measure(
        "the coil's short-circuit current", "Coil's lead held on the frame through an AC clamp, engine at a steady "
        "speed; its open volts at that speed from before.", "AC clamp and meter", 5,
        (Shown("U", "open AC volts", "V"), Shown("I", "AC amps", "A"), Shown("n", "engine speed", "rpm")),
        "sqrt(max((U / I) ** 2 - winding_ohm ** 2, 0)) / n * 1000"),
    ("coil", "winding_ohm"): Measure(
        "the coil's resistance", "Lamps' lead off the coil: ohms from coil to frame, less the meter's own leads.",
        METER, 2, (Shown("R", "ohms", "Ω"),), "R"),
}
