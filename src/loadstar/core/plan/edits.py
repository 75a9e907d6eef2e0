"""Edits: pure functions from plan to plan, each a small model with a name, so that it can be stored, proposed by a
finding and posted by a form alike. `apply` checks the result as a whole and raises PlanError with nothing changed.
"""

from collections.abc import Iterator
from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field, TypeAdapter, ValidationError

from .editing import EditBase, checked, checked_part, existing, name_of
from .errors import PlanError, refuse
from .integrity import faults
from .model import (
    AnyPart,
    Continuity,
    FusePart,
    HouseRules,
    LoadPart,
    Machine,
    Place,
    Plan,
    Removed,
    Run,
    Switch,
    Tap,
    Wire,
)
from .recipes import (
    Workpiece,
    bridge,
    make_bar,
    make_block,
    make_bus_bar,
    make_combiner,
    make_converter,
    make_load,
    make_starter,
    take_out,
)
from .remake import dropped, remade
from .speech import validation_faults, words_for
from .survey_edits import (
    BodyPlaces,
    Confirm,
    MovePlace,
    PutPins,
    PutPlug,
    SetScale,
    TakeReadings,
    TakeSurvey,
    check_hangers,
)

# What stands in lists of its own beside the parts: the list, and what its elements are.
_LISTED: dict[str, tuple[str, type[BaseModel]]] = {
    "place": ("places", Place), "run": ("runs", Run), "table": ("tables", Continuity), "removed": ("removed", Removed)}
# What an element is and belongs to: given by the edit itself, never by the values that come with it.
_IDENTITY = frozenset({"id", "kind", "made_for"})
MOST_EDITS, MOST_DEEP = 3000, 4  # of a step of several: how many in all, how deep in one another


class Rename(EditBase):
    """Give the plan another name."""

    kind: Literal["rename"] = "rename"
    name: str

    def run(self, plan: Plan) -> Plan:
        """Carry out the edit."""
        return _rebuilt(plan, {"name": self.name})

    def label(self, plan: Plan) -> str:
        """What the revision list says."""
        return f"renamed to {self.name}"


class SetMachine(EditBase):
    """Replace the machine's figures."""

    kind: Literal["set_machine"] = "set_machine"
    values: dict[str, Any]

    def run(self, plan: Plan) -> Plan:
        """Carry out the edit."""
        return plan.model_copy(update={"machine": checked(Machine, "", {**plan.machine.model_dump(), **self.values})})

    def label(self, plan: Plan) -> str:
        """What the revision list says."""
        return "machine changed"


class SetRules(EditBase):
    """Replace house rules of this plan."""

    kind: Literal["set_rules"] = "set_rules"
    values: dict[str, Any]

    def run(self, plan: Plan) -> Plan:
        """Carry out the edit."""
        return plan.model_copy(update={"rules": checked(HouseRules, "", {**plan.rules.model_dump(), **self.values})})

    def label(self, plan: Plan) -> str:
        """What the revision list says."""
        return "house rules changed"


class AddElement(EditBase):
    """Add a place, a run or a part of any kind. Loads, blocks and the like come with all that their circuits need,
    unless they are to stand `alone`, to be wired by hand."""

    kind: Literal["add"] = "add"
    what: Literal["place", "run", "battery", "generator", "coil", "pack", "drive", "converter", "port", "combiner", "own",
                  "tap", "block", "module", "load", "fuse", "way", "relay", "switch", "junction", "frame", "starter", "kill",
                  "table", "removed"]
    values: dict[str, Any]
    alone: bool = False

    def run(self, plan: Plan) -> Plan:
        """Carry out the edit."""
        work = Workpiece.of(plan)
        values = {**_free("", self.values), "id": work.new_id(self.what)}
        plan = plan.model_copy(update={"counters": work.counters})
        if self.what in _LISTED:
            field, model = _LISTED[self.what]
            new = checked(model, values["id"], values)
            if isinstance(new, Run) and any({r.a, r.b} == {new.a, new.b} for r in plan.runs):
                raise refuse(new.id, "b", "There is a run between these two places already: change its length instead.")
            return plan.model_copy(update={field: (*getattr(plan, field), new)})
        part = checked_part(values["id"], {**values, "kind": self.what})
        if isinstance(part, LoadPart):
            _check_feed(plan, part)
        recipe = None if self.alone else _RECIPES.get(part.kind)
        if recipe is not None:
            made: Plan = recipe(plan, part)
            return made
        return plan.model_copy(update={"parts": (*plan.parts, part)})

    def label(self, plan: Plan) -> str:
        """What the revision list says."""
        return f"{self.values.get('name') or 'run'} added"


