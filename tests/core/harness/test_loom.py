"""What lies in each run, what it weighs, and what is told of it."""

import pytest
from builders import Bench, cure

from loadstar.core.analysis import analyse
from loadstar.core.edits import CutWire, apply
from loadstar.core.figures.registry import working
from loadstar.core.figures.working import evaluate
from loadstar.core.harness.board import Loop
from loadstar.core.harness.mass import grams_per_m
from loadstar.core.plan.model import Plan
from loadstar.core.wiring.conductor import conductor


def bench(**run: object) -> Bench:
    """Two lamps at the nose over one run of 1.2 m: four wires."""
    b = Bench()
    b.lamp(10)
    b.lamp(10, name="second")
    if run:
        b.change(b.run, **run)
    return b


def told(plan: Plan) -> set[str]:
    return {f.rule for f in analyse(plan).findings if f.rule.startswith(("run.", "splice.", "harness."))}


def mends(b: Bench, rule: str) -> None:
    a = analyse(b.plan)
    edit = cure(next(f for f in a.findings if f.rule == rule), a)
    assert edit is not None
    assert rule not in told(apply(b.plan, edit))


def test_a_run_carries_the_wires_whose_way_it_is_and_weighs_what_they_weigh_there():
    b = bench()
    a = analyse(b.plan)
    here = a.loom.by_run[b.run]
    assert set(here.wires) == {w for w, g in a.topology.geometry.items() if any(s.run == b.run for s in g.segments)}
    assert len(here.wires) == 4
    by_hand = sum(grams_per_m(conductor(b.plan, b.plan.wire(w), a.wires[w].area_mm2)) * a.wires[w].length_m
                  for w in here.wires)
    assert here.wires_g == pytest.approx(by_hand)
    assert a.loom.wires_g > here.wires_g  # those within a place too
    assert a.loom.total_g == pytest.approx(a.loom.wires_g + a.loom.covering_g + 0.6 * a.loom.ties)


def test_lay_makes_wires_longer_and_slack_too():
    straight, wound, slack = bench(), bench(), bench(slack_mm=60)
    wound.rules(lay_mm=100)
    wire = straight.feed_wire("L1")
    before = analyse(straight.plan).loom.cut_m[wire]
    assert analyse(wound.plan).loom.cut_m[wire] == pytest.approx(before + 0.01, abs=0.011)
    assert analyse(wound.plan).loom.wires_g > analyse(straight.plan).loom.wires_g
    assert analyse(slack.plan).loom.cut_m[wire] == pytest.approx(before + 0.06)
    assert analyse(slack.plan).wires[wire].length_m == pytest.approx(analyse(straight.plan).wires[wire].length_m + 0.06)


def test_a_run_that_is_not_to_be_used_carries_nothing():
    b = bench()
    spare = b.add("place", name="side", ambient_c=40)
    b.add("run", a=b.box, b=spare, length_m=1)
    b.add("run", a=spare, b=b.nose, length_m=1)
    b.change(b.run, used=False)
    assert set(analyse(b.plan).loom.by_run) == {r.id for r in b.plan.runs} - {b.run}


@pytest.mark.parametrize("rule", ["thin", "many", "one"])
def test_figures_of_the_harness_have_workings_that_come_to_them(rule):
    b = bench(above_mm=40, below_mm=120, high_mm=180, start_deg=20)
    for n in range({"thin": 0, "many": 9, "one": 2}[rule]):
        b.lamp(5, name=f"lamp {n}")
    a = analyse(b.plan)
    for key in (f"bundle/{b.run}", f"run_g/{b.run}", f"steer/{b.run}", "harness_g"):
        found = working(a, key)
        assert evaluate(found.formula, found.inputs) == pytest.approx(found.value), key
    assert working(a, f"bundle/{b.run}").value == pytest.approx(a.loom.by_run[b.run].laid_mm)
    assert working(a, f"steer/{b.run}").value == pytest.approx(9.7, abs=0.05)


@pytest.mark.parametrize(("field", "done"), [("edge", "edge trim"), ("hot", "heat sleeve"), ("moving", "clipped away"),
                                             ("pinch", "clipped away"), ("jet", "shielded"),
                                             ("vibrates", "clip with rubber")])
