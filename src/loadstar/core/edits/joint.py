"""Many small plugs made one: a connector put in, and the leads of a place led through it, several on a way."""

from typing import Annotated, Literal

from pydantic import Field

from ..doc.types import Id
from ..doc.wires import Wire
from ..errors import refuse
from ..parts.coupling import MOST_WAYS, Coupling
from ..plan.model import Plan
from ..refs import TerminalRef
from .base import EditBase, checked
from .ways import parted
from .workpiece import Workpiece

LEADS, ON = "a", "b"  # sides of the connector: the leads come to the one, the harness goes on from the other
MOST_TOGETHER = 3  # wires that go on as one from a splice


class MakeJoint(EditBase):
    """Put a connector of so many ways in at a place, and lead the wires that come to parts at the place `of` through
    it: `through` names those of each way. Leads on one way go on as one wire where they ended at the same terminal. A
    contact takes one wire, so several are spliced before it, and behind it."""

    kind: Literal["make_joint"] = "make_joint"
    of: Id
    place: Id
    ways: Annotated[int, Field(ge=1, le=MOST_WAYS)]
    rated_a: Annotated[float, Field(gt=0, le=200)] = 10
    name: Annotated[str, Field(min_length=1, max_length=60)] = "joint connector"
    through: tuple[Annotated[tuple[Id, ...], Field(min_length=1, max_length=100)], ...] = Field(
        min_length=1, max_length=MOST_WAYS)

    def run(self, plan: Plan) -> Plan:
        for place in (self.of, self.place):
            if place not in plan.place_by_id:
                raise refuse("", "place", "Choose the place where it sits.")
        if len(self.through) > self.ways:
            raise refuse("", "ways", f"{len(self.through)} ways are wanted, and it has {self.ways}.")
        named = [wire for way in self.through for wire in way]
        if gone := next((w for w in named if w not in plan.wire_by_id), None):
            raise refuse(gone, "id", f"There is no wire {gone} in this plan (any more).")
        if len(set(named)) < len(named):
            raise refuse("", "through", "A wire can be led through one way only.")
        work = Workpiece.of(plan)
        joint = checked(Coupling, "", {"id": work.new_id("coupling"), "name": self.name, "place": self.place,
                                       "ways": self.ways, "rated_a": self.rated_a})
        work.parts.append(joint)
        for number, wires in enumerate(self.through, 1):
            self._lead_through(work, joint, number, [plan.wire(w) for w in wires])
        return work.plan()

    def _lead_through(self, work: Workpiece, joint: Coupling, number: int, wires: list[Wire]) -> None:
        before, after = joint.at(f"{LEADS}{number}"), joint.at(f"{ON}{number}")
        leads: list[Wire] = []
        going: dict[TerminalRef, Wire] = {}  # by where they end
        for wire in wires:
            lead, on = _cut(work, wire, self.of, self.place, before, after)
            leads.append(lead)
            going.setdefault(on.a if on.b == after else on.b, on)
            work.wires.remove(wire)
        if len(wires) > 1:  # what several use stays where one of them goes
            going = {far: on.model_copy(update={"made_for": None}) for far, on in going.items()}
        _spliced(work, leads, before, self.place, f"splice before {self.name}, way {number}")
        _spliced(work, list(going.values()), after, self.place, f"splice behind {self.name}, way {number}")

    def label(self, plan: Plan) -> str:
        return f"{sum(map(len, self.through))} leads of {plan.place(self.of).name} through {self.name}"


def _cut(work: Workpiece, wire: Wire, of: str, place: str, lead_to: TerminalRef,
         on_from: TerminalRef) -> tuple[Wire, Wire]:
    """A wire in two: the lead at the place, and what goes on; each keeps its direction."""
    plan = work.base
    begins = plan.part(wire.a.part).place == of
    if not begins and plan.part(wire.b.part).place != of:
        raise refuse(wire.id, "of", f"{wire.id} does not come to {plan.place(of).name} (any more).")
    first, second = parted(plan, wire.way, plan.part(wire.a.part).place, place)
    new = work.new_id("wire")
    if begins:
        return (wire.model_copy(update={"b": lead_to, "length_m": None, "way": first, "made": wire.also_made("b")}),
                wire.model_copy(update={"id": new, "a": on_from, "length_m": None, "way": second,
                                        "made": wire.also_made("a")}))
    return (wire.model_copy(update={"a": lead_to, "length_m": None, "way": second, "made": wire.also_made("a")}),
            wire.model_copy(update={"id": new, "b": on_from, "length_m": None, "way": first,
                                    "made": wire.also_made("b")}))


def _spliced(work: Workpiece, wires: list[Wire], at: TerminalRef, place: str, name: str) -> None:
    """Wires that come to a terminal, put into the plan: one by itself, several by splices that a few go on from as
    one."""
    count = 0
    while len(wires) > 1:
        several, wires, count = wires[:MOST_TOGETHER], wires[MOST_TOGETHER:], count + 1
        meet = work.make("junction", name=f"{name}, {count}" if count > 1 else name, place=place, form="splice").at("t")
        work.wires += [w.model_copy(update={"a": meet} if w.a == at else {"b": meet}) for w in several]
        wires.insert(0, Wire(id=work.new_id("wire"), a=meet, b=at, colour=several[0].colour,
                             stripe=several[0].stripe))
    work.wires += wires
