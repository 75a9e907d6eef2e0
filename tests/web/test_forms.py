"""Form fields and figures: units at the edge, what is accepted, what is said."""

import math

import pytest
from django.core.exceptions import ValidationError
from django.http import QueryDict

from loadstar.core.begin import Wish, begun
from loadstar.core.edits import AddElement, apply
from loadstar.core.parts.asks import Ask
from loadstar.core.plan import model as m
from loadstar.demo import fit_out
from loadstar.web.frame.asks import MODELS
from loadstar.web.frame.fields import QuantityField, limits
from loadstar.web.frame.forms import edit_of, feeds_of, open_form
from loadstar.web.frame.tags import pretty
from loadstar.web.frame.units import Units, duration, figure


def field(model, name: str, units: Units | None = None, **options) -> QuantityField:
    """A quantity field of a model."""
    return QuantityField(Ask(name, name, **options), model, units or Units())


@pytest.mark.parametrize(("model", "name", "expected"), [
    (m.Run, "length_m", (0.02, 8, False)), (m.LoadPart, "amount", (None, 2000, True)),
    (m.Generator, "limit_a", (1, 200, False)), (m.HouseRules, "parked_days", (1, 365, False))])
def test_limits_come_from_the_plan_s_own_models(model, name, expected):
    low, high, exclusive = limits(model, name)
    assert (high, exclusive) == expected[1:]
    assert low == (0 if exclusive else expected[0])


def test_every_quantity_of_every_form_has_limits_to_speak_of():
    for model, specs in MODELS.values():
        for spec in specs:
            if spec.kind == "quantity":
                assert "any number" not in QuantityField(spec, model, Units()).accepted(), spec.name


@pytest.mark.parametrize(("typed", "taken"), [("1.5", 1.5), ("1,5", 1.5), (" 2 m", 2.0), ("0.02", 0.02), ("8", 8.0)])
def test_what_people_type(typed, taken):
    assert field(m.Run, "length_m").clean(typed) == pytest.approx(taken)


@pytest.mark.parametrize("typed", ["", "nan", "inf", "-1", "8.01", "1.2.3", "ten", "1e9"])
def test_what_is_not_a_length(typed):
    with pytest.raises(ValidationError) as error:
        field(m.Run, "length_m").clean(typed)
    assert "from 0.02 to 8\u00a0m" in error.value.messages[0]


def test_feet_and_fahrenheit_go_there_and_back():
    units = Units(length="ft", temperature="F")
    length, warm = field(m.Run, "length_m", units), field(m.Place, "ambient_c", units)
    assert length.clean("10") == pytest.approx(3.048)
    assert warm.clean("104") == pytest.approx(40)
    assert length.clean(length.prepare_value(1.2)) == pytest.approx(1.2)
    assert warm.clean(warm.prepare_value(35.0)) == pytest.approx(35)
    assert length.unit_label == "ft"


def test_an_optional_quantity_may_stay_empty():
    assert field(m.Generator, "limit_a", optional=True).clean("") is None


@pytest.mark.parametrize(("value", "unit", "shown"), [
    (12.345, "V", "12.35 V"), (-13.25, "A", "−13.2 A"), (0.0128, "A", "13 mA"),
    (0.458, "A", "0.46 A"), (20.79, "V", "20.8 V"), (0.0, "A", "0 A"),
    (3036.9, "rpm", "3 037 rpm"), (65.4, "°C", "65 °C"), (243.4, "mV", "243 mV"), (7.26, "mV", "7.3 mV"),
    (0.863, "×", "0.86 ×"), (None, "V", "unknown"), (math.nan, "V", "unknown"), (math.inf, "h", "no limit"),
    (-0.001, "V", "0.00 V")])
def test_figures(value, unit, shown):
    assert figure(value, unit).replace("\u00a0", " ").replace("\u202f", " ") == shown


@pytest.mark.parametrize(("hours", "shown"), [
    (0.4, "24 min"), (5.72, "5.7 h"), (500, "21 days"), (math.inf, "no limit"), (math.nan, "unknown"),
    (1e6, "over a year")])
def test_durations(hours, shown):
    assert duration(hours).replace("\u00a0", " ") == shown


def test_wire_sizes_by_preference():
    assert Units().area_text(2.0) == "2 mm² (SAE 14)"
    assert Units(area="awg").area_text(2.0) == "SAE 14 (2 mm²)"


