"""Edits of places, runs and parts: added with all that they need, changed, copied, taken out."""

from typing import Annotated, Any, Literal

from pydantic import AfterValidator

from ..doc.places import Place, Run
from ..doc.states import OCCASIONS
from ..doc.survey import Continuity, Removed
from ..doc.types import Doc, Marked, Marks
from ..errors import Fault, PlanError, refuse
from ..materials.accessories import ACCESSORIES
from ..parts.base import Part
from ..parts.can import as_accessory, as_found_wire, as_mated
from ..parts.registry import KINDS
from ..plan.integrity import fed_wrong, hangs_wrong, returns_wrong
from ..plan.model import Plan
from .base import EditBase, checked, checked_part, existing, free, name_of, restated
from .couplings import taken_out
from .plugs import check_hangers
from .recipes import bridge, make, take_out
from .remake import dropped, rehung, remade
from .ways import forgotten
from .workpiece import Workpiece

# What stands in lists of its own beside the parts: the list, and what its elements are.
_LISTED: dict[str, tuple[str, type[Doc]]] = {
    "place": ("places", Place), "run": ("runs", Run), "table": ("tables", Continuity), "removed": ("removed", Removed)}


def _known(what: str) -> str:
    if what not in KINDS and what not in _LISTED:
        raise ValueError(f"must be one of {', '.join((*_LISTED, *KINDS))}")
    return what


class AddElement(EditBase):
    """Add a place, a run or a part of any kind. Loads, blocks and the like come with all that their circuits need,
    unless they are to stand `alone`, to be wired by hand. `marks` says which figures nobody stated; of a load from the
    list of usual accessories, those that are as the list has them are typical."""

    kind: Literal["add"] = "add"
    what: Annotated[str, AfterValidator(_known)]
    values: dict[str, Any]
    marks: Marks = {}
    alone: bool = False

    def run(self, plan: Plan) -> Plan:
        work = Workpiece.of(plan)
        values = {**self._usual_minutes(), **free("", self.values), "id": work.new_id(self.what)}
        if marks := {**self._as_listed(), **self.marks}:
            values["marks"] = marks
        plan = plan.model_copy(update={"counters": work.counters})
        if self.what in _LISTED:
            field, model = _LISTED[self.what]
            new = checked(model, values["id"], values)
            return plan.model_copy(update={field: (*getattr(plan, field), new)})
        part = checked_part(values["id"], {**values, "kind": self.what})
        _check_feed(plan, part)
        return plan.model_copy(update={"parts": (*plan.parts, part)}) if self.alone else make(plan, part)

    def _usual_minutes(self) -> dict[str, Any]:
        """How long an accessory is on in the hour, where nobody says and an occasion does."""
        occasion = OCCASIONS.get(str(self.values.get("live", "key"))) if self.what == "load" else None  # type: ignore[call-overload]
        return {"minutes_per_hour": occasion.minutes} if occasion else {}

    def _as_listed(self) -> Marks:
        usual = ACCESSORIES.get(str(self.values.get("usual", "")))
        if usual is None or self.what != "load":
            return {}
        return {field: "typical" for field, figure in usual.figures().items()
                if field not in self.values or self.values[field] == figure}

    def label(self, plan: Plan) -> str:
        return f"{self.values.get('name') or 'run'} added"


class ChangeElement(EditBase):
    """Change fields of a place, run or part. A load whose feed, place or life changes gets its circuit made anew."""

    kind: Literal["change"] = "change"
    id: str
    values: dict[str, Any]
    marks: Marks = {}

    def run(self, plan: Plan) -> Plan:
        values = free(self.id, self.values)
        for field, model in _LISTED.values():
            elements = getattr(plan, field)
            if any(e.id == self.id for e in elements):
                changed = plan.model_copy(update={field: tuple(
                    checked(model, e.id, {**e.model_dump(), **values, **self._marks(e)}) if e.id == self.id else e
                    for e in elements)})
                return forgotten(changed, self.id) if model is Run and values.get("used") is False else changed
        old = existing(plan, self.id)
        new = checked_part(old.id, {**old.model_dump(), **values, **self._marks(old)})
        changed = plan.model_copy(update={"parts": tuple(new if p.id == old.id else p for p in plan.parts)})
        if (accessory := as_accessory(new)) and old.hangs_by != new.hangs_by:
            _check_feed(changed, new)
            return _moved(plan, remade(plan, accessory), old, new)
        if old.hangs_by != new.hangs_by:
            _check_feed(changed, new)
            return _moved(plan, rehung(plan, new), old, new)
        if (was := as_found_wire(old)) and (now := as_found_wire(new)):
            check_hangers(plan, was, now)
        changed = _moved(plan, changed, old, new)
        if old.name != new.name:
            changed = _renamed_made(changed, old.id, old.name, new.name)
        return changed

    def _marks(self, old: Doc) -> dict[str, Marks]:
        return {"marks": restated(old, self.values, self.marks)} if isinstance(old, Marked) else {}

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
        load = as_accessory(existing(plan, self.id))
        if load is None:
            raise refuse(self.id, "id", f"{self.id} is no accessory: only accessories can be copied.")
        taken = {p.name for p in plan.loads}
        number = next(n for n in range(2, 1000) if f"{load.name} {n}" not in taken)
        values = {**load.model_dump(exclude={"id", "kind", "made_for", "marks"}), "name": f"{load.name} {number}"}
        # of a second one like it nothing has been measured yet
        marks = {field: "believed" if standing == "found" else standing for field, standing in load.marks.items()}
        return AddElement(what="load", values=values, marks=marks).run(plan)

    def label(self, plan: Plan) -> str:
        return f"{name_of(plan, self.id)} copied"


