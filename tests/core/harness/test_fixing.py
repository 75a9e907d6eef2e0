"""What a run is tied to and goes through, what keeps water out, whether parts fit: each on both sides of the rule."""

from typing import get_args

import pytest
from builders import Bench, cure

from loadstar.core.analysis import analyse
from loadstar.core.doc.places import Run
from loadstar.core.edits import CutWire, apply
from loadstar.core.materials.hazards import HAZARDS, OPEN


def bench(**run: object) -> Bench:
    """A lamp at the nose, its run as given."""
    b = Bench()
    b.lamp(10)
    if run:
        b.change(b.run, **run)
    return b


def told(b: Bench) -> set[str]:
    return {f.rule for f in analyse(b.plan).findings}


def judged(b: Bench, rule: str, is_told: bool, *, mended: bool = True) -> None:
    """Whether a rule speaks, and that what it proposes mends it."""
    assert (rule in told(b)) is is_told
    if is_told and mended:
        a = analyse(b.plan)
        edit = cure(next(f for f in a.findings if f.rule == rule), a)
        assert edit is not None
        assert rule not in {f.rule for f in analyse(apply(b.plan, edit)).findings}


@pytest.mark.parametrize(("tied_to", "is_told"), [("", False), ("frame", False), ("brake line or control cable", True)])
def test_wires_are_never_tied_to_a_brake_line(tied_to, is_told):
    judged(bench(tied_to=tied_to), "run.tied", is_told)


@pytest.mark.parametrize(("apart", "is_told"), [(None, False), (150, False), (151, True)])
def test_ties_against_the_house_rule(apart, is_told):
    judged(bench(tied_mm=apart), "run.ties-far", is_told)


@pytest.mark.parametrize(("run", "end", "is_told"), [("left", "right", True), ("left", "left", False),
                                                     ("", "right", False), ("left", "", False)])
def test_a_run_on_the_other_side_than_its_end(run, end, is_told):
    b = bench(side=run)
    b.change(b.nose, side=end)
    judged(b, "run.side", is_told)


def test_ties_as_stated_are_counted():
    """1,200 mm: 100 inside the ends' 50, in steps of at most 550 two, of at most 150 eight: three ties, and nine."""
    assert len(analyse(bench(tied_mm=550).plan).loom.ties_mm("R1")) == 3
    assert len(analyse(bench().plan).loom.ties_mm("R1")) == 9


@pytest.mark.parametrize(("nose", "water", "drip", "points", "is_told"), [
    (51, "splashed", False, (), True), (50, "splashed", False, (), False),
    (400, "dry", False, (), False), (400, "splashed", True, (), False),
    (-100, "splashed", False, (), False), (400, "splashed", False, ({"x_mm": 100, "y_mm": -80},), False),
    (-100, "splashed", False, ({"x_mm": 100, "y_mm": 80},), True)])
def test_water_runs_down_into_a_block_unless_the_harness_hangs_lower_first(nose, water, drip, points, is_told):
    b = bench(drip=drip, points=points)
    b.change(b.box, water=water)
    b.change(b.nose, y_mm=nose)
    judged(b, "run.drip", is_told)


@pytest.mark.parametrize(("room", "is_told"), [
    ("110 x 75 x 45", False), ("45x110x75 mm", False), ("110 x 74 x 45", True), ("", False), ("small", False)])
def test_a_box_against_the_room_any_way_around(room, is_told):
    b = bench()
    b.change(b.box, room=room)
    b.change(b.block, dimensions={"long_mm": 110, "wide_mm": 75, "deep_mm": 45})
    judged(b, "place.room", is_told, mended=False)


@pytest.mark.parametrize(("free", "deep", "is_told"), [(40, 41, True), (40, 40, False), (None, 41, False),
                                                       (40, None, False)])
def test_a_socket_against_what_is_free_behind_its_panel(free, deep, is_told):
    b = bench()
    b.change(b.nose, depth_mm=free)
    b.change("L1", dimensions={"deep_mm": deep})
    judged(b, "place.depth", is_told, mended=False)