class ChangeElement(EditBase):
    """Change fields of a place, run or part. A load whose feed, place or life changes gets its circuit made anew."""

    kind: Literal["change"] = "change"
    id: str
    values: dict[str, Any]

    def run(self, plan: Plan) -> Plan:
        """Carry out the edit."""
        values = _free(self.id, self.values)
        for field, model in _LISTED.values():
            elements = getattr(plan, field)
            if any(e.id == self.id for e in elements):
                return plan.model_copy(update={field: tuple(
                    checked(model, e.id, {**e.model_dump(), **values}) if e.id == self.id else e
                    for e in elements)})
        old = existing(plan, self.id)
        new = checked_part(old.id, {**old.model_dump(), **values})
        changed = plan.model_copy(update={"parts": tuple(new if p.id == old.id else p for p in plan.parts)})
        if isinstance(old, LoadPart) and isinstance(new, LoadPart) and (
                old.feed, old.live, old.returns) != (new.feed, new.live, new.returns):
            _check_feed(plan, new)
            return _moved(plan, remade(plan, new), old, new)
        if isinstance(old, Tap) and isinstance(new, Tap):
            check_hangers(plan, old, new)
        changed = _moved(plan, changed, old, new)
        if old.name != new.name:
            changed = _renamed_made(changed, old.id, old.name, new.name)
        return changed

    def label(self, plan: Plan) -> str:
        """What the revision list says, with what of a load's circuit could not be kept."""
        label = f"{name_of(plan, self.id)} changed"
        if any(p.id == self.id for p in plan.loads) and (gone := dropped(plan, self.run(plan), self.id)):
            label += f"; dropped: {', '.join(gone)}"
        return label


class CopyLoad(EditBase):
    """Add a second accessory like an existing one."""

    kind: Literal["copy_load"] = "copy_load"
    id: str

    def run(self, plan: Plan) -> Plan:
        """Carry out the edit."""
        load = existing(plan, self.id)
        if not isinstance(load, LoadPart):
            raise refuse(self.id, "id", f"{self.id} is no accessory: only accessories can be copied.")
        taken = {p.name for p in plan.loads}
        number = next(n for n in range(2, 1000) if f"{load.name} {n}" not in taken)
        values = {**load.model_dump(exclude={"id", "kind", "made_for"}), "name": f"{load.name} {number}"}
        return AddElement(what="load", values=values).run(plan)

    def label(self, plan: Plan) -> str:
        """What the revision list says."""
        return f"{name_of(plan, self.id)} copied"


class RemoveElement(EditBase):
    """Take out a place, run or part with everything made for it."""

    kind: Literal["remove"] = "remove"
    id: str

    def run(self, plan: Plan) -> Plan:
        """Carry out the edit."""
        if any(p.id == self.id for p in plan.places):
            users = [p.name for p in (*plan.parts, *plan.plugs) if p.place == self.id]
            users += [r.id for r in plan.runs if self.id in (r.a, r.b)]
            if users:
                raise refuse(self.id, "id", f"{name_of(plan, self.id)} is still used by {', '.join(users[:4])}: move or "
                                            "take those out first.")
        for pin in plan.pins(self.id):
            plan = RemoveElement(id=pin.id).run(plan)
        for field in ("places", "runs", "plugs", "readings", "tables", "removed"):
            elements = getattr(plan, field)
            if any(e.id == self.id for e in elements):
                return _without_readings(plan.model_copy(update={field: tuple(e for e in elements if e.id != self.id)}), self.id)
        part = existing(plan, self.id)
        if isinstance(part, FusePart | Switch) and part.made_for:
            return bridge(plan, part)
        users = [p.name for p in plan.loads if p.feed == self.id]
        if users:
            raise refuse(self.id, "id", f"{part.name} still feeds {', '.join(users[:4])}: give those another feed or "
                                        "take them out first.")
        made = {p.id for p in plan.parts if p.made_for == self.id} | {self.id}
        wired = sorted({w.made_for or w.id for w in plan.wires
                        if w.made_for != self.id and {w.a.split(".")[0], w.b.split(".")[0]} & made})
        if wired:
            names = ", ".join(name_of(plan, w) for w in wired[:4])
            raise refuse(self.id, "id", f"{part.name} is still wired to {names}: take those out first.")
        return _without_readings(take_out(plan, self.id), self.id)

    def label(self, plan: Plan) -> str:
        """What the revision list says."""
        return f"{name_of(plan, self.id)} taken out"