class RemoveElement(EditBase):
    """Take out a place, run or part with everything made for it."""

    kind: Literal["remove"] = "remove"
    id: str

    def run(self, plan: Plan) -> Plan:
        if any(p.id == self.id for p in plan.places):
            users = [*(p.name for p in plan.parts if p.place == self.id),
                     *(p.name for p in plan.plugs if p.place == self.id)]
            users += [r.id for r in plan.runs if self.id in (r.a, r.b)]
            if users:
                raise refuse(self.id, "id",
                             f"{name_of(plan, self.id)} is still used by {', '.join(users[:4])}: move or "
                                            "take those out first.")
        for pin in plan.pins(self.id):
            plan = RemoveElement(id=pin.id).run(plan)
        for field in ("places", "runs", "plugs", "readings", "tables", "removed"):
            elements = getattr(plan, field)
            if any(e.id == self.id for e in elements):
                left = plan.model_copy(update={field: tuple(e for e in elements if e.id != self.id)})
                return _without_readings(forgotten(left, self.id), self.id)
        part = existing(plan, self.id)
        if part.BRIDGED and part.made_for:
            return bridge(plan, part)
        if mated := as_mated(part):
            return taken_out(plan, mated)
        users = [p.name for p in plan.parts if getattr(p, "feed", None) == self.id]
        if users:
            raise refuse(self.id, "id", f"{part.name} still feeds {', '.join(users[:4])}: give those another feed or "
                                        "take them out first.")
        made = {p.id for p in plan.parts if p.made_for == self.id} | {self.id}
        wired = sorted({w.made_for or w.id for w in plan.wires
                        if w.made_for != self.id and {w.a.part, w.b.part} & made})
        if wired:
            names = ", ".join(name_of(plan, w) for w in wired[:4])
            raise refuse(self.id, "id", f"{part.name} is still wired to {names}: take those out first.")
        return _without_readings(take_out(plan, self.id), self.id)

    def label(self, plan: Plan) -> str:
        return f"{name_of(plan, self.id)} taken out"


def _without_readings(plan: Plan, element: str) -> Plan:
    return plan.model_copy(update={"readings": tuple(r for r in plan.readings if r.element != element)})


def _check_feed(plan: Plan, part: Part) -> None:
    """What a circuit is made from has to be there before it is made."""
    if (accessory := as_accessory(part)) and (wrong := fed_wrong(plan, part, accessory.feed)):
        raise PlanError(*wrong)
    if part.place not in plan.place_by_id:
        raise refuse(part.id, "place", f"There is no place {part.place} in this plan.")
    wrong = [*hangs_wrong(plan, part), *returns_wrong(plan, part),
             *(Fault(part.id, field, sentence) for field, sentence in part.contradictions())]
    if wrong:
        raise PlanError(*wrong)


def _moved(plan: Plan, changed: Plan, old: Part, new: Part) -> Plan:
    """What belongs to a part that has moved goes with it."""
    if old.place == new.place:
        return changed
    along = {p.id for p in plan.parts if p.place == old.place and p.id != old.id and _moves_along(plan, old, p)}
    return changed.model_copy(update={"parts": tuple(
        p.model_copy(update={"place": new.place}) if p.id in along else p for p in changed.parts)})


def _moves_along(plan: Plan, owner: Part, part: Part) -> bool:
    """Whether a part at the same place belongs to the one that moves: a load's joint, switch, and what else of its
    circuit does not sit at its feed; a feed's fuses, ways and relays, its loads' that sit with it included."""
    if accessory := as_accessory(owner):
        return part.made_for == owner.id and (part.SITS == "load" or part.place != plan.part(accessory.feed).place)
    if part.SITS != "feed":
        return False
    fed = {p.id for p in plan.loads if p.feed == owner.id}
    plugged = {j.b.part for j in plan.joins if j.a.part == owner.id}
    wired = any(w.a == owner.at("pos") and w.b.part == part.id for w in plan.wires)
    at_source = part.made_for == owner.id and part.protection is not None  # its main fuse sits where its lead begins
    return part.id in plugged or wired or part.made_for in fed or (part.made_for == owner.id and not at_source)


def _renamed_made(plan: Plan, owner: str, old: str, new: str) -> Plan:
    return plan.model_copy(update={"parts": tuple(
        p.model_copy(update={"name": new + p.name[len(old):]}) if p.made_for == owner and p.name.startswith(old) else p
        for p in plan.parts)})
