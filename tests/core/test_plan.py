"""What a plan answers of itself: who is fed from what, bands of figures, usual stands, lengths as drawn, sentences for
fields."""

import pytest
from builders import Bench, brakes, head_lamp

from loadstar.core.begin import Wish, begun
from loadstar.core.edits import ChangeElement, Rename, apply
from loadstar.core.errors import PlanError
from loadstar.core.materials.typical import CARGO, CELL_V, TOURING, Band
from loadstar.core.plan import compare
from loadstar.core.plan.bodies import BODY_KINDS, drawn_m
from loadstar.core.plan.model import Plan
from loadstar.core.plan.speech import unit_of, words_for
from loadstar.core.plan.standing import SPREADS, band_of
from loadstar.core.plan.stands import turned, usual_stands


def test_who_is_fed_from_what():
    b, lever, _, lamp = brakes()
    other = b.lamp(10)
    plan = b.plan
    assert [p.id for p in plan.fed_from(lever)] == [lamp]
    assert [p.id for p in plan.fed_from(b.block)] == [lamp, other]  # past the switches too
    assert [p.id for p in plan.fed_through(lever)] == [lamp]
    assert plan.fed_from(b.key) == ()
    assert (plan.hangs_on(plan.part(lamp)), plan.hangs_on(plan.part(other))) == (b.block, b.block)


def test_bands_of_a_begun_machine_are_those_of_its_size():
    tourer = begun(apply(Plan(), Rename(name="x")), Wish("touring motorcycle", "large"))
    upper = TOURING.generator_w.half("upper")
    assert band_of(tourer, tourer.generator, "rating2_w") == upper
    idle = TOURING.idle_share
    assert band_of(tourer, tourer.generator, "rating1_w") == Band(*(
        float(f"{share * upper.usual:.3g}") for share in (idle.low, idle.usual, idle.high)))
    assert band_of(tourer, tourer.battery, "internal_mohm") == TOURING.internal_mohm.half("upper")
    assert band_of(tourer, tourer.machine, "cranking_a") == TOURING.cranking_a.half("upper")


def test_a_pack_s_ampere_hours_are_its_watt_hours_over_volts_and_strings():
    bike = begun(apply(Plan(), Rename(name="x")), Wish("cargo e-bike", "48 v"))
    pack = bike.packs[0]
    band = band_of(bike, pack, "cell_ah")
    whole = CARGO.pack_wh
    for given, wh in ((band.low, whole.low), (band.usual, whole.usual), (band.high, whole.high)):
        assert given == pytest.approx(wh / (13 * CELL_V * pack.parallel), rel=5e-3)


def test_what_is_in_no_list_spreads_as_such_figures_do():
    plan = Bench().plan
    for field, (low, high) in SPREADS.items():
        holder = next((e for e in (plan.machine, *plan.runs, *plan.parts)
                       if isinstance(getattr(e, field, None), int | float)), None)
        if holder is not None:
            value = float(getattr(holder, field))
            band = band_of(plan, holder, field)
            assert (band.low, band.usual, band.high) == pytest.approx((low * value, value, high * value)), field
            assert low < 1 < high


def test_usual_stands_and_each_other_one_alone():
    b, switch, _, _ = head_lamp(usual="dip")
    assert usual_stands(b.plan, "idle")[switch] == "dip"
    found = turned(b.plan, "idle")
    assert {t.stands[switch] for t in found} >= {"off", "main"}
    assert turned(b.plan, "cranking") == turned(b.plan, "charging") == []
    assert all(sum(t.stands[key] != usual_stands(b.plan, "idle")[key] for key in t.stands) == 1 for t in found
               if t.words != "nothing pressed")


def test_nothing_pressed_is_looked_at_besides_where_several_spring_back():
    """The pressed stand is the usual one, since it draws: of one thing its other stand is that nothing is pressed; of
    several that all are let go comes besides."""
    def let_go():
        return [t for t in turned(b.plan, "idle") if t.words == "nothing pressed"]

    b = Bench()
    one = b.add("selector", name="brake switch", use="brake switch", place=b.nose, feed=b.block,
                positions="off; brake: in+out")
    b.load(name="brake lamp", amount=21, feed=one, live="brake", category="lamp")
    assert usual_stands(b.plan, "idle") == {"brake": "brake"} or usual_stands(b.plan, "idle")[one] == "brake"
    assert let_go() == [] and [t.is_ridden for t in turned(b.plan, "idle")] == [True]
    horn = b.add("selector", name="horn button", use="button", place=b.nose, feed=b.block,
                 positions="off; horn: in+out")
    b.load(name="horn", amount=30, feed=horn, live="horn", category="motor")
    (besides,) = let_go()
    assert set(besides.stands.values()) == {"off"} and besides.is_ridden


@pytest.mark.parametrize(("points", "metres"), [
    ([(0, 0), (1000, 0)], 1.25), ([(0, 0), (600, 800)], 1.25), ([(0, 0), (500, 0), (500, 500)], 1.1),
    ([(0, 0), (10, 0)], 0.1), ([(0, 0), (330, 0)], 0.4)])
def test_lengths_as_drawn(points, metres):
    """A quarter over the straight line, a tenth over a drawn one, in steps of 5 cm and never under 10 cm."""
    assert drawn_m(points) == pytest.approx(metres)


def test_every_body_holds_together():
    for kind, body in BODY_KINDS.items():
        names = {place.name for place in body.places}
        assert {end for run in body.runs for end in run} == names, kind
        assert set(body.goes.values()) <= names
        assert all(-800 <= p.x_mm <= body.wheelbase_mm + 500 and -400 <= p.y_mm <= 1500 for p in body.places)


@pytest.mark.parametrize(("field", "unit", "words"), [
    ("length_m", "m", "length"), ("area_mm2", "mm²", "cross-section"), ("internal_mohm", "mΩ", "internal resistance"),
    ("emf_mv_per_rpm", "mV per rpm", "emf"), ("bms_peak_a", "A", "bms peak"), ("parked_days", "days", "parked"),
    ("amount", "W or A", "watts or amps"), ("colour", "", "colour"),
    ("fuse_share_frac", "(a share of 1)", "fuse share")])
def test_fields_in_words(field, unit, words):
    assert (unit_of(field), words_for(field)) == (unit, words)


@pytest.mark.parametrize(("values", "words"), [
    ({"amount": -5}, "Watts or amps must be more than 0 W or A (given: -5)."),
    ({"amount": "lots"}, "Watts or amps must be a number of W or A (given: lots)."),
    ({"amount": "x" * 60}, f"given: {'x' * 37}...)."), ({"name": ""}, "Name may not be empty."),
    ({"live": "moon"}, "one of")])
def test_what_is_wrong_is_said_with_what_was_given(values, words):
    b = Bench()
    lamp = b.lamp(10)
    with pytest.raises(PlanError) as error:
        apply(b.plan, ChangeElement(id=lamp, values=values))
    assert words in error.value.faults[0].sentence


def test_whatever_of_a_plan_can_be_changed_is_compared():
    """What no edit touches is left out: format, version, tables, the workshop's rules as they were, counters."""
    plan = Plan(name="whole")
    compared = {key.partition(".")[0] for key in compare.elements(plan)}
    lists = {name for name in Plan.model_fields if isinstance(getattr(plan, name), tuple)}
    assert set(Plan.model_fields) - compared - lists == {
        "format", "version", "tables_edition", "workshop_rules", "counters"}