class AddWire(EditBase):
    """Lay a wire between two terminals by hand."""

    kind: Literal["add_wire"] = "add_wire"
    a: str
    b: str
    values: dict[str, Any] = {}

    def run(self, plan: Plan) -> Plan:
        """Carry out the edit."""
        work = Workpiece.of(plan)
        values = {"colour": "BK", **self.values, "a": self.a, "b": self.b}
        new = checked(Wire, "", {**_free("", values), "id": work.new_id("wire")})
        return plan.model_copy(update={"wires": (*plan.wires, new), "counters": work.counters})

    def label(self, plan: Plan) -> str:
        """What the revision list says."""
        return f"wire from {self.a} to {self.b}"


class RemoveWire(EditBase):
    """Take out one wire."""

    kind: Literal["remove_wire"] = "remove_wire"
    id: str

    def run(self, plan: Plan) -> Plan:
        """Carry out the edit."""
        if not any(w.id == self.id for w in plan.wires):
            raise refuse(self.id, "id", f"There is no wire {self.id} in this plan.")
        return plan.model_copy(update={"wires": tuple(w for w in plan.wires if w.id != self.id)})

    def label(self, plan: Plan) -> str:
        """What the revision list says."""
        return f"{self.id} taken out"


class MoveEnd(EditBase):
    """Move one end of a wire to another terminal."""

    kind: Literal["move_end"] = "move_end"
    id: str
    end: Literal["a", "b"]
    to: str

    def run(self, plan: Plan) -> Plan:
        """Carry out the edit."""
        if not any(w.id == self.id for w in plan.wires):
            raise refuse(self.id, "id", f"There is no wire {self.id} in this plan.")
        return plan.model_copy(update={"wires": tuple(
            checked(Wire, w.id, {**w.model_dump(), self.end: self.to}) if w.id == self.id else w for w in plan.wires)})

    def label(self, plan: Plan) -> str:
        """What the revision list says."""
        return f"{self.id} moved to {self.to}"


class MakeBusBar(EditBase):
    """Put a bus bar beside a battery post and move every wire but one over to it."""

    kind: Literal["make_bus_bar"] = "make_bus_bar"
    post: str
    keep: str

    def run(self, plan: Plan) -> Plan:
        """Carry out the edit."""
        existing(plan, self.post.split(".")[0])
        return make_bus_bar(plan, self.post, self.keep)

    def label(self, plan: Plan) -> str:
        """What the revision list says."""
        return f"bus bar made at {self.post}"


class Several(EditBase):
    """Some edits as one step: all of them, or none. `words` say what they amount to."""

    kind: Literal["several"] = "several"
    edits: Annotated[tuple["Edit", ...], Field(max_length=MOST_EDITS)]
    words: Annotated[str, Field(max_length=120)] = ""

    def run(self, plan: Plan) -> Plan:
        """Each edit on the plan that the one before it made."""
        for edit in self.edits:
            plan = edit.run(plan)
        return plan

    def label(self, plan: Plan) -> str:
        """What the revision list says."""
        return self.words or "; ".join(edit.label(plan) for edit in self.edits[:3])


class SetWire(EditBase):
    """Fix or free a wire's size, length, insulation or colour; null leaves it to Loadstar."""

    kind: Literal["set_wire"] = "set_wire"
    id: str
    values: dict[str, Any]

    def run(self, plan: Plan) -> Plan:
        """Carry out the edit."""
        allowed = {"area_mm2", "length_m", "insulation", "wall", "colour", "stripe"}
        if not set(self.values) <= allowed:
            raise refuse(self.id, "values", f"Only {', '.join(sorted(allowed))} of a wire can be set.")
        try:
            old = plan.wire(self.id)
        except KeyError:
            raise refuse(self.id, "id", f"There is no wire {self.id} in this plan.") from None
        new = checked(Wire, old.id, {**old.model_dump(), **self.values})
        return plan.model_copy(update={"wires": tuple(new if w.id == old.id else w for w in plan.wires)})

    def label(self, plan: Plan) -> str:
        """What the revision list says."""
        area = self.values.get("area_mm2", "")
        if area == "":
            return f"{self.id} changed"
        return f"{self.id} left to Loadstar" if area is None else f"{self.id} fixed at {area:g} mm²"


_RECIPES: dict[str, Any] = {"load": make_load, "block": make_block, "module": make_block, "converter": make_converter,
                            "combiner": make_combiner, "starter": make_starter, "junction": make_bar}
