"""Beginning a plan: every kind and size class, what it is made of, and how its figures are known."""

import pytest

from loadstar.core.analysis import analyse
from loadstar.core.begin import Wish, begun
from loadstar.core.edits import (
    AddElement,
    ChangeElement,
    CopyLoad,
    Rename,
    SetMachine,
    TakeReadings,
    Vouch,
    apply,
    parse_edit,
    parse_posted,
)
from loadstar.core.errors import PlanError
from loadstar.core.materials.accessories import ACCESSORIES, offered
from loadstar.core.materials.typical import SIZES, Band, size_class
from loadstar.core.plan import document
from loadstar.core.plan.bodies import BODY_KINDS
from loadstar.core.plan.model import Plan
from loadstar.core.plan.standing import band_of, kind_of, resting_on, unknowns
from loadstar.core.survey.measures import MEASURES

EVERY = [(kind, size.key) for kind, sizes in SIZES.items() for size in sizes]
TOURER = Wish("touring motorcycle", "middle", "Marsh tourer", ("grips", "lamp pair"))


def plan_of(wish=TOURER):
    return begun(apply(Plan(), Rename(name="begun")), wish)


def found(plan, element, field, value):
    return apply(plan, TakeReadings(readings=({"element": element, "quantity": "figure", "field": field,
                                               "value": value, "by": "a technician"},)))


@pytest.mark.parametrize(("kind", "size"), EVERY)
def test_every_kind_and_size_begins_as_a_whole_plan_with_sized_circuits(kind, size):
    chosen = size_class(kind, size)
    wanted = tuple(u.key for group in offered(chosen.system).values() for u in group)[::6]
    plan = plan_of(Wish(kind, size, "", wanted))
    assert document.from_json(document.to_json(plan)) == plan
    names = {load.usual for load in plan.loads}
    assert names >= set(wanted)
    analysis = analyse(plan)
    assert analysis.generator_fault is None and not analysis.left_out
    for load in plan.loads:
        assert any(w.made_for == load.id for w in plan.wires), load.name
    assert all(analysis.wires[w.id].area_mm2 > 0 for w in plan.wires) and plan.wires
    # nobody has said or measured anything yet
    assert all(standing in ("typical", "believed") for _, _, standing in resting_on(plan)) and resting_on(plan)
    assert {p.name for p in plan.places} == {g.name for g in BODY_KINDS[kind].places}


@pytest.mark.parametrize(("kind", "size"), EVERY)
def test_at_either_end_of_every_band_such_a_machine_can_be_built(kind, size):
    """A band with an end that no winding fits, or that the document refuses, would hide what hangs on it."""
    plan = plan_of(Wish(kind, size))
    for unknown in unknowns(plan):
        assert (kind_of_element(plan, unknown.element), unknown.field) in MEASURES, unknown.key
        for end in (unknown.band.low, unknown.band.high):
            changed = found(plan, unknown.element, unknown.field, end)
            assert analyse(changed).generator_fault is None, (unknown.key, end)


def kind_of_element(plan, element):
    return kind_of(plan.machine if element == "machine" else next(e for e in (*plan.runs, *plan.parts)
                                                                   if e.id == element))


def test_every_way_between_places_is_longer_than_the_straight_line():
    for kind in BODY_KINDS:
        plan = plan_of(Wish(kind, SIZES[kind][0].key))
        at = {p.id: p for p in plan.places}
        for run in plan.runs:
            a, b = at[run.a], at[run.b]
            straight_m = ((a.x_mm - b.x_mm) ** 2 + (a.y_mm - b.y_mm) ** 2) ** 0.5 / 1000
            assert straight_m <= run.length_m < straight_m * 1.5 + 0.1 and run.standing_of("length_m") == "typical"


@pytest.mark.parametrize("key", list(ACCESSORIES))
def test_every_accessory_draws_what_its_band_says_and_carries_what_its_maker_would_tell(key):
    usual = ACCESSORIES[key]
    band = usual.amount
    assert 0 < band.low <= band.usual <= band.high and usual.label
    assert usual.live != "always" or usual.reason
    system = usual.systems[0]
    kind, size = next((k, s.key) for k, s in EVERY_SIZE if s.system == system)
    load = next(p for p in plan_of(Wish(kind, size, "", (key,))).loads if p.usual == key)
    assert load.amount == band.usual and load.standing_of("amount") == "typical"
    assert load.window_low_v < load.window_high_v


