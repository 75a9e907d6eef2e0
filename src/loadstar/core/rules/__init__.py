"""The rules: each judges one thing about a plan's figures and returns findings. They read figures, never make them."""

from dataclasses import replace

from ..figures.figures import Figures
from ..findings import SEVERITIES, Finding
from . import (
    budget,
    chafe,
    contacts,
    converters,
    feeds,
    fuses,
    loads,
    packs,
    ports,
    protection,
    references,
    shorts,
    supplies,
    survey,
    wires,
)
from .registry import RULES, Rule

__all__ = ["RULES", "Rule", "judge"]
# What is told first among findings of one severity.
_FAMILIES = (shorts, references, protection, wires, chafe, fuses, loads, contacts, feeds, packs, converters, ports,
             supplies, budget, survey)


def _spoken(finding: Finding) -> Finding:
    """A sentence begins with a capital letter, whatever its subject was named."""
    return replace(finding, sentence=finding.sentence[:1].upper() + finding.sentence[1:])


def judge(figures: Figures) -> tuple[Finding, ...]:
    """Every finding, gravest first, in a stable order."""
    found = [_spoken(finding) for rule in RULES.values() for finding in rule.judge(figures)]
    families = [family.__name__ for family in _FAMILIES]
    order = {rule.id: (families.index(rule.judge.__module__), i) for i, rule in enumerate(RULES.values())}
    return tuple(sorted(found, key=lambda f: (SEVERITIES.index(f.severity), order[f.rule], f.elements)))
