"""Findings as a page shows them: with what mends each, and on which unknown figure each hangs, once that was tried."""

from collections.abc import Iterable
from dataclasses import dataclass

from loadstar.core.findings import Finding, Proposal
from loadstar.core.survey.measures import figure_unit, figure_words

from ..plans.known import Known
from .units import Units, figure


@dataclass(frozen=True)
class Weighed:
    """A finding. `tried`: whether its ways out were; `cure` is what mends it, tried on the plan (None: nothing offered
    does); `hangs_on` says on which unknown figure it hangs that it stands, and from where on it would not ("": on none,
    or nobody has looked yet)."""

    finding: Finding
    tried: bool = False
    cure: Proposal | None = None
    hangs_on: str = ""


def untried(findings: Iterable[Finding]) -> list[Weighed]:
    """Findings as they are, where their ways out are still to be tried."""
    return [Weighed(one) for one in findings]


def weighed(known: Known, units: Units, findings: Iterable[Finding], *, cures: bool) -> list[Weighed]:
    """The same with all that is tried of them, which takes its time; `cures`: their ways out too."""
    return [Weighed(one, True, known.cure_of(one) if cures else None, _hangs_on(known, units, one))
            for one in findings]


def _hangs_on(known: Known, units: Units, finding: Finding) -> str:
    seen, plan = known.last_look, known.plan
    hanging = [] if seen is None else [(h, f) for h, f in seen.hanging(finding.key) if not f.appears]
    if not hanging:
        return ""
    hangs, flip = hanging[0]
    unit, others = figure_unit(plan, hangs.unknown), len(hanging) - 1
    value = figure(units.shown(float(f"{known.threshold(hangs, flip):.2g}"), unit), units.unit(unit), trimmed=True)
    more = f", and on {others} more figure{'s' if others > 1 else ''}" if others else ""
    than = "more" if flip.end == "high" else "less"
    words = figure_words(plan, hangs.unknown.element, hangs.unknown.field)
    return (f"It depends on {words}, which is {hangs.unknown.known_as}{more}: with {than} than about "
            f"{value} it is gone.")
