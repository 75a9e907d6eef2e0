"""The rules: each judges one thing about a plan's figures and returns findings. They read figures, never make them.

Every module here is found by itself, and every function in it that is entered as a rule is asked.
"""

import pkgutil
from dataclasses import replace
from importlib import import_module

from .. import limits
from ..figures.figures import Figures
from ..findings import SEVERITIES, Finding
from .registry import RULES, Rule
from .whole import TOO_LARGE

__all__ = ["RULES", "Rule", "judge"]
# What is told first among findings of one severity, by module; one that is not named here is told last.
FIRST = ("whole", "directions", "shorts", "references", "protection", "wires", "chafe", "fuses", "loads", "accessories",
         "leads", "taps", "contacts", "rated", "switching", "feeds", "packs", "converters", "ports", "lamps",
         "supplies", "batteries", "budget", "second", "cutoffs", "harness", "looms", "ends", "connectors", "survey",
         "standing")

for _module in sorted(m.name for m in pkgutil.iter_modules(__path__)):
    import_module(f".{_module}", __name__)


def _spoken(finding: Finding) -> Finding:
    """A sentence begins with a capital letter, whatever its subject was named."""
    return replace(finding, sentence=finding.sentence[:1].upper() + finding.sentence[1:])


def _told(rule: Rule) -> int:
    return FIRST.index(rule.family) if rule.family in FIRST else len(FIRST)


def judge(figures: Figures) -> tuple[Finding, ...]:
    """Every finding, gravest first, in a stable order."""
    found: list[Finding] = []
    unsaid = 0
    for rule in (r for r in RULES.values() if r.id != TOO_LARGE):
        try:
            limits.check()
            found += [_spoken(finding) for finding in rule.judge(figures)]
        except (limits.TooLarge, MemoryError):
            unsaid += 1
    left_out = (*figures.left_out, *([f"{unsaid} of {len(RULES) - 1} kinds of finding"] if unsaid else ()))
    found += RULES[TOO_LARGE].judge(replace(figures, left_out=left_out))
    order = {rule.id: (_told(rule), i) for i, rule in enumerate(RULES.values())}
    return tuple(sorted(found, key=lambda f: (SEVERITIES.index(f.severity), order[f.rule], f.elements)))
