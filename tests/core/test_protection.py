"""Coordination, touches to the frame, and their monotone properties."""

import math

import pytest
from builders import Bench, behind_fuse
from hypothesis import given, settings
from hypothesis import strategies as st

from loadstar.core.analysis import analyse
from loadstar.core.materials.conductors import BY_AREA, STOCK_AREAS_MM2
from loadstar.core.materials.fuses import RATINGS_A
from loadstar.core.sizing.argument import Curves, stands

areas = st.sampled_from([a for a in STOCK_AREAS_MM2 if a <= 10])
ratings = st.sampled_from(RATINGS_A)


@settings(max_examples=60, deadline=None)
@given(area=areas, rating=ratings, ambient=st.sampled_from([25.0, 45.0, 60.0]),
       fault=st.sampled_from([60.0, 300.0, 1500.0]))
def test_a_thicker_wire_is_never_protected_worse(area, rating, ambient, fault):
    sizes = [a for a in STOCK_AREAS_MM2 if a >= area][:2]
    tested = stands([behind_fuse(a, rating, ambient, fault_a=fault) for a in sizes])
    assert tested[-1].protected or not tested[0].protected
    assert tested[-1].steady_c <= tested[0].steady_c + 1e-6


@settings(max_examples=60, deadline=None)
@given(area=areas, rating=ratings, ambient=st.sampled_from([25.0, 60.0]), fault=st.sampled_from([100.0, 1000.0]))
def test_a_larger_fuse_never_makes_a_wire_safer(area, rating, ambient, fault):
    larger = [r for r in RATINGS_A if r >= rating][:2]
    tested = stands([behind_fuse(area, r, ambient, fault_a=fault) for r in larger])
    assert tested[0].protected or not tested[-1].protected


def test_a_touch_by_hand():
    """12.73 + 0.07 V rested full is the strong source; at 80 % 12.616 V. Far end of a 4 m, 0.75 mm2 wire: the loop by
    hand."""
    b = Bench(generator=False)
    lamp = b.lamp(feed=b.battery, live="always", reason_always="x", amount=30)
    b.change(b.fuse_of(lamp), rating_a=10)
    b.wire(b.feed_wire(lamp), area_mm2=0.75, length_m=4.0)
    a = analyse(b.plan)
    touch = a.chafes[b.feed_wire(lamp)]
    first = next(w for w in a.wires.values() if w.id != b.feed_wire(lamp) and w.guard is None)
    warm = {w: max(r.wire_mean_c[w] for r in a.states.values()) for w in (touch.wire, first.id)}
    battery = 0.012 * (0.5 + 0.5 / 0.8)
    fuse = 0.109 / 10 + 0.002
    lead = first.length_m * _ohm(first.area_mm2, warm[first.id]) + 0.002
    wire = 4.0 * _ohm(0.75, warm[touch.wire]) + 0.002
    assert touch.far_a == pytest.approx(12.616 / (battery + fuse + lead + wire), rel=1e-3)
    assert touch.near_a == pytest.approx(12.616 / (battery + fuse + lead), rel=3e-3)
    assert touch.survives
    assert touch.opens_s < 0.2


def _ohm(area, warm):
    return BY_AREA[area].r20_ohm_per_m * (1 + 0.00393 * (warm - 20))


def test_an_arc_takes_volts_from_a_touch():
    b = Bench(generator=False)
    lamp = b.lamp()
    before = analyse(b.plan).chafes[b.feed_wire(lamp)].far_a
    b.rules(chafe_arc_v=6)
    after = analyse(b.plan).chafes[b.feed_wire(lamp)].far_a
    assert after == pytest.approx(before * (12.616 - 6) / 12.616, rel=1e-3)


def test_return_wires_have_no_touch():
    b = Bench()
    lamp = b.lamp()
    back = next(w.id for w in b.plan.wires if w.a == f"{lamp}.neg")
    assert back not in analyse(b.plan).chafes


def test_curves_of_the_picture():
    b = Bench()
    lamp = b.lamp()
    a = analyse(b.plan)
    wire = a.wires[b.feed_wire(lamp)]
    drawn = Curves(wire.coordination, a.chafes[wire.id].far_a)
    assert all(fast[1] <= slow[1]
               for fast, slow in zip(drawn.fastest[-len(drawn.slowest):], drawn.slowest, strict=True))
    times = [t for _, t in drawn.damage]
    assert times == sorted(times, reverse=True)
    assert drawn.fails_from_a is None
    slowest = dict(drawn.slowest)
    assert all(t >= slowest[amps] for amps, t in drawn.damage if amps in slowest)
    assert math.isfinite(drawn.fault_a)