@pytest.mark.parametrize(("mouth", "water", "is_told"), [("up", "splashed", True), ("up", "dry", False),
                                                         ("down", "splashed", False), ("", "washed over", False)])
def test_a_connector_does_not_face_upward_in_the_wet(mouth, water, is_told):
    b = bench()
    b.plan = apply(b.plan, CutWire(id=b.feed_wire("L1"), place=b.nose))
    b.change(b.plan.of_kind("coupling")[-1].id, mouth=mouth)
    b.change(b.nose, water=water)
    judged(b, "connector.mouth-up", is_told)


@pytest.mark.parametrize(("offset", "branches", "is_told"), [(39, 3, True), (40, 3, False), (None, 3, False),
                                                             (10, 2, False)])
def test_a_splice_keeps_off_a_break_out(offset, branches, is_told):
    b = bench()
    for n in range(branches - 1):
        place = b.add("place", name=f"side {n}")
        b.add("run", a=b.box, b=place, length_m=0.5)
        b.lamp(name=f"lamp {n}", place=place)
    b.plan = apply(b.plan, CutWire(id=b.feed_wire("L1"), place=b.box, form="splice"))
    b.change(b.plan.of_kind("junction")[-1].id, offset_mm=offset)
    judged(b, "splice.break-out", is_told)


@pytest.mark.parametrize(("bore", "threaded", "is_told"), [(32, True, False), (31.9, True, True), (31.9, False, False)])
def test_a_connector_that_is_on_goes_through_a_hole_by_its_corners(bore, threaded, is_told):
    """Usual of such a connector: 25 by 20 mm, 32.02 mm across its corners; stated 25.6 x 19.2: exactly 32."""
    b = bench(bore_mm=bore, threaded=threaded)
    for place in (b.box, b.nose):
        b.plan = apply(b.plan, CutWire(id=b.feed_wire("L1"), place=place))
        b.change(b.plan.of_kind("coupling")[-1].id, dimensions={"wide_mm": 25.6, "deep_mm": 19.2})
    judged(b, "run.hole", is_told)


def test_the_end_with_the_smaller_connectors_goes_through_first():
    """20 by 15 mm are 25 mm across the corners, 40 by 30 are 50: a hole of 26 mm takes the first."""
    b = bench(bore_mm=26, threaded=True)
    for place, wide, deep in ((b.box, 40, 30), (b.nose, 20, 15)):
        b.plan = apply(b.plan, CutWire(id=b.feed_wire("L1"), place=place))
        b.change(b.plan.of_kind("coupling")[-1].id, dimensions={"wide_mm": wide, "deep_mm": deep})
    assert "run.hole" not in told(b)
    b.change(b.run, bore_mm=24.9)
    assert "25.0 mm across its corners" in next(f.sentence for f in analyse(b.plan).findings if f.rule == "run.hole")


def test_one_end_without_connectors_goes_through_first():
    b = bench(bore_mm=20, threaded=True)
    b.plan = apply(b.plan, CutWire(id=b.feed_wire("L1"), place=b.nose))
    assert "run.hole" not in told(b)


@pytest.mark.parametrize(("field", "cured", "length_m", "pieces"), [
    ("hot", "heat sleeve", 1.2, 1), ("edge", "edge trim", 0.0, 1), ("moving", "spiral wrap", 1.2, 1),
    ("vibrates", "clip with rubber", 0.0, 9)])
def test_what_is_taken_against_hazards_is_to_be_bought(field, cured, length_m, pieces):
    (guard,) = analyse(bench(**{field: cured}).plan).loom.guards
    assert (guard.what, guard.run, guard.length_m, guard.pieces) == (cured, "R1", length_m, pieces)
    assert analyse(bench(**{field: "clipped away" if field != "vibrates" else "open"}).plan).loom.guards == ()


def test_every_hazard_is_a_field_of_a_run_with_the_same_cures():
    for field, hazard in HAZARDS.items():
        assert get_args(Run.model_fields[field].annotation) == ("", OPEN, *hazard.cures), field
        assert Run.model_fields[field].default == ""
