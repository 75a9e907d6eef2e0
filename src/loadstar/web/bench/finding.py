"""Anything in a plan by its id, or by words that somebody has before their eyes: a name, a colour, a size, a place."""

from collections.abc import Iterator
from dataclasses import dataclass

from loadstar.core.analysis import Analysis
from loadstar.core.doc.wires import Wire
from loadstar.core.plan.model import Plan

MOST_WORDS = 6
ORIGINS = {"new": "", "found": "there already", "supplied": "came with it"}
LOOKED_FOR = ("wire_colour", "new_colour", "goes_to", "category", "function", "use", "housing", "note", "stored")


@dataclass(frozen=True)
class Hit:
    """Something of a plan: its id, its kind, what it is, and what else it is found by."""

    id: str
    kind: str
    name: str
    words: str = ""

    def has(self, words: list[str]) -> bool:
        """Whether all of some words are in it."""
        text = f"{self.name} {self.words}".lower()
        return all(word in text for word in words)


def found_in(analysis: Analysis, asked: str) -> list[Hit]:
    """What has that id, then what has all those words in it, in the order of the plan."""
    words = asked.lower().split()[:MOST_WORDS]
    if not words:
        return []
    every = list(_all(analysis))
    called = [hit for hit in every if hit.id.lower() == asked.strip().lower()]
    return called + [hit for hit in every if hit not in called and hit.has(words)]


def _all(analysis: Analysis) -> Iterator[Hit]:
    plan = analysis.whole_plan
    for part in plan.parts:
        more = [str(getattr(part, field, "") or "") for field in LOOKED_FOR]
        yield Hit(part.id, part.kind, part.name, " ".join([part.word, plan.place(part.place).name, *more]))
    for other in (*plan.places, *plan.plugs, *plan.tables, *plan.removed):
        more = [str(getattr(other, field, "") or "") for field in LOOKED_FOR]
        yield Hit(other.id, "", other.name, " ".join(more))
    for wire in plan.wires:
        yield Hit(wire.id, "wire", _wire(analysis, plan, wire), f"wire {wire.a} {wire.b}")


def _wire(analysis: Analysis, plan: Plan, wire: Wire) -> str:
    """A wire as somebody sees it: its colours and size, and from what to what."""
    area = analysis.wires[wire.id].area_mm2 if wire.id in analysis.wires else wire.area_mm2
    ends = f"{plan.part(wire.a.part).name} ({wire.a}) to {plan.part(wire.b.part).name} ({wire.b})"
    size = f"{area:g} mm²" if area else ""
    return ", ".join(said for said in (wire.colours, size, ORIGINS[wire.origin], ends) if said)
