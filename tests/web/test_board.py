"""The board: on screen, on paper at its true size, as DXF and SVG; what cannot be printed."""

import io
import math
import re
import xml.etree.ElementTree as ET
import zlib

import ezdxf
import pytest
from django.urls import reverse

from loadstar.core.analysis import analyse
from loadstar.core.edits import AddElement, ChangeElement, CutWire, apply
from loadstar.core.harness.sheet import sheet
from loadstar.draw.dxf import board_dxf
from loadstar.web.records import store

POINT_MM = 25.4 / 72


def test_the_board_says_what_its_print_takes(bench):
    text = bench("route", view="board").content.decode()
    assert "The harness laid flat" in text
    assert "pages of A4" in text


@pytest.mark.parametrize(("typed", "says"), [("10", "Print it at 100 %"), ("1000", "Print it at 100 %"),
                                             ("wide", "is no number of mm")])
def test_a_bar_that_cannot_be_is_told_beside_its_field(bench, typed, says):
    answer = bench("board-pdf", paper="A4", across=typed, along="99,5")
    assert answer.status_code == 422
    assert says in answer.content.decode()
    assert 'value="99,5"' in answer.content.decode()


def test_a_bar_a_little_off_is_printed(bench):
    answer = bench("board-pdf", paper="A3", across="99,5 mm", along="100")
    assert answer.status_code == 200
    assert answer["Content-Type"] == "application/pdf"


def test_a_reader_may_print_it(bench, shop):
    from django.test import Client
    reader = Client()
    reader.force_login(shop.reader)
    assert reader.get(reverse("board-pdf", args=[shop.workshop.slug, bench.row.pk])).status_code == 200


@pytest.mark.parametrize("query", [{"paper": "A9"}, {"across": "10"}, {"along": "x"}, {"across": "nan"}, {"along": ""}])
def test_a_print_that_cannot_be_is_refused_with_the_form(bench, query):
    answer = bench("board-pdf", **query)
    assert answer.status_code == 422
    assert 'class="error"' in answer.content.decode()


def printed_mm(pdf: bytes) -> list[dict[float, list[tuple[float, float, float, float]]]]:
    """Of every page the straight lines by their stated width, in mm: its own content, followed operator by operator."""
    return [found for packed in re.findall(rb"stream\r?\n(.*?)\r?\nendstream", pdf, re.S)
            if (found := _lines(packed))]


def _lines(packed):
    try:
        words = zlib.decompress(packed).decode("latin1").split()
    except zlib.error:  # an image or font that is packed otherwise
        return None
    if "cm" not in words:
        return None
    found, stack, kept, numbers, width, begun = {}, (1, 0, 0, 1, 0, 0), [], [], 1.0, None
    for word in words:
        try:
            numbers.append(float(word))
            continue
        except ValueError:
            pass
        if word == "q":
            kept.append((stack, width))
        elif word == "Q":
            stack, width = kept.pop()
        elif word == "cm":
            a, b, c, d, e, f = numbers[-6:]
            m = stack
            stack = (a * m[0] + b * m[2], a * m[1] + b * m[3], c * m[0] + d * m[2], c * m[1] + d * m[3],
                     e * m[0] + f * m[2] + m[4], e * m[1] + f * m[3] + m[5])
        elif word == "w":
            width = numbers[-1]
        elif word in ("m", "l"):
            x, y = numbers[-2:]
            here = tuple(POINT_MM * v for v in (stack[0] * x + stack[2] * y + stack[4],
                                                stack[1] * x + stack[3] * y + stack[5]))
            if word == "l" and begun is not None:
                found.setdefault(round(width, 3), []).append((*begun, *here))
            begun = here if word == "m" else None
        numbers = []
    return found


@pytest.mark.parametrize(("paper", "across"), [("A4", 100.0), ("A3", 99.0), ("Letter", 100.0)])
def test_the_trunk_on_paper_is_as_long_as_it_is(bench, paper, across):
    """Measured in what the printed pages say: the centre line of each stretch of the trunk; scaled by 100 over what the
    bar measured."""
    pages = printed_mm(bench("board-pdf", paper=paper, across=str(across)).content)
    on = sheet(analyse(bench.plan).loom, paper)
    trunk = [p for p in on.pieces if p.y0 == p.y1 and p.x1 > p.x0]
    assert len(trunk) >= 3
    for piece in trunk:
        wanted = (piece.x1 - piece.x0) * 100 / across
        lengths = {round(abs(x1 - x0), 3) for lines in pages for x0, y0, x1, y1 in lines.get(0.25, ())
                   if abs(y1 - y0) < 0.01}
        assert any(abs(length - wanted) < 0.2 for length in lengths), (piece.run, wanted, sorted(lengths))
    bars = [abs(x1 - x0) + abs(y1 - y0) for lines in pages for x0, y0, x1, y1 in lines.get(0.3, ())]
    assert sorted(bars) == pytest.approx(sorted([100 * 100 / across, 100]), abs=0.05)


