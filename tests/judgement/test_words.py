"""Words, causes and edits, judged: each that was wrong is right, and its neighbours are kept."""

import math

import pytest
from builders import Bench, cure
from judgement.plans import e_bike, rules_of, seen

from loadstar.core.analysis import analyse
from loadstar.core.edits import (
    AddWire,
    ChangeElement,
    MoveEnd,
    SetRules,
    SetWire,
    Several,
    apply,
    parse_edit,
)
from loadstar.core.edits.plugs import PutPlug
from loadstar.core.edits.survey import TakeReadings
from loadstar.core.errors import PlanError
from loadstar.core.feeds.taps import which_tap
from loadstar.core.figures.extremes import hottest_wire
from loadstar.core.rules.words import amps, an, listed, span, warm_over
from loadstar.core.survey.pins import classify, suspect


@pytest.mark.parametrize(("amount", "spoken"),
                         [("80 V", "an 80 V"), ("8 A", "an 8 A"), ("11 A", "an 11 A"), ("18 A", "an 18 A"),
                                                ("58 V", "a 58 V"), ("15 A", "a 15 A"), ("125 V", "a 125 V"),
                                                ("1.8 A", "a 1.8 A")])
def test_articles(amount, spoken):
    assert an(amount) == spoken


@pytest.mark.parametrize(("current", "said"), [
    (11.0, "11 A"), (0.16, "0.16 A"), (0.0132, "13 mA"), (1.5, "1.5 A"), (0.5, "0.5 A"), (12.34, "12.3 A")])
def test_amounts(current, said):
    assert amps(current) == said


def test_lists_leave_nobody_out():
    assert listed(["a"]) == "a"
    assert listed(["a", "b", "c"]) == "a, b and c"
    assert listed("abcdefgh") == "a, b, c, d and 4 more"


def test_spans():
    assert (span(0.5), span(5), span(100)) == ("30 minutes", "5.0 hours", "4 days")


def test_packs_are_named():
    plan = e_bike(pack={"rested_v": 54.0}, second={"rested_v": 50.0, "charge_limit_a": 3}, combiner={"way": "parallel"})
    assert "into second pack" in seen(plan, "pack.joined")[0].sentence
    assert "PK2" not in seen(plan, "pack.joined")[0].sentence


def test_no_finding_calls_a_part_by_its_number_alone():
    b = Bench()
    lamp = b.lamp(60)
    b.change(b.fuse_of(lamp), rating_a=3)
    b.wire(b.feed_wire(lamp), area_mm2=0.35)
    for finding in analyse(b.plan).findings:
        assert f" {b.fuse_of(lamp)} " not in f" {finding.sentence} "


def test_eight_users_of_a_plug_are_counted():
    b = Bench(generator=False)
    b.change(b.key, rated_a=5, others_a=0.5, others="instruments")
    for n in range(8):
        b.load(name=f"user {n}", feed=b.key, amount=8)
    sentence = seen(b.plan, "feed.plug-overloaded")[0].sentence
    assert "user 0, user 1, user 2, user 3 and 5 more together draw" in sentence
    b.plan = apply(b.plan, ChangeElement(id=b.plan.loads[0].id, values={"feed": b.block}))
    assert "4 more" in seen(b.plan, "feed.plug-overloaded")[0].sentence


def test_what_the_machine_draws_is_named_as_the_machine_s():
    b = Bench(generator=False)
    b.change(b.key, rated_a=3, others_a=2.0, others="instruments")
    b.load(name="charger", feed=b.key, amount=20)
    assert "charger and instruments (2 A) together draw 3.7 A" in seen(b.plan, "feed.plug-overloaded")[0].sentence


def test_a_large_standing_draw_is_said_in_amps():
    b = Bench()
    b.load(name="pump", live="always", amount=140, reason_always="x")
    assert "mA" not in seen(b.plan, "budget.parked")[0].sentence
    assert "1.1e" not in seen(b.plan, "budget.parked")[0].sentence


# -- cures ------------------------------------------------------------------------------------------------------


def test_two_thin_wires_are_cured_together():
    """Freeing one of them leaves the drop: the cure frees both."""
    b = Bench(generator=False)
    lamp = b.lamp(60)
    for wire in (b.feed_wire(lamp), next(w.id for w in b.plan.wires if w.a == f"{lamp}.neg")):
        b.wire(wire, area_mm2=0.5, length_m=4)
    b.change(b.fuse_of(lamp), rating_a=7.5)
    finding, = seen(b.plan, "load.drop")
    assert isinstance(cure(finding, b.plan), Several)
    assert "load.drop" not in rules_of(apply(b.plan, cure(finding, b.plan)))


