"""Where rules are entered: an id that never changes, what it means, why it matters, how it is cured, its source."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from ..figures.figures import Figures
from ..findings import Finding

Judge = Callable[[Figures], Iterable[Finding]]


@dataclass(frozen=True)
class Rule:
    """One rule with its page in docs/findings.md."""

    id: str
    meaning: str
    cure: str
    source: str
    judge: Judge


RULES: dict[str, Rule] = {}


def rule(rule_id: str, *, meaning: str, cure: str, source: str) -> Callable[[Judge], Judge]:
    """Enter a judging function under its id."""
    def enter(judge: Judge) -> Judge:
        assert rule_id not in RULES, rule_id
        RULES[rule_id] = Rule(rule_id, meaning, cure, source, judge)
        return judge
    return enter
