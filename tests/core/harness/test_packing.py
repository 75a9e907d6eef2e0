"""Wires in their smallest circle, against the known packings and by hand."""

import itertools
import math
import random

import pytest

from loadstar.core.harness.packing import bounds_mm, laid_mm, packed

# R/r of equal circles, as published for equal circles, verified by optimisation.
KNOWN = {2: 2, 3: 2.1547, 4: 2.4142, 5: 2.7013, 6: 3, 7: 3, 8: 3.3048, 9: 3.6131, 10: 3.8130, 11: 3.9238, 12: 4.0296}


def holds(found):
    """No two overlap, and none sticks out."""
    for (x1, y1, r1), (x2, y2, r2) in itertools.combinations(found.wires, 2):
        assert math.hypot(x1 - x2, y1 - y2) >= r1 + r2 - 1e-6
    for x, y, r in found.wires:
        assert math.hypot(x, y) + r <= found.radius_mm + 1e-6


@pytest.mark.parametrize(("n", "ratio"), KNOWN.items())
def test_equal_wires_are_packed_within_a_thousandth_and_never_tighter_than_possible(n, ratio):
    found = packed((2.0,) * n)
    holds(found)
    assert ratio * (1 - 2e-5) <= found.radius_mm <= ratio * 1.001


@pytest.mark.parametrize(("radii", "outer"), [((3, 2, 1), 5), ((1, 1, 2 / 3), 2), ((1, 1, 1), 1 + 2 / math.sqrt(3)),
                                              ((2, 1), 3), ((1.7,), 1.7), ((3, 2, 1.9), None)])
def test_up_to_three_are_exact(radii, outer):
    """(3, 2, 1) and (1, 1, 2/3) by hand: the third lies beside the two."""
    found = packed(tuple(2 * r for r in radii))
    holds(found)
    if outer is not None:
        assert found.radius_mm == pytest.approx(outer, rel=2e-4)
    else:
        assert found.radius_mm > 5


def test_a_mixed_bundle_of_the_reference():
    """6 x 1 mm2, 2 x 2.5, 1 x 0.5 thin wall: optimum 7.398 mm, hand-laid 7.786."""
    diameters = (*(0.95 * 2.1,) * 6, *(0.95 * 3.0,) * 2, 0.95 * 1.6)
    found = packed(diameters)
    holds(found)
    assert found.diameter_mm == pytest.approx(7.398, rel=1e-3)
    assert laid_mm(diameters) == pytest.approx(7.786, rel=1e-3)


@pytest.mark.parametrize("seed", range(6))
def test_unequal_wires_hold_and_the_order_does_not_matter(seed):
    dice = random.Random(seed)
    diameters = [round(dice.uniform(1.3, 4.3), 2) for _ in range(dice.randint(4, 12))]
    found = packed(tuple(diameters))
    holds(found)
    assert [2 * r for _, _, r in found.wires] == pytest.approx(diameters, abs=1e-3)
    dice.shuffle(diameters)
    assert packed(tuple(diameters)).radius_mm == pytest.approx(found.radius_mm, rel=1e-6)


def test_laid_by_hand_is_looser():
    assert laid_mm(()) == 0
    assert laid_mm((2.0,)) == 2
    assert laid_mm((2.0, 2.0)) == pytest.approx(4 * 1.03)
    assert laid_mm((2.0,) * 20) == pytest.approx(math.sqrt(80 / 0.7))


@pytest.mark.parametrize("seed", range(12))
def test_what_is_laid_lies_within_its_bounds(seed):
    dice = random.Random(seed)
    diameters = tuple(round(dice.uniform(1.2, 6), 2) for _ in range(dice.randint(2, 12)))
    low, high = bounds_mm(diameters)
    assert low - 1e-9 <= laid_mm(diameters) <= high + 1e-9


def test_nothing_cannot_be_packed():
    with pytest.raises(ValueError, match="no wires"):
        packed(())


def test_more_than_are_searched_for_are_refused():
    with pytest.raises(ValueError, match="up to 12 wires, not 13"):
        packed((2.0,) * 13)
