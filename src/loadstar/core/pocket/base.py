"""A question without a plan: what it asks, and what an answer holds.

A question is a model like those of the document, so that its limits are said where its fields are. It answers from the
same tables and figures that plans are judged with: where a circuit is meant, a plan of that one circuit is made and
computed.
"""

from dataclasses import dataclass
from typing import ClassVar

from ..doc.rules import HouseRules
from ..doc.types import Doc
from ..figures.working import Working
from ..materials.conductors import AREAS_MM2, gauge_label
from ..parts.asks import Ask
from ..plan.model import Plan

SIZES = tuple((f"{a:g}", f"{a:g} mm² ({gauge_label(a)})") for a in AREAS_MM2)


@dataclass(frozen=True)
class Table:
    """Rows beside an answer; `chosen` is the row that is the answer's own, if one is."""

    title: str
    columns: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    chosen: int | None = None
    source: str = ""


@dataclass(frozen=True)
class Answer:
    """In a sentence, with each figure's working, what is to be minded, and tables beside. `plan` is what it was
    computed on, which can be kept; `grave` says that it is a no."""

    said: str
    figures: tuple[Working, ...] = ()
    minded: tuple[str, ...] = ()
    tables: tuple[Table, ...] = ()
    plan: Plan | None = None
    grave: bool = False


class Question(Doc):
    """One question; its fields are what it asks, in the order of `ASKS`. PlanError where the fields together ask for
    nothing that can be."""

    KEY: ClassVar[str]
    TITLE: ClassVar[str]
    ASKS: ClassVar[tuple[Ask, ...]]

    def answer(self, rules: HouseRules) -> Answer:
        """What is known of it, by the rules of a house."""
        raise NotImplementedError

    def beside(self, rules: HouseRules) -> tuple[Table, ...]:
        """What takes longer and stands beside the answer, if anything does."""
        return ()


def two_figures(value: float) -> str:
    """A number as it is said: two figures, never a power of ten."""
    return f"{float(f'{value:.2g}'):,g}".replace(",", " ")
