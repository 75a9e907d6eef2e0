"""A finding: what a rule says about a plan, as data."""

from dataclasses import dataclass
from typing import Literal

from .plan.edits import Edit

Severity = Literal["stop", "caution", "advice", "note"]
SEVERITIES: tuple[Severity, ...] = ("stop", "caution", "advice", "note")


@dataclass(frozen=True)
class Finding:
    """One judgement. `rule` is its stable id; `station` where it is mended;
    `working` the key of the figure that decides it; `cure` an edit.

    Severity is honest: stop means fire, injury, lost protection or a circuit that cannot work.
    """

    rule: str
    severity: Severity
    elements: tuple[str, ...]
    sentence: str
    station: str
    working: str = ""
    cure: Edit | None = None
    cure_label: str = ""


def worst(findings: "tuple[Finding, ...] | list[Finding]") -> Severity | None:
    """The gravest severity among findings."""
    return min((f.severity for f in findings), key=SEVERITIES.index, default=None)
