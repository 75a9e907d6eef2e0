"""The board and the section as pictures: well formed, escaped, labels clear of one another and of the harness."""

import itertools
import random
import xml.etree.ElementTree as ET

import pytest
from builders import Bench
from sweeps import seeds

from loadstar.core.analysis import analyse
from loadstar.core.harness.sheet import sheet
from loadstar.draw import board, section
from loadstar.draw.labels import Box


def plan_on_a_tree(seed: int):
    """A battery machine whose places form a random tree, with an accessory at every end of it."""
    dice = random.Random(seed)
    b = Bench()
    places = [b.box, b.nose]
    for n in range(dice.randint(2, 12)):
        new = b.add("place", name=f"spot {n} <&>", ambient_c=40)
        b.add("run", a=dice.choice(places), b=new, length_m=round(dice.uniform(0.05, 1.5), 2))
        places.append(new)
    for place in places[1:]:
        b.load(name=f"thing at {place}", place=place, amount=dice.choice((5, 20, 60)))
    return analyse(b.plan)


@pytest.mark.parametrize("seed", seeds(20))
def test_labels_overlap_nothing_and_every_stretch_is_drawn(seed):
    a = plan_on_a_tree(seed)
    on = sheet(a.loom)
    put = [p for p in board.labelled(a, on, board.LABEL_MM, Box(0, 0, on.wide_mm, on.high_mm)).values() if p]
    assert len(put) >= len(on.at)  # most of places and runs together
    for one, two in itertools.combinations(put, 2):
        assert not one.box.overlaps(two.box)
    for label in put:
        for s in on.pieces:
            if s.y0 == s.y1:  # along the trunk: a box that a level line goes through
                b = label.box
                assert not (b.y0 < s.y0 < b.y1 and min(s.x0, s.x1) < b.x1 and b.x0 < max(s.x0, s.x1))
    for x0, y0, x1, y1 in board.boxes_mm(a, on):
        assert x0 >= -1
        assert y0 >= -1
        assert x1 <= on.wide_mm + 1
        assert y1 <= on.high_mm + 1
    for picture in (board.draw(a, link="/x/{}"), board.file_svg(a)):
        root = ET.fromstring(picture)
        assert "spot 0 <&>" in "".join(root.itertext())
    assert board.draw(a, link="/x/{}").count("/x/R") == len(on.pieces)


def test_a_stretch_is_as_long_on_the_sheet_as_it_is():
    a = plan_on_a_tree(3)
    for piece in sheet(a.loom).pieces:
        length = ((piece.x1 - piece.x0) ** 2 + (piece.y1 - piece.y0) ** 2) ** 0.5
        assert length == pytest.approx(a.plan.run(piece.run).length_m * 1000, abs=0.1)
        for x, y in piece.ties:
            along = ((x - piece.x0) ** 2 + (y - piece.y0) ** 2) ** 0.5
            assert along + ((x - piece.x1) ** 2 + (y - piece.y1) ** 2) ** 0.5 == pytest.approx(length, abs=0.1)


def test_two_harnesses_lie_one_below_the_other():
    b = Bench()
    b.lamp()
    far, end = (b.add("place", name=n, ambient_c=40) for n in ("far", "end"))
    b.add("run", a=far, b=end, length_m=0.4)
    b.load(name="first", place=end, feed=b.add("block", name="other", place=far))
    on = sheet(analyse(b.plan).loom)
    assert len({y for _, y in on.at.values()}) > 1


@pytest.mark.parametrize("count", [1, 3, 9, 20])
def test_the_section_draws_every_wire_in_its_colours(count):
    b = Bench()
    for n in range(count):
        b.lamp(5, name=f"lamp {n}")
    a = analyse(b.plan)
    here = a.loom.by_run[b.run]
    root = ET.fromstring(section.draw(a, b.run))
    circles = [e for e in root.iter("{http://www.w3.org/2000/svg}circle") if e.get("class") == "s-wire"]
    assert len(circles) == len(here.wires)
    assert {t.text for t in root.iter("{http://www.w3.org/2000/svg}title")} >= {
        f"{w} {a.plan.wire(w).colour}" for w in here.wires}
