"""Units at the edge: how a person likes to read and type lengths, temperatures and wire sizes."""

import math
from dataclasses import dataclass

from loadstar.core.amounts import decimals_for, suited
from loadstar.core.materials.conductors import gauge_label
from loadstar.core.quantities import converted


@dataclass(frozen=True)
class Units:
    """A person's preferences."""

    area: str = "mm2"
    length: str = "m"
    temperature: str = "C"

    @classmethod
    def of(cls, person: object) -> "Units":
        """Those of a person who may be nobody."""
        return cls(getattr(person, "area_unit", "mm2"), getattr(person, "length_unit", "m"),
                   getattr(person, "temperature_unit", "C"))

    def unit(self, core_unit: str) -> str:
        """The unit that is shown for one of the core's."""
        if core_unit == "m":
            return "ft" if self.length == "ft" else "m"
        if core_unit == "°C":
            return f"°{self.temperature}"
        return core_unit

    def shown(self, value: float, core_unit: str) -> float:
        """A core value in the shown unit."""
        return converted(value, core_unit, self.unit(core_unit))

    def area_text(self, area_mm2: float) -> str:
        """A wire size, the preferred name first."""
        metric, gauge = f"{area_mm2:g} mm²", gauge_label(area_mm2)
        return f"{gauge} ({metric})" if self.area == "awg" else f"{metric} ({gauge})"


def figure(value: float | None, unit: str = "", decimals: int | None = None, *, trimmed: bool = False) -> str:
    """A figure with its unit, as many digits as it is good for (core/amounts.py); `trimmed` without idle zeros.
    Unknown is shown as unknown."""
    if value is None or (isinstance(value, float) and math.isnan(value)):
        return "unknown"
    if math.isinf(value):
        return "no limit" if value > 0 else "−no limit"
    value, unit = suited(value, unit)
    if decimals is None:
        decimals = decimals_for(value, unit)
    text = f"{abs(value):,.{decimals}f}".replace(",", "\u202f")
    if trimmed and "." in text:
        text = text.rstrip("0").rstrip(".")
    sign = "−" if value < 0 and float(f"{abs(value):.{decimals}f}") != 0 else ""
    return f"{sign}{text}\u00a0{unit}".rstrip("\u00a0") if unit else f"{sign}{text}"


def decimals_of(*values: float, unit: str) -> int:
    """Decimals for the two ends of a span, written alike: two figures of the larger; of volts a tenth."""
    if unit == "V":
        return 1
    largest = max(abs(v) for v in values)
    return 0 if largest == 0 or not math.isfinite(largest) else max(0, 1 - math.floor(math.log10(largest)))


def duration(hours: float | None) -> str:
    """A span of time in the unit that suits it."""
    if hours is None or math.isnan(hours):
        return "unknown"
    if math.isinf(hours):
        return "no limit"
    if hours < 2:
        return f"{hours * 60:.0f}\u00a0min"
    if hours < 48:
        return f"{hours:.1f}\u00a0h"
    days = hours / 24
    return f"{days:.0f}\u00a0days" if days < 400 else "over a year"