def test_several_edits_are_one_step_and_all_or_none():
    b = Bench()
    wire = b.plan.wires[0].id
    both = Several(edits=(SetWire(id=wire, values={"area_mm2": 4.0}), SetRules(values={"thermal_margin_k": 10})),
                   words="two at once")
    after = apply(b.plan, both)
    assert (after.wire(wire).area_mm2, after.rules.thermal_margin_k) == (4.0, 10)
    assert both.label(b.plan) == "two at once"
    assert parse_edit(both.model_dump(mode="json")) == both
    with pytest.raises(PlanError, match="no wire W99"):
        apply(b.plan, Several(edits=(SetWire(id=wire, values={"area_mm2": 4.0}), SetWire(id="W99", values={}))))


def test_a_bus_bar_for_thirteen_has_places_for_thirteen():
    b = Bench()
    for n in range(11):
        b.load(name=f"thing {n}", feed=b.battery, live="always", amount=1, reason_always="x")
    finding = next(f for f in seen(b.plan, "feed.stud") if "positive" in f.sentence)
    after = apply(b.plan, finding.proposals[0].edit)
    bar = after.of_kind("junction")[0]
    assert bar.terminals >= sum(bar.at("t") in (w.a, w.b) for w in after.wires)
    assert "feed.bus-bar" not in rules_of(after)


def test_lifting_the_winding_s_end_says_what_the_frame_is_then():
    b = Bench()
    b.machine(chassis="winding")
    b.change(b.plan.generator.id, phases=1, tied="frame")
    joint = b.add("frame", name="battery strap", place=b.box)
    b.plan = apply(b.plan, AddWire(a=f"{b.battery}.neg", b=f"{joint}.t"))
    finding, = seen(b.plan, "reference.two-on-frame")
    after = apply(b.plan, cure(finding, b.plan))
    assert after.machine.chassis == "negative"
    assert after.generator.tied == "floating"
    assert not {"reference.two-on-frame", "reference.floats-and-touches"} & rules_of(after)


def overloaded_trigger(**pins):
    b = Bench()
    b.change(b.key, rated_a=0.1)
    b.plan = apply(b.plan, PutPlug(values={"name": "plug", "place": b.box, "ways": 4, **pins.pop("plug", {})},
                                   pins=({"way": 1, "function": "feed", "live": "key", "rated_a": 5, "fused_a": 5,
                                          **pins},)))
    b.lamp()
    relay = next(p for p in b.plan.parts if p.kind == "relay")
    wire = next(w for w in b.plan.wires if w.b == relay.at("86"))
    b.plan = apply(b.plan, MoveEnd(id=wire.id, end="a", to=f"{b.key}.pin"))
    return b


@pytest.mark.parametrize(("pin", "offered"), [
    ({}, True), ({"function": "unknown"}, False), ({"plug": {"never": "airbag"}}, False), ({"rated_a": 0.1}, False),
    ({"fused_a": None}, False)])
def test_a_trigger_s_cure_draws_only_from_what_was_found_and_is_not_forbidden(pin, offered):
    b = overloaded_trigger(**pin)
    finding, = seen(b.plan, "feed.trigger-overloaded")
    assert (cure(finding, b.plan) is not None) == offered


def test_a_believed_pin_or_one_that_reads_5_v_is_not_offered():
    b = overloaded_trigger()
    pin = b.plan.pins("AP1")[0]
    believed = b.plan.model_copy(update={"parts": tuple(
        p.model_copy(update={"standing": "believed"}) if p.id == pin.id else p for p in b.plan.parts)})
    assert cure(seen(believed, "feed.trigger-overloaded")[0], believed) is None
    read = apply(b.plan,
                 TakeReadings(readings=({"element": pin.id, "quantity": "V", "state": "key_off", "value": 5.0},)))
    assert "suspect" in suspect(read, read.part(pin.id))
    assert cure(seen(read, "feed.trigger-overloaded")[0], read) is None


def test_which_plug_goes_by_the_house_rule_s_share():
    b = Bench(generator=False)
    b.change(b.key, rated_a=10, fused_a=5)
    load = b.load(feed=b.block, amount=43)  # 3.6 A at 12 V: 72 % of 5 A
    answer = next(t for t in which_tap(b.plan, b.part(load)) if t.tap == b.key)
    assert not answer.short_of
    b.rules(fuse_share_frac=0.6)
    answer = next(t for t in which_tap(b.plan, b.part(load)) if t.tap == b.key)
    assert "5 A fuse" in answer.short_of[0]


