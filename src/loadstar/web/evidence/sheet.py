"""The work sheet of a plan: its goes in their order, and where the work stands. Kept for each revision."""

from dataclasses import dataclass
from functools import lru_cache

from loadstar.core.analysis import Analysis
from loadstar.core.build.goes import Circle, Go, goes
from loadstar.core.build.log import Entry, Standing, standing
from loadstar.core.build.operations import Operation, Work
from loadstar.core.build.whole import work

from ..frame.frame import Frame
from ..plans.models import PlanHead
from ..records import work as records
from .kept import ByIdentity


@dataclass(frozen=True)
class Sheet:
    """Operations, the goes that they are done in, and those that wait for one another in a circle (none: there is an
    order)."""

    work: Work
    goes: tuple[Go, ...]
    circle: tuple[Operation, ...]

    @property
    def keys(self) -> tuple[str, ...]:
        """Every operation, go by go."""
        return tuple(o.key for go in self.goes for o in go.operations)


def made(analysis: Analysis) -> Sheet:
    """The sheet of a plan."""
    found = work(analysis)
    try:
        return Sheet(found, goes(found), ())
    except Circle as circle:
        return Sheet(found, (), tuple(found.operations[k] for k in circle.keys))


@lru_cache(maxsize=16)
def _sheet(kept: ByIdentity) -> Sheet:
    return made(kept.analysis)


def sheet_of(frame: Frame) -> Sheet:
    """The sheet of the page's plan."""
    return _sheet(ByIdentity(frame.analysis))


def is_done(go: Go, now: Standing) -> bool:
    """Whether everything of a go is."""
    return all(o.key in now.done for o in go.operations)


def note(row: PlanHead, sheet: Sheet) -> None:
    """How far the work now is, for the lists that show it."""
    now = standing(sheet.work, records.entries(row))
    records.note_work(row, sum(is_done(go, now) for go in sheet.goes), len(sheet.goes))


def standing_of(frame: Frame, sheet: Sheet) -> tuple[list[Entry], Standing]:
    """The log of a plan, and where its work stands."""
    entries = records.entries(frame.row)
    return entries, standing(sheet.work, entries)
