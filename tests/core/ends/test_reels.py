"""Cuts from reels, against a count by hand and against what is possible."""

import random

import pytest

from loadstar.core.reels import cut_from


def test_the_longest_first_each_where_least_is_left():
    """By hand: 1.9 and 1.0 from the off-cut of 3, the 1.4 from that of 1.5; the 0.5 then only from the reel of 10."""
    found = cut_from({"W1": 1.0, "W2": 1.9, "W3": 1.4, "W4": 0.5}, [10, 3, 1.5])
    assert [[wire for wire, _ in reel.pieces] for reel in found.reels] == [["W4"], ["W2", "W1"], ["W3"]]
    assert [round(reel.left_m, 6) for reel in found.reels] == [9.5, 0.1, 0.1]
    assert found.short == ()


def test_what_no_reel_takes_is_said():
    found = cut_from({"W1": 2.0, "W2": 0.4}, [1.0])
    assert found.short == (("W1", 2.0),) and found.reels[0].pieces == (("W2", 0.4),)
    assert cut_from({"W1": 1.0}, []).short == (("W1", 1.0),)


@pytest.mark.parametrize("seed", range(20))
def test_no_reel_gives_more_than_it_has_and_every_piece_is_somewhere_once(seed):
    dice = random.Random(seed)
    pieces = {f"W{n}": round(dice.uniform(0.1, 3), 2) for n in range(dice.randint(1, 30))}
    found = cut_from(pieces, [dice.uniform(1, 20) for _ in range(dice.randint(0, 4))])
    placed = [one for reel in found.reels for one in reel.pieces] + list(found.short)
    assert sorted(placed) == sorted(pieces.items())
    assert all(reel.left_m >= -1e-6 for reel in found.reels)
    assert all(metres > max((reel.left_m for reel in found.reels), default=0) - 1e-6 for _, metres in found.short)
