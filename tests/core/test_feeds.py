"""Comparing feeds, and which tap."""

import pytest
from builders import Bench

from loadstar import demo
from loadstar.core.analysis import analyse
from loadstar.core.edits import RemoveElement, apply
from loadstar.core.feeds.taps import on_tap_a, port_asked_w, running_v, triggered_a, triggered_by, which_tap
from loadstar.core.materials.conductors import copper_mass_g
from loadstar.core.whatif.feeds import compare_feeds


def bench():
    b = Bench()
    lamp = b.lamp(30)
    b.add("module", name="module", place=b.box)
    b.add("tap", name="airbag plug", place=b.nose, live="key", never="airbag", rated_a=20)
    b.add("tap", name="heated gear plug", place=b.nose, live="key", rated_a=8, fused_a=10)
    return b, lamp


def test_every_feed_is_tried_and_told():
    b, lamp = bench()
    found = {o.name: o for o in compare_feeds(b.plan, lamp)}
    assert found["block"].here
    assert found["block"].edit is None
    assert "ever fed" in found["airbag plug"].refused
    assert "live with the engine" in found["run line"].refused
    assert "lamp relay" in found["battery"].parts
    assert "lamp relay" not in found["module"].parts
    assert found["heated gear plug"].wire_m < found["block"].wire_m
    assert found["heated gear plug"].copper_g > 0
    assert found["module"].drop_frac is not None
    assert any(f.rule == "feed.plug-overloaded" for f in found["key wire"].findings) is False


def test_the_same_question_twice_gives_the_same_answer():
    b, lamp = bench()
    assert repr(compare_feeds(b.plan, lamp)) == repr(compare_feeds(b.plan, lamp))


def test_an_option_s_edit_makes_it_so():
    b, lamp = bench()
    option = next(o for o in compare_feeds(b.plan, lamp) if o.kind == "module")
    changed = apply(b.plan, option.edit)
    assert changed.part(lamp).feed == option.feed


def test_which_tap_can_carry_it_and_what_the_others_are_short_of():
    b, lamp = bench()
    answers = which_tap(b.plan, b.part(lamp))
    assert answers[0].name == "heated gear plug"
    assert answers[0].short_of == ()
    short = {t.name: " ".join(t.short_of) for t in answers}
    assert "never tapped" in short["airbag plug"]
    assert "live with the engine" in short["run line"]


def test_what_is_on_a_tap_already_counts():
    b, lamp = bench()
    plug = next(p.id for p in b.plan.parts if p.name == "heated gear plug")
    b.load(name="vest", amount=70, feed=plug)
    answer = next(t for t in which_tap(b.plan, b.part(lamp)) if t.tap == plug)
    assert answer.others_a == 70 / 12
    assert "0.3 A short" in " ".join(answer.short_of)


# -- what a tap is short of, each on both sides ------------------------------------------------------------------------


def short_of(load: dict, tap: dict) -> str:
    """What one tap is short of for one load, in words."""
    b = Bench()
    lamp = b.lamp(**{"amount": 24, **load})
    pin = b.add("tap", **{"name": "plug", "place": b.nose, "live": "key", "rated_a": 8, "fused_a": 10, **tap})
    return "; ".join(next(t for t in which_tap(b.plan, b.part(lamp)) if t.tap == pin).short_of)


@pytest.mark.parametrize(("load", "good", "bad", "words"), [
    # 24 W at 12.0 V are 2 A: of 2 A nothing is short, of 1.9 A a tenth.
    ({}, {"rated_a": 2}, {"rated_a": 1.9}, "0.1 A short at 12.0 V"),
    ({}, {"rated_a": 3, "others_a": 1}, {"rated_a": 3, "others_a": 1.2}, "0.2 A short at 12.0 V"),
    # A 10 A fuse carries 75 % by the house rule: 7.5 A, of which 5.5 are taken.
    ({}, {"others_a": 5.5}, {"others_a": 5.6}, "its 10 A fuse would carry 76 %"),
    ({}, {"fused_a": 10}, {"fused_a": None}, "its factory fuse is not known: find it"),
    ({}, {"fused_a": None, "unfused": True}, {"fused_a": None}, "its factory fuse is not known"),
    ({}, {"standing": "found"}, {"standing": "believed"}, "is not confirmed: probe it here"),
    ({}, {"off_delay_s": 0}, {"off_delay_s": 20}, "stays live 20 s after"),
    ({"live": "engine"}, {"live": "engine"}, {}, "is live with the key on; this is to be live with the engine running"),
    ({}, {}, {"never": "ABS"}, "belongs to the ABS system: never tapped"),
])
def test_each_shortage_on_both_sides(load, good, bad, words):
    assert short_of(load, good) == ""
    assert short_of(load, bad).startswith(words)


