"""Does a proposed edit cure? It is carried out on a copy, which is analysed: the finding must be gone, and no stop or
caution new."""

from ..analysis import Analysis, analyse
from ..edits import Edit, apply
from ..errors import PlanError
from ..findings import SEVERITIES, Finding, Proposal

GRAVE = SEVERITIES[:2]


class Cures:
    """The proposals of one plan's findings, each tried once and only when somebody asks for it."""

    def __init__(self, analysis: Analysis) -> None:
        self.plan, self.findings = analysis.whole_plan, analysis.findings
        self._after: dict[str, tuple[Finding, ...] | None] = {}

    def of(self, finding: Finding) -> Proposal | None:
        """The first proposal after which the finding is gone and no stop or caution is new; None when there is none."""
        return next((p for p in finding.proposals if self.mends(finding, p.edit)), None)

    def mends(self, finding: Finding, edit: Edit) -> bool:
        """Whether the edit can be carried out, takes this finding away, and brings no stop or caution that was not
        there."""
        after = self._judged(edit)
        if after is None or any(f.key == finding.key for f in after):
            return False
        before = {f.key: SEVERITIES.index(f.severity) for f in reversed(self.findings)}
        return all(SEVERITIES.index(f.severity) >= before.get(f.key, len(SEVERITIES)) for f in after
                   if f.severity in GRAVE)

    def _judged(self, edit: Edit) -> tuple[Finding, ...] | None:
        """The findings after an edit; None when it is refused, or could be judged only in part."""
        key = edit.model_dump_json()
        if key not in self._after:
            try:
                made = analyse(apply(self.plan, edit))
                self._after[key] = None if made.left_out else made.findings
            except PlanError:
                self._after[key] = None
        return self._after[key]
