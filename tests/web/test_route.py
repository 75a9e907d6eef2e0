"""Route: runs with what lies in them, the section, the board on screen, on paper and as a file."""

import html
import json
import re

import pytest
from conftest import make_shop
from django.urls import reverse

from loadstar import demo
from loadstar.core.analysis import analyse
from loadstar.core.edits import AddElement, RemoveElement, apply
from loadstar.web.records import store


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
    assert 'id="spot-R1.0"' in text and "Remove way point 1" in text
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
