"""Where rules are entered: an id that never changes, what it means, why it matters, how it is cured, its source."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from ..figures.figures import Figures
from ..findings import Finding, Proposal, Severity, Subject


@dataclass(frozen=True)
class Say:
    """How a rule says what it has found: a finding that bears its id. `about` tells findings apart that are about the
    same elements."""

    rule: str
    about: str = ""

    def of(self, about: str) -> "Say":
        """Says something that is about this besides."""
        return Say(self.rule, about)

    def __call__(self, severity: Severity, elements: tuple[str, ...], sentence: str, subject: Subject,
                 working: str = "", proposals: tuple[Proposal, ...] = ()) -> Finding:
        """One finding: how grave, about which elements (the one that it is about first), in one sentence; what of the
        plan it is looked at with, the key of the figure that decides it, and what could be tried."""
        return Finding(self.rule, severity, elements, sentence, subject, working, proposals, self.about)


Judge = Callable[[Figures, Say], Iterable[Finding]]


@dataclass(frozen=True)
class Rule:
    """One rule with its page in docs/findings.md; `family` is the name of the module that it stands in."""

    id: str
    meaning: str
    cure: str
    source: str
    family: str
    found: Judge

    def judge(self, figures: Figures) -> Iterable[Finding]:
        """What it finds in a plan's figures."""
        return self.found(figures, Say(self.id))


RULES: dict[str, Rule] = {}


def rule(rule_id: str, *, meaning: str, cure: str, source: str) -> Callable[[Judge], Judge]:
    """Enter a judging function under its id."""
    def enter(judge: Judge) -> Judge:
        if rule_id in RULES or not (rule_id and meaning and cure and source):
            name = rule_id or judge.__name__
            raise TypeError(f"rule {name} is there already, or does not say meaning, cure and source")
        RULES[rule_id] = Rule(rule_id, meaning, cure, source, judge.__module__.rpartition(".")[2], judge)
        return judge
    return enter