def test_what_lies_open_beside_a_run_is_told_until_something_is_done(field, done):
    assert "run.beside" in told(bench(**{field: "open"}).plan)
    mends(bench(**{field: "open"}), "run.beside")
    assert "run.beside" not in told(bench(**{field: done}).plan)
    bare = Bench()
    bare.change(bare.run, **{field: "open"})
    assert "run.beside" not in told(bare.plan)  # nothing runs there


@pytest.mark.parametrize(("more_mm", "is_told"), [(-0.1, True), (0.1, False)])
def test_a_hole_takes_seventy_per_cent_of_its_bore(more_mm, is_told):
    across = analyse(bench().plan).loom.by_run["R1"].covered_mm
    assert ("run.hole" in told(bench(bore_mm=(across + more_mm) / 0.7).plan)) is is_told


@pytest.mark.parametrize(("slack", "is_told"), [(0, True), (9, True), (10, False)])
def test_slack_at_the_headstock_against_the_sweep(slack, is_told):
    """a 40, b 120, h 180 mm, 20 degrees: 9.7 mm."""
    b = bench(above_mm=40, below_mm=120, high_mm=180, start_deg=20, slack_mm=slack)
    assert ("run.steering" in told(b.plan)) is is_told
    if is_told:
        mends(b, "run.steering")


def test_a_run_past_the_headstock_is_asked_about():
    b = bench()
    b.change(b.nose, moves="with the steering")
    assert "run.headstock" in told(b.plan)
    b.change(b.run, slack_mm=20)
    assert "run.headstock" not in told(b.plan)


@pytest.mark.parametrize(("air", "is_told"), [(70, False), (85, True)])
def test_tape_softens_where_it_is_hot(air, is_told):
    b = bench(covering="PVC tape", ambient_c=air)
    assert ("run.covering-hot" in told(b.plan)) is is_told
    if is_told:
        mends(b, "run.covering-hot")


def test_a_bundle_no_sleeve_lies_on():
    b = bench()
    assert "run.no-sleeve" not in told(b.plan)
    for n in range(60):
        b.lamp(100, name=f"big {n}")
    b.rules(least_area_mm2=1.0)
    for w in analyse(b.plan).loom.by_run[b.run].wires:
        b.wire(w, area_mm2=16)
    assert "run.no-sleeve" in told(b.plan)
    mends(b, "run.no-sleeve")


def test_a_splice_is_not_for_where_it_moves():
    b = bench()
    b.add("junction", name="splice", place=b.nose, form="splice")
    assert "splice.moves" not in told(b.plan)
    b.change(b.nose, moves="with the steering")
    assert "splice.moves" in told(b.plan)


def test_a_loop_is_told_and_the_cheapest_run_left_out_mends_it():
    b = bench()
    side = b.add("place", name="side", ambient_c=40)
    b.add("run", a=b.box, b=side, length_m=0.5)
    b.add("run", a=side, b=b.nose, length_m=0.9)
    b.lamp(5, name="side lamp", place=side)
    assert "harness.loop" not in told(b.plan)  # a way that nothing takes is no loop
    b.load(name="link", feed=b.block, place=side)
    b.add("junction", name="star", place=side, form="bus bar")
    star = b.plan.of_kind("junction")[-1].id
    b.load(name="at the nose", place=b.nose, return_to=star)
    with pytest.raises(Loop):
        _ = analyse(b.plan).loom.boards
    assert "harness.loop" in told(b.plan)
    mends(b, "harness.loop")


@pytest.mark.parametrize(("offset", "is_told"), [(0, True), (44, True), (45, False)])
def test_connectors_side_by_side_under_one_covering_are_staggered(offset, is_told):
    """Usual of such a connector: 45 mm long."""
    b = bench()
    for wire in (b.feed_wire("L1"), b.feed_wire("L2")):
        b.plan = apply(b.plan, CutWire(id=wire, place=b.nose))
    b.change(b.plan.of_kind("coupling")[-1].id, offset_mm=offset)
    assert ("run.stagger" in told(b.plan)) is is_told
    if is_told:
        mends(b, "run.stagger")
    b.change(b.run, covering="bare")
    assert "run.stagger" not in told(b.plan)
