"""The survey's document and edits; battery and charging by readings; continuity; findings."""

import pytest
from builders import Bench, cure

from loadstar.core.analysis import analyse
from loadstar.core.edits import AddElement, ChangeElement, RemoveElement, SetMachine, apply, parse_edit
from loadstar.core.edits.another import TakeSurvey
from loadstar.core.edits.builder import Builder
from loadstar.core.edits.plugs import PutPins, PutPlug
from loadstar.core.edits.survey import BodyPlaces, Confirm, MovePlace, SetScale, TakeReadings
from loadstar.core.edits.workpiece import trigger
from loadstar.core.errors import PlanError
from loadstar.core.figures.registry import working
from loadstar.core.figures.working import evaluate
from loadstar.core.parts.pack import Pack
from loadstar.core.plan import document
from loadstar.core.plan.bodies import BODY_KINDS
from loadstar.core.plan.model import Plan
from loadstar.core.survey.health import judged, rested_charge, standing_hours
from loadstar.exchange.survey import survey_of


def put(plan, place, **plug):
    pins = plug.pop("pins", ({"way": 1, "function": "feed", "live": "key", "rated_a": 8, "wire_colour": "BU/WH"},
                             {"way": 2, "function": "ground"}))
    return apply(plan, PutPlug(values={"name": "tail plug", "place": place, "ways": 4, **plug}, pins=pins))


def at_posts(plan, *rows):
    posts = plan.supply.id
    return apply(plan,
        TakeReadings(readings=tuple({"element": posts, "quantity": q, "state": s, "value": v} for q, s, v in rows)))


def rules_of(plan):
    return {f.rule for f in analyse(plan).findings}


# -- connectors ---------------------------------------------------------------------------------------------------

def test_a_connector_s_pins_are_what_loads_are_fed_from():
    b = Bench()
    plan = put(b.plan, b.nose)
    pin = plan.pins("AP1")[0]
    assert (pin.name, pin.place) == ("tail plug pin 1", b.nose)
    b.plan = plan
    lamp = b.lamp(18, feed=pin.id)
    a = analyse(b.plan)
    assert a.path(lamp).feed[0].element == pin.id
    with pytest.raises(PlanError, match="not been found to be a live pin"):
        b.lamp(18, feed=plan.pins("AP1")[1].id)


def test_a_connector_that_is_never_tapped_feeds_nothing():
    b = Bench()
    b.plan = put(b.plan, b.nose, never="ABS")
    pin = b.plan.pins("AP1")[0]
    with pytest.raises(PlanError, match="ABS system: nothing is ever fed"):
        b.lamp(18, feed=pin.id)
    assert all(t.id != pin.id for t in [trigger(b.plan, "key")])


def test_pins_move_with_their_connector_and_keep_their_ids():
    b = Bench()
    plan = put(b.plan, b.nose)
    before = [p.id for p in plan.pins("AP1")]
    moved = apply(plan,
        PutPlug(id="AP1", values={"place": b.box, "name": "rear plug"}, pins=({"way": 3, "function": "unknown"},)))
    assert [p.id for p in moved.pins("AP1")][:2] == before and len(moved.pins("AP1")) == 3
    assert {p.place for p in moved.pins("AP1")} == {b.box}
    gone = apply(moved, RemoveElement(id="AP1"))
    assert not gone.plugs and not gone.pins("AP1")


@pytest.mark.parametrize(("pins", "words"), [
    (({"way": 9, "function": "feed"},), "has 4 ways: there is no pin 9"),
    (({"way": 1, "phase": True},), "only the phases between a generator"),
    (({"way": 1, "rated_a": -3},), "must be more than 0 A"),
    (({"way": [1]},), "whole number"),
    (({"function": "feed"},), "whole number"),
])
def test_pins_that_cannot_be_are_refused(pins, words):
    b = Bench()
    with pytest.raises(PlanError, match=words):
        put(b.plan, b.nose, pins=pins)


