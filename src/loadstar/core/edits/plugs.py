"""Edits of connectors with their pins: one written down whole, or pins of several at once."""

from typing import Any, Literal

from pydantic import Field

from ..doc.survey import Plug
from ..doc.types import Marks
from ..errors import refuse
from ..parts.can import as_found_wire
from ..parts.tap import Tap
from ..plan.model import Plan
from .base import EditBase, checked, checked_part, name_of, restated
from .workpiece import Workpiece

MOST_WAYS = 60


class PutPlug(EditBase):
    """Write down a connector with its pins at once, or change one. Pins whose number is not named stay as they are."""

    kind: Literal["put_plug"] = "put_plug"
    id: str = ""
    values: dict[str, Any]
    pins: tuple[dict[str, Any], ...] = Field(default=(), max_length=MOST_WAYS)

    def run(self, plan: Plan) -> Plan:
        work = Workpiece.of(plan)
        plug = self._plug(plan, work)
        plugs = tuple(plug if p.id == plug.id else p for p in plan.plugs) if self.id else (*plan.plugs, plug)
        there = {p.way: p for p in plan.pins(plug.id)}
        parts: dict[str, Any] = {p.id: p for p in plan.parts}
        for pin in there.values():  # whatever else happens, pins sit where their connector does
            parts[pin.id] = pin.model_copy(update={"place": plug.place, "name": f"{plug.name} pin {pin.way}"})
        for values in self.pins:
            way = _way(values)
            before, name = there.get(way), f"{plug.name} pin {way}"
            base = parts[before.id].model_dump() if before else {
                "id": work.new_id("tap"), "plug": plug.id, "place": plug.place, "function": "unknown", "fused_a": None}
            values = {**values, "marks": _pin_marks(before, values)}
            made = checked_part(name, {**base, "name": name, **values, "kind": "tap"})
            if before and (found := as_found_wire(made)):
                check_hangers(plan, before, found)
            parts[made.id] = made
        return plan.model_copy(update={"plugs": plugs, "parts": tuple(parts.values()), "counters": work.counters})

    def _plug(self, plan: Plan, work: Workpiece) -> Plug:
        if not self.id:
            return checked(Plug, "", {**self.values, "id": work.new_id("plug")})
        try:
            old = plan.plug(self.id)
        except KeyError:
            raise refuse(self.id, "id", f"There is no connector {self.id} in this plan (any more).") from None
        return checked(Plug, old.id, {**old.model_dump(), **self.values})

    def label(self, plan: Plan) -> str:
        name = self.values.get("name") or name_of(plan, self.id)
        return f"{name} {'changed' if self.id else 'written down'}"


class PutPins(EditBase):
    """Write down pins of several connectors at once, by connector id; a connector grows where a pin lies beyond its
    ways."""

    kind: Literal["put_pins"] = "put_pins"
    pins: dict[str, tuple[dict[str, Any], ...]] = Field(min_length=1, max_length=400)

    def run(self, plan: Plan) -> Plan:
        for plug_id, pins in self.pins.items():
            try:
                ways = plan.plug(plug_id).ways
            except KeyError:
                raise refuse(plug_id, "id", f"There is no connector {plug_id} in this plan (any more).") from None
            most = max((_way(p) for p in pins), default=0)
            plan = PutPlug(id=plug_id, values={"ways": max(ways, most)}, pins=pins).run(plan)
        return plan

    def label(self, plan: Plan) -> str:
        return f"pins of connectors written down: {sum(len(p) for p in self.pins.values())}"


def check_hangers(plan: Plan, old: Tap, new: Tap) -> None:
    """Refuse to change when a pin or found wire is live under accessories that hang on it as it was."""
    users = [load.name for load in plan.loads if load.feed == old.id]
    if users and (old.live, old.function) != (new.live, new.function):
        raise refuse(old.id, "live",
            f"{old.name} feeds {', '.join(users[:4])} as it was: give those another feed first, or let them live "
                                     "as it does.")


def _pin_marks(before: Tap | None, values: dict[str, Any]) -> Marks:
    """What a pin may give was stated by somebody, or is only what such a pin usually may."""
    if before is not None:
        return restated(before, values, {})
    return {} if "rated_a" in values else {"rated_a": "typical"}


def _way(pin: dict[str, Any]) -> int:
    way = pin.get("way")
    if not isinstance(way, int) or isinstance(way, bool) or not 1 <= way <= MOST_WAYS:
        raise refuse("", "way", f"A pin's number is a whole number from 1 to {MOST_WAYS}.")
    return way
