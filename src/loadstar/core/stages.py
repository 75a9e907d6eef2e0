"""A plan cut into stages, each made, tried and judged by itself: A and what is there from the first, then B with it,
and so on.

What was made for a part is made with it. What hangs on something of a later stage is told: a stage has to be complete.
"""

from dataclasses import dataclass

from .analysis import Analysis, analyse
from .edits.recipes import without
from .parts.base import Part
from .plan.integrity import faults
from .plan.model import Plan

LETTERS = ("A", "B", "C", "D")


@dataclass(frozen=True)
class Stage:
    """One stage: its letter, the plan as it is once it is made, that plan analysed (None where it does not hang
    together), what is new in it, and in words what it lacks."""

    letter: str
    plan: Plan
    analysis: Analysis | None
    new_parts: tuple[Part, ...]
    new_wires: tuple[str, ...]
    lacks: tuple[str, ...]

    @property
    def new_wire_m(self) -> float | None:
        """Metres of the wires that are new in it; None where it does not hang together."""
        return sum(self.analysis.wires[w].length_m for w in self.new_wires) if self.analysis else None


def stage_of(plan: Plan, part: Part) -> str:
    """In which stage a part is made: its own, or that of what it was made for; "" from the first."""
    seen: set[str] = set()
    while not part.stage and part.made_for and part.made_for not in seen:
        seen.add(part.made_for)
        part = plan.part(part.made_for)
    return part.stage


def letters(plan: Plan) -> tuple[str, ...]:
    """The stages that a plan is cut into; none where it is made all at once."""
    return tuple(letter for letter in LETTERS if any(p.stage == letter for p in plan.parts))


def up_to(plan: Plan, letter: str) -> Plan:
    """The plan as it is once a stage is made."""
    later = {p.id for p in plan.parts if stage_of(plan, p) > letter}
    return without(plan, later, None)


def stages(plan: Plan) -> tuple[Stage, ...]:
    """Every stage of a plan, in order."""
    found: list[Stage] = []
    before: set[str] = set()
    wired: set[str] = set()
    for letter in letters(plan):
        here = up_to(plan, letter)
        lacks = tuple(dict.fromkeys(f.sentence for f in faults(here)))
        found.append(Stage(letter, here, None if lacks else analyse(here),
                           tuple(p for p in here.parts if p.id not in before),
                           tuple(w.id for w in here.wires if w.id not in wired), lacks))
        before, wired = {p.id for p in here.parts}, {w.id for w in here.wires}
    return tuple(found)