def test_phases_may_be_interchanged_between_generator_and_rectifier_only():
    b = Bench()
    phases = tuple({"way": n, "function": "other", "phase": True} for n in (1, 2, 3))
    assert all(p.phase for p in put(b.plan, b.nose, use="generator", pins=phases).pins("AP1"))
    with pytest.raises(PlanError, match="driven motor"):
        put(b.plan, b.nose, use="motor", pins=phases)


def test_a_pin_with_readings_can_be_taken_out_with_them():
    b = Bench()
    plan = put(b.plan, b.nose)
    pin = plan.pins("AP1")[0].id
    plan = apply(plan, TakeReadings(readings=({"element": pin, "quantity": "V", "state": "key_on", "value": 12.1},)))
    assert not apply(plan, RemoveElement(id=pin)).readings
    with pytest.raises(PlanError, match="not in this plan"):
        apply(b.plan, TakeReadings(readings=({"element": "T99", "quantity": "V", "value": 1},)))


def test_a_live_pin_s_life_is_not_changed_under_what_hangs_on_it():
    b = Bench()
    b.plan = put(b.plan, b.nose)
    pin = b.plan.pins("AP1")[0].id
    b.lamp(18, feed=pin)
    with pytest.raises(PlanError, match="feeds lamp"):
        b.change(pin, live="engine")
    for change in ({"function": "ground"}, {"live": "always"}):
        with pytest.raises(PlanError, match="feeds lamp"):
            apply(b.plan, PutPlug(id="AP1", values={}, pins=({"way": 1, **change},)))
    assert apply(b.plan, PutPlug(id="AP1", values={}, pins=({"way": 1, "rated_a": 6},))).pins("AP1")[0].rated_a == 6


def test_a_reading_is_not_rewritten():
    plan = at_posts(Bench().plan, ("V", "key_off", 12.4))
    with pytest.raises(PlanError, match="no RD1"):
        apply(plan, ChangeElement(id="RD1", values={"value": 12.9}))


def test_older_plans_have_no_survey():
    b = Bench()
    data = b.plan.model_dump(mode="json")
    for field in ("plugs", "readings", "tables", "removed"):
        del data[field]
    assert document.from_data({**data, "version": 2}) == b.plan


# -- map ----------------------------------------------------------------------------------------------------------

@pytest.mark.parametrize("kind", list(BODY_KINDS))
def test_each_body_brings_its_places(kind):
    plan = apply(apply(Plan(), SetMachine(values={"kind": kind})), BodyPlaces())
    assert len(plan.places) >= 3 and all(p.standing == "believed" for p in plan.places)
    assert apply(plan, BodyPlaces()).places == plan.places  # twice is once


def test_a_wheelbase_or_a_measured_length_scales_every_place():
    plan = apply(apply(Plan(), SetMachine(values={"kind": "motorcycle"})), BodyPlaces())
    wider = apply(plan, SetScale(wheelbase_mm=1562))
    assert wider.machine.wheelbase_mm == 1562
    assert wider.places[0].x_mm == pytest.approx(plan.places[0].x_mm * 1562 / 1420, abs=1)
    a, b = plan.places[0], plan.places[4]
    drawn = ((a.x_mm - b.x_mm) ** 2 + (a.y_mm - b.y_mm) ** 2) ** 0.5
    measured = apply(plan, SetScale(a=a.id, b=b.id, length_mm=drawn * 1.1))
    assert measured.machine.wheelbase_mm == pytest.approx(1562, abs=1)
    with pytest.raises(PlanError, match="two places"):
        apply(plan, SetScale(a=a.id, b="P99", length_mm=300))
    with pytest.raises(PlanError, match="Wheelbase must be at most 2600"):
        apply(plan, SetScale(wheelbase_mm=9000))


def test_places_are_nudged():
    b = Bench()
    moved = apply(b.plan, MovePlace(id=b.nose, dx_mm=10, dy_mm=-20)).place(b.nose)
    assert (moved.x_mm, moved.y_mm) == (1210, -20)
    with pytest.raises(PlanError, match="no place P77"):
        apply(b.plan, MovePlace(id="P77", dx_mm=1))


# -- readings at the posts ----------------------------------------------------------------------------------------

