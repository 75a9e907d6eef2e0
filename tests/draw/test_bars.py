"""Bars of what is believed: as long as their shares, whole words, nothing on anything else."""

import re
from itertools import pairwise

import pytest

from loadstar.draw.bars import FIGURE, WIDTH, bars, percent


def test_a_bar_is_as_long_as_its_share_and_words_are_whole():
    words = "too much resistance: W8 or a crimp of it (Heated grips fuse to the heated grips on the handlebar)"
    picture = bars([(words, 0.75), ("nothing is wrong", 0.2)])
    longs = [float(w) for w in re.findall(r'width="([\d.]+)" height="12" class="b-share"', picture)]
    assert longs == [pytest.approx(0.75 * (WIDTH - FIGURE), abs=0.06), pytest.approx(0.2 * (WIDTH - FIGURE), abs=0.06)]
    said = " ".join(re.findall(r'class="d-label">([^<]+)<', picture))
    assert said == f"{words} nothing is wrong"
    tops = [float(y) for y in re.findall(r'y="([\d.]+)" class="d-label"', picture)]
    assert tops == sorted(tops) and min(b - a for a, b in pairwise(tops)) >= 18


@pytest.mark.parametrize(("share", "words"), [
    (1.0, "99"), (0.994, "99"), (0.5, "50"), (0.012, "1"), (0.004, "under 1")])
def test_nothing_is_ever_quite_certain(share, words):
    assert percent(share) == f"{words}\u00a0%"
