"""The rules: each judges one thing about an Analysis and returns findings. They read figures, never make them."""

from dataclasses import replace

from ..analysis import Analysis
from ..findings import SEVERITIES, Finding
from . import budget, chafe, contacts, feeds, fuses, loads, packs, references, supplies, survey, wires
from .registry import RULES, Rule

__all__ = ["RULES", "Rule", "run_rules"]
_FAMILIES = (wires, chafe, fuses, loads, budget, feeds, contacts, references, packs, supplies, survey)


def _spoken(finding: Finding) -> Finding:
    """A sentence begins with a capital letter, whatever its subject was named."""
    return replace(finding, sentence=finding.sentence[:1].upper() + finding.sentence[1:])


def run_rules(analysis: Analysis) -> tuple[Finding, ...]:
    """Every finding, gravest first, in a stable order."""
    found = [_spoken(finding) for rule in RULES.values() for finding in rule.judge(analysis)]
    order = {rule: i for i, rule in enumerate(RULES)}
    return tuple(sorted(found, key=lambda f: (SEVERITIES.index(f.severity), order[f.rule], f.elements)))
