"""The circuit drawing by coordinates: everything on it, once; no words on words, no line through a symbol."""

from itertools import combinations

import pytest
from reference.switched import switched
from sweeps import seeds

from loadstar import demo
from loadstar.core.analysis import analyse
from loadstar.draw import feedtree, schematic
from loadstar.draw.labels import Box
from loadstar.draw.svg import Look


def crosses(line: feedtree.Line, box: Box) -> bool:
    """Whether an upright or level line goes through the inside of a box."""
    x0, x1 = sorted((line.x0, line.x1))
    y0, y1 = sorted((line.y0, line.y1))
    return x0 < box.x1 - 1 and x1 > box.x0 + 1 and y0 < box.y1 - 1 and y1 > box.y0 + 1


def overlap(a: Box, b: Box) -> bool:
    return a.x0 < b.x1 - 0.5 and b.x0 < a.x1 - 0.5 and a.y0 < b.y1 - 0.5 and b.y0 < a.y1 - 0.5


def check(analysis) -> None:
    sheets = feedtree.sheets(analysis)
    for sheet in sheets:
        words = [w for w in sheet.words if w.text]
        words += [w for c in sheet.cells for w in schematic.labels(analysis, c) if w.text]
        assert not [(a.text, b.text) for a, b in combinations(words, 2) if overlap(a.box, b.box)]
        symbols = [c.box for c in sheet.cells] + [leaf.box for leaf in sheet.leaves]
        assert not [(line, box) for line in sheet.lines for box in symbols if crosses(line, box)]
        assert not [(a, b) for a, b in combinations(symbols, 2) if overlap(a, b)]
        assert not [w.text for w in words for line in sheet.lines if line.x0 == line.x1 and crosses(line, w.box)]
        assert all(w.box.x0 >= 0 and w.box.x1 <= sheet.width for w in words)
        elements = [c.link.element for c in sheet.cells]
        assert len(elements) == len(set(elements))
    complete = [p.id for p in analysis.plan.loads if analysis.path(p.id).complete]
    assert {leaf.part for s in sheets for leaf in s.leaves} >= set(complete)
    on_it = {c.link.element for s in sheets for c in s.cells}
    for load in complete:
        assert {k.element for k in analysis.path(load).links} <= on_it


@pytest.mark.parametrize("make", demo.PLANS, ids=lambda m: m.__name__)
def test_the_demonstration_s_drawings(make):
    check(analyse(make()[0]))


@pytest.mark.parametrize("seed", seeds(3))
@pytest.mark.parametrize("machine", ["battery", "pack", "magneto"])
def test_drawings_of_random_plans(machine, seed):
    """Nine plans (LOADSTAR_SWEEP=12 for over a hundred)."""
    check(analyse(switched(machine, seed)))


def test_what_is_shared_is_drawn_once_and_returns_have_their_own_sheet():
    a = analyse(demo.fit_out()[0])
    first, second = feedtree.sheets(a)
    assert [c.link.element for c in first.cells].count("W1") == 1
    assert [c.link.element for c in second.cells] == ["W3"]
    assert "returns at B1.ret" in [w.text for w in second.words]
    kinds = {leaf.part: leaf.kind for leaf in first.leaves}
    assert kinds["L2"] == "lamp" and kinds["L1"] == "load" and kinds["K1"] == "coil"


def test_a_picture_leads_to_every_element_on_screen_and_carries_its_ink_on_paper():
    a = analyse(demo.fit_out()[0])
    sheet = feedtree.sheets(a)[0]
    screen = schematic.draw(a, sheet, 1, 2, Look("/to/{}"))
    for element in ("W1", "F2", "K1", "L3"):
        assert f'href="/to/{element}"' in screen
    paper = schematic.draw(a, sheet, 1, 2, Look(paper=True))
    assert "href" not in paper and "class=" not in paper and "sheet 1 of 2" in paper
    assert feedtree.sheets(analyse(demo.as_found()[0])) == []
