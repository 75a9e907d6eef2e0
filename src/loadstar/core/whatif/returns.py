"""Where are these accessories' returns best joined? Each place is tried with a star point there and one lead from it to
the source, and set against a lead each."""

from ..analysis import Analysis
from ..edits import AddElement, ChangeElement, Edit, Several
from ..parts.junction import Junction
from ..parts.load import LoadPart
from ..plan.model import Plan
from .places import PlaceOption, speaks_against
from .trial import Trials

APART = ""  # the place of no joint: each return for itself


def joinable(plan: Plan) -> tuple[LoadPart, ...]:
    """Accessories with a return wire of their own to where their feed's returns go."""
    return tuple(p for p in plan.loads if p.returns == "own wire" and p.return_to is None
                 and any(w.a == p.at("neg") or w.b == p.at("neg") for w in plan.wires))


def joined(base: Analysis, loads: tuple[str, ...], place: str) -> PlaceOption:
    """Their returns joined at a place, or as they are; the share lost is the largest of these accessories."""
    plan, trials = base.plan, Trials(base, loads)
    if place == APART:
        return PlaceOption(APART, "each for itself", True, (), trials.of(None), None)
    edit = joined_at(plan, loads, place)
    return PlaceOption(place, plan.place(place).name, False, tuple(speaks_against(plan, None, place)),
                       trials.of(edit), edit)


def joined_at(plan: Plan, loads: tuple[str, ...], place: str) -> Edit:
    """The step that joins their returns in a star point at a place."""
    star = f"{Junction.PREFIX}{plan.counters.get(Junction.PREFIX, 0) + 1}"
    name = f"returns at {plan.place(place).name}"
    return Several(words=f"{len(loads)} returns joined at {plan.place(place).name}", edits=(
        AddElement(what="junction", values={"name": name[:80], "place": place, "form": "star point"}),
        *(ChangeElement(id=load, values={"return_to": star}) for load in loads)))
