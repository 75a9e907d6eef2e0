"""The rules: each judges one thing about an Analysis and returns findings. They read figures, never make them."""

from ..analysis import Analysis
from ..findings import SEVERITIES, Finding
from . import budget, chafe, contacts, feeds, fuses, loads, packs, references, supplies, wires
from .registry import RULES, Rule

__all__ = ["RULES", "Rule", "run_rules"]
_FAMILIES = (wires, chafe, fuses, loads, budget, feeds, contacts, references, packs, supplies)


def run_rules(analysis: Analysis) -> tuple[Finding, ...]:
    """Every finding, gravest first, in a stable order."""
    found = [finding for rule in RULES.values() for finding in rule.judge(analysis)]
    order = {rule: i for i, rule in enumerate(RULES)}
    return tuple(sorted(found, key=lambda f: (SEVERITIES.index(f.severity), order[f.rule], f.elements)))
