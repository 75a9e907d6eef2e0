"""By what a plan on the bench is found: what it needs, and its parts, connectors and pins with their words."""

from loadstar.core.analysis import Analysis
from loadstar.core.doc.survey import Plug
from loadstar.core.order import order
from loadstar.core.parts.base import Part
from loadstar.core.plan.model import Plan

from ..plans.known import Known
from ..plans.models import PlanHead
from .models import Need, Thing


def keep_found(row: PlanHead, found: Known) -> None:
    """By what a plan on the bench is found; only for who holds the head."""
    _keep_needs(row, found.analysis)
    _keep_things(row, found.plan)


def _keep_needs(row: PlanHead, analysis: Analysis) -> None:
    """What the plan needs, so that it can be asked where a thing is used; written only where it changed."""
    wanted: dict[str, tuple[float, str]] = {}
    for item in order(analysis).items:
        amount, unit = wanted.get(item.what, (0.0, item.unit))
        wanted[item.what] = round(amount + item.need, 4), unit
    there = {n.what: (n.amount, n.unit) for n in Need.objects.filter(plan=row)}
    if wanted == there:
        return
    if gone := [what for what, kept in there.items() if wanted.get(what) != kept]:
        Need.objects.filter(plan=row, what__in=gone).delete()
    Need.objects.bulk_create(Need(workshop_id=row.workshop_id, plan=row, what=what, text=lowered(what, Need),
                                  amount=amount, unit=unit)
                             for what, (amount, unit) in wanted.items() if there.get(what) != (amount, unit))


def _keep_things(row: PlanHead, plan: Plan) -> None:
    """The plan's parts, connectors and pins by the words they can be found by; written only where they changed."""
    wanted = {p.id: (getattr(p, "kind", "plug"), p.name, _words_of(plan, p)[:300]) for p in (*plan.parts, *plan.plugs)}
    there = {t.element: (t.kind, t.name, t.words) for t in Thing.objects.filter(plan=row)}
    if wanted == there:
        return
    if gone := [element for element, kept in there.items() if wanted.get(element) != kept]:
        Thing.objects.filter(plan=row, element__in=gone).delete()
    Thing.objects.bulk_create(Thing(workshop_id=row.workshop_id, plan=row, element=element, kind=kind, name=name,
                                    words=words, text=lowered(f"{name} {words}", Thing))
                              for element, (kind, name, words) in wanted.items()
                              if there.get(element) != (kind, name, words))


def lowered(text: str, model: type[Need] | type[Thing]) -> str:
    """A text as it is looked for, no longer than its column: in small letters it may be longer than it was."""
    return text.lower()[:model._meta.get_field("text").max_length]


def _words_of(plan: Plan, part: Part | Plug) -> str:
    """What else somebody would look for it by: its kind in words, colours, housing, what it triggers, its place."""
    found = [plan.place(part.place).name]
    if isinstance(part, Plug):
        found += [part.use, part.housing, f"{part.ways}-way"]
    else:
        found.append(part.word)
        triggers = [w.id for w in plan.wires for end in (w.a, w.b) if end.part == part.id]
        for name in ("wire_colour", "goes_to", "category", "function"):
            found.append(str(getattr(part, name, "") or ""))
        if part.AS_FOUND and any(w.id in triggers and other.name == "86"
                                         for w in plan.wires for other in (w.a, w.b)):
            found.append("trigger")
    return " ".join(word for word in found if word)
