"""Route: runs with what lies in them, the section, the board on screen, on paper and as a file."""

import html
import io
import json
import math
import re
import xml.etree.ElementTree as ET
import zlib

import ezdxf
import pytest
from conftest import make_shop
from django.urls import reverse

from loadstar import demo
from loadstar.core.analysis import analyse
from loadstar.core.edits import AddElement, ChangeElement, RemoveElement, apply
from loadstar.core.harness.sheet import sheet
from loadstar.web.records import store

POINT_MM = 25.4 / 72


@pytest.fixture
def bench(shop):
    """A signed-in client and the address of a paper or page of the demonstration."""
    from django.test import Client
    client = Client()
    client.force_login(shop.owner)
    plan = demo.fit_out()[0]
    row = store.take_in(shop.workshop, shop.owner, plan)

    def at(name, **query):
        args = [shop.workshop.slug, row.pk]
        address = reverse("station", args=[*args, "route"]) if name == "route" else reverse(name, args=args)
        return client.get(address, query)

    at.client, at.row, at.plan, at.shop = client, row, plan, shop
    return at


def test_every_run_is_listed_with_its_bundle(bench):
    text = bench("route").content.decode()
    loom = analyse(bench.plan).loom
    for here in loom.bundles:
        assert f'id="run-{here.run.id}"' in text
        assert f"bundle/{here.run.id}" not in text or here.run.id in text
    assert f"{loom.ties} ties" in text


def test_a_run_that_is_chosen_shows_its_section_and_its_form(bench):
    loom = analyse(bench.plan).loom
    run = max(loom.bundles, key=lambda b: len(b.wires))
    text = bench("route", sel=run.run.id).content.decode()
    assert f"Section of {run.run.id}" in text
    for wire in run.wires:
        assert f"sel={wire}" in text
    assert 'name="edge"' in text
    assert 'name="bore_mm"' in text


def test_the_form_of_a_run_says_what_lies_beside_it(bench):
    run = bench.plan.runs[0]
    address = reverse("station", args=[bench.shop.workshop.slug, bench.row.pk, "route"])
    sent = {"for_kind": "run", "id": run.id, "base": bench.row.head, "a": run.a, "b": run.b, "length_m": "0.5",
            "edge": "open", "slack_mm": "0", "start_deg": "0", "lock_deg": "38", "used": "yes"}
    answer = bench.client.post(f"{address}?sel={run.id}", sent)
    assert answer.status_code == 302, re.findall(r'class="error"[^<]*<|role="alert">[^<]*', answer.content.decode())
    bench.row.refresh_from_db()
    changed = store.load(bench.row).plan
    assert (changed.run(run.id).edge, changed.run(run.id).length_m, changed.run(run.id).used) == ("open", 0.5, True)
    bench.row.refresh_from_db()
    bad = bench.client.post(f"{address}?sel={run.id}", {**sent, "base": bench.row.head, "length_m": "20"})
    assert bad.status_code == 422
    assert "8" in bad.content.decode()


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
    on = sheet(analyse(bench.plan).loom)
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
    assert {e.dxf.layer for e in drawing.modelspace()} == {"RUNS", "PLACES", "LABELS", "TIES", "SCALE"}
    assert not drawing.audit().has_errors


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


def whole(bench, **query) -> str:
    """A comparison once everything has been tried: a look takes a second and a half, and the next goes on."""
    for _ in range(20):
        text = bench("route", **query).content.decode()
        if "being tried" not in text:
            return text
        assert 'x-data="again"' in text and 'name="edit"' not in text.split("<h2>")[1].split("</table>")[0]
    raise AssertionError("it never ends")


def test_every_place_is_tried_for_a_part_and_one_press_takes_it(bench):
    block = next(p for p in bench.plan.parts if p.kind == "block")
    listed = bench("route", view="places").content.decode()
    assert f'id="part-{block.id}"' in listed
    assert "Where should" not in listed
    text = whole(bench, view="places", sel=block.id)
    for place in bench.plan.places:
        assert place.name in text
    assert text.count("Put it there") == len(bench.plan.places) - 1
    assert "moves with the steering" in text
    edit = html.unescape(re.search(r'name="edit" value="([^"]+)"', text.split("Where should")[1])[1])
    answer = bench.client.post(reverse("edit", args=[bench.shop.workshop.slug, bench.row.pk]), {
        "edit": edit, "base": store.load(bench.row).number, "next": "/"})
    assert answer.status_code == 302
    bench.row.refresh_from_db()
    assert store.load(bench.row).plan.part(block.id).place == json.loads(edit)["values"]["place"]


def act(bench, number: int | None = None, **sent):
    """Something put elsewhere on the map."""
    bench.row.refresh_from_db()
    address = reverse("act", args=[bench.shop.workshop.slug, (bench.row.pk), "route", "place"])
    return bench.client.post(address, {"base": number or bench.row.head, **sent})


def now(bench):
    bench.row.refresh_from_db()
    return store.load(bench.row).plan


