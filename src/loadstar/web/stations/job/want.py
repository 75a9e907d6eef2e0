"""Whole circuits from what is wanted: the form of one, and what becomes of it."""

import math
from dataclasses import dataclass
from typing import Any

from loadstar.core.errors import PlanError
from loadstar.core.intents import INTENTS, Intent, asked_for, carried_out
from loadstar.core.intents.base import suits
from loadstar.core.parts.base import Part
from loadstar.core.plan.bodies import BODY_KINDS
from loadstar.core.plan.model import Plan

from ...frame.fields import Asked, ModelForm
from ...frame.forms import FEED_WORDS, feeds_of
from ...frame.frame import Frame
from ...frame.station import Again
from ...records import store

EMPTY = {"relays_from": "the switch carries the lamp itself", "relay_from": "the switches carry the fan"}


@dataclass(frozen=True)
class Want:
    """A form of something wanted."""

    kind: type[Intent]
    form: ModelForm
    lacks: str = ""  # what has to be on the plan first

    @property
    def key(self) -> str:
        """Its key."""
        return self.kind.KEY

    @property
    def title(self) -> str:
        """What it is."""
        return self.kind.TITLE

    @property
    def says(self) -> str:
        """What comes of it."""
        return self.kind.SAYS


def want_form(frame: Frame, key: str, data: Any = None) -> Want | None:
    """The form of an intent; None where there is no such intent for this machine."""
    kind, plan = INTENTS.get(key), frame.plan
    if kind is None or plan.machine.system not in kind.FITS:
        return None
    choices: dict[str, list[tuple[str, str]]] = {}
    initial = kind.usual(plan)
    for ask in kind.ASKS:
        if ask.name in kind.OF_THE_PLAN:
            choices[ask.name] = kind.choices(plan, ask.name)
        elif ask.kind != "choice" or ask.choices:
            continue
        elif ask.name.endswith("_at"):
            choices[ask.name] = [(p.id, f"{p.name} ({p.id})") for p in plan.places]
            initial[ask.name] = _place_for(plan, kind.PLACES.get(ask.name, ""))
        else:
            found = _feeds_for(plan, key, ask.name)
            none = [("", EMPTY[ask.name])] if ask.optional else []
            choices[ask.name] = [*none, *((p.id, f"{p.name} ({p.id}), {FEED_WORDS[p.kind]}") for p in found)]
            if found and not ask.optional:
                initial[ask.name] = found[0].id
    return Want(kind, ModelForm(data, Asked(kind, kind.ASKS, frame.units, choices), initial), kind.lacks(plan))


def _place_for(plan: Plan, use: str) -> str:
    """The place of this machine where something of a use goes: of that name, or the nearest to where its body has
    it."""
    body = BODY_KINDS[plan.machine.kind]
    name = body.goes.get(use)
    usual = next((p for p in body.places if p.name == name), None)
    if usual is None or not plan.places:
        return plan.places[0].id if plan.places else ""
    return min(plan.places, key=lambda p: (p.name != name, math.dist((p.x_mm, p.y_mm), (usual.x_mm, usual.y_mm)))).id


def _feeds_for(plan: Plan, key: str, ask: str) -> list[Part]:
    """What may feed it, what suits it best first."""
    order = suits(key, ask)
    found = [p for p in feeds_of(plan) if ask != "plug" or p.kind == "tap"]
    return sorted(found, key=lambda p: order.index(p.kind) if p.kind in order else len(order))


def want(frame: Frame) -> str:
    """Make what is wanted, in one step; a form that will not do comes back."""
    asked = want_form(frame, frame.request.POST.get("want", ""), frame.request.POST)
    if asked is None:
        frame.notice = "Nothing of that kind can be made on this machine."
        raise Again(422)
    if not asked.form.is_valid():
        raise Again(422, wanted=asked)
    before = {one.id for one in (*frame.plan.parts, *frame.plan.wires)}
    try:
        edit = carried_out(frame.plan, asked_for(asked.kind, asked.form.values()))
        made = store.edit(frame.row, frame.membership.person, frame.made_on, edit).plan
    except PlanError as error:
        asked.form.place_faults(error.faults)
        raise Again(422, wanted=asked) from error
    except store.Conflict as conflict:
        frame.conflict, frame.loaded = conflict, store.load(frame.row)
        raise Again(409, wanted=asked) from conflict
    new = next((one.id for one in (*made.loads, *made.wires, *made.parts) if one.id not in before), "")
    station, view = asked.kind.LEADS_TO
    return frame.link(station, sel=new, want="", **({"view": view} if view else {}))
