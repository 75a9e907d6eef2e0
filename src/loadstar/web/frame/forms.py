"""Which form a page shows, and which edit a form that was sent stands for."""

from collections.abc import Iterable
from typing import Any

from django import forms

from loadstar.core.begin import wanted_values
from loadstar.core.doc.types import Doc
from loadstar.core.doc.wires import Wire
from loadstar.core.edits import AddElement, AddWire, ChangeElement, Edit, SetMachine, SetRules, SetWire
from loadstar.core.materials.accessories import ACCESSORIES, Usual
from loadstar.core.materials.conductors import AREAS_MM2
from loadstar.core.materials.typical import SIZES
from loadstar.core.parts.asks import Ask
from loadstar.core.parts.base import Part
from loadstar.core.parts.dimensions import Dimensions
from loadstar.core.parts.load import LoadPart, in_words
from loadstar.core.parts.registry import KINDS
from loadstar.core.parts.selector import Selector
from loadstar.core.parts.tap import Tap
from loadstar.core.plan.bodies import BODY_KINDS
from loadstar.core.plan.model import Plan

from .asks import MACHINE_PACK, MODELS, RULES, WIRE, WIRE_ENDS
from .asks import SIZES as SIZES_ASKED
from .fields import Asked, ModelForm
from .opened import OpenForm
from .units import Units

TITLES = {"machine": "Machine", "place": "Place", "run": "Run", "wire": "Wire", "removed": "Part taken off",
          "rules": "House rules of this plan",
          **{name: kind.TITLE for name, kind in KINDS.items()}}
FEED_WORDS = {name: kind.FEED_WORDS for name, kind in KINDS.items() if kind.FEED_WORDS}
OTHER = "other"  # an accessory that is not in the list


def kind_of(plan: Plan, element: str) -> str:
    """The form kind of an element id; empty when the plan has no such element."""
    if element in ("machine", "rules"):
        return element
    for kind, elements in (("place", plan.places), ("run", plan.runs), ("wire", plan.wires), ("removed", plan.removed)):
        if any(e.id == element for e in elements):
            return kind
    return next((p.kind for p in plan.parts if p.id == element), "")


def open_form(plan: Plan, units: Units, *, add: str = "", element: str = "", usual: str = "",
              data: Any = None) -> OpenForm | None:
    """The form for adding a kind or changing an element; bound when `data` was sent. A new accessory begins as the
    list has it (`usual`); while none has been picked there is no form yet."""
    if add == "wire":
        return _make(plan, units, "wire", "", {}, data)
    if add == "load" and not usual and data is None:
        return None
    if add == "load" and usual in ACCESSORIES:
        return _make(plan, units, add, "", _usual(plan, ACCESSORIES[usual]), data)
    if add in MODELS and add not in ("machine", "rules") and (add not in KINDS or KINDS[add].ADDED):
        return _make(plan, units, add, "", _start(plan, add), data)
    kind = kind_of(plan, element)
    if not kind:
        return None
    return _make(plan, units, kind, "" if kind in ("machine", "rules") else element, _stored(plan, kind, element), data)


ALIKE = {"series", "chemistry"}  # what a second pack has to have as the first has it


def _start(plan: Plan, kind: str) -> dict[str, Any]:
    """What a new element's form begins with, where the machine says more than the model's defaults."""
    if kind not in KINDS:
        return {}
    if kind != "load":  # what there is one of is called what it is, until somebody calls it otherwise
        named = {"name": KINDS[kind].TITLE.lower()} if KINDS[kind].MOST == 1 else {}
        alike = plan.packs[0].model_dump(include=ALIKE) if kind == "pack" and plan.packs else {}
        return {**named, **KINDS[kind].BEGINS, **alike}
    if plan.machine.system == "magneto":
        volts = plan.machine.system_v
        return {"category": "lamp", "behaviour": "filament", "at_v": volts, "window_low_v": 0,
                "window_high_v": round(1.5 * volts, 2),
                "live": "engine", "returns": "frame"}
    return {"at_v": 12, "window_low_v": 9,
            "returns": plan.rules.returns} if plan.packs else {"returns": plan.rules.returns}


def _usual(plan: Plan, usual: Usual) -> dict[str, Any]:
    """What the form of an accessory from the list begins with: where such a thing goes, and from where it is fed."""
    goes = BODY_KINDS[plan.machine.kind].goes
    place = next((p.id for p in plan.places if p.name == goes.get(usual.where)), plan.places[0].id if plan.places
                 else "")
    feeds = feeds_of(plan)
    return wanted_values(plan, usual, place=place, feed=feeds[0].id if feeds else "")


def _stored(plan: Plan, kind: str, element: str) -> dict[str, Any]:
    if kind == "machine":
        return plan.machine.model_dump()
    if kind == "rules":
        return plan.rules.model_dump()
    if kind == "wire":
        return {k: "" if v is None else v for k, v in plan.wire(element).model_dump().items()}
    pool: tuple[Any, ...] = {"place": plan.places, "run": plan.runs, "removed": plan.removed}.get(kind, plan.parts)
    stored = next(e for e in pool if e.id == element).model_dump()
    return {k: "" if v is None else v for k, v in {**stored, **(stored.get("dimensions") or {})}.items()}


