"""Where would this part best sit? Each place is tried on a copy of the plan, analysed, and set against the plan.

Of a splice or star point that is the question where returns are best joined. Cheapest is not shortest: thick leads
count for more than many thin ones.
"""

from dataclasses import dataclass
from typing import NamedTuple

from .. import limits
from ..analysis import Analysis, analyse
from ..edits import ChangeElement, Edit, apply
from ..errors import PlanError
from ..findings import Finding
from ..parts.base import Part
from ..parts.block import Block
from ..parts.converter import Converter
from ..parts.junction import Junction
from ..parts.module import Module
from ..parts.relay import Relay
from ..plan.model import Plan

MOVABLE: tuple[type[Part], ...] = (Block, Module, Converter, Relay, Junction)


@dataclass(frozen=True)
class PlaceOption:
    """A part at a place as it would be: what all wires weigh, and against now; how long they are, the largest share
    that any accessory loses, what would be found that is not now. `speaks_against`: why it should not sit there."""

    place: str
    name: str
    here: bool
    speaks_against: tuple[str, ...] = ()
    refused: str = ""
    wires_g: float = 0.0
    more_g: float = 0.0
    wires_m: float = 0.0
    worst_frac: float = 0.0
    findings: tuple[Finding, ...] = ()
    edit: Edit | None = None

    @property
    def stops(self) -> int:
        """Stop findings that it would bring."""
        return sum(f.severity == "stop" for f in self.findings)


def movable(plan: Plan) -> tuple[Part, ...]:
    """What may be put elsewhere to shorten a harness; what goes with something else moves with that."""
    owners = {p.id for p in plan.of(Block)} | {p.id for p in plan.loads}
    return tuple(p for p in plan.parts if isinstance(p, MOVABLE) and p.made_for not in owners)


def compare_places(plan: Plan, part_id: str) -> tuple[PlaceOption, ...]:
    """Every place for one part: those that nothing speaks against first, then fewest stops, then the lightest."""
    part, base = plan.part(part_id), analyse(plan)
    old = {_key(f) for f in base.findings}
    found = []
    for place in plan.places:
        limits.check()
        found.append(_tried(plan, base, old, part, place.id))
    return tuple(sorted(found, key=lambda o: (bool(o.refused), bool(o.speaks_against), o.stops, round(o.wires_g, 3),
                                              o.place)))


def _tried(plan: Plan, base: Analysis, old: set["_Told"], part: Part, place: str) -> PlaceOption:
    at, here = plan.place(place), part.place == place
    edit = ChangeElement(id=part.id, values={"place": place})
    against = tuple(_against(plan, part, place))
    try:
        made = base if here else analyse(apply(plan, edit))
    except PlanError as error:
        return PlaceOption(place, at.name, here, against, error.faults[0].sentence)
    if made.loom is None or base.loom is None:
        return PlaceOption(place, at.name, here, against, "Nothing can be computed with it there.")
    worst = max((made.worst_drop(load)[1] for load in made.plan.loads), default=0.0)
    return PlaceOption(
        place, at.name, here, against, "", made.loom.wires_g, made.loom.wires_g - base.loom.wires_g,
        sum(w.length_m for w in made.wires.values()), worst,
        tuple(f for f in made.findings if _key(f) not in old and f.severity != "note"), None if here else edit)


def _against(plan: Plan, part: Part, place: str) -> list[str]:
    """Why a part should not sit somewhere, in words: it moves, it is washed over, it is too hot."""
    at, said = plan.place(place), part.dimensions
    found = [f"it moves {at.moves}"] if at.moves != "still" else []
    if at.water == "washed over" and (said is None or said.water != "washed over"):
        unsaid = "" if said and said.water else ", and what water it stands is not said"
        found.append(f"it is washed over{unsaid}")
    if said and said.most_c is not None and plan.ambient_at(place) > said.most_c:
        found.append(f"it is {plan.ambient_at(place):.0f} °C there, and it stands {said.most_c:.0f} °C")
    return found


class _Told(NamedTuple):
    rule: str
    elements: tuple[str, ...]


def _key(finding: Finding) -> _Told:
    return _Told(finding.rule, finding.elements[:1])
