"""Does a proposed edit cure? It is carried out on a copy, which is analysed: the finding must be gone, and no stop or caution new."""

from ..findings import SEVERITIES, Finding
from ..plan.edits import Edit, apply
from ..plan.errors import PlanError
from ..plan.model import Plan

GRAVE = SEVERITIES[:2]


class Trials:
    """The proposals of one plan's findings, each tried once and only when somebody asks for it."""

    def __init__(self, plan: Plan) -> None:
        self.plan = plan
        self.findings: tuple[Finding, ...] = ()  # of the plan itself, set as soon as they are known
        self._after: dict[str, tuple[Finding, ...] | None] = {}

    def mends(self, finding: Finding, edit: Edit) -> bool:
        """Whether the edit can be carried out, takes this finding away, and brings no stop or caution that was not there."""
        after = self._judged(edit)
        if after is None or any(f.key == finding.key for f in after):
            return False
        before = {f.key: SEVERITIES.index(f.severity) for f in reversed(self.findings)}
        return all(SEVERITIES.index(f.severity) >= before.get(f.key, len(SEVERITIES)) for f in after if f.severity in GRAVE)

    def _judged(self, edit: Edit) -> tuple[Finding, ...] | None:
        """The findings after an edit; None when it is refused."""
        from ..analysis import analyse

        key = edit.model_dump_json()
        if key not in self._after:
            try:
                self._after[key] = analyse(apply(self.plan, edit)).findings
            except PlanError:
                self._after[key] = None
        return self._after[key]