def test_the_dxf_is_read_back_with_every_run_at_its_length(bench):
    drawing = ezdxf.read(io.StringIO(bench("board-dxf").content.decode()))
    assert drawing.header["$INSUNITS"] == 4
    lines = [e for e in drawing.modelspace() if e.dxftype() == "LINE" and e.dxf.layer == "RUNS"]
    lengths = sorted(round((e.dxf.end - e.dxf.start).magnitude, 1) for e in lines)
    assert lengths == sorted(round(b.length_mm, 1) for b in analyse(bench.plan).loom.bundles)
    assert {e.dxf.layer for e in drawing.modelspace()} >= {"RUNS", "PLACES", "LABELS", "TIES", "SCALE",
                                                               "OUTLINES", "NAILS"}
    outlines = [e for e in drawing.modelspace() if e.dxf.layer == "OUTLINES"]
    assert len(outlines) == len(lines) and all(e.dxftype() == "LWPOLYLINE" and e.closed for e in outlines)
    assert {e.dxf.layer for e in drawing.modelspace() if e.dxftype() == "TEXT"} == {"LABELS"}
    assert not drawing.audit().has_errors


def test_connectors_and_splices_are_blocks_in_the_dxf(bench):
    bench.plan = apply(bench.plan, CutWire(id="W10", place="P3"))
    drawing = ezdxf.read(io.StringIO(board_dxf(analyse(bench.plan))))
    blocks = [e for e in drawing.modelspace() if e.dxftype() == "INSERT"]
    sits = sheet(analyse(bench.plan).loom, "A0 roll").sits
    assert sits and sorted(e.attribs[0].dxf.text for e in blocks) == sorted(s.fitting.part.id for s in sits)
    assert all(drawing.blocks[e.dxf.name][0].closed for e in blocks)


def test_a_short_bench_is_printed_with_folds(bench):
    short = bench("board-pdf", paper="A4", bench="1.2")
    assert short.status_code == 200 and short.content != bench("board-pdf", paper="A4").content
    for typed in ("0.2", "x", "400"):
        answer = bench("board-pdf", paper="A4", bench=typed)
        assert answer.status_code == 422 and f'value="{typed}"' in answer.content.decode()


def test_the_dxf_by_a_second_reader(bench):
    """Plain pairs of code and value, as the format has them: the lines of layer RUNS."""
    pairs = bench("board-dxf").content.decode().split("\n")
    codes = [(int(c), v) for c, v in zip(pairs[::2], pairs[1::2], strict=False) if c.strip().lstrip("-").isdigit()]
    lengths, here = [], {}
    for code, value in [*codes, (0, "END")]:
        if code == 0:
            if here.get(0) == "LINE" and here.get(8) == "RUNS":
                x0, x1, y0, y1 = (float(here[c]) for c in (10, 11, 20, 21))
                lengths.append(math.hypot(x1 - x0, y1 - y0))
            here = {}
        here.setdefault(code, value)
    bundles = analyse(bench.plan).loom.bundles
    assert sorted(round(x, 1) for x in lengths) == sorted(round(b.length_mm, 1) for b in bundles)


def test_the_svg_is_in_millimetres(bench):
    picture = ET.fromstring(bench("board-svg").content)
    assert picture.get("width") == f"{sheet(analyse(bench.plan).loom).wide_mm:.1f}mm"


def looped(plan):
    """The demonstration with a second way to the lamp bar, and a wire that takes it."""
    plan = apply(plan, AddElement(what="run", values={"a": "P3", "b": "P7", "length_m": 2.0}))
    run = plan.runs[-1].id
    plan = apply(plan, AddElement(what="junction", values={"name": "star", "place": "P3", "form": "bus bar"}))
    star = plan.of_kind("junction")[-1].id
    load = next(p for p in plan.loads if p.place == "P7")
    return apply(plan, ChangeElement(id=load.id, values={"return_to": star, "returns": "own wire"})), run


def test_a_loop_is_told_with_what_to_leave_out_and_there_is_no_paper_of_it(bench):
    plan, _ = looped(bench.plan)
    assert analyse(plan).loom.cuts
    row = store.take_in(bench.shop.workshop, bench.shop.owner, plan)
    args = [bench.shop.workshop.slug, row.pk]
    text = bench.client.get(reverse("station", args=[*args, "route"]), {"view": "board"}).content.decode()
    assert "form a loop" in text
    assert "Leave it out" in text
    for paper in ("board-pdf", "board-dxf", "board-svg"):
        assert bench.client.get(reverse(paper, args=args)).status_code == 404


def test_another_workshop_s_board_is_no_page(bench, shop):
    from django.contrib.auth import get_user_model
    from django.test import Client
    stranger = Client()
    stranger.force_login(get_user_model().objects.create_user(username="stranger"))
    for name in ("board-pdf", "board-dxf", "board-svg"):
        assert stranger.get(reverse(name, args=[shop.workshop.slug, bench.row.pk])).status_code == 404