def test_way_points_are_put_moved_and_taken_out_on_the_map(bench):
    """The point of the picture is where it lies in millimetres, by the picture's own places."""
    text = bench("route", sel="R1").content.decode()
    assert 'id="spot-R1+0"' in text and 'id="spot-R1.0"' not in text
    p = bench.plan.place(bench.plan.run("R1").a)
    x, y = (float(re.search(rf'data-place="{p.id}".*?{c}="([\d.]+)"', text)[1]) for c in ("cx", "cy"))
    assert act(bench, id="R1+0", x=x, y=y).status_code == 302
    point = now(bench).run("R1").points[0]
    assert (point.x_mm, point.y_mm) == (pytest.approx(p.x_mm, abs=2), pytest.approx(p.y_mm, abs=2))
    assert act(bench, id="R1.0", x=x + 20, y=y).status_code == 302
    moved = now(bench).run("R1").points
    assert len(moved) == 1 and moved[0].x_mm > point.x_mm + 20
    text = bench("route", sel="R1").content.decode()
    assert 'id="spot-R1.0"' in text and "Take out way point 1" in text
    step = float(re.search(r'data-step="([\d.]+)"', text)[1])
    assert act(bench, id="R1.0", x=x + 20 + step, y=y).status_code == 302
    assert now(bench).run("R1").points[0].x_mm == pytest.approx(moved[0].x_mm + 10, abs=1)


@pytest.mark.parametrize(("sent", "status", "words"), [
    ({"id": "R1.5", "x": 200, "y": 200}, 422, "no way point 6"), ({"id": "R1+0", "x": 4000, "y": 200}, 422, "at most"),
    ({"id": "R99+0", "x": 200, "y": 200}, 422, "no run R99"), ({"id": "R1+0", "x": "left", "y": 2}, 404, "")])
def test_a_way_point_that_cannot_be_is_told(bench, sent, status, words):
    answer = act(bench, **sent)
    assert answer.status_code == status
    assert words in html.unescape(answer.content.decode())
    assert now(bench) == bench.plan


def test_a_wire_is_told_another_way(bench):
    plan, wire = bench.plan, next(w.id for w in bench.plan.wires if w.b == "L1.pos")
    longer = apply(plan, AddElement(what="run", values={"a": plan.run("R3").b, "b": plan.run("R3").a, "length_m": 0.9,
                                                        "edge": "open"}))
    bench.row = store.take_in(bench.shop.workshop, bench.shop.owner, longer)
    address = reverse("station", args=[bench.shop.workshop.slug, bench.row.pk, "route"])
    text = html.unescape(bench.client.get(address, {"sel": wire}).content.decode())
    new = longer.runs[-1].id
    assert f"Ways of {wire}" in text and f"{new}: a sharp edge, nothing done yet" in text
    assert "tell_way" in text
    way = re.search(rf'"way": \[([^]]*{new}[^]]*)\]', text)[1]
    sent = {"edit": json.dumps({"kind": "tell_way", "ids": [wire], "way": json.loads(f"[{way}]")}),
            "base": bench.row.head, "next": address}
    assert bench.client.post(reverse("edit", args=[bench.shop.workshop.slug, bench.row.pk]), sent).status_code == 302
    assert new in now(bench).wire(wire).way
    assert "It is told its way" in bench.client.get(address, {"sel": wire}).content.decode()


def test_returns_to_join_are_ticked(bench):
    text = bench("route", view="returns").content.decode()
    assert text.count('name="load"') == len(bench.plan.loads)
    assert "Tick at least two" in bench("route", view="returns", load="L1").content.decode()
    assert "Tick at least two" in bench("route", view="returns", load=["L1", "L99"]).content.decode()
    text = html.unescape(whole(bench, view="returns", load=["L1", "L2"]))
    assert f"All {len(bench.plan.places) + 1} tried" in text
    assert "each for itself" in text and text.count("Join them there") == len(bench.plan.places)


def test_it_is_weighed_against_a_revision_and_another_plan_of_the_workshop_only(bench):
    store.edit(bench.row, bench.shop.owner, bench.row.head, RemoveElement(id="L1"))
    other = store.take_in(bench.shop.workshop, bench.shop.owner, demo.winter()[0])
    text = html.unescape(bench("route", view="weigh").content.decode())
    assert "Revision 1" in text and f'value="p{other.pk}"' in text
    before, after = analyse(bench.plan).loom, analyse(now(bench)).loom
    text = html.unescape(bench("route", view="weigh", against="r1").content.decode())
    assert f"−{before.total_g - after.total_g:.0f}\xa0g" in text
    assert bench("route", view="weigh", against=f"p{other.pk}").status_code == 200
    strange = store.take_in(make_shop("estuary").workshop, bench.shop.owner, demo.winter()[0])
    for against in (f"p{strange.pk}", "r99", "x1", "p0", "r"):
        assert bench("route", view="weigh", against=against).status_code == 404


def test_what_came_off_is_weighed(bench):
    plan = demo.tide_race()[0]
    row = store.take_in(bench.shop.workshop, bench.shop.owner, plan)
    address = reverse("station", args=[bench.shop.workshop.slug, row.pk, "route"])
    text = html.unescape(bench.client.get(address, {"view": "weigh"}).content.decode())
    assert "2\u202f490\xa0g weighed, 310\xa0g estimated" in text or "2490\xa0g weighed, 310\xa0g estimated" in text
