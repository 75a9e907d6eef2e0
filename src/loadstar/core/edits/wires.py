"""Edits of wires: laid by hand, fixed, moved, taken out."""

from typing import Any, Literal

from ..doc.wires import Wire
from ..errors import refuse
from ..plan.model import Plan
from ..refs import TerminalRef
from .base import EditBase, checked, existing, free
from .couplings import cut, spliced
from .recipes import make_bus_bar
from .workpiece import Workpiece


def _wire(plan: Plan, wire: str) -> Wire:
    """A wire of the plan; PlanError when it is not there (any more)."""
    if wire not in plan.wire_by_id:
        raise refuse(wire, "id", f"There is no wire {wire} in this plan.")
    return plan.wire(wire)


class AddWire(EditBase):
    """Lay a wire between two terminals by hand."""

    kind: Literal["add_wire"] = "add_wire"
    a: str
    b: str
    values: dict[str, Any] = {}

    def run(self, plan: Plan) -> Plan:
        work = Workpiece.of(plan)
        values = {"colour": "BK", **self.values, "a": self.a, "b": self.b}
        new = checked(Wire, "", {**free("", values), "id": work.new_id("wire")})
        return plan.model_copy(update={"wires": (*plan.wires, new), "counters": work.counters})

    def label(self, plan: Plan) -> str:
        return f"wire from {self.a} to {self.b}"


class RemoveWire(EditBase):
    """Take out one wire."""

    kind: Literal["remove_wire"] = "remove_wire"
    id: str

    def run(self, plan: Plan) -> Plan:
        _wire(plan, self.id)
        return plan.model_copy(update={"wires": tuple(w for w in plan.wires if w.id != self.id)})

    def label(self, plan: Plan) -> str:
        return f"{self.id} taken out"


class MoveEnd(EditBase):
    """Move one end of a wire to another terminal; of one that is there, or came with something, it is made up anew."""

    kind: Literal["move_end"] = "move_end"
    id: str
    end: Literal["a", "b"]
    to: str

    def run(self, plan: Plan) -> Plan:
        _wire(plan, self.id)
        return plan.model_copy(update={"wires": tuple(
            checked(Wire, w.id, {**w.model_dump(), self.end: self.to, "made": w.also_made(self.end)})
            if w.id == self.id else w for w in plan.wires)})

    def label(self, plan: Plan) -> str:
        return f"{self.id} moved to {self.to}"


# What a wire joins, which way it takes and what it was made for: edits of their own change them.
OF_ITS_PLACE = {"id", "a", "b", "way", "made_for"}


class SetWire(EditBase):
    """Fix or free a wire's size, length, insulation or colour; null leaves it to Loadstar."""

    kind: Literal["set_wire"] = "set_wire"
    id: str
    values: dict[str, Any]

    def run(self, plan: Plan) -> Plan:
        allowed = Wire.model_fields.keys() - OF_ITS_PLACE
        if not self.values.keys() <= allowed:
            raise refuse(self.id, "values", f"Only {', '.join(sorted(allowed))} of a wire can be set.")
        old = _wire(plan, self.id)
        new = checked(Wire, old.id, {**old.model_dump(), **self.values})
        return plan.model_copy(update={"wires": tuple(new if w.id == old.id else w for w in plan.wires)})

    def label(self, plan: Plan) -> str:
        area = self.values.get("area_mm2", "")
        if area == "":
            return f"{self.id} changed"
        return f"{self.id} left to Loadstar" if area is None else f"{self.id} fixed at {area:g} mm²"


class CutWire(EditBase):
    """Cut a wire at a place and put a connector in, a new one or a free way of one that is there; or splice it there,
    so that more can branch off. Both pieces keep what was fixed of the wire, except a measured length."""

    kind: Literal["cut_wire"] = "cut_wire"
    id: str
    place: str = ""
    into: str = ""
    form: Literal["connector", "splice"] = "connector"

    def run(self, plan: Plan) -> Plan:
        wire = _wire(plan, self.id)
        return spliced(plan, wire, self.place) if self.form == "splice" else cut(plan, wire, self.place, self.into)

    def label(self, plan: Plan) -> str:
        if self.form == "splice":
            return f"splice put into {self.id}"
        return f"connector put into {self.id}" if not self.into else f"{self.id} led through {self.into}"


class MakeBusBar(EditBase):
    """Put a bus bar beside a battery post and move every wire but one over to it."""

    kind: Literal["make_bus_bar"] = "make_bus_bar"
    post: str
    keep: str

    def run(self, plan: Plan) -> Plan:
        existing(plan, TerminalRef(self.post).part)
        return make_bus_bar(plan, TerminalRef(self.post), self.keep)

    def label(self, plan: Plan) -> str:
        return f"bus bar made at {self.post}"
