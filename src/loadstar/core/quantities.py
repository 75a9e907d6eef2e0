"""A number as somebody typed it, with or without its unit: the one place where such text is read.

`read` gives the value in the unit that is asked for. A bare number is in the usual unit; a unit typed behind it counts
as typed, whatever is usual, and one of another quantity is refused. A decimal comma is a decimal point; blanks between
groups of three are left out. Metre, ampere and so on after the SI, foot and inch after the international yard.
"""

import math
import re
import unicodedata

FOOT_M = 0.3048
NUMBER = re.compile(r"[-+]?(?:\d{1,3}(?: \d{3})+|\d*)(?:[.,]\d+|(?<=\d)[.,]?)(?:e[-+]?\d+)?", re.IGNORECASE)
MOST_CHARACTERS = 40

# By quantity what each unit counts in the first of them. Where two differ by nothing but their letters' case (mΩ, MΩ)
# case tells; everywhere else it does not.
QUANTITIES: dict[str, dict[str, float]] = {
    "length": {"m": 1, "cm": 0.01, "mm": 1e-3, "km": 1e3, "ft": FOOT_M, "feet": FOOT_M, "'": FOOT_M, "in": FOOT_M / 12,
               "inch": FOOT_M / 12, '"': FOOT_M / 12},
    "current": {"A": 1, "mA": 1e-3},
    "voltage": {"V": 1, "mV": 1e-3, "kV": 1e3, "volt": 1, "volts": 1},
    "resistance": {"Ω": 1, "mΩ": 1e-3, "kΩ": 1e3, "MΩ": 1e6, "ohm": 1, "ohms": 1, "mohm": 1e-3, "kohm": 1e3,
                   "Mohm": 1e6},
    "power": {"W": 1, "mW": 1e-3, "kW": 1e3, "watt": 1, "watts": 1},
    "charge": {"Ah": 1, "mAh": 1e-3}, "energy": {"Wh": 1, "kWh": 1000},
    "time": {"s": 1, "sec": 1, "ms": 1e-3, "min": 60, "minutes": 60, "h": 3600, "days": 86400, "day": 86400,
             "years": 31_557_600, "year": 31_557_600},
    "mass": {"g": 1, "kg": 1e3},
    "force": {"N": 1, "kN": 1e3},
    "area": {"mm²": 1, "mm2": 1, "cm²": 100, "cm2": 100},
    "speed": {"rpm": 1, "1/min": 1},
    "angle": {"°": 1, "deg": 1},
    "share": {"%": 1},
    "emf": {"mV/rpm": 1, "mV per rpm": 1, "V/rpm": 1e3},
    "reactance": {"mΩ/rpm": 1, "mΩ per rpm": 1, "Ω/rpm": 1e3},
    "temperature step": {"K": 1},
    "times": {"×": 1, "x": 1}}
OF_UNIT = {unit: quantity for quantity, units in QUANTITIES.items() for unit in units}
# A temperature is no multiple of another: degrees to degrees Celsius and back.
DEGREES = {"°C": (1.0, 0.0), "C": (1.0, 0.0), "°F": (5 / 9, -160 / 9), "F": (5 / 9, -160 / 9), "K": (1.0, -273.15)}
SCALES = ("°C", "°F")  # units of a temperature; a K that is asked for is a step
BY_CASE = {"current", "voltage", "resistance", "power", "charge"}  # milli and mega differ by nothing else
WORDS = {"°C": "a temperature", "°F": "a temperature", "°": "an angle", "%": "a share",
         "mm²": "an area", "mV/rpm": "an EMF", "×": "a number of times"}


class NoQuantity(ValueError):
    """What was typed is no number, or one of something else; `str()` is a sentence that says so."""


def read(text: str, unit: str = "", usual: str = "") -> float:
    """A typed number in `unit` ("": it has none). `usual` is the unit of a bare number, that of `unit` unless told.

    NoQuantity where it is no number, or its unit is of something else. Never infinite, never nan.
    """
    plain = _plain(text)
    found = NUMBER.match(plain)
    digits = found[0].strip() if found else ""
    if found is None or not any(sign.isdigit() for sign in digits):
        raise NoQuantity(f"{_shown(text)} is no number{_of(usual or unit)}.")
    value = float(digits.replace(" ", "").replace(",", "."))
    if not math.isfinite(value):
        raise NoQuantity(f"{_shown(text)} is no number that can be.")
    typed = plain[found.end():].strip()
    return converted(value, _unit(text, typed, unit, usual), unit)


def converted(value: float, typed: str, unit: str) -> float:
    """A value of one unit in another of the same quantity; itself, exactly, where both are one."""
    if typed == unit:
        return value
    if unit in SCALES:
        (times, plus), (back, minus) = DEGREES[typed], DEGREES[unit]
        return (value * times + plus - minus) / back
    units = QUANTITIES[OF_UNIT[unit]]
    return value * units[typed] / units[unit] if units[typed] != units[unit] else value


def _plain(text: str) -> str:
    """Without signs that only look like others: a true minus, an ohm sign, narrow blanks, primes."""
    for sign, plain in (("−", "-"), ("–", "-"), ("′", "'"), ("″", '"'), ("²", "²"), ("\u202f", " "), ("\u00a0", " ")):
        text = text.replace(sign, plain)
    kept = "".join(sign if sign == "²" else unicodedata.normalize("NFKC", sign) for sign in text)
    return " ".join(kept.split())


def _unit(text: str, typed: str, unit: str, usual: str) -> str:
    """The unit that was meant."""
    if not typed:
        return usual or unit
    known = DEGREES if unit in SCALES else QUANTITIES.get(OF_UNIT.get(unit, ""), {})
    if typed in known:
        return typed
    alike = [one for one in known if one.lower() == typed.lower()]
    if len(alike) == 1 and not (typed[0] == "M" and OF_UNIT.get(alike[0]) in BY_CASE):
        return alike[0]
    if typed[0].isdigit() or typed[0] in ".,":
        raise NoQuantity(f"{_shown(text)} is no number{_of(usual or unit)}.")
    if not unit:
        raise NoQuantity(f"{_shown(text)}: the number alone is asked for, without {typed[:12]}.")
    what = WORDS.get(unit) or f"a {OF_UNIT.get(unit, 'figure')}"
    raise NoQuantity(f"{_shown(text)}: {typed[:12]} is no unit of {what}; give it in {usual or unit}.")


def _of(unit: str) -> str:
    return f" of {unit}" if unit else ""


def _shown(text: str) -> str:
    return text.strip()[:20] or "Nothing"
