"""One cause, one finding: what is only a consequence of another finding is kept beneath it.

Whether it is one is tried, not guessed: the cause's own way out is taken, and what then is no longer said was a
consequence.
"""

from collections.abc import Callable
from dataclasses import replace

from .edits import apply
from .errors import PlanError
from .figures.figures import Figures, compute
from .findings import Finding

MOST_TRIED = 4  # ways out of one cause
GRAVE = ("stop", "caution")
ROOTS = ("source.reversed", "source.open", "network.short", "pack.joined")


def folded(figures: Figures, findings: tuple[Finding, ...],
           judge: Callable[[Figures], tuple[Finding, ...]]) -> tuple[Finding, ...]:
    """The findings with the consequences of a cause beneath the first of its kind, which come first."""
    causes = [f for f in findings if f.rule in ROOTS]
    plan = figures.whole_plan
    might_follow = [f for f in findings if f not in causes and f.severity in GRAVE]
    if not causes or not might_follow or not all(f.proposals for f in causes):
        return findings
    left: set[tuple[str, str]] = set()
    for cause in causes:
        for proposal in cause.proposals[:MOST_TRIED]:
            try:
                mended = apply(plan, proposal.edit)
            except PlanError:
                continue
            cured = compute(mended)
            if cured.left_out:  # what could not be computed is not gone
                return findings
            left = {f.key for f in judge(cured)}
            if cause.key not in left:
                plan = mended
                break
        else:
            return findings
    follows = tuple(f for f in might_follow if f.key not in left)
    rest = [f for f in findings if f not in causes and f not in follows]
    return (replace(causes[0], follows=follows), *causes[1:], *rest)