def _make(plan: Plan, units: Units, kind: str, element: str, stored: dict[str, Any], data: Any) -> OpenForm:
    model: type[Doc]
    specs: tuple[Ask, ...]
    if kind == "wire":
        model, specs = Wire, WIRE if element else WIRE_ENDS + WIRE
    elif kind == "machine" and plan.machine.system == "pack":
        model, specs = MODELS[kind][0], MACHINE_PACK
    else:
        model, specs = MODELS[kind]
    if kind in KINDS and KINDS[kind].ADDED:
        specs = (*specs, *SIZES_ASKED)
    form = ModelForm(data, Asked(model, specs, units, _choices(plan, units, kind, element)), stored)
    if kind == "rules":
        _ask_reasons(form, plan)
    name = stored.get("name") or element
    title = f"{TITLES[kind]}: {name}" if element and name else TITLES[kind] if kind in ("machine", "rules") else (
        f"New: {TITLES[kind].lower()}")
    usual = stored.get("usual", "") if kind == "load" else ""
    known = stored.get("marks") or dict.fromkeys(ACCESSORIES[usual].figures() if usual and not element else (),
                                                 "typical")
    told = ""
    if kind == "load" and "amount" in stored:
        told = in_words({**{n: f.default for n, f in LoadPart.model_fields.items()}, **stored})
    return OpenForm(kind, element, title, form, bool(element) and kind not in ("wire", "way"),
                    stored.get("standing") == "believed", known, usual, told)


def _ask_reasons(form: ModelForm, plan: Plan) -> None:
    """Beside every house rule: why this plan departs from the workshop's."""
    for spec in RULES:
        field = forms.CharField(required=False, max_length=400, label="Because")
        field.widget.attrs["id"] = f"id_why_{spec.name}"
        form.fields[f"why_{spec.name}"] = field
        form.initial[f"why_{spec.name}"] = plan.rules.reasons.get(spec.name, "")


def _choices(plan: Plan, units: Units, kind: str, element: str) -> dict[str, Any]:
    places = [("", "choose a place"), *((p.id, f"{p.name} ({p.id})") for p in plan.places)]
    none = {"load": "choose a feed", "block": "the battery"}.get(kind, "wired by you")
    feeds = [("", none), *((p.id, f"{p.name} ({p.id}), {FEED_WORDS[p.kind]}") for p in feeds_of(plan)
                           if p.id != element)]

    def others(pool: Iterable[Part], words: str) -> list[tuple[str, str]]:
        return [("", words), *((p.id, f"{p.name} ({p.id})") for p in pool if p.id != element)]

    found: dict[str, Any] = {
        "place": places, "feed": feeds, "beside": others(plan.of(Selector), "none"),
        "return_to": others([p for p in plan.parts if p.RETURN_END], "where its feed's returns go"),
        "never_with": others(plan.loads, "none")[1:]}
    found["lead_mm2"] = [("", "not said"), *((f"{a:g}", units.area_text(a)) for a in AREAS_MM2)]
    sizes = [("", "left to Loadstar"), *((f"{a:g}", units.area_text(a)) for a in AREAS_MM2)]
    if kind == "generator":
        found["winding_at"] = [("", "not looked at"), *places[1:]]
        found["winding_mm2"] = sizes
    if kind == "machine":
        found["size"] = [("", "not said"), *((size.key, size.words) for size in SIZES[plan.machine.kind])]
    if kind == "run":
        found |= {"a": places, "b": places}
    if kind == "removed":
        found["place"] = [("", "not noted"), *places[1:]]
    if kind == "wire":
        ends = [("", "choose a terminal"),
                *((p.at(t), f"{p.at(t)}, {p.name}") for p in plan.parts for t in p.ends)]
        found |= {"a": ends, "b": ends}
        found["area_mm2"] = sizes
    return found


def feeds_of(plan: Plan) -> list[Part]:
    """What may feed an accessory, the workshop's first choice first."""
    school = {"relay": "battery", "plug": "tap"}.get(plan.rules.feeds, plan.rules.feeds)
    return [p for kind in sorted(FEED_WORDS, key=lambda k: k != school) for p in _offered(plan, kind)]


def _offered(plan: Plan, kind: str) -> list[Part]:
    """What may feed, of a kind: a wire of a system that is never tapped only where something hangs on it all the
    same."""
    used = {load.feed for load in plan.loads}
    return [p for p in plan.of_kind(kind) if p.can_feed
            and (p.id in used or not (tap := plan.is_one(p.id, Tap)) or not plan.never(tap))]


def edit_of(opened: OpenForm) -> Edit:
    """The edit that a valid form stands for."""
    values = opened.form.values()
    if opened.sizes:
        said = {name: values.pop(name) for name in Dimensions.model_fields if name in values}
        values["dimensions"] = said if any(said.values()) else None
    if opened.kind == "load" and not opened.id and values.get("minutes_per_hour") is None:
        values.pop("minutes_per_hour", None)  # as is usual for when it lives
    if opened.kind == "machine":
        return SetMachine(values=values)
    if opened.kind == "rules":
        reasons = {k.removeprefix("why_"): v for k, v in values.items() if k.startswith("why_") and v}
        return SetRules(values={**{k: v for k, v in values.items() if not k.startswith("why_")}, "reasons": reasons})
    if opened.kind == "wire" and not opened.id:
        return AddWire(a=values.pop("a"), b=values.pop("b"), values=values)
    if opened.kind == "wire":
        return SetWire(id=opened.id, values=values)
    if opened.id:
        return ChangeElement(id=opened.id, values=values)
    if opened.usual:
        values["usual"] = opened.usual
    return AddElement.model_validate({"what": opened.kind, "values": values})
