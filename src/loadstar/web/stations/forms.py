"""Which form a page shows, and which edit a form that was sent stands for."""

from dataclasses import dataclass
from typing import Any

from loadstar.core.plan.edits import AddElement, ChangeElement, Edit, SetMachine, SetRules, SetWire
from loadstar.core.plan.model import AREAS_MM2, RATINGS_A, FusePart, Plan, Wire

from .fields import ModelForm, Spec
from .specs import MODELS
from .units import Units

STATION_OF = {"load": "loads", "wire": "circuits", "fuse": "circuits", "rules": "circuits"}
TITLES = {"machine": "Machine", "battery": "Battery", "generator": "Generator", "own": "Own consumption",
          "place": "Place", "run": "Run", "tap": "Plug or switched wire", "block": "Fuse block", "load": "Accessory",
          "wire": "Wire", "fuse": "Fuse", "rules": "House rules of this plan"}
SINGLE = ("machine", "battery", "generator")
COLOURS = (("BK", "black"), ("BN", "brown"), ("RD", "red"), ("OG", "orange"), ("YE", "yellow"), ("GN", "green"),
           ("BU", "blue"), ("VT", "violet"), ("GY", "grey"), ("WH", "white"), ("PK", "pink"), ("TQ", "turquoise"))


@dataclass(frozen=True)
class OpenForm:
    """A form with what it is about. `id` is empty for something new."""

    kind: str
    id: str
    title: str
    form: ModelForm
    removable: bool

    @property
    def is_new(self) -> bool:
        """Whether it adds something."""
        return not self.id and self.kind not in ("machine", "rules")


def kind_of(plan: Plan, element: str) -> str:
    """The form kind of an element id; empty when the plan has no such element."""
    if element in ("machine", "rules"):
        return element
    for kind, elements in (("place", plan.places), ("run", plan.runs), ("wire", plan.wires)):
        if any(e.id == element for e in elements):
            return kind
    found = next((p.kind for p in plan.parts if p.id == element), "")
    return found if found in MODELS or found == "fuse" else ""


def open_form(plan: Plan, units: Units, *, add: str = "", element: str = "", data: Any = None) -> OpenForm | None:
    """The form for adding a kind or changing an element; bound when `data` was sent."""
    if add in MODELS and add not in ("machine", "rules"):
        return _make(plan, units, add, "", {}, data)
    kind = kind_of(plan, element)
    if not kind:
        return None
    return _make(plan, units, kind, "" if kind in ("machine", "rules") else element, _stored(plan, kind, element), data)


def _stored(plan: Plan, kind: str, element: str) -> dict[str, Any]:
    if kind == "machine":
        return plan.machine.model_dump()
    if kind == "rules":
        return plan.rules.model_dump()
    if kind == "wire":
        return {k: "" if v is None else v for k, v in plan.wire(element).model_dump().items()}
    pool: tuple[Any, ...] = {"place": plan.places, "run": plan.runs}.get(kind, plan.parts)
    return {k: "" if v is None else v for k, v in next(e for e in pool if e.id == element).model_dump().items()}


def _make(plan: Plan, units: Units, kind: str, element: str, stored: dict[str, Any], data: Any) -> OpenForm:
    if kind == "wire":
        model: Any = Wire
        specs: tuple[Spec, ...] = (
            Spec("area_mm2", "Size", kind="choice", optional=True),
            Spec("length_m", "Measured length", "Empty: along its runs.", optional=True),
            Spec("colour", "Colour", kind="choice", choices=COLOURS),
            Spec("stripe", "Stripe", kind="choice", choices=(("", "none"), *COLOURS), optional=True))
    elif kind == "fuse":
        model, specs = FusePart, (Spec("rating_a", "Rating", kind="choice", optional=True),)
    else:
        model, specs = MODELS[kind]
    form = ModelForm(data, model=model, specs=specs, units=units, initial=stored, choices=_choices(plan, units, kind))
    name = stored.get("name") or element
    title = f"{TITLES[kind]}: {name}" if element and name else TITLES[kind] if kind in ("machine", "rules") else (
        f"New: {TITLES[kind].lower()}")
    return OpenForm(kind, element, title, form, bool(element) and kind not in ("wire", "fuse"))


def _choices(plan: Plan, units: Units, kind: str) -> dict[str, Any]:
    places = [("", "choose a place"), *((p.id, f"{p.name} ({p.id})") for p in plan.places)]
    feeds = [("", "choose a feed")]
    feeds += [(p.id, f"{p.name} ({p.id}), fused way") for p in plan.of_kind("block")]
    feeds += [(p.id, f"{p.name} ({p.id}), straight, with a fuse") for p in plan.of_kind("battery")]
    feeds += [(p.id, f"{p.name} ({p.id}), factory plug") for p in plan.of_kind("tap")]
    found: dict[str, Any] = {"place": places, "feed": feeds}
    if kind == "run":
        found |= {"a": places, "b": places}
    if kind == "wire":
        found["area_mm2"] = [("", "left to Loadstar"), *((f"{a:g}", units.area_text(a)) for a in AREAS_MM2)]
    if kind == "fuse":
        found["rating_a"] = [("", "left to Loadstar"), *((f"{a:g}", f"{a:g} A") for a in RATINGS_A)]
    return found


def edit_of(opened: OpenForm) -> Edit:
    """The edit that a valid form stands for."""
    values = opened.form.values()
    for name in ("supplied_lead", "reason_always", "wire_colour", "stripe"):
        if values.get(name, "") is None:
            values[name] = ""
    for name in ("phases", "ways"):
        if name in values:
            values[name] = int(values[name])
    for name in ("area_mm2", "rating_a"):
        if opened.kind in ("wire", "fuse") and values.get(name) is not None and name in values:
            values[name] = float(values[name])
    if opened.kind == "machine":
        return SetMachine(values=values)
    if opened.kind == "rules":
        return SetRules(values=values)
    if opened.kind == "wire":
        return SetWire(id=opened.id, values=values)
    if opened.id:
        return ChangeElement(id=opened.id, values=values)
    return AddElement.model_validate({"what": opened.kind, "values": values})