Edit = Annotated[
    Rename | SetMachine | SetRules | AddElement | ChangeElement | CopyLoad | RemoveElement | SetWire | AddWire | RemoveWire
    | MoveEnd | MakeBusBar | Several | BodyPlaces | Confirm | MovePlace | PutPins | PutPlug | SetScale | TakeReadings | TakeSurvey,
    Field(discriminator="kind"),
]
Several.model_rebuild()
_EDITS: TypeAdapter[Edit] = TypeAdapter(Edit)


def parse_edit(data: object) -> Edit:
    """An edit from plain data; PlanError when it is none."""
    try:
        return _EDITS.validate_python(data)
    except ValidationError as error:
        raise PlanError(*validation_faults(error, "")) from error


def parse_posted(data: object) -> Edit:
    """An edit that anybody may send as data. Readings are none: who took them and when is for the session to say."""
    edit = parse_edit(data)
    each = list(_each(edit, MOST_DEEP))
    if len(each) > MOST_EDITS:
        raise refuse("", "edits", f"These are {len(each):,} changes in one step; {MOST_EDITS:,} are the most.")
    if any(isinstance(one, TakeReadings) for one in each):
        raise refuse("", "kind", "Readings are entered where they are asked for, so that the record knows who took them and when.")
    return edit


def _each(edit: Edit, deep: int) -> Iterator[Edit]:
    """An edit, and all that it is made of."""
    yield edit
    if not isinstance(edit, Several):
        return
    if not deep:
        raise refuse("", "edits", f"Changes may stand in one another at most {MOST_DEEP} deep.")
    for one in edit.edits:
        yield from _each(one, deep - 1)


def _free(element: str, values: dict[str, Any]) -> dict[str, Any]:
    """The values given, which say nothing of what the element is and belongs to."""
    if taken := sorted(_IDENTITY & values.keys()):
        raise refuse(element, taken[0], f"{words_for(taken[0]).capitalize()} cannot be set: Loadstar gives it.")
    return values


def apply(plan: Plan, edit: Edit) -> Plan:
    """The plan after an edit. Raises PlanError with the faults, by element and field; the plan given is unchanged."""
    changed = edit.run(plan)
    found = faults(changed)
    if found:
        raise PlanError(*found)
    return changed


def _rebuilt(plan: Plan, values: dict[str, Any]) -> Plan:
    try:
        return Plan.model_validate({**{f: getattr(plan, f) for f in Plan.model_fields}, **values})
    except ValidationError as error:
        raise PlanError(*validation_faults(error, "")) from error


def _without_readings(plan: Plan, element: str) -> Plan:
    return plan.model_copy(update={"readings": tuple(r for r in plan.readings if r.element != element)})


def _check_feed(plan: Plan, load: LoadPart) -> None:
    if load.feed not in {p.id for p in plan.parts}:
        raise refuse(load.id, "feed", f"There is no feed {load.feed} in this plan.")
    if load.place not in {p.id for p in plan.places}:
        raise refuse(load.id, "place", f"There is no place {load.place} in this plan.")


def _moved(plan: Plan, changed: Plan, old: AnyPart, new: AnyPart) -> Plan:
    """What belongs to a part that has moved goes with it."""
    if old.place == new.place:
        return changed
    along = {p.id for p in plan.parts if p.place == old.place and p.id != old.id and _moves_along(plan, old, p)}
    return changed.model_copy(update={"parts": tuple(
        p.model_copy(update={"place": new.place}) if p.id in along else p for p in changed.parts)})


def _moves_along(plan: Plan, owner: AnyPart, part: AnyPart) -> bool:
    """Whether a part at the same place belongs to the one that moves: a load's joint, switch, and what else of its circuit does not
    sit at its feed; a feed's fuses, ways and relays, its loads' that sit with it included."""
    if isinstance(owner, LoadPart):
        return part.made_for == owner.id and (part.kind in ("frame", "switch") or part.place != plan.part(owner.feed).place)
    if part.kind not in ("fuse", "relay", "way"):
        return False
    fed = {p.id for p in plan.loads if p.feed == owner.id}
    plugged = {j.b.split(".")[0] for j in plan.joins if j.a.split(".")[0] == owner.id}
    wired = any(w.a == f"{owner.id}.pos" and w.b.split(".")[0] == part.id for w in plan.wires)
    at_source = part.kind == "fuse" and part.made_for == owner.id and owner.kind in ("block", "module", "converter", "junction")
    return part.id in plugged or wired or part.made_for in fed or (part.made_for == owner.id and not at_source)


def _renamed_made(plan: Plan, owner: str, old: str, new: str) -> Plan:
    return plan.model_copy(update={"parts": tuple(
        p.model_copy(update={"name": new + p.name[len(old):]}) if p.made_for == owner and p.name.startswith(old) else p
        for p in plan.parts)})