def test_formulas_as_people_write_them():
    assert pretty("I ** 2 * R - alpha") == "I² · R − α"


def test_a_wire_s_form_asks_what_it_is_made_of():
    plan = fit_out()[0]

    def sent(plan, words):
        opened = open_form(plan, Units(), element="W3", data=QueryDict(words))
        assert opened.form.is_valid(), opened.form.errors
        return apply(plan, edit_of(opened))
    thick = sent(plan, "insulation=C&wall=thick&colour=RD")
    assert (thick.wire("W3").insulation, thick.wire("W3").wall, thick.wire("W3").colour) == ("C", "thick", "RD")
    assert sent(thick, "insulation=&wall=thin&colour=RD").wire("W3").insulation is None


@pytest.mark.parametrize(("kind", "name"), [
    ("starter", "starter"), ("coil", "lighting coil"), ("pack", None), ("converter", None)])
def test_what_there_is_one_of_is_called_what_it_is_until_somebody_calls_it_otherwise(kind, name):
    assert open_form(fit_out()[0], Units(), add=kind).form.initial.get("name") == name


def test_a_second_pack_begins_with_the_cells_of_the_first():
    plan = begun(m.Plan(), Wish("cargo e-bike", "48 v"))
    first = plan.packs[0]
    assert first.series == 13
    form = open_form(plan, Units(), add="pack").form
    assert (int(form["series"].value()), form["chemistry"].value()) == (13, first.chemistry)
    alone = plan.model_copy(update={"parts": tuple(p for p in plan.parts if p.id != first.id)})
    assert open_form(alone, Units(), add="pack").form["series"].value() is None  # nobody knows of which it is


def test_every_form_of_a_lead_is_asked_apart_from_what_is_drawn():
    opened = open_form(fit_out()[0], Units(), add="load", usual="other")
    asked = [f.name for f in opened.lead]
    assert asked[:3] == ["plugged", "lead_m", "lead_mm2"] and not opened.lead_shown
    assert not {*asked} & {f.name for f in (*opened.head, *opened.rest, *opened.sizes)}
    assert open_form(fit_out()[0], Units(), add="junction").lead == []


def test_a_lead_is_laid_between_two_ends_and_a_laid_one_keeps_them():
    plan = fit_out()[0]
    new, laid = (open_form(plan, Units(), **which).form.fields for which in ({"add": "wire"}, {"element": "W3"}))
    assert {"a", "b"} <= set(new) and not {"a", "b"} & set(laid) and "area_mm2" in new and "area_mm2" in laid


def test_only_an_accessory_begins_as_the_list_has_it_and_says_what_it_draws():
    plan = fit_out()[0]
    listed, block = (open_form(plan, Units(), add=kind, usual="grips") for kind in ("load", "block"))
    assert listed.kind == "load" and listed.usual == "grips" and "W at" in listed.told
    assert block.kind == "block" and block.usual == "" and block.told == ""
    assert "W at" in open_form(plan, Units(), element="L1").told and open_form(plan, Units(), element="F1").told == ""


def test_texts_have_their_bounds():
    form = open_form(fit_out()[0], Units(), element="L1").form
    kinds = {name: form.fields[name].max_length for name, kind in form.kinds.items() if kind in ("text", "note")}
    notes = {form.fields[n].max_length for n, kind in form.kinds.items() if kind == "note"}
    texts = {form.fields[n].max_length for n, kind in form.kinds.items() if kind == "text"}
    assert kinds and texts == {80} and notes <= {400}
    assert any(kind == "note" for kind in open_form(fit_out()[0], Units(), add="removed").form.kinds.values())
    removed = open_form(fit_out()[0], Units(), add="removed").form
    assert {removed.fields[n].max_length for n, kind in removed.kinds.items() if kind == "note"} == {400}


def test_a_wire_that_is_never_tapped_feeds_only_what_hangs_on_it_already():
    plan = fit_out()[0]
    box = plan.places[0].id
    for name, never in (("free wire", ""), ("brake wire", "ABS")):
        plan = apply(plan, AddElement(what="tap", values={"name": name, "place": box, "live": "key", "never": never}))
    offered = {p.name for p in feeds_of(plan)}
    assert "free wire" in offered and "brake wire" not in offered
