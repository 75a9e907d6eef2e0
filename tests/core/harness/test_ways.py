"""Ways that wires are told, two runs between the same places, points that a run passes, where connectors sit."""

import itertools

import pytest
from builders import Bench

from loadstar.core.analysis import analyse
from loadstar.core.edits import (
    AddElement,
    CutWire,
    DropPoint,
    MoveEnd,
    PutPoint,
    RemoveElement,
    SetScale,
    TellWay,
    apply,
)
from loadstar.core.errors import PlanError
from loadstar.core.harness.board import Loop, Stretch, lay_out
from loadstar.core.harness.loops import Through, copper_g, cuts
from loadstar.core.plan.ways import ways_between, why_not


def forked() -> tuple[Bench, str, str]:
    """A lamp at the nose; beside the measured run a longer one, and a way by a side place."""
    b = Bench()
    b.lamp()
    second = b.add("run", a=b.nose, b=b.box, length_m=1.5)
    side = b.add("place", name="side")
    for a, length_m in ((b.box, 0.7), (b.nose, 0.6)):
        b.add("run", a=a, b=side, length_m=length_m)
    return b, second, b.feed_wire("L1")


def goes(b: Bench, wire: str) -> tuple[str, ...]:
    return analyse(b.plan).topology.geometry[wire].runs


def test_of_two_runs_between_the_same_places_a_wire_takes_the_shorter_unless_told():
    b, second, wire = forked()
    before = analyse(b.plan)
    assert goes(b, wire) == (b.run,)
    b.plan = apply(b.plan, TellWay(ids=(wire,), way=(second,)))
    after = analyse(b.plan)
    assert goes(b, wire) == (second,)
    assert after.wires[wire].length_m == pytest.approx(before.wires[wire].length_m + 0.3)
    assert set(after.loom.by_run) == {b.run, second}
    with pytest.raises(Loop):
        _ = after.loom.boards
    assert [c.runs for c in after.loom.cuts] == [(b.run,), (second,)] or [c.runs for c in after.loom.cuts] == [
        (second,), (b.run,)]
    b.plan = apply(b.plan, TellWay(ids=(wire,)))
    assert goes(b, wire) == (b.run,)


def test_every_way_is_listed_shortest_first_as_brute_force_finds_them():
    """All sequences of runs up to four, tried one by one."""
    b, _, _ = forked()
    runs = [r.id for r in b.plan.runs]
    every = [way for n in range(1, 5) for way in itertools.permutations(runs, n)
             if not why_not(b.plan, way, b.box, b.nose)]
    # a way does not come past a place twice
    simple = [way for way in every if len({p for r in way for p in (b.plan.run(r).a, b.plan.run(r).b)}) == len(way) + 1]
    length = {way: sum(b.plan.run(r).length_m for r in way) for way in simple}
    found = ways_between(b.plan, b.box, b.nose)
    assert [way.runs for way in found] == sorted(simple, key=length.__getitem__)
    assert [way.length_m for way in found] == pytest.approx(sorted(length.values()))
    assert len(simple) == 3
    assert ways_between(b.plan, b.box, b.box) == ()


@pytest.mark.parametrize(("way", "words"), [
    (("R9",), "There is no run R9"), (("R3",), "ends at side"), (("R3", "R2"), "R2 does not begin at side"),
    (("R1", "R1"), "once")])
def test_a_way_that_does_not_reach_is_refused_in_a_sentence(way, words):
    b, _, wire = forked()
    with pytest.raises(PlanError, match=words):
        apply(b.plan, TellWay(ids=(wire,), way=way))


def test_a_run_that_is_not_to_be_used_is_no_way():
    b, second, wire = forked()
    b.change(second, used=False)
    with pytest.raises(PlanError, match=f"{second} is not to be used"):
        apply(b.plan, TellWay(ids=(wire,), way=(second,)))


def test_told_from_the_other_end_the_way_is_turned_around():
    b, _, wire = forked()
    b.plan = apply(b.plan, TellWay(ids=(wire,), way=("R4", "R3")))
    assert b.plan.wire(wire).way == ("R3", "R4")


def test_a_told_way_that_no_longer_reaches_is_told_and_mended():
    b, second, wire = forked()
    b.plan = apply(b.plan, TellWay(ids=(wire,), way=(second,)))
    assert not any(f.rule == "wire.way" for f in analyse(b.plan).findings)
    side = next(p.id for p in b.plan.places if p.name == "side")
    b.change("L1", place=side)
    found = next(f for f in analyse(b.plan).findings if f.rule == "wire.way")
    assert "ends at nose, not at side" in found.sentence
    assert goes(b, wire) == ("R3",)
    mended = apply(b.plan, found.proposals[0].edit)
    assert not any(f.rule == "wire.way" for f in analyse(mended).findings)


@pytest.mark.parametrize("how", ["taken out", "not used"])
def test_a_run_that_goes_takes_what_was_told_of_it_along(how):
    b, second, wire = forked()
    b.plan = apply(b.plan, TellWay(ids=(wire,), way=(second,)))
    if how == "taken out":
        b.plan = apply(b.plan, RemoveElement(id=second))
    else:
        b.change(second, used=False)
    assert b.plan.wire(wire).way == ()
    assert goes(b, wire) == (b.run,)


