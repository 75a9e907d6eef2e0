"""Every rule speaks of the plan that is kept for it, and is silent of most plans that are kept for others."""

from collections import Counter

import pytest
from contracts.speaking import kept, plan_for

from loadstar.core import limits
from loadstar.core.analysis import analyse
from loadstar.core.findings import Finding
from loadstar.core.rules import RULES
from loadstar.core.rules.whole import TOO_LARGE


@pytest.fixture(scope="module")
def spoken() -> dict[str, set[str]]:
    """For every plan, the rules that speak of it."""
    return {rule: {f.rule for f in judged(rule)} for rule in kept()}


def judged(rule: str) -> tuple[Finding, ...]:
    """The findings of a rule's plan; that a plan is too large is said when there is no time."""
    if rule != TOO_LARGE:
        return analyse(plan_for(rule)).findings
    with limits.at_most(0):
        return analyse(plan_for(rule)).findings


def test_a_plan_is_kept_for_every_rule_and_for_no_other():
    assert set(kept()) == set(RULES)


@pytest.mark.parametrize("rule", RULES)
def test_a_rule_speaks_of_its_plan(rule, spoken):
    assert rule in spoken[rule]


def test_a_rule_is_silent_of_most_others(spoken):
    often = Counter(rule for rules in spoken.values() for rule in rules)
    assert {rule: n for rule, n in often.items() if n > len(spoken) / 2} == {}
