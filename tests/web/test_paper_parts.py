"""Parts of papers by themselves: marks on the pages of a board, page numbers, slices, departures from house rules."""

import re
from io import BytesIO
from types import SimpleNamespace

import pytest
from pikepdf import Pdf

from loadstar import demo
from loadstar.core.analysis import analyse
from loadstar.core.edits import SetRules, apply
from loadstar.core.harness.tiling import OVERLAP_MM
from loadstar.web.papers import board, machine
from loadstar.web.papers.numbers import number_pages


def frame(plan=None):
    a = analyse(plan or demo.fit_out()[0])
    return SimpleNamespace(analysis=a, plan=a.plan, findings=a.findings)


@pytest.mark.parametrize(("across", "along"), [(1.0, 1.0), (1.25, 0.8)])
def test_every_page_of_a_board_has_four_crosses_in_the_middle_of_its_overlap(across, along):
    """Sheets are laid one on another by them: they sit where the next page's sit too, whatever the print's scale."""
    pages = board.tiling_of(frame(), board.Print("A4", across, along))
    seen = board.page_svg("", pages, pages.tiles[0])
    lines = [tuple(map(float, one)) for one in
             re.findall(r'x1="([\d.]+)" y1="([\d.]+)" x2="([\d.]+)" y2="([\d.]+)"', seen)]
    assert len(lines) == 8
    middles = {((a + c) / 2, (b + d) / 2) for a, b, c, d in lines}
    near = OVERLAP_MM / 2
    assert middles == {(x, y) for x in (near, pages.wide_mm - near) for y in (near, pages.high_mm - near)}
    assert {(round(c - a, 2), round(d - b, 2)) for a, b, c, d in lines} == {(2 * board.CROSS_MM, 0),
                                                                           (0, 2 * board.CROSS_MM)}


def test_a_board_scaled_for_its_printer_takes_pages_for_its_scaled_size():
    usual, wide = (board.tiling_of(frame(), board.Print("A4", *scale)) for scale in ((1, 1), (2, 2)))
    assert len(wide.tiles) > 1.5 * len(usual.tiles)
    right, down = (max(getattr(t, at) for t in wide.tiles) / max(getattr(t, at) for t in usual.tiles)
                   for at in ("x_mm", "y_mm"))
    assert 1.4 < right < 3.1 and 1.4 < down < 3.1


def test_the_bars_of_the_test_page_are_scaled_as_the_board_is():
    pages = board.tiling_of(frame(), board.Print("A4"))
    seen = board.bars_svg(pages, board.Print("A4", 1.01, 0.98))
    lines = re.findall(r'x1="([\d.]+)" y1="([\d.]+)" x2="([\d.]+)" y2="([\d.]+)"', seen)
    across, along = (tuple(float(c) - float(a) for a, c in (one[::2], one[1::2])) for one in lines)
    assert across == (pytest.approx(1.01 * board.BAR_MM), 0) and along == (0, pytest.approx(0.98 * board.BAR_MM))
    assert f"{board.BAR_MM:g} mm across" in seen and f"{board.BAR_MM:g} mm along" in seen


def test_page_numbers_end_at_one_margin_at_the_foot():
    """Helvetica's published widths: 556 thousandths of an em for a figure and all letters here but f and the blank,
    278."""
    book = Pdf.new()
    for _ in range(12):
        book.add_blank_page(page_size=(595, 842))
    number_pages(book)
    kept = BytesIO()
    book.save(kept)
    for n, page in enumerate(Pdf.open(kept).pages, 1):
        text = b"".join(part.read_bytes() for part in page.Contents).decode()
        size, x, y, words = re.search(r" ([\d.]+) Tf .* ([\d.]+) ([\d.]+) Td \((.*)\) Tj", text).groups()
        assert words == f"page {n} of 12" and y == "17.0" and size == "8.0"
        thin = words.count(" ") + words.count("f")
        assert float(x) + 8 * (0.278 * thin + 0.556 * (len(words) - thin)) == pytest.approx(595 - 34, abs=0.01)


@pytest.mark.parametrize(("rows", "slices"), [
    (0, [(0, True, 1)]), (30, [(0, True, 1)]), (31, [(0, True, 2)]), (450, [(0, True, 15)]),
    (451, [(0, False, 15), (1, True, 1)]), (950, [(0, False, 15), (1, False, 15), (2, True, 2)])])
def test_a_long_paper_is_laid_out_in_slices(monkeypatch, rows, slices):
    """450 wires at once, 31 on a page."""
    monkeypatch.setitem(machine.LONG, "cut", machine.Long("wires", lambda f: rows, 450, 31))
    found = machine.slices(frame(), "cut")
    assert [(s.number, s.last, pages) for s, pages in found] == slices and {s.paper for s, _ in found} == {"cut"}


def test_a_house_rule_that_was_left_is_listed_whichever_way_it_was():
    plan = demo.fit_out()[0]
    assert machine.MAKES["rests"](frame(plan))["departs"] == []
    usual = plan.workshop_rules.drop_lamp_frac
    for now in (usual / 2, usual * 2):
        left = apply(plan, SetRules(values={"drop_lamp_frac": now}))
        (told,) = machine.MAKES["rests"](frame(left))["departs"]
        assert (told["words"], told["now"], told["usual"]) == ("drop lamp", pytest.approx(now), usual)
