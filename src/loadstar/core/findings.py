"""A finding: what a rule says about a plan, as data."""

from dataclasses import dataclass
from typing import Literal

from .edits import Edit

Subject = Literal["machine", "accessory", "energy", "circuit", "harness", "ends"]  # what of a plan something is about
Severity = Literal["stop", "caution", "advice", "note"]
SEVERITIES: tuple[Severity, ...] = ("stop", "caution", "advice", "note")


@dataclass(frozen=True)
class Proposal:
    """An edit that may cure a finding, and the words on its button."""

    edit: Edit
    label: str


@dataclass(frozen=True)
class Finding:
    """One judgement. `rule` is its stable id; `subject` what of the plan it is about; `working` the key of the figure
    that decides it.

    Severity is honest: stop means fire, injury, lost protection or a circuit that cannot work. `proposals` are what the
    rule would try; only one that has been tried on the plan and mends it is a cure (whatif/cures.py). `about` tells
    findings apart that are of one rule and one element; `follows` are what would be said besides and is only a
    consequence of this.
    """

    rule: str
    severity: Severity
    elements: tuple[str, ...]
    sentence: str
    subject: Subject
    working: str = ""
    proposals: tuple[Proposal, ...] = ()
    about: str = ""
    follows: "tuple[Finding, ...]" = ()

    @property
    def key(self) -> tuple[str, str]:
        """What makes it the same finding after an edit: its rule, and what it is about first."""
        return self.rule, self.about or "".join(self.elements[:1])


def worst(findings: "tuple[Finding, ...] | list[Finding]") -> Severity | None:
    """The gravest severity among findings."""
    return min((f.severity for f in findings), key=SEVERITIES.index, default=None)
