"""The board and the section as pictures: well formed, escaped, labels clear of one another and of the harness."""

import itertools
import math
import random
import xml.etree.ElementTree as ET

import pytest
from builders import Bench
from sweeps import seeds

from loadstar.core.analysis import analyse
from loadstar.core.harness.sheet import sheet
from loadstar.draw import board, section
from loadstar.draw.labels import Box

ROUNDED_PX = 0.25  # coordinates and radii are written to a tenth


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


def crosses(box, line):
    """Whether a line goes through a box: it is followed in steps of a quarter of a millimetre."""
    (x0, y0, x1, y1), steps = line, max(2, int(4 * math.dist(line[:2], line[2:])))
    return any(box.x0 < x0 + (x1 - x0) * i / steps < box.x1 and box.y0 < y0 + (y1 - y0) * i / steps < box.y1
               for i in range(steps + 1))


@pytest.mark.parametrize("seed", seeds(20))
def test_words_overlap_nothing_and_are_whole_on_a_page(seed):
    """Twenty plans (LOADSTAR_SWEEP=10 for two hundred)."""
    a, paper = plan_on_a_tree(seed), ("A4", "A3", "A5", "Letter")[seed % 4]
    plot = board.plotted(a, paper)
    on, pages = plot.sheet, plot.pages
    put = [p for p in plot.words.values() if p]
    assert len(put) == len(plot.words)
    whole = [Box(t.x_mm, t.y_mm, t.x_mm + pages.wide_mm, t.y_mm + pages.high_mm) for t in pages.tiles]
    leaders = [(p, p.leader) for p in put if p.leader]
    for one, two in itertools.combinations(put, 2):
        assert not one.box.overlaps(two.box)
    for label in put:
        assert any(label.box.within(page) for page in whole)
        assert not any(crosses(label.box, (s.x0, s.y0, s.x1, s.y1)) for s in on.pieces)
        assert not any(crosses(label.box, line) for other, line in leaders if other is not label)
        assert label.box.within(Box(0, 0, on.wide_mm, on.high_mm))
    for s in on.pieces:  # every point of every outline is on a page
        (x0, y0), (x1, y1), *_ = s.outline
        for i in range(101):
            x, y = x0 + (x1 - x0) * i / 100, y0 + (y1 - y0) * i / 100
            assert any(page.x0 <= x <= page.x1 and page.y0 <= y <= page.y1 for page in whole)


@pytest.mark.parametrize("seed", seeds(20))
def test_the_board_is_drawn_whole(seed):
    a = plan_on_a_tree(seed)
    on = sheet(a.loom)
    for picture in (board.draw(a, link="/x/{}"), board.file_svg(a)):
        root = ET.fromstring(picture)
        assert "spot 0 <&>" in "".join(root.itertext())
    assert board.draw(a, link="/x/{}").count("/x/R") == len(on.pieces)


@pytest.mark.parametrize("bench_mm", [600.0, 1200.0, 2000.0])
@pytest.mark.parametrize("seed", seeds(6))
def test_a_short_board_folds_the_longest_and_says_how_much(seed, bench_mm):
    a = plan_on_a_tree(seed)
    long, plot = sheet(a.loom), board.plotted(a, bench_mm=bench_mm)
    as_drawn = {s.run: math.dist((s.x0, s.y0), (s.x1, s.y1)) for s in plot.sheet.pieces}
    for s in plot.sheet.pieces:
        true_mm = a.loom.by_run[s.run].length_mm
        assert as_drawn[s.run] + s.folded_mm == pytest.approx(true_mm, abs=0.5)
        said = plot.words[s.run].label.lines
        assert f"{true_mm:.0f} mm" in said[0]
        assert (f"fold {s.folded_mm:.0f} mm here, radius {10 * s.thick_mm:.0f} mm or more" in said) == (s.folded_mm > 0)
        assert s.folded_mm == 0 or as_drawn[s.run] >= 150 - 1e-6
    trunk = max(sum(math.dist(b.at[m], b.at[n]) for m, n in itertools.pairwise(b.trunk)) for b in a.loom.boards)
    if trunk <= bench_mm - 80:
        assert not any(s.folded_mm for s in plot.sheet.pieces) or plot.sheet.wide_mm < long.wide_mm
    on_trunk = [s for s in plot.sheet.pieces if s.y0 == s.y1 and s.x1 > s.x0]
    least = sum(min(150.0, a.loom.by_run[s.run].length_mm) for s in on_trunk)
    assert sum(as_drawn[s.run] for s in on_trunk) <= max(bench_mm - 80, least) + 1e-6


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


@pytest.mark.parametrize("count", [1, 3, 9, 20, 30])
def test_the_section_draws_every_wire_in_its_colours_and_none_in_another(count):
    """Up to sixty wires, thick and thin."""
    b = Bench()
    for n in range(count):
        b.lamp((5, 60)[n % 5 == 0], name=f"lamp {n}")
    a = analyse(b.plan)
    here = a.loom.by_run[b.run]
    root = ET.fromstring(section.draw(a, b.run))
    circles = [e for e in root.iter("{http://www.w3.org/2000/svg}circle") if e.get("class") == "s-wire"]
    assert len(circles) == len(here.wires)
    assert {t.text for t in root.iter("{http://www.w3.org/2000/svg}title")} >= {
        f"{w} {a.plan.wire(w).colour}" for w in here.wires}
    at = [tuple(float(e.get(name)) for name in ("cx", "cy", "r")) for e in circles]
    assert not [(one, other) for one, other in itertools.combinations(at, 2)
                if math.hypot(one[0] - other[0], one[1] - other[1]) < one[2] + other[2] - ROUNDED_PX]
    cover = [e for e in root.iter("{http://www.w3.org/2000/svg}circle") if e.get("class") == "s-cover"]
    for x, y, r in at if cover else ():
        out = math.hypot(x - float(cover[0].get("cx")), y - float(cover[0].get("cy"))) + r
        assert out <= float(cover[0].get("r")) + ROUNDED_PX
