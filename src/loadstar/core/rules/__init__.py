"""The rules: each judges one thing about a plan's figures and returns findings. They read figures, never make them."""

from dataclasses import replace

from .. import limits
from ..figures.figures import Figures
from ..findings import SEVERITIES, Finding
from . import (
    budget,
    chafe,
    contacts,
    converters,
    cutoffs,
    directions,
    ends,
    feeds,
    fuses,
    harness,
    loads,
    packs,
    ports,
    protection,
    rated,
    references,
    second,
    shorts,
    standing,
    supplies,
    survey,
    switching,
    whole,
    wires,
)
from .registry import RULES, Rule

__all__ = ["RULES", "Rule", "judge"]
# What is told first among findings of one severity.
_FAMILIES = (whole, directions, shorts, references, protection, wires, chafe, fuses, loads, contacts, rated, switching,
             feeds, packs, converters, ports, supplies, budget, second, cutoffs, harness, ends, survey, standing)


def _spoken(finding: Finding) -> Finding:
    """A sentence begins with a capital letter, whatever its subject was named."""
    return replace(finding, sentence=finding.sentence[:1].upper() + finding.sentence[1:])


def judge(figures: Figures) -> tuple[Finding, ...]:
    """Every finding, gravest first, in a stable order."""
    found: list[Finding] = []
    unsaid = 0
    for rule in (r for r in RULES.values() if r.id != whole.TOO_LARGE):
        try:
            limits.check()
            found += [_spoken(finding) for finding in rule.judge(figures)]
        except (limits.TooLarge, MemoryError):
            unsaid += 1
    left_out = (*figures.left_out, *([f"{unsaid} of {len(RULES) - 1} kinds of finding"] if unsaid else ()))
    found += RULES[whole.TOO_LARGE].judge(replace(figures, left_out=left_out))
    families = [family.__name__ for family in _FAMILIES]
    order = {rule.id: (families.index(rule.judge.__module__), i) for i, rule in enumerate(RULES.values())}
    return tuple(sorted(found, key=lambda f: (SEVERITIES.index(f.severity), order[f.rule], f.elements)))
