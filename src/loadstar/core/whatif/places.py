"""Where would this part best sit? Each place is tried on a copy of the plan, analysed, and set against the plan.

Of a splice or star point that is the question where returns are best joined. Cheapest is not shortest: thick leads
count for more than many thin ones.
"""

from collections.abc import Iterable
from dataclasses import dataclass

from ..analysis import Analysis
from ..edits import ChangeElement, Edit
from ..parts.base import Part
from ..parts.block import Block
from ..plan.model import Plan
from .trial import Trial, Trials


@dataclass(frozen=True)
class PlaceOption:
    """Something at a place as it would be. `here`: it is so now. `speaks_against`: why it should not sit there."""

    place: str
    name: str
    here: bool
    speaks_against: tuple[str, ...]
    trial: Trial
    edit: Edit | None


def movable(plan: Plan) -> tuple[Part, ...]:
    """What may be put elsewhere to shorten a harness; what goes with something else moves with that."""
    owners = {p.id for p in plan.of(Block)} | {p.id for p in plan.loads}
    return tuple(p for p in plan.parts if p.MOVABLE and p.made_for not in owners)


def tried_at(base: Analysis, part_id: str, place: str) -> PlaceOption:
    """A part at one place."""
    plan, part = base.plan, base.plan.part(part_id)
    here = part.place == place
    edit = None if here else ChangeElement(id=part.id, values={"place": place})
    return PlaceOption(place, plan.place(place).name, here, tuple(speaks_against(plan, part, place)),
                       Trials(base).of(edit), edit)


def ranked(options: Iterable[PlaceOption]) -> tuple[PlaceOption, ...]:
    """Those that nothing speaks against first, then fewest stops, then the lightest."""
    return tuple(sorted(options, key=lambda o: (bool(o.trial.refused), bool(o.speaks_against), o.trial.stops,
                                                round(o.trial.wires_g, 3), o.place)))


def speaks_against(plan: Plan, part: Part | None, place: str) -> list[str]:
    """Why a part, or a bare joint, should not sit somewhere, in words: it moves, it is washed over, it is too hot, it
    does not fit."""
    at, said = plan.place(place), part.dimensions if part else None
    found = [f"it moves {at.moves}"] if at.moves != "still" else []
    if at.water == "washed over" and (said is None or said.water != "washed over"):
        unsaid = "" if part is None or (said and said.water) else ", and what water it stands is not said"
        found.append(f"it is washed over{unsaid}")
    if said and not said.fits(at.room_mm):
        found.append("it does not fit the room there")
    if said and said.most_c is not None and plan.ambient_at(place) > said.most_c:
        found.append(f"it is {plan.ambient_at(place):.0f} °C there, and it withstands {said.most_c:.0f} °C")
    return found
