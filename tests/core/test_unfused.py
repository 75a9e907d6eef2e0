"""How long a way without a fuse is, and past what."""

import pytest
from builders import Bench
from judgement.benches import bench
from judgement.paths import at_the_solenoid, bridged, in_parallel, in_pieces, second_feed, two_loads

from loadstar.core.analysis import analyse
from loadstar.core.figures.registry import working


def test_a_way_is_the_sum_of_its_pieces_and_its_working_adds_them_up():
    a = analyse(in_pieces(5, 0.29))
    last = max(a.unfused.values(), key=lambda way: way.length_m)
    assert len(last.way) == 5
    assert last.length_m == pytest.approx(1.45)
    assert working(a, f"unfused/{last.way[-1]}").value == pytest.approx(1.45)


def test_past_a_bridged_fuse_the_way_goes_by_the_bridge_and_not_through_the_fuse():
    a = analyse(bridged(two_loads().plan, 0.1))
    assert a.bridged == {"F1": ("W12",)}
    assert a.unfused["W2"].way == ("W1", "W12", "W2")
    assert a.unfused["W2"].length_m == pytest.approx(sum(a.wires[w].length_m for w in ("W1", "W12", "W2")))


def test_a_starter_s_lead_counts_nothing():
    a = analyse(at_the_solenoid())
    mine = {p.id for p in a.plan.parts if p.made_for == a.plan.loads[0].id}
    link = next(w.id for w in a.plan.wires if w.b.part in mine and w.id in a.unfused)
    assert a.unfused[link].length_m == pytest.approx(a.wires[link].length_m) == pytest.approx(0.04)
    assert len(a.unfused[link].way) > 1
    assert working(a, f"unfused/{link}").value == pytest.approx(0.04)
    assert sum(i.value for i in working(a, f"unfused/{link}").inputs) == pytest.approx(0.04)


def test_two_fuses_side_by_side_bridge_nothing():
    assert analyse(in_parallel(15, 15, 2.5)).bridged == {}
    assert analyse(second_feed(2.5, 7.5)).bridged == {}
    assert analyse(second_feed(2.5)).bridged


def test_without_faults_there_is_nothing_to_tell():
    b: Bench = bench()
    b.lamp()
    a = analyse(b.plan)
    assert a.bridged == {}
    assert {w for w, way in a.unfused.items() if way.length_m > a.plan.rules.unfused_limit_m} == set()