@pytest.mark.parametrize(("rows", "what", "severity", "words"), [
    ([("V", "key_off", 12.80)], "rested", "", "100 %"),  # AGM: 12.80 V is full
    ([("V", "key_off", 12.40)], "rested", "advice", "58 % of charge"),  # 12.32 at 50 %, 12.57 at 75 %
    ([("V", "key_off", 12.00)], "rested", "caution", "nearly flat"),
    ([("V", "key_off", 13.8)], "rested", "note", "a charger is on it"),
    ([("V", "cranking", 10.2)], "cranking", "", "holds"),
    ([("V", "cranking", 9.0)], "cranking", "caution", "battery or its leads"),
    ([("V", "cranking", 7.4)], "cranking", "caution", "Igniters drop out"),
    ([("V", "key_off", 12.7), ("V", "idle", 12.7)], "idle", "advice", "the battery discharges"),
    ([("V", "key_off", 12.7), ("V", "idle", 13.4)], "idle", "", "it charges"),
    ([("V", "raised", 14.3)], "raised", "", "it charges"),
    ([("V", "raised", 13.0)], "raised", "caution", "not being charged"),
    ([("V", "raised", 14.8)], "raised", "advice", "set-point"),
    ([("V", "raised", 15.6)], "raised", "stop", "regulator does not hold"),
    ([("V", "idle", 15.2)], "idle", "stop", "regulator does not hold"),
    ([("A", "key_off", 0.002)], "standing", "", "2 mA"),
    ([("A", "key_off", 0.08)], "standing", "caution", "80 mA flows"),
])
def test_what_readings_at_the_posts_say(rows, what, severity, words):
    plan = at_posts(Bench().plan, *rows)
    found = next(j for j in judged(plan) if j.what == what)
    assert (found.severity, words in found.sentence) == (severity or None, True), found.sentence
    assert ("survey.found" in rules_of(plan)) is bool(severity)


def test_the_later_of_two_like_readings_counts():
    plan = at_posts(Bench().plan, ("V", "key_off", 11.9), ("V", "key_off", 12.8))
    assert rested_charge(plan)[0] == 1


def test_charge_and_days_open_into_their_working():
    plan = at_posts(Bench().plan, ("V", "key_off", 12.4), ("A", "key_off", 0.03))
    a = analyse(plan)
    for key, value in (("rested_charge", rested_charge(plan)[0]), ("standing_days", standing_hours(plan)[0] / 24)):
        shown = working(a, key)
        assert evaluate(shown.formula, shown.inputs) == pytest.approx(shown.value) == pytest.approx(value)
    # By hand: 12.4 V is (12.40 - 12.32) / 0.25 of the way from a half to three quarters.
    assert rested_charge(plan)[0] == pytest.approx(0.58)


@pytest.mark.parametrize(("amps", "words"), [(0.2, "17 hours"), (0.06, "2 days"), (0.001, "days"), (0.0002, "year")])
def test_how_long_it_stands_is_said_in_hours_days_or_over_a_year(amps, words):
    plan = at_posts(Bench().plan, ("V", "key_off", 12.8), ("A", "key_off", amps))
    hours = standing_hours(plan)[0]
    said = next(j.sentence for j in judged(plan) if j.what == "standing")
    wanted = {"hours": f"{hours:.0f} hours", "days": f"{hours / 24:.0f} days", "year": "over a year"}[words.split()[-1]]
    assert f": {wanted} until it no longer starts" in said, (hours, said)


def test_a_pack_s_reading():
    b = Builder("pack")
    b.machine(system="pack", system_v=36, kind="trail e-bike")
    place = b.add("place", name="tube")
    pack = b.add("pack", name="pack", place=place, series=10)
    assert isinstance(b.plan.part(pack), Pack)
    for volts, words in ((42.6, "overcharged"), (29, "may be damaged"), (37.6, "60 %")):
        assert words in judged(at_posts(b.plan, ("V", "key_off", volts)))[0].sentence
    shown = working(analyse(at_posts(b.plan, ("V", "key_off", 37.0))), "rested_charge")
    assert evaluate(shown.formula, shown.inputs) == pytest.approx(shown.value)