EVERY_SIZE = [(kind, size) for kind, sizes in SIZES.items() for size in sizes]


@pytest.mark.parametrize(("wish", "words"), [
    (Wish("touring motorcycle", "tiny"), "Choose the kind"), (Wish("hovercraft", "large"), "Choose the kind"),
    (Wish("trail e-bike", "36 v", "", ("grips",)), "nothing that could feed: Heated grips"),
    (Wish("motorcycle", "large", "", ("no such thing",)), "nothing that could feed: no such thing"),
    (Wish("motorcycle", "large", "", ("usb",) * 41), "At most 40")])
def test_what_cannot_be_begun_is_refused_in_words(wish, words):
    with pytest.raises(PlanError) as refused:
        plan_of(wish)
    assert words in refused.value.faults[0].sentence


def test_two_alike_have_two_names():
    assert [load.name for load in plan_of(Wish("motorcycle", "large", "", ("usb", "usb"))).loads] == [
        "USB charger, one phone", "USB charger, one phone 2"]


# -- how a figure is known -------------------------------------------------------------------------------------------


def test_what_is_typed_is_stated_and_what_is_sent_back_unchanged_stays_typical():
    plan = plan_of()
    battery = plan.battery
    sent_back = {"capacity_ah": float(f"{battery.capacity_ah:.6g}"), "internal_mohm": 9.9}
    after = apply(plan, ChangeElement(id=battery.id, values=sent_back)).battery
    assert after.standing_of("capacity_ah") == "typical" and after.standing_of("internal_mohm") == "stated"
    assert after.standing_of("rate_h") == "typical"


def test_a_reading_of_a_figure_sets_it_as_found_and_typing_over_it_makes_it_stated():
    plan = found(plan_of(), "G1", "rating1_w", 152.0)
    assert plan.generator.rating1_w == 152 and plan.generator.standing_of("rating1_w") == "found"
    assert plan.readings[-1].by == "a technician"
    typed = apply(plan, ChangeElement(id="G1", values={"rating1_w": 150.0}))
    assert typed.generator.standing_of("rating1_w") == "stated"


def test_the_machines_own_figures_and_the_ways_are_measured_too():
    plan = found(found(plan_of(), "machine", "cranking_a", 133.0), "R1", "length_m", 0.31)
    assert plan.machine.cranking_a == 133 and plan.machine.standing_of("cranking_a") == "found"
    assert plan.runs[0].length_m == 0.31 and plan.runs[0].standing_of("length_m") == "found"


@pytest.mark.parametrize(("element", "field", "value"), [
    ("G1", "no_such", 1.0), ("G1", "name", 1.0), ("X9", "rating1_w", 1.0), ("G1", "rating1_w", -5.0),
    ("G1", "", 5.0), ("PK1", "data_line", 1.0)])
def test_a_reading_of_what_is_no_figure_is_refused(element, field, value):
    with pytest.raises(PlanError):
        found(plan_of(), element, field, value)


def test_as_on_the_label_makes_a_typical_figure_a_stated_one():
    plan = plan_of()
    load = plan.loads[0]
    vouched = apply(plan, Vouch(id=load.id, fields=("amount",))).loads[0]
    assert vouched.amount == load.amount and vouched.standing_of("amount") == "stated"
    assert vouched.standing_of("at_v") == "typical"
    with pytest.raises(PlanError):
        apply(plan, Vouch(id=load.id, fields=("amount", "nothing")))


def test_of_a_second_one_like_it_nothing_has_been_measured():
    plan = found(plan_of(), "L1", "amount", 44.0)
    copy = apply(plan, CopyLoad(id="L1")).loads[-1]
    assert copy.amount == 44 and copy.standing_of("amount") == "believed" and copy.standing_of("at_v") == "typical"


def test_nothing_typed_is_overwritten_by_a_typical_figure():
    plan = apply(plan_of(), AddElement(what="load", values={
        **ACCESSORIES["vest"].figures(), "usual": "vest", "name": "Vest", "place": "P7", "feed": "B1", "amount": 51}))
    vest = plan.loads[-1]
    assert vest.amount == 51 and vest.standing_of("amount") == "stated" and vest.standing_of("at_v") == "typical"


