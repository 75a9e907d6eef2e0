"""A step tried on a copy of a plan, analysed whole, and set against the plan."""

from collections.abc import Iterable
from dataclasses import dataclass

from ..analysis import Analysis, analyse
from ..edits import Edit, apply
from ..errors import PlanError
from ..findings import Finding
from ..parts.load import LoadPart


@dataclass(frozen=True)
class Trial:
    """What a plan would be with a step made: what all wires weigh, and against now; how long they are; the largest
    share that any of the accessories asked about loses on the way; what would be found that is not now. `refused` says
    why it cannot be, in a sentence."""

    refused: str = ""
    wires_g: float = 0.0
    more_g: float = 0.0
    wires_m: float = 0.0
    worst_frac: float = 0.0
    findings: tuple[Finding, ...] = ()

    @property
    def stops(self) -> int:
        """Stop findings that it would bring."""
        return sum(f.severity == "stop" for f in self.findings)


class Trials:
    """Steps tried against one analysed plan; what they lose is judged over these accessories, or over all."""

    def __init__(self, base: Analysis, loads: Iterable[str] | None = None) -> None:
        self.base, self.loads = base, None if loads is None else set(loads)

    def of(self, edit: Edit | None) -> Trial:
        """A step tried; None: the plan as it is."""
        try:
            made = self.base if edit is None else analyse(apply(self.base.plan, edit))
        except PlanError as error:
            return Trial(error.faults[0].sentence)
        if made.loom is None or self.base.loom is None:
            return Trial("Nothing can be computed then.")
        asked: list[LoadPart] = [p for p in made.plan.loads if self.loads is None or p.id in self.loads]
        return Trial(
            "", made.loom.wires_g, made.loom.wires_g - self.base.loom.wires_g, made.loom.wires_m,
            max((made.volts.worst_drop(load)[1] for load in asked), default=0.0),
            speaks_newly(self.base, made))


def speaks_newly(base: Analysis, made: Analysis) -> tuple[Finding, ...]:
    """What is found of the one plan and not of the other; notes are left out."""
    old = {_key(f) for f in base.findings}
    return tuple(f for f in made.findings if _key(f) not in old and f.severity != "note")


def _key(finding: Finding) -> tuple[str, tuple[str, ...]]:
    return finding.rule, finding.elements[:1]
