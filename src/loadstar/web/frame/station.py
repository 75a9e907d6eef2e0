"""What a station says of itself: its name and number, what it shows, what may be sent from it, what is looked at
there."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from loadstar.core.findings import Subject
from loadstar.core.plan.model import Plan

from ..plans.models import PlanSummary
from .frame import Frame

# takes one form, makes one edit; the address to go to. Raises Again when the form is shown again.
Act = Callable[[Frame], str]


class Again(Exception):
    """A form that was sent is shown again: what to add to the page, and the status."""

    def __init__(self, status: int = 422, **extra: Any) -> None:
        super().__init__(status)
        self.status, self.extra = status, extra


@dataclass(frozen=True)
class Station:
    """One station. `number` is its place in the run list and its key; 0: it is not in the list.

    `begun` says whether anything of it is there yet; `subjects` what findings and figures are looked at there; `kinds`
    which kinds of elements a search leads to here. `opens_forms`: an element that is selected there can be changed
    there. `mark` says how far it is where records tell. `keeps` are words of its addresses beside state and selection;
    `before_act` is told which act is about to run, to keep its part of the page open.
    """

    key: str
    name: str
    number: int
    page: Callable[[Frame], dict[str, Any]]
    begun: Callable[[Plan], bool]
    subjects: tuple[Subject, ...] = ()
    kinds: tuple[str, ...] = ()
    opens_forms: bool = False
    acts: Mapping[str, Act] = field(default_factory=dict)
    before_act: Callable[[Frame, str], None] | None = None
    keeps: tuple[str, ...] = ()
    by_state: bool = True  # whether what it shows is of a state, beside the headline
    mark: Callable[[PlanSummary], str] | None = None  # how far it is, where no finding tells; "": not begun

    @property
    def template(self) -> str:
        """Its page, in its own folder."""
        return f"{self.key}/page.html"
