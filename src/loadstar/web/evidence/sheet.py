"""The work sheet of a plan: its operations in their order, and where the work stands. Kept for each revision."""

from dataclasses import dataclass
from functools import lru_cache

from loadstar.core import limits
from loadstar.core.analysis import Analysis
from loadstar.core.build.log import Entry, Standing, standing
from loadstar.core.build.operations import Operation, Work
from loadstar.core.build.sequence import Circle, Order, best
from loadstar.core.build.whole import work

from ..frame.frame import Frame
from ..records import work as records
from .kept import ByIdentity

COMPUTE_S = 5.0


@dataclass(frozen=True)
class Sheet:
    """Operations, the order of each group, and those that wait for one another in a circle (none: there is an order).
    """

    work: Work
    orders: tuple[tuple[str, Order], ...]
    circle: tuple[Operation, ...]

    def order(self, group: str) -> tuple[Operation, ...]:
        """A group's operations in their order."""
        found = dict(self.orders).get(group)
        return tuple(self.work.operations[k] for k in found.keys) if found else ()

    @property
    def keys(self) -> tuple[str, ...]:
        """Every operation, group by group."""
        return tuple(k for _, order in self.orders for k in order.keys)


def made(analysis: Analysis) -> Sheet:
    """The sheet of a plan."""
    found = work(analysis)
    orders: list[tuple[str, Order]] = []
    with limits.at_most(COMPUTE_S):
        for group in found.groups:
            try:
                orders.append((group, best(found.of(group), found.before)))
            except Circle as circle:
                return Sheet(found, tuple(orders), tuple(found.operations[k] for k in circle.keys))
    return Sheet(found, tuple(orders), ())


@lru_cache(maxsize=16)
def _sheet(kept: ByIdentity) -> Sheet:
    return made(kept.analysis)


def sheet_of(frame: Frame) -> Sheet:
    """The sheet of the page's plan."""
    return _sheet(ByIdentity(frame.analysis))


def standing_of(frame: Frame, sheet: Sheet) -> tuple[list[Entry], Standing]:
    """The log of a plan, and where its work stands."""
    entries = records.entries(frame.row)
    return entries, standing(sheet.work, entries)
