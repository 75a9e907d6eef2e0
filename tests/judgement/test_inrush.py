"""Inrush and the fuses that have to bear it, judged; of two fuses in a row the right one opens."""

import math

import numpy as np
import pytest
from builders import Bench
from judgement.plans import rules_of, seen

from loadstar.core.analysis import analyse
from loadstar.core.edits import (
    MoveEnd,
    apply,
)
from loadstar.core.sizing.inrush import inrush_through


def two_lamps(shape="rectangle", **more):
    b = Bench()
    for name in ("left", "right"):
        b.lamp(20, name=name, feed=b.block, inrush_a=45, inrush_ms=10, inrush_shape=shape, **more)
    return b


def joined_behind_one(b, rating=10):
    """Both lamps behind the first one's fuse."""
    first, second = (p.id for p in b.plan.loads)
    fuse = b.fuse_of(first)
    b.plan = apply(b.plan, MoveEnd(id=b.feed_wire(second), end="a", to=f"{fuse}.b"))
    b.change(fuse, rating_a=rating)
    return fuse


def test_the_inrush_of_what_comes_on_together_is_summed():
    b = two_lamps()
    fuse = joined_behind_one(b)
    a = analyse(b.plan)
    # (45 + 45)^2 x 10 ms, by hand.
    assert inrush_through(a.topology, fuse, 10).a2s == pytest.approx(81.0)
    finding = next(f for f in seen(a, "fuse.inrush") if f.elements[0] == fuse)
    assert "left and right together" in finding.sentence
    single = Bench()
    lamp = single.lamp(20, inrush_a=45, inrush_ms=10)
    single.change(single.fuse_of(lamp), rating_a=10)
    assert "fuse.inrush" not in rules_of(single.plan)


def test_what_comes_on_by_itself_is_not_summed():
    b = two_lamps(live="always", reason_always="x")
    fuse = joined_behind_one(b)
    assert inrush_through(analyse(b.plan).topology, fuse, 10).a2s == pytest.approx(45**2 * 0.010)


@pytest.mark.parametrize(("ms", "told"), [(5, False), (6, True)])
def test_a_short_inrush_is_not_hidden_by_a_slow_one_with_more_to_it(ms, told):
    """A 10 A fuse bears 0.3 x 72 = 21.6 A2s of a short inrush and 10^2 x 0.4 = 40 A2s of one of 400 ms. The pump's 9^2
    x 0.4 = 32.4 it bears; the lamp's 65^2 x 0.005 = 21.1 too, its 65^2 x 0.006 = 25.4 not, though that is less than the
    pump's."""
    b = Bench()
    alone = {"live": "always", "reason_always": "x", "feed": b.battery}
    b.load(name="pump", category="motor", amount=10, inrush_a=9, inrush_ms=400, **alone)
    b.load(name="lamp", category="lamp", amount=10, inrush_a=65, inrush_ms=ms, **alone)
    fuse = joined_behind_one(b)
    said = [f.sentence for f in seen(b.plan, "fuse.inrush") if f.elements[0] == fuse]
    assert bool(said) == told
    assert all("Switching on lamp puts 25.4 A²s" in s for s in said)


@pytest.mark.parametrize(("shapes", "by_hand"), [
    (("rectangle", "rectangle"), 40**2 * .02 + 30**2 * .01 + 2 * 40 * 30 * .01),
    (("decay", "decay"), 40**2 * .02 / 2 + 30**2 * .01 / 2 + 2 * 40 * 30 / (1 / .02 + 1 / .01)),
    (("rectangle", "decay"), 40**2 * .02 + 30**2 * .01 / 2 + 2 * 40 * 30 * .01 * (1 - math.exp(-2))),
])
def test_inrush_that_decays_is_integrated(shapes, by_hand):
    """The integral of the squared sum, by hand and by a fine sum of steps."""
    b = Bench()
    for shape, peak, ms in zip(shapes, (40, 30), (20, 10), strict=True):
        b.lamp(10, feed=b.block, inrush_a=peak, inrush_ms=ms, inrush_shape=shape)
    main = next(p.id for p in b.plan.parts if p.kind == "fuse" and p.made_for == b.block)
    found = inrush_through(analyse(b.plan).topology, main, 15).a2s
    t = np.linspace(0, 0.4, 400_001)
    total = sum(peak * (np.exp(-t / ms * 1000) if shape == "decay" else (t < ms / 1000))
                for shape, peak, ms in zip(shapes, (40, 30), (20, 10), strict=True))
    assert found == pytest.approx(by_hand, rel=1e-9)
    assert found == pytest.approx(float(np.trapezoid(total**2, t)), rel=2e-3)


def test_inrush_passes_the_factory_fuse_too():
    def pump(peak):
        b = Bench()
        b.change(b.key, rated_a=12, fused_a=15)
        b.load(name="pump", category="motor", amount=60, feed=b.key, inrush_a=peak, inrush_ms=400)
        return b.plan
    finding = next(f for f in seen(pump(60), "fuse.inrush") if f.elements[0].startswith("T"))
    assert "15 A factory fuse before key wire" in finding.sentence
    assert not [f for f in seen(pump(15), "fuse.inrush") if f.elements[0].startswith("T")]


def branch(own, main, others=True):
    b = Bench()
    lamp = b.lamp(20)
    b.change(b.fuse_of(lamp), rating_a=own)
    if others:
        b.load(name="heated grips", amount=20, category="heating")
    b.change(next(p.id for p in b.plan.parts if p.kind == "fuse" and p.made_for == b.block), rating_a=main)
    return b.plan


@pytest.mark.parametrize(("own", "main", "severity"), [(15, 5, "caution"), (10, 10, "advice"), (7.5, 10, "")])
def test_a_branch_fuse_as_large_as_the_one_before_it_is_told_with_who_goes_dark(own, main, severity):
    found = seen(branch(own, main), "fuse.selective")
    assert [f.severity for f in found] == ([severity] if severity else [])
    assert all("heated grips" in f.sentence for f in found)


def test_a_fuse_before_a_single_load_need_not_be_larger():
    assert "fuse.selective" not in rules_of(branch(10, 10, others=False))


def test_main_fuses_left_to_loadstar_stay_above_their_branches():
    b = Bench()
    lamp = b.lamp(20)
    b.load(name="grips", amount=5, category="heating")
    b.change(b.fuse_of(lamp), rating_a=15)
    a = analyse(b.plan)
    assert a.ratings.rating_a(next(p.id for p in b.plan.parts if p.kind == "fuse" and p.made_for == b.block)) > 15
    assert "fuse.selective" not in rules_of(a)
