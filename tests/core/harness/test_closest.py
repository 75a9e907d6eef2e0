"""Wires laid as closely as a long search finds: none in another, near the best packings known."""

import itertools
import math
import random

import pytest

from loadstar.core.harness.closest import closest
from loadstar.core.harness.packing import packed

# R/r of equal circles, the best known, as published in lists of packings of circles in a circle.
KNOWN = {7: 3.0, 10: 3.8130, 13: 4.2361, 19: 4.8637, 20: 5.1223, 30: 6.1977, 37: 6.7588}
THICK_MM = (1.3, 1.6, 1.9, 2.2, 2.7, 3.4, 4.3)
# The smallest circle, mm, that ten times as long a search from two other beginnings found for `unequal(seed)`.
LONG_MM = (11.8423, 9.692, 6.2, 8.8944, 7.6454, 13.2132, 6.5007, 9.5498, 8.5938, 11.5038, 5.3772, 14.9479, 13.0447,
           11.9745, 9.0772, 8.6557, 10.77, 13.4846, 7.805, 7.1815, 9.9054, 10.1781, 7.4523, 9.5489, 12.6268, 13.7122,
           10.0116, 11.9956, 7.7, 7.4101, 9.876, 6.6027, 6.1829, 10.4263, 11.2469, 11.9346, 10.9268, 10.5177, 11.213,
           8.127)


def unequal(seed):
    """Four to twenty wires of a harness's usual thicknesses."""
    dice = random.Random(seed)
    return tuple(dice.choice(THICK_MM) for _ in range(dice.randint(4, 20)))


def holds(found, diameters):
    """No two overlap, none sticks out, each is as thick as it was given."""
    for (x1, y1, r1), (x2, y2, r2) in itertools.combinations(found.wires, 2):
        assert math.hypot(x1 - x2, y1 - y2) >= r1 + r2 - 1e-6
    for x, y, r in found.wires:
        assert math.hypot(x, y) + r <= found.radius_mm + 1e-6
    assert [2 * r for _, _, r in found.wires] == pytest.approx(diameters)


@pytest.mark.parametrize(("count", "ratio"), KNOWN.items())
def test_equal_wires_come_within_a_thousandth_of_the_best_known(count, ratio):
    found = closest((2.0,) * count)
    holds(found, [2.0] * count)
    assert ratio * (1 - 2e-5) <= found.radius_mm <= ratio * 1.001


@pytest.mark.parametrize("seed", range(len(LONG_MM)))
def test_unequal_wires_come_near_what_a_long_search_finds(seed):
    found = closest(unequal(seed))
    holds(found, unequal(seed))
    assert LONG_MM[seed] * 0.995 <= found.diameter_mm <= LONG_MM[seed] * 1.02


def test_sixty_wires_lie_without_overlap():
    dice = random.Random(60)
    diameters = [dice.choice(THICK_MM) for _ in range(60)]
    found = closest(tuple(diameters))
    holds(found, diameters)
    assert sum(d * d for d in diameters) / found.diameter_mm**2 > 0.78  # of the circle is wire


@pytest.mark.parametrize("count", range(1, 4))
def test_few_are_exact_as_they_are_elsewhere(count):
    diameters = (3.4, 2.2, 1.3)[:count]
    assert closest(diameters) == packed(diameters)


def test_nothing_cannot_be_laid():
    with pytest.raises(ValueError, match="no wires"):
        closest(())
