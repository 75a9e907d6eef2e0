"""A plan's harnesses on one sheet: everything on it, at its true distance; what sits on a run sits on its line."""

import math

import pytest
from builders import Bench

from loadstar import demo
from loadstar.core.analysis import analyse
from loadstar.core.edits import AddWire, CutWire, apply
from loadstar.core.harness.sheet import sheet

MAKES = [demo.fit_out, demo.winter, demo.lights_and_horn, demo.tide_hauler]


@pytest.mark.parametrize("make", MAKES, ids=lambda make: make.__name__)
def test_every_run_lies_on_the_sheet_at_its_length_with_its_ties(make):
    loom = analyse(make()[0]).loom
    laid = sheet(loom)
    for piece in laid.pieces:
        here = loom.by_run[piece.run]
        assert math.dist((piece.x0, piece.y0), (piece.x1, piece.y1)) == pytest.approx(here.run.length_m * 1000, abs=0.5)
        assert {(piece.x0, piece.y0), (piece.x1, piece.y1)} == {laid.at[here.run.a], laid.at[here.run.b]}
        begin = laid.at[here.run.a]
        assert [math.dist(begin, tie) for tie in piece.ties] == pytest.approx(list(loom.ties_mm(piece.run)), abs=0.5)
    xs, ys = zip(*laid.at.values(), strict=True)
    assert min(xs) > 0 and min(ys) > 0 and max(xs) < laid.wide_mm and max(ys) < laid.high_mm
    assert laid.wide_mm - max(xs) == pytest.approx(min(xs), abs=0.5)  # the same edge on either side


def test_a_branch_begins_half_of_what_it_leaves_off_its_place_and_what_goes_on_does_not():
    """The fit-out's trunk is R6, R4, R3, R1, R7; R5 leaves it between R6 and R4, R2 between R3 and R1."""
    loom = analyse(demo.fit_out()[0]).loom
    thick = {run: here.covered_mm for run, here in loom.by_run.items()}
    off = {piece.run: piece.begins_mm for piece in sheet(loom).pieces}
    assert off.pop("R5") == pytest.approx(max(thick["R6"], thick["R4"]) / 2)
    assert off.pop("R2") == pytest.approx(max(thick["R3"], thick["R1"]) / 2)
    assert set(off.values()) == {0.0}


@pytest.mark.parametrize("make", MAKES, ids=lambda make: make.__name__)
def test_what_sits_on_a_run_sits_on_its_line_so_far_from_its_place(make):
    plan = make()[0]
    if make is demo.fit_out:
        plan = apply(plan, CutWire(id="W10", place="P3"))
    loom = analyse(plan).loom
    laid = sheet(loom)
    for sits in laid.sits:
        run, place = loom.by_run[sits.fitting.run].run, sits.fitting.part.place
        from_, to = laid.at[place], laid.at[run.b if place == run.a else run.a]
        assert math.hypot(*sits.along) == pytest.approx(1)
        assert math.dist(from_, (sits.x, sits.y)) == pytest.approx(abs(sits.fitting.at_mm), abs=0.01)
        way = ((to[0] - from_[0]), (to[1] - from_[1]))
        assert way[0] * sits.along[1] == pytest.approx(way[1] * sits.along[0], abs=1e-6)
    assert laid.sits or make is not demo.fit_out


def test_two_harnesses_lie_one_below_the_other():
    b = Bench()
    b.lamp(10)
    one = sheet(analyse(b.plan).loom)
    far = [b.add("place", name=name, ambient_c=40) for name in ("shed", "barn")]
    b.add("run", a=far[0], b=far[1], length_m=0.8)
    bar = b.add("junction", name="bar", place=far[0], form="bus bar", terminals=4)
    star = b.add("junction", name="star", place=far[1], form="bus bar", terminals=4)
    b.plan = apply(b.plan, AddWire(a=f"{bar}.t", b=f"{star}.t"))
    both = sheet(analyse(b.plan).loom)
    assert len(both.pieces) == len(one.pieces) + 1
    assert both.high_mm > one.high_mm and both.at.keys() == one.at.keys() | set(far)
    below = [both.at[place][1] for place in far]
    others = [y for place, (_, y) in both.at.items() if place not in far]
    assert max(below) < min(others) or min(below) > max(others)
