"""`analyse(plan) -> Analysis`: the figures of a plan and what they are judged to mean, through one entrance."""

from dataclasses import dataclass
from functools import cached_property

from .figures.figures import Figures, compute
from .findings import Finding
from .plan.model import Plan
from .roots import folded
from .rules import judge

CORE_VERSION = "12"


@dataclass(frozen=True)
class Analysis(Figures):
    """Everything computed about a plan, and its findings, gravest first."""

    findings: tuple[Finding, ...] = ()

    @cached_property
    def by_element(self) -> dict[str, tuple[Finding, ...]]:
        """Findings by element id."""
        table: dict[str, list[Finding]] = {}
        for finding in self.findings:
            for element in finding.elements:
                table.setdefault(element, []).append(finding)
        return {element: tuple(found) for element, found in table.items()}


def analyse(plan: Plan) -> Analysis:
    """Compute everything about a plan, and judge it."""
    return judged(compute(plan))


def judged(figures: Figures) -> Analysis:
    """Figures with what they are judged to mean."""
    found = object.__new__(Analysis)
    # with what was computed on the way
    found.__dict__.update(figures.__dict__, findings=folded(figures, judge(figures), judge))
    return found