# -- findings of pins ---------------------------------------------------------------------------------------------

def test_pins_that_contradict_differ_or_are_only_believed_are_found():
    b = Bench()
    b.plan = put(b.plan, b.nose)
    pin = b.plan.pins("AP1")[0].id
    b.lamp(18, feed=pin)

    def with_volts(**volts):
        return apply(b.plan, TakeReadings(readings=tuple({"element": pin, "quantity": "V", "state": s, "value": v}
                                                         for s, v in volts.items())))
    good = with_volts(key_off=0, key_on=12.2, idle=14, lamp_on=12)
    assert not rules_of(good) & {"survey.contradiction", "survey.as-entered", "survey.believed", "survey.unlikely"}
    assert "survey.as-entered" in rules_of(with_volts(key_off=12.6, key_on=12.2, idle=14))
    assert "survey.contradiction" in rules_of(with_volts(key_off=12.6, key_on=0, idle=14))
    assert "survey.unlikely" in rules_of(with_volts(key_off=0, key_on=14.4))
    assert "survey.unlikely" in rules_of(with_volts(key_off=-12.4))
    believed = apply(b.plan, ChangeElement(id=pin, values={"standing": "believed"}))
    finding = next(f for f in analyse(believed).findings if f.rule == "survey.believed")
    assert "survey.believed" not in rules_of(apply(believed, cure(finding, believed)))


# -- reuse --------------------------------------------------------------------------------------------------------

def test_a_survey_taken_over_is_believed_until_confirmed_and_twice_is_once():
    b = Bench()
    source = apply(put(b.plan, b.nose),
                   AddElement(what="removed", values={"name": "side panel screws", "stored": "bag 3"}))
    source = apply(source, SetMachine(values={"kind": "scooter", "wheelbase_mm": 1290}))
    data = survey_of(source)
    target = apply(Plan(), TakeSurvey(survey=data))
    assert (target.machine.kind, target.machine.wheelbase_mm) == ("scooter", 1290)
    assert apply(b.plan, TakeSurvey(survey=data)).machine == b.plan.machine  # a map that is begun keeps its machine
    assert [p.name for p in target.places] == ["box", "nose"] and len(target.runs) == 1
    assert {p.standing for p in (*target.places, *target.plugs, *target.parts)} == {"believed"}
    assert (target.pins("AP1")[0].way, target.pins("AP1")[0].rated_a) == (1, 8)
    assert target.removed[0].stored == "bag 3"
    again = apply(target, TakeSurvey(survey=data))
    assert (again.places, again.plugs, again.parts) == (target.places, target.plugs, target.parts)
    sure = apply(target, Confirm(ids=tuple(e.id for e in (*target.places, *target.plugs, *target.parts))))
    assert {p.standing for p in (*sure.places, *sure.plugs, *sure.parts)} == {"found"}
    for rows in ("many", [1], [{"name": ["a"]}], [{}] * 401, [{"id": "P1"}]):
        with pytest.raises(PlanError):
            apply(Plan(), TakeSurvey(survey={"places": rows}))
    with pytest.raises(PlanError, match="Place is not understood"):
        apply(Plan(), TakeSurvey(survey={"plugs": [{"id": "AP1", "name": "x", "place": "P1"}]}))


def test_pins_of_a_table_are_one_edit():
    b = Bench()
    plan = put(put(b.plan, b.nose), b.box, name="front plug")
    taken = apply(plan, PutPins(pins={"AP1": ({"way": 6, "function": "signal"},), "AP2": ({"way": 1, "rated_a": 2},)}))
    assert (taken.plugs[0].ways, taken.pins("AP2")[0].rated_a) == (6, 2)
    with pytest.raises(PlanError, match="no connector AP9"):
        apply(plan, PutPins(pins={"AP1": ({"way": 1, "rated_a": 3},), "AP9": ({"way": 1},)}))


def test_edits_can_be_told_as_data():
    assert isinstance(parse_edit({"kind": "set_scale", "wheelbase_mm": 1400}), SetScale)
