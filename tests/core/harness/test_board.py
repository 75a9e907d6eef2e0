"""The harness laid flat: true lengths, no crossing, loops proposed, tiles as the paper has them."""

import itertools
import math
import random

import networkx as nx
import pytest

from loadstar.core.harness.board import Board, Loop, Stretch, lay_out
from loadstar.core.harness.loops import Through, copper_g, cuts
from loadstar.core.harness.mass import copper_grams_per_m
from loadstar.core.harness.tiling import correction, pages, tiled
from loadstar.core.wiring.conductor import ConductorAt


def random_tree(seed: int, most: int = 40) -> list[Stretch]:
    """A tree of up to so many runs of 20 to 1,500 mm."""
    dice = random.Random(seed)
    return [Stretch(f"R{n}", f"P{dice.randrange(n)}", f"P{n}", round(dice.uniform(20, 1500), 1), dice.uniform(0, 50))
            for n in range(1, dice.randint(3, most))]


def crossing(board: Board) -> list[tuple[str, str]]:
    """Pairs of stretches that meet anywhere but at a place they share, by exact orientation."""
    found = []
    for s, t in itertools.combinations(board.laid, 2):
        if {s.a, s.b} & {t.a, t.b}:
            continue
        d1, d2 = _turn(s, t.x0, t.y0), _turn(s, t.x1, t.y1)
        d3, d4 = _turn(t, s.x0, s.y0), _turn(t, s.x1, s.y1)
        if d1 * d2 < 0 and d3 * d4 < 0:
            found.append((s.run, t.run))
    return found


def _turn(s, x, y):
    return (s.x1 - s.x0) * (y - s.y0) - (s.y1 - s.y0) * (x - s.x0)


@pytest.mark.parametrize("block", range(10))
def test_five_hundred_random_trees_lie_flat_at_true_length(block):
    for seed in range(block * 50, block * 50 + 50):
        stretches = random_tree(seed)
        (board,) = lay_out(stretches)
        length = {s.run: s.length_mm for s in stretches}
        assert {p.run for p in board.laid} == set(length)
        for piece in board.laid:
            assert piece.length_mm == pytest.approx(length[piece.run], abs=0.05), seed
        assert not crossing(board), seed
        assert len({(round(x, 3), round(y, 3)) for x, y in board.at.values()}) == len(board.at), seed


def test_the_trunk_is_the_longest_way_and_a_branch_stands_square_on_it():
    board, = lay_out([Stretch("R1", "rear", "seat", 600), Stretch("R2", "seat", "head", 900),
                      Stretch("R3", "seat", "side", 300)])
    assert board.trunk == ("head", "seat", "rear")
    assert board.at["seat"] == pytest.approx((900, 0))
    assert board.at["side"] == pytest.approx((900, 300))


def test_of_two_alike_ways_that_with_more_copper_is_the_trunk():
    board, = lay_out([Stretch("R1", "a", "m", 500, 5), Stretch("R2", "m", "b", 400, 5),
                      Stretch("R3", "m", "c", 400, 9)])
    assert board.trunk == ("a", "m", "c")


def test_two_harnesses_are_two_boards_the_longer_first():
    boards = lay_out([Stretch("R1", "a", "b", 100), Stretch("R2", "c", "d", 400)])
    assert [b.trunk for b in boards] == [("c", "d"), ("a", "b")]


# The loop of the reference: A-B .4, B-C .6, C-D .5, D-A .7, C-E .3 m.
RING = [Stretch("AB", "A", "B", 400), Stretch("BC", "B", "C", 600), Stretch("CD", "C", "D", 500),
        Stretch("DA", "D", "A", 700), Stretch("CE", "C", "E", 300)]


def test_a_loop_is_refused_with_its_runs():
    with pytest.raises(Loop) as told:
        lay_out(RING)
    assert set(told.value.runs) == {"AB", "BC", "CD", "DA"}