@pytest.mark.parametrize("edit", [
    {"kind": "change", "id": "G1", "values": {"rating1_w": 99}, "marks": {"rating1_w": "found"}},
    {"kind": "add", "what": "place", "values": {"name": "x"}, "marks": {"x_mm": "found"}},
    {"kind": "several", "edits": [{"kind": "set_machine", "values": {}, "marks": {"cranking_a": "found"}}]},
    {"kind": "take_readings", "readings": [{"element": "G1", "quantity": "figure", "field": "rating1_w", "value": 9}]}])
def test_that_something_was_found_cannot_be_posted_without_who_found_it(edit):
    parse_edit(edit)
    with pytest.raises(PlanError):
        parse_posted(edit)


@pytest.mark.parametrize("values", [{"marks": {"rating1_w": "found"}}, {"id": "G7"}, {"made_for": "L1"}])
def test_marks_are_no_free_value(values):
    with pytest.raises(PlanError):
        apply(plan_of(), ChangeElement(id="G1", values=values))
    with pytest.raises(PlanError):
        apply(plan_of(), SetMachine(values=values))


def test_a_mark_of_a_figure_that_is_not_there_is_refused():
    data = plan_of().model_dump(mode="json")
    data["machine"]["marks"]["horn_colour"] = "typical"
    with pytest.raises(PlanError) as refused:
        document.from_data(data)
    assert "horn_colour" in refused.value.faults[0].sentence


def test_of_a_pin_that_nobody_asked_about_what_it_may_give_is_only_typical():
    plan = plan_of()
    pin = next(t for t in plan.taps if t.plug)
    assert pin.standing_of("rated_a") == "typical" and pin.standing == "believed"


# -- bands -----------------------------------------------------------------------------------------------------------


def test_bands_are_those_of_the_size_class_and_of_the_list():
    """By hand from the table: touring 400-500-650 W, its lower half 400-450-500; at idle 0.25-0.4-0.55 of it."""
    plan = plan_of()
    generator = plan.generator
    assert band_of(plan, generator, "rating2_w") == Band(400, 450, 500)
    assert band_of(plan, generator, "rating1_w") == Band(112, 180, 248)
    assert band_of(plan, plan.battery, "capacity_ah") == Band(11, 11.5, 12)
    assert band_of(plan, plan.loads[0], "amount") == Band(30, 40, 56)
    assert band_of(plan, plan.machine, "idle_rpm") is None


def test_what_has_been_stated_or_found_is_not_unknown():
    plan = plan_of()
    keys = {u.key for u in unknowns(plan)}
    assert {"G1.rating1_w", "BT1.capacity_ah", "machine.cranking_a", "L1.amount", "R1.length_m"} <= keys
    plan = found(plan, "G1", "rating1_w", 152.0)
    plan = apply(plan, Vouch(id="L1", fields=("amount",)))
    assert keys - {u.key for u in unknowns(plan)} == {"G1.rating1_w", "L1.amount"}


@pytest.mark.parametrize(("kind", "size", "element", "values", "asked"), [
    ("small motorcycle", "small", "G1", {"rating2_w": 900}, True),
    ("small motorcycle", "small", "G1", {"rating2_w": 260}, False),
    ("small motorcycle", "small", "G1", {"rating1_w": 5}, True),
    ("touring motorcycle", "middle", "BT1", {"capacity_ah": 45}, True),
    ("touring motorcycle", "middle", "BT1", {"capacity_ah": 14}, False)])
def test_a_figure_that_contradicts_the_size_class_is_asked_and_taken(kind, size, element, values, asked):
    plan = apply(plan_of(Wish(kind, size)), ChangeElement(id=element, values=values))
    said = [f for f in analyse(plan).findings if f.rule == "figure.unusual"]
    assert [f.severity for f in said] == ["advice"] * asked
    assert not asked or "Check the value." in said[0].sentence
    field, value = next(iter(values.items()))
    assert getattr(plan.part(element), field) == value


def test_a_reading_outside_the_band_is_taken_and_told():
    plan = found(plan_of(Wish("small motorcycle", "small")), "G1", "rating2_w", 900.0)
    said = [f for f in analyse(plan).findings if f.rule == "figure.unusual"]
    assert [f.severity for f in said] == ["note"] and "It was measured, and stands." in said[0].sentence
