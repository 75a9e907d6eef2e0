"""Labels and their leaders: none goes through another's words."""

import random
from itertools import permutations

import pytest

from loadstar import demo
from loadstar.core.analysis import analyse
from loadstar.draw.descent import _Picture
from loadstar.draw.labels import Box, Label, Placed, place
from loadstar.draw.scale import scale_of
from loadstar.draw.walk import walk

LEAST_PLACED = 9


def through(placed: list[Placed]) -> list[tuple[str, str]]:
    """Leaders with the labels that they go through, at a hundred points of each."""
    found = []
    for one, other in permutations(placed, 2):
        if one.leader:
            x0, y0, x1, y1 = one.leader
            along = [(x0 + (x1 - x0) * t / 100, y0 + (y1 - y0) * t / 100) for t in range(101)]
            inside = Box(other.box.x0 + 0.5, other.box.y0 + 0.5, other.box.x1 - 0.5, other.box.y1 - 0.5)
            if any(inside.x0 < x < inside.x1 and inside.y0 < y < inside.y1 for x, y in along):
                found.append((one.label.key, other.label.key))
    return found


@pytest.mark.parametrize("make", demo.PLANS, ids=lambda m: m.__name__)
def test_no_leader_of_a_circuit_goes_through_words(make):
    a = analyse(make()[0])
    for load in a.plan.loads:
        for state in a.source.states:
            if (way := walk(a, load.id, state)) is not None:
                labels = _Picture(a, load.id, way, scale_of(way, 816, 400)).labels()
                assert through([put for put in labels.values() if put]) == [], (load.id, state)


@pytest.mark.parametrize("seed", range(8))
def test_no_leader_of_a_crowd_goes_through_words(seed):
    """Twelve labels at chance places, close together on one line."""
    dice = random.Random(seed)
    labels = [Label(f"W{n}", (f"W{n} 2.5 mm²", "−62 mV"), 60 + n * 30 + dice.uniform(-8, 8), 200.0) for n in range(12)]
    placed = place(labels, Box(0, 0, 700, 400), [], [(0, 200, 700, 200)])
    found = [put for put in placed.values() if put]
    assert len(found) >= LEAST_PLACED and any(put.leader for put in found)
    assert through(found) == []
