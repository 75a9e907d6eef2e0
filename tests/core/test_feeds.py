"""Comparing feeds, and which tap."""

from builders import Bench

from loadstar.core.edits import apply
from loadstar.core.feeds.taps import which_tap
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