def test_a_wire_cut_on_its_way_keeps_both_parts_of_it_and_whole_again_all_of_it():
    b, _, wire = forked()
    b.plan = apply(b.plan, TellWay(ids=(wire,), way=("R3", "R4")))
    side = next(p.id for p in b.plan.places if p.name == "side")
    cut = apply(b.plan, CutWire(id=wire, place=side))
    new = cut.wires[cut.wires.index(cut.wire(wire)) + 1]
    assert (cut.wire(wire).way, new.way) == (("R3",), ("R4",))
    whole = apply(cut, RemoveElement(id=cut.of_kind("coupling")[-1].id))
    assert whole.wire(wire).way == ("R3", "R4")
    elsewhere = apply(b.plan, CutWire(id=wire, place=b.nose))
    assert elsewhere.wire(wire).way == ("R3", "R4")
    off = b.add("place", name="off")
    assert apply(b.plan, CutWire(id=wire, place=off)).wire(wire).way == ()


def test_an_end_moved_elsewhere_is_not_lost_silently():
    b, second, wire = forked()
    b.plan = apply(b.plan, TellWay(ids=(wire,), way=(second,)))
    side = next(p.id for p in b.plan.places if p.name == "side")
    b.add("junction", name="stud", place=side, form="stud")
    moved = apply(b.plan, MoveEnd(id=wire, end="b", to=f"{b.plan.of_kind('junction')[-1].id}.t"))
    assert analyse(moved).topology.geometry[wire].lost


def test_the_loop_of_two_runs_between_the_same_places_is_cut_at_the_longer():
    """By hand: a wire of 10 g/m along 1.0 or 1.4 m; told the longer it has 14 g, and 10 g without that run."""
    both = [Stretch("R1", "a", "b", 1000), Stretch("R2", "b", "a", 1400)]
    plain, told = [Through("a", "b", 10)], [Through("a", "b", 10, ("R2",))]
    assert copper_g(both, plain) == pytest.approx(10)
    assert copper_g(both, told) == pytest.approx(14)
    assert [(c.runs, c.more_g) for c in cuts(both, plain)] == [(("R2",), 0), (("R1",), pytest.approx(4))]
    assert cuts(both, told)[0].more_g == pytest.approx(-4)
    with pytest.raises(Loop) as loop:
        lay_out(both)
    assert set(loop.value.runs) == {"R1", "R2"}


def test_points_of_a_run_are_put_moved_and_taken_out_and_its_drawn_length_goes_with_them():
    """3, 4, 5: by way of (1200, 900) from (0, 0) to (1200, 0) is 1500 + 900 = 2400 mm, by a tenth more 2.65 m."""
    b = Bench()
    drawn = apply(b.plan, AddElement(what="run", values={"a": b.box, "b": b.nose, "length_m": 1.5},
                                     marks={"length_m": "typical"}))
    run = drawn.runs[-1].id
    bent = apply(drawn, PutPoint(id=run, at=0, x_mm=1200.4, y_mm=900, new=True))
    assert [(p.x_mm, p.y_mm) for p in bent.run(run).points] == [(1200, 900)]
    assert bent.run(run).length_m == pytest.approx(2.65)
    assert bent.run(run).standing_of("length_m") == "typical"
    moved = apply(bent, PutPoint(id=run, at=0, x_mm=600, y_mm=10))
    assert moved.run(run).points[0].x_mm == 600 and len(moved.run(run).points) == 1
    assert apply(moved, DropPoint(id=run, at=0)).run(run).points == ()
    measured = apply(b.plan, PutPoint(id=b.run, at=0, x_mm=600, y_mm=400, new=True))
    assert measured.run(b.run).length_m == 1.2


def test_way_points_move_along_when_the_map_is_set_to_scale():
    b = Bench()
    bent = apply(b.plan, PutPoint(id=b.run, at=0, x_mm=600, y_mm=400, new=True))
    scaled = apply(bent, SetScale(a=b.box, b=b.nose, length_mm=1800))  # drawn 1200 mm apart
    assert [(p.x_mm, p.y_mm) for p in scaled.run(b.run).points] == [(900, 600)]
    assert scaled.run(b.run).length_m == 1.2


@pytest.mark.parametrize("edit", [PutPoint(id="R1", at=0, x_mm=0, y_mm=0),
                                  PutPoint(id="R1", at=3, x_mm=0, y_mm=0, new=True),
                                  DropPoint(id="R1", at=0), DropPoint(id="R7", at=0),
                                  PutPoint(id="R1", at=0, x_mm=9000, y_mm=0, new=True)])
def test_points_that_are_not_there_or_off_the_map_are_refused(edit):
    with pytest.raises(PlanError):
        apply(Bench().plan, edit)


def test_splices_are_kept_off_break_outs_and_apart_and_connectors_sit_as_they_are_said_to():
    b, second, wire = forked()
    side = next(p.id for p in b.plan.places if p.name == "side")
    b.lamp(name="side lamp", place=side)
    b.plan = apply(b.plan, TellWay(ids=(wire,), way=(second,)))
    for w in (b.feed_wire("L1"), b.feed_wire("L2")):
        b.plan = apply(b.plan, CutWire(id=w, place=b.box, form="splice"))
    b.plan = apply(b.plan, CutWire(id=b.feed_wire("L1"), place=b.nose))
    b.change(b.plan.of_kind("coupling")[-1].id, offset_mm=450)
    found = {f.part.name: f for f in analyse(b.plan).loom.fittings}
    one, two = (f for f in found.values() if f.part.kind == "junction")
    assert one.at_mm >= 60 and two.at_mm >= 60  # three runs part at the box
    assert one.run != two.run or abs(one.at_mm - two.at_mm) >= 40
    connector = next(f for f in found.values() if f.part.kind == "coupling")
    assert connector.at_mm == pytest.approx(min(450, 0.45 * 1000 * b.plan.run(connector.run).length_m))
