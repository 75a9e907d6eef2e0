"""Parts of papers by themselves: marks on the pages of a board, page numbers, slices, departures from house rules."""

import re
import subprocess
from io import BytesIO
from types import SimpleNamespace

import pytest
from conftest import make_shop
from django.test import Client
from pikepdf import Name, Pdf
from web.pdf_tags import lacks

from loadstar import demo
from loadstar.core.analysis import analyse
from loadstar.core.edits import CutWire, SetRules, apply
from loadstar.core.harness.tiling import OVERLAP_MM
from loadstar.web.papers import board, machine
from loadstar.web.papers.binding import bind, pages_of
from loadstar.web.papers.press import Foot, pressed


def frame(plan=None):
    a = analyse(plan or demo.fit_out()[0])
    return SimpleNamespace(analysis=a, plan=a.plan, findings=a.findings)


@pytest.mark.parametrize(("across", "along"), [(1.0, 1.0), (1.25, 0.8)])
def test_every_page_of_a_board_has_four_crosses_in_the_middle_of_its_overlap(across, along):
    """Sheets are laid one on another by them: they sit where the next page's sit too, whatever the print's scale."""
    pages = board.plot_of(frame(), board.Print("A4", across, along)).pages
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
    usual, wide = (board.plot_of(frame(), board.Print("A4", *scale)).pages for scale in ((1, 1), (2, 2)))
    assert len(wide.tiles) > 1.5 * len(usual.tiles)
    right, down = (max(getattr(t, at) for t in wide.tiles) / max(getattr(t, at) for t in usual.tiles)
                   for at in ("x_mm", "y_mm"))
    assert 1.4 < right < 3.1 and 1.4 < down < 3.1


def test_the_bars_of_the_test_page_are_scaled_as_the_board_is():
    pages = board.plot_of(frame(), board.Print("A4")).pages
    seen = board.bars_svg(pages, board.Print("A4", 1.01, 0.98))
    lines = re.findall(r'x1="([\d.]+)" y1="([\d.]+)" x2="([\d.]+)" y2="([\d.]+)"', seen)
    across, along = (tuple(float(c) - float(a) for a, c in (one[::2], one[1::2])) for one in lines)
    assert across == (pytest.approx(1.01 * board.BAR_MM), 0) and along == (0, pytest.approx(0.98 * board.BAR_MM))
    assert f"{board.BAR_MM:g} mm across" in seen and f"{board.BAR_MM:g} mm along" in seen


def words_on(data: bytes) -> list[str]:
    """The words of each page, as pdftotext reads them."""
    told = subprocess.run(["pdftotext", "-layout", "-", "-"], input=data, capture_output=True, check=True).stdout
    return told.decode().split("\f")[:-1]


def paper(words: str, pages: int, size: str = "A4") -> bytes:
    """A tagged paper of so many pages, each with a heading and a link."""
    leaves = "".join(f'<section style="break-before: page"><h1>{words} {n}</h1><p><a href="https://example.org/{n}">'
                     "on</a></p></section>" for n in range(pages))
    return pressed(f'<html lang="en"><head><title>{words}</title><meta name="author" content="us"><meta '
                   f'name="dcterms.created" content="2026-12-02"></head><body>{leaves}</body></html>',
                   f"@page {{ size: {size}; }}")


def test_every_page_of_a_bound_paper_has_its_foot_and_all_its_tags():
    foot = Foot("Marsh tourer, Fit-out", "revision 5, plan, 2 December 2026")
    bound = bind([paper("first", 2), paper("second", 3, "A4 landscape"), paper("third", 1)], foot, [("Third", 5)])
    assert pages_of(bound) == 6 and lacks(bound) == []
    read = words_on(bound)
    for n, (page, head) in enumerate(zip(read, ("first 0", "first 1", "second 0", "second 1", "second 2", "third 0"),
                                         strict=True), 1):
        assert head in page and f"page {n} of 6" in page and foot.of in page and foot.revision in page
    with Pdf.open(BytesIO(bound)) as book:
        kinds = [str(kid.K[0].S) for kid in book.Root.StructTreeRoot.K[0].K]
        assert kinds == ["/H1"] * 6 and len(book.open_outline().root) == 1
        wide = [float(page.mediabox[2]) > float(page.mediabox[3]) for page in book.pages]
    assert wide == [False, False, True, True, True, False]


def test_a_paper_without_tags_is_told_from_one_with_them():
    bare = pressed("<html><body><p>words</p></body></html>", tagged=False)
    with Pdf.open(BytesIO(bare)) as book:
        assert "/StructTreeRoot" not in book.Root
    with Pdf.open(BytesIO(paper("one", 1))) as book:
        book.pages[0].contents_add(b"BT ET 0 0 5 5 re f")
        book.Root.StructTreeRoot.K[0].K[0].K[0].S = Name("/H2")
        out = BytesIO()
        book.save(out)
    told = lacks(out.getvalue())
    assert "page 1: shows something that is in no tag" in told and "its first heading is /H2" in told


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


def test_connectors_of_the_harness_alone_have_a_pin_map_and_a_plan_without_any_has_none(db):
    plan = demo.fit_out()[0]
    lamp = next(w for w in plan.wires if w.b == "L1.pos")
    for name, shown, there in (("Bare", plan, 404), ("Pins", apply(plan, CutWire(id=lamp.id, place="P1")), 200)):
        shop, client = make_shop(name, shown), Client()
        client.force_login(shop.owner)
        address = shop.url("pin-maps.pdf")
        answer = client.get(address)
        assert answer.status_code == there
        assert (answer.content[:5] == b"%PDF-") == (there == 200)
        assert (address in client.get(shop.url("handover/")).content.decode()) == (there == 200)
        assert (address in client.get(shop.url("ends/?view=connectors")).content.decode()) == (there == 200)
