"""It must bite: every wire, contact, fuse and way of a plan at half its size or rating. What then is overloaded, by a
reckoning of its own, has to be said; twice the size brings nothing new but about fit and selectivity."""

from collections.abc import Iterator
from dataclasses import dataclass

from judgement.plans import analysed

from loadstar.core.analysis import Analysis, analyse
from loadstar.core.edits import ChangeElement, Edit, SetWire, apply
from loadstar.core.errors import PlanError
from loadstar.core.materials.conductors import STOCKS
from loadstar.core.materials.fuses import RATINGS_A
from loadstar.core.plan.model import Plan
from loadstar.core.wiring.conductor import Conductors, conductor

FITS = ("end.", "run.", "connector.", "harness.", "splice.", "terminal.", "fuse.selective", "place.", "reel.",
        "starter.leads", "feed.stud")


@dataclass(frozen=True)
class Changed:
    """An element at another size or rating."""

    element: str
    kind: str
    size: float
    edit: Edit


def changes(plan: Plan | Analysis, factor: float) -> Iterator[Changed]:
    """Every wire, fuse, way and contact at about so many times its size or rating, where there is such a one."""
    a = analysed(plan)
    steps = sorted(STOCKS[a.plan.rules.sizes])
    for wire in a.wires.values():
        size = _near(steps, wire.area_mm2 * factor, factor)
        if size and size >= 0.5:
            yield Changed(wire.id, "wire", size, SetWire(id=wire.id, values={"area_mm2": size}))
    for part in a.plan.parts:
        if part.protection and part.protection.chosen:
            every = RATINGS_A if part.protection.kind == "fuse" else part.protection.steps_a
            rating = _near(sorted(every), a.ratings.rating_a(part.id) * factor, factor)
            if rating:
                yield Changed(part.id, part.protection.kind, rating,
                              ChangeElement(id=part.id, values={part.CHOSEN: rating}))
        elif part.contact and part.CHOSEN:
            rated = round(a.ratings.contact_a(part.id) * factor, 3)
            yield Changed(part.id, "contact", rated, ChangeElement(id=part.id, values={part.CHOSEN: rated}))


def _near(steps: list[float], wanted: float, factor: float) -> float | None:
    """The nearest step beyond what is wanted, away from what there is."""
    if factor < 1:
        return max((s for s in steps if s <= wanted), default=None)
    return min((s for s in steps if s >= wanted), default=None)


def overloaded(a: Analysis, changed: Changed) -> str:
    """Why an element at its new size carries too much, in numbers; "" where it does not."""
    element, size = changed.element, changed.size
    if changed.kind == "wire":
        wire = a.wires[element]
        metal = Conductors([conductor(a.plan, a.topology.wires[element], size)])
        stands = float(metal.allowed_a(metal.class_c, wire.surround_c)[0])
        guard = wire.judged_by
        hours = 1.10 * guard.rating_a * guard.share if guard and guard.opener.kind != "limit" else 0.0
        return f"{max(wire.peak_a, hours):.1f} A on {stands:.1f} A" if max(wire.peak_a, hours) > stands else ""
    inside = (b.ref for b in a.topology.inside[element].branches if b.opens)
    peak = max((a.ratings.peak_a(e) for e in (element, *inside)), default=0.0)
    return f"{peak:.1f} A on {size:g} A" if peak > size else ""


def missed(plan: Plan) -> list[str]:
    """What is overloaded at half its size and is not said, by a stop or a caution that names it."""
    found = []
    for changed in changes(plan, 0.5):
        try:
            a = analyse(apply(plan, changed.edit))
        except PlanError:
            continue
        why = overloaded(a, changed)
        if why and not any(changed.element in f.elements for f in a.findings if f.severity in ("stop", "caution")):
            found.append(f"{changed.kind} {changed.element} at {changed.size:g}: {why}")
    return found


def cried(plan: Plan) -> list[str]:
    """What is said of wires and contacts twice their size that was not said before, but about fit and selectivity."""
    before = {f.key for f in analyse(plan).findings}
    found = []
    for changed in changes(plan, 2.0):
        if changed.kind in ("wire", "contact"):
            try:
                a = analyse(apply(plan, changed.edit))
            except PlanError:
                continue
            found += [f"{changed.kind} {changed.element} at {changed.size:g}: {f.sentence}" for f in a.findings
                      if f.severity in ("stop", "caution") and f.key not in before and not f.rule.startswith(FITS)]
    return found