def test_the_cut_of_the_reference():
    """A-C 2.5 mm2, A-D, D-C, A-E 0.5: 30.50 g; cutting AB or BC +4.86, CD +4.96, DA +3.30."""
    grams = {area: copper_grams_per_m(ConductorAt(area, "thin", "B", False, 1.0)) for area in (0.5, 2.5)}
    wires = [Through("A", "C", grams[2.5]), *(Through(a, b, grams[0.5]) for a, b in ("AD", "DC", "AE"))]
    assert copper_g(RING, wires) == pytest.approx(30.50, abs=0.005)
    found = {cut.runs: cut.more_g for cut in cuts(RING, wires)}
    assert found == {("AB",): pytest.approx(4.86, abs=0.005), ("BC",): pytest.approx(4.86, abs=0.005),
                     ("CD",): pytest.approx(4.96, abs=0.005), ("DA",): pytest.approx(3.30, abs=0.006)}
    best = cuts(RING, wires)[0]
    assert best.runs == ("DA",)
    lay_out([s for s in RING if s.run not in best.runs])
    assert cuts([s for s in RING if s.run != "DA"], wires) == ()


@pytest.mark.parametrize("seed", range(12))
def test_the_cheapest_cut_against_every_spanning_tree(seed):
    """Brute force over all sets of runs."""
    dice = random.Random(seed)
    places = "ABCDEF"
    pairs = dice.sample(list(itertools.combinations(places, 2)), 7)
    stretches = [Stretch(a + b, a, b, dice.randint(100, 900)) for a, b in pairs]
    nodes = {n for pair in pairs for n in pair}
    wires = [Through(*dice.sample(sorted(nodes), 2), dice.uniform(4, 20)) for _ in range(5)]
    try:
        before = copper_g(stretches, wires)
    except KeyError:
        pytest.skip("its wires have no way")
    best = math.inf
    for size in range(len(stretches)):
        for out in itertools.combinations(stretches, size):
            rest = [s for s in stretches if s not in out]
            try:
                lay_out(rest)
                found = copper_g(rest, wires)
            except (Loop, KeyError, nx.NodeNotFound):
                continue
            reach = {n for s in rest for n in (s.a, s.b)}
            if reach == nodes and len(lay_out(rest)) == len(lay_out_count(stretches)):
                best = min(best, found)
    mine = cuts(stretches, wires)
    assert (mine[0].copper_g if mine else before) == pytest.approx(best)


def lay_out_count(stretches):
    """The connected parts, whatever their loops."""

    return list(nx.connected_components(nx.Graph((s.a, s.b) for s in stretches)))


def test_many_loops_are_cut_one_after_the_other():
    grid = [Stretch(f"{x}{y}{d}", f"{x},{y}", f"{x + (d == 'r')},{y + (d == 'u')}", 100 + 7 * x + 3 * y)
            for x in range(4) for y in range(4) for d in "ru"]
    found = cuts(grid, [Through("0,0", "4,3", 5.0), Through("0,3", "3,0", 5.0)])
    assert len(found) == 1
    lay_out([s for s in grid if s.run not in found[0].runs])
    assert found[0].more_g >= -1e-9


@pytest.mark.parametrize(("extent", "paper", "count"), [(2380, 297, 9), (730, 210, 4), (2380, 420, 7), (730, 297, 3),
                                                        (100, 297, 1)])
def test_pages_of_the_reference(extent, paper, count):
    assert pages(extent, paper) == count


def test_pages_cover_everything_overlap_and_leave_out_what_is_empty():
    boxes = ((0.0, 0.0, 1200.0, 20.0), (900.0, 0.0, 920.0, 600.0))
    found = tiled("A4", (1200, 600), boxes)
    assert (found.columns, found.rows) == (5, 4)
    assert len(found.tiles) < 20
    for x, y in ((0, 10), (1199, 10), (910, 599), (600, 10), (267, 10), (910, 180)):
        assert any(t.x_mm <= x <= t.x_mm + found.wide_mm and t.y_mm <= y <= t.y_mm + found.high_mm
                   for t in found.tiles), (x, y)
    first, second = found.tiles[:2]
    assert second.x_mm - first.x_mm == found.wide_mm - 10
    assert first.name == "A1"


@pytest.mark.parametrize(("measured", "scale"), [(100, 1), (98, 100 / 98), (103, 100 / 103)])
def test_a_print_that_is_a_little_off_is_put_right(measured, scale):
    assert correction(measured) == pytest.approx(scale)


@pytest.mark.parametrize("measured", [10, 96.9, 103.1, 1000])
def test_one_that_is_far_off_is_refused_in_words(measured):
    with pytest.raises(ValueError, match="Print it at 100 %"):
        correction(measured)
