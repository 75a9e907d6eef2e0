"""Every quantity that a form asks, in every unit and way of writing that people have: what is taken is what was meant.

What a unit counts is worked out here by its definition: the foot 0.3048 m, degrees Fahrenheit 9/5 C + 32.
"""

import pytest
from django.core.exceptions import ValidationError
from django.http import QueryDict

from loadstar import demo
from loadstar.core.begin import Wish, begun
from loadstar.core.doc.wires import Wire
from loadstar.core.edits import apply
from loadstar.core.intents import INTENTS
from loadstar.core.plan.model import Plan
from loadstar.core.plan.speech import unit_of
from loadstar.web.frame.asks import MACHINE_PACK, MODELS, SIZES, WIRE
from loadstar.web.frame.fields import Asked, ModelForm, QuantityField, SeveralField
from loadstar.web.frame.forms import OTHER, edit_of, open_form
from loadstar.web.frame.units import Units

PEOPLE = [Units(), Units(length="ft", temperature="F"), Units(length="ft"), Units(temperature="F")]
ALSO = {"m": ("mm", 1000.0), "mm": ("m", 0.001), "A": ("mA", 1000.0), "mA": ("A", 0.001), "V": ("mV", 1000.0),
        "mV": ("V", 0.001), "Ω": ("mΩ", 1000.0), "mΩ": ("ohm", 0.001), "W": ("kW", 0.001), "s": ("min", 1 / 60),
        "ms": ("s", 0.001), "Ah": ("mAh", 1000.0), "g": ("kg", 0.001), "h": ("min", 60.0), "min": ("h", 1 / 60)}


def every_field():
    """Model and question of each quantity of each form."""
    asked = [(kind, model, specs) for kind, (model, specs) in MODELS.items()]
    asked += [("machine of a pack", MODELS["machine"][0], MACHINE_PACK), ("wire", Wire, WIRE)]
    asked += [(f"{kind}'s size", model, SIZES) for kind, model, _ in asked[:1]]
    asked += [(intent.TITLE, intent, intent.ASKS) for intent in INTENTS.values()]
    return [(f"{kind}: {spec.name}", model, spec) for kind, model, specs in asked
            for spec in specs if spec.kind == "quantity"]


FIELDS = every_field()


def inside(field: QuantityField) -> float:
    """A figure that the field takes, in the core's unit (or per cent)."""
    low, high = field.low if field.low is not None else 0.0, field.high if field.high is not None else 10.0
    return round(low + (high - low) * 0.375, 4)


@pytest.mark.parametrize("units", PEOPLE, ids=lambda u: f"{u.length}, {u.temperature}")
@pytest.mark.parametrize(("name", "model", "spec"), FIELDS, ids=[name for name, _, _ in FIELDS])
def test_a_figure_typed_in_any_way_is_taken_as_it_was_meant(name, model, spec, units):
    field = QuantityField(spec, model, units)
    meant = inside(field)
    plain = f"{meant:.4f}"
    shown = {("m", "ft"): meant / 0.3048, ("°C", "F"): meant * 9 / 5 + 32}.get(
        (field.core_unit, units.length if field.core_unit == "m" else units.temperature), meant)
    ways = [f"{shown:.9f}", f"{shown:.9f}".replace(".", ","), f" {shown:.9f}\u00a0{field.unit_label} "]
    if field.core_unit:  # whatever the person's unit is: what is typed counts
        ways += [f"{plain} {field.core_unit}", f"{plain.replace('.', ',')}{field.core_unit}"]
    if field.core_unit in ALSO:
        other, times = ALSO[field.core_unit]
        ways.append(f"{meant * times:.9f} {other}")
    for way in ways:
        assert field.clean(way) * field.times == pytest.approx(meant, rel=1e-6, abs=1e-6), way


@pytest.mark.parametrize(("name", "model", "spec"), FIELDS, ids=[name for name, _, _ in FIELDS])
def test_another_quantity_s_unit_is_refused(name, model, spec):
    field = QuantityField(spec, model, Units())
    wrong = "V" if field.core_unit in ("A", "mA") else "A"
    with pytest.raises(Exception, match=r"no unit of|number alone") as error:
        field.clean(f"{inside(field):.4f} {wrong}")
    assert field.accepted() in error.value.messages[0]
    assert unit_of(spec.name) or spec.unit is not None or field.core_unit == ""


def as_sent(bound) -> list[str]:
    """What a browser sends of a field that nobody touched: of a list the option that is marked, or its first; of ticks
    the empty one and those that are set."""
    if isinstance(bound.field, SeveralField):
        return ["", *(o.data["value"] for o in bound.subwidgets if o.data["selected"])]
    options = [option for group in bound.subwidgets for option in [group.data] if "selected" in option]
    if options:
        return [next((str(o["value"]) for o in options if o["selected"]), str(options[0]["value"]))]
    return ["" if bound.value() is None else str(bound.value())]


@pytest.mark.parametrize("units", PEOPLE, ids=lambda u: f"{u.length}, {u.temperature}")
@pytest.mark.parametrize("make", demo.PLANS, ids=lambda make: make.__name__)
def test_a_form_that_is_opened_and_sent_unchanged_changes_nothing(make, units):
    plan, _ = make()
    elements = ["machine", "rules", *(e.id for many in (plan.places, plan.runs, plan.wires, plan.parts) for e in many)]
    for element in elements:
        opened = open_form(plan, units, element=element)
        if opened is None:
            continue
        sent = QueryDict(mutable=True)
        for bound in opened.form:
            sent.setlist(bound.html_name, as_sent(bound))
        again = open_form(plan, units, element=element, data=sent)
        assert again.form.is_valid(), (element, again.form.errors)
        assert apply(plan, edit_of(again)) == plan, element


def test_what_was_shown_and_not_touched_keeps_its_last_digit():
    units, model, spec = Units(length="ft"), *next((m, s) for n, m, s in FIELDS if n == "run: length_m")
    form = ModelForm(QueryDict("length_m=1.14829"), Asked(model, (spec,), units), {"length_m": 0.35})
    assert form.is_valid() and form.values()["length_m"] == 0.35
    form = ModelForm(QueryDict("length_m=1.1483"), Asked(model, (spec,), units), {"length_m": 0.35})
    assert form.is_valid() and form.values()["length_m"] == pytest.approx(1.1483 * 0.3048)


@pytest.mark.parametrize(("typed", "taken"), [("32.48031496063", True), ("32.4804", False), ("0.065616797901", True)])
def test_a_figure_at_its_bound_is_taken_in_another_unit(typed, taken):
    """9.9 m and 0.02 m, the bounds of a wire's length, in feet to twelve places."""
    spec = next(spec for spec in WIRE if spec.name == "length_m")
    field = QuantityField(spec, Wire, Units(length="ft"))
    if taken:
        assert field.clean(typed) == pytest.approx(float(typed) * 0.3048, rel=1e-9)
        return
    with pytest.raises(ValidationError, match="outside what is accepted"):
        field.clean(typed)


def test_a_magneto_s_new_lamp_begins_with_its_volts_and_half_as_much_again():
    plan = begun(Plan(), Wish("small motorcycle", "magneto 6"))
    form = open_form(plan, Units(), add="load", usual=OTHER).form
    assert (form.initial["at_v"], form.initial["window_high_v"]) == (6, 9.0)