def test_run_on_is_nothing_to_what_is_always_live():
    always = {"live": "always", "reason_always": "an alarm"}
    assert short_of(always, {"live": "always", "off_delay_s": 20}) == ""


def test_those_that_can_carry_it_come_first_the_largest_spare_first():
    b = Bench()
    lamp = b.lamp(24)
    for name, rated in (("small", 4), ("large", 9), ("over", 1)):
        b.add("tap", name=name, place=b.nose, live="key", rated_a=rated, fused_a=20)
    answers = which_tap(b.plan, b.part(lamp))
    assert [t.name for t in answers][:3] == ["large", "small", "key wire"]  # the key wire is rated 3 A
    assert [round(t.spare_a, 3) for t in answers][:3] == [7, 2, 1]
    assert {t.name: round(t.spare_a, 3) for t in answers}["over"] == -1


def test_what_hangs_there_already_is_not_asked_for_twice():
    b = Bench()
    pin = b.add("tap", name="plug", place=b.nose, live="key", rated_a=3, fused_a=10, others_a=0.5)
    lamp = b.lamp(24, feed=pin)
    answer = next(t for t in which_tap(b.plan, b.part(lamp)) if t.tap == pin)
    assert (answer.others_a, answer.asked_a, answer.spare_a) == pytest.approx((0.5, 2.0, 0.5))
    assert on_tap_a(b.plan, b.plan.part(pin)) == pytest.approx(2.5)
    assert on_tap_a(b.plan, b.plan.part(pin), 24.0) == pytest.approx(1.5)


def test_coils_on_a_trigger_draw_at_the_voltage_of_the_running_machine():
    """Two relays of 90 ohm at the regulator's 14.2 V; without a generator at 12.6 V."""
    for generator, volts in ((True, 14.2), (False, 12.6)):
        b = Bench(generator=generator)
        b.change(b.key, rated_a=3)
        for _ in range(2):
            b.lamp(60, feed=b.battery)
        topology = analyse(b.plan).topology
        key = b.plan.part(b.key)
        coils = [b.plan.part(p.id).coil_ohm for p in triggered_by(topology, key)]
        assert len(coils) == 2 and running_v(b.plan) == pytest.approx(volts)
        assert triggered_a(topology, key) == pytest.approx(sum(volts / ohm for ohm in coils))
        assert triggered_by(topology, b.plan.part(b.engine)) == []


def test_a_feed_brings_its_parts_wire_and_stops():
    """The engine's line cannot feed what is live with the key; every other option is the plan as it then is."""
    b = Bench()
    lamp = b.lamp(30)
    b.load(name="other", amount=10)
    for option in compare_feeds(b.plan, lamp):
        if option.refused:
            continue
        then = analyse(apply(b.plan, option.edit) if option.edit else b.plan)
        without = apply(b.plan, RemoveElement(id=lamp))
        new = [w for w in then.wires.values() if w.id not in {x.id for x in without.wires}]
        assert (option.wires, option.wire_m) == (len(new), pytest.approx(sum(w.length_m for w in new)))
        assert option.copper_g == pytest.approx(sum(copper_mass_g(w.area_mm2, w.length_m) for w in new))
        before = {(f.rule, f.elements[:1]) for f in analyse(without).findings}
        grave = [f for f in then.findings if f.severity == "stop" and (f.rule, f.elements[:1]) not in before]
        assert option.stops == len(grave)
        load = next(p for p in then.plan.loads if p.id == lamp)
        assert option.drop_frac == then.volts.worst_drop(load)[1]


def test_a_port_s_watts_are_those_that_may_be_on_together():
    plan = demo.tide_hauler()[0]
    port = plan.of_kind("port")[0]
    assert port_asked_w(plan, port) == pytest.approx(12)
