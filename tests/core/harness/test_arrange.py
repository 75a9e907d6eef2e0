"""Turned branches: nothing too near, lengths kept, no more pages than before; nails where wires are held."""

import itertools
import math
import random

import pytest
from sweeps import seeds

from loadstar.core.harness.arrange import APART_MM, OF_WAY, arranged, nearness_mm
from loadstar.core.harness.board import Board, Laid, Stretch, lay_out
from loadstar.core.harness.nails import NAIL_MM, Leaving, nails
from loadstar.core.harness.tiling import tiled

PAGE_MM = (277.0, 190.0)


def a_tree(seed, most=12):
    dice = random.Random(seed)
    return [Stretch(f"R{n}", f"P{dice.randrange(n)}", f"P{n}", dice.uniform(80, 1500)) for n in
            range(1, dice.randint(3, most))]


def ways_mm(board):
    """The way along the harness between the two ends of any pair of places, by following it."""
    beside = {}
    for s in board.laid:
        beside.setdefault(s.a, []).append((s.b, s.length_mm))
        beside.setdefault(s.b, []).append((s.a, s.length_mm))
    found = {}
    for start in beside:
        ahead, seen = [(start, 0.0)], {start}
        while ahead:
            here, far = ahead.pop()
            found[start, here] = far
            ahead += [(n, far + mm) for n, mm in beside[here] if n not in seen]
            seen |= {n for n, _ in beside[here]}
    return found


@pytest.mark.parametrize("seed", seeds(25))
def test_no_two_places_come_too_near_and_lengths_stay(seed):
    """Twenty-five boards (LOADSTAR_SWEEP=8 for two hundred); places are compared by brute force."""
    stretches = a_tree(seed)
    for before in lay_out(stretches):
        after = arranged(before, PAGE_MM)
        assert {s.run: s.length_mm for s in after.laid} == pytest.approx({s.run: s.length_mm for s in before.laid})
        assert all(math.dist(after.at[s.a], (s.x0, s.y0)) < 1e-6 for s in after.laid)
        assert nearness_mm(after) <= nearness_mm(before)
        if nearness_mm(after) > 0:
            continue  # many short branches at one place: they cannot all lie apart
        ways = ways_mm(after)
        for p, q in itertools.combinations(after.at, 2):
            assert math.dist(after.at[p], after.at[q]) >= min(APART_MM, ways[p, q] * OF_WAY) - 1e-6


def test_most_boards_keep_everything_apart():
    found = [nearness_mm(arranged(board, PAGE_MM)) for seed in range(60) for board in lay_out(a_tree(seed))]
    assert sum(near == 0 for near in found) >= 0.95 * len(found)


def test_branches_side_by_side_are_parted():
    """Two branches of 400 mm, 31 mm apart on a trunk, both square on one side."""
    laid = (Laid("R1", "a", "b", 0, 0, 500, 0), Laid("R2", "b", "c", 500, 0, 531, 0),
            Laid("R3", "c", "d", 531, 0, 1031, 0), Laid("R4", "b", "e", 500, 0, 500, 400),
            Laid("R5", "c", "f", 531, 0, 531, 400))
    board = Board(laid, {"a": (0, 0), **{s.b: (s.x1, s.y1) for s in laid}}, ("a", "b", "c", "d"))
    assert nearness_mm(board) > 0
    assert nearness_mm(arranged(board, PAGE_MM)) == 0


def test_fewer_pages_in_all_than_square_branches():
    def pages(board):
        boxes = tuple((min(s.x0, s.x1) + 0.0, min(s.y0, s.y1), max(s.x0, s.x1), max(s.y0, s.y1))
                      for whole in board.laid for s in pieces(whole))
        x, y = min(b[0] for b in boxes), min(b[1] for b in boxes)
        moved = tuple((x0 - x, y0 - y, x1 - x, y1 - y) for x0, y0, x1, y1 in boxes)
        return len(tiled("A4", (max(b[2] for b in moved), max(b[3] for b in moved)), moved).tiles)

    def pieces(s):
        steps = max(1, int(s.length_mm / 20))
        return [Laid(s.run, s.a, s.b, *(s.x0 + (s.x1 - s.x0) * i / steps, s.y0 + (s.y1 - s.y0) * i / steps),
                     *(s.x0 + (s.x1 - s.x0) * (i + 1) / steps, s.y0 + (s.y1 - s.y0) * (i + 1) / steps))
                for i in range(steps)]

    boards = [board for seed in range(20) for board in lay_out(a_tree(seed))]
    assert sum(pages(arranged(b, PAGE_MM)) for b in boards) < sum(pages(b) for b in boards)


def test_very_many_branches_stay_readable():
    stretches = [Stretch(f"T{n}", f"P{n}", f"P{n + 1}", 70.0) for n in range(100)]
    stretches += [Stretch(f"B{n}", f"P{n}", f"Q{n}", 300.0) for n in range(1, 101)]
    (board,) = lay_out(stretches)
    assert len(arranged(board, PAGE_MM).laid) == 200


def gap_mm(nail, one):
    """From a nail's rim to the outline of a stretch that leaves the place."""
    x, y = math.cos(one.way_rad), math.sin(one.way_rad)
    along, across = nail[0] * x + nail[1] * y, abs(nail[1] * x - nail[0] * y)
    return math.hypot(max(-along, 0.0), max(across - one.half_mm, 0.0)) - NAIL_MM / 2


@pytest.mark.parametrize("ways_deg", [(0, 180, 90), (0, 180, 60), (0, 180, 45, 250), (0, 120, 240), (0, 180, 90, 270)])
@pytest.mark.parametrize("halves_mm", [(4, 4, 2, 3), (9, 6, 1, 2)])
def test_nails_touch_the_stretches_of_their_corner(ways_deg, halves_mm):
    leaving = [Leaving(math.radians(way), half) for way, half in zip(ways_deg, halves_mm, strict=False)]
    found = nails(leaving)
    ways = sorted(ways_deg)
    assert len(found) == sum((b - a) % 360 < 175 for a, b in itertools.pairwise([*ways, ways[0] + 360]))
    for nail in found:
        gaps = sorted(gap_mm(nail, one) for one in leaving)
        assert gaps[0] >= -1e-6  # in no stretch
        assert gaps[1] <= max(halves_mm[:2]) - min(halves_mm[:2]) + 1  # and against both, or what goes straight on


def test_an_end_is_held_from_either_side():
    assert [xy for nail in nails([Leaving(0.0, 4.0)]) for xy in nail] == pytest.approx([0, 5.5, 0, -5.5])