def test_which_plug_says_that_a_fuse_is_not_known_and_a_pin_suspect():
    b = Bench(generator=False)
    load = b.load(feed=b.block, amount=10)
    b.change(b.key, fused_a=None)
    plan = apply(b.plan, TakeReadings(readings=({"element": b.key, "quantity": "V", "state": "key_on", "value": 5.0},)))
    short = next(t for t in which_tap(plan, b.part(load)) if t.tap == b.key).short_of
    assert any("not known" in s for s in short)
    assert any("suspect" in s for s in short)


# -- one cause, one finding; nothing where nothing is solved ----------------------------------------------------


def test_a_reversed_lamp_is_reversed_and_nothing_else():
    b = Bench()
    b.machine(idle_rpm=2500)
    lamp = b.lamp()
    feed, back = b.feed_wire(lamp), next(w.id for w in b.plan.wires if w.a == f"{lamp}.neg")
    plan = apply(apply(b.plan, MoveEnd(id=feed, end="b", to=f"{lamp}.neg")),
                 MoveEnd(id=back, end="a", to=f"{lamp}.pos"))
    assert [f.rule for f in analyse(plan).findings if lamp in f.elements] == ["load.reversed"]


def test_two_lamps_in_series_are_in_series():
    b = Bench()
    b.machine(idle_rpm=2500)
    first, second = (b.lamp(18, behaviour="filament", name=n) for n in ("left", "right"))
    plan = apply(b.plan,
                 MoveEnd(id=next(w.id for w in b.plan.wires if w.a == f"{first}.neg"), end="b", to=f"{second}.pos"))
    from loadstar.core.edits import RemoveWire
    plan = apply(plan, RemoveWire(id=b.feed_wire(second)))
    about = [f.rule for f in analyse(plan).findings if {first, second} & set(f.elements)]
    assert about == ["load.in-series"]


def test_where_nothing_is_solved_nothing_is_printed():
    b = Bench()
    b.lamp()
    plan = apply(b.plan, AddWire(a=f"{b.battery}.pos", b=f"{b.battery}.neg"))
    a = analyse(plan)
    for finding in a.findings:
        words = finding.sentence.replace(",", " ").split()
        assert not {"nan", "inf", "0", "nan%"} & set(words), finding.sentence
    assert all(math.isnan(w.hottest_c) for w in a.wires.values())
    assert hottest_wire(a) is None


# -- edits that keep what goes on existing ----------------------------------------------------------------------


# -- pins -------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("readings", "kind"), [
    ((("key_off", 0.0), ("key_on", 0.0), ("idle", 13.9)), "engine"), ((("key_on", 5.0),), "signal"),
    ((("key_off", 0.02), ("key_on", 0.1), ("idle", 14.1)), "engine"),
    ((("key_off", 0.0), ("key_on", 5.0), ("idle", 5.0)), "signal")])
def test_pins_are_settled_by_the_readings_that_settle_them(readings, kind):
    b = Bench()
    plan = apply(b.plan,
                 PutPlug(values={"name": "plug", "place": b.box, "ways": 4}, pins=({"way": 1, "function": "unknown"},)))
    pin = plan.pins("AP1")[0]
    plan = apply(plan,
        TakeReadings(readings=tuple({"element": pin.id, "quantity": "V", "state": s, "value": v} for s, v in readings)))
    verdict = classify(plan, plan.part(pin.id))
    assert verdict.kind == kind
    assert verdict.is_sure
    if kind == "signal":
        assert verdict.feed and verdict.trigger


def test_an_unsure_pin_that_reads_5_v_is_never_offered_and_said_to_be_suspect():
    b = Bench()
    plan = apply(b.plan,
                 PutPlug(values={"name": "plug", "place": b.box, "ways": 4}, pins=({"way": 1, "function": "unknown"},)))
    pin = plan.pins("AP1")[0]
    plan = apply(plan, TakeReadings(readings=({"element": pin.id, "quantity": "V", "state": "key_off", "value": 5.0},)))
    verdict = classify(plan, plan.part(pin.id))
    assert not verdict.is_sure
    assert "suspect" in verdict.feed
    assert "suspect" in verdict.trigger


def test_a_temperature_over_its_limit_never_reads_as_the_limit():
    assert warm_over(125.3, 125) == "125.3 °C"
    assert warm_over(126.2, 125) == "126 °C"
    assert warm_over(1200, 125) == "no balance: it burns through"
