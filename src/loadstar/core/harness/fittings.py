"""Where connectors and splices sit along the harness: as they are said to, or splices kept off break-outs and off one
another."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from ..doc.places import Run
from ..parts.base import Part
from ..parts.junction import SPLICE_APART_MM, SPLICE_BEYOND_MM
from ..plan.model import Plan

MOST_SHARE = 0.45  # of its run that one sits along at most


@dataclass(frozen=True)
class Fitting:
    """A connector or splice, so many mm from its place along a run."""

    part: Part
    run: str
    at_mm: float


def fittings(plan: Plan, wires_in: Sequence[tuple[Run, Sequence[str]]]) -> tuple[Fitting, ...]:
    """Every connector and splice that wires of a run come to, along the run with most of its wires."""
    on_it: dict[str, set[str]] = {}
    for wire in plan.wires:
        for end in (wire.a, wire.b):
            on_it.setdefault(end.part, set()).add(wire.id)
    found, taken = [], Counter[tuple[str, str]]()
    for part in plan.parts:
        if not part.along:
            continue
        here = [(len(on_it.get(part.id, set()) & set(wires)), run) for run, wires in wires_in
                if part.place in (run.a, run.b)]
        if not here or not max(count for count, _ in here):
            continue
        run = min(here, key=lambda one: (-one[0], one[1].id))[1]
        at_mm = part.along_mm
        if at_mm is None:
            before = taken[part.place, run.id]
            first_mm = plan.rules.splice_off_mm + SPLICE_BEYOND_MM if len(here) > 2 else 0
            at_mm = first_mm + SPLICE_APART_MM * before
            taken[part.place, run.id] += 1
        found.append(Fitting(part, run.id, min(at_mm, MOST_SHARE * 1000 * run.length_m)))
    return tuple(found)
