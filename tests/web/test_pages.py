"""Pages: who may see them, what bad input gets, how many queries they ask, units, papers."""

import json
import re
from pathlib import Path

import pytest
from asked import LOAD, filled, on
from conftest import make_shop
from django.db import OperationalError, connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from judgement.paths import PATHS

from loadstar import demo
from loadstar.core.plan import document
from loadstar.core.plan.model import Plan
from loadstar.web.frame.registry import STATIONS
from loadstar.web.plans.models import PlanHead, Revision
from loadstar.web.records import store

pytestmark = pytest.mark.django_db


@pytest.mark.parametrize("station", STATIONS)
@pytest.mark.parametrize("state", ["parked", "cranking", "idle"])
def test_stations_answer_in_every_kind_of_state(inside, shop, station, state):
    answer = inside.get(shop.url(f"{station}/?state={state}"))
    assert answer.status_code == 200
    body = answer.content.decode()
    assert "style=" not in body
    assert not re.search(r"<script(?![^>]*src=)", body)
    assert "nan" not in re.sub(r"<[^>]+>", " ", body).lower().split()


@pytest.mark.parametrize("tail",
                         [*(f"{s}/" for s in STATIONS), "", "history/", "find/?q=lamp", "plan.json", "card/L1.pdf",
                                  "working/?key=parked"])
def test_another_workshop_s_plan_is_not_there(client, shop, tail):
    stranger = make_shop("Upland")
    client.force_login(stranger.owner)
    assert client.get(shop.url(tail)).status_code == 404
    # Nor under one's own workshop's name.
    assert client.get(f"/w/{stranger.workshop.slug}/p/{shop.row.pk}/{tail}").status_code == 404


@pytest.mark.parametrize("tail", ["edit/", "undo/", "redo/", "loads/"])
def test_another_workshop_s_plan_cannot_be_changed(client, shop, tail):
    client.force_login(make_shop("Upland").owner)
    assert client.post(shop.url(tail), filled(shop)).status_code == 404
    assert PlanHead.objects.get(pk=shop.row.pk).head == 1


def test_nobody_is_sent_to_sign_in(client, shop):
    for tail in ("loads/", "plan.json"):
        answer = client.get(shop.url(tail))
        assert answer.status_code == 302
        assert answer.url.startswith("/sign-in/")


def test_readers_look_and_do_not_touch(client, shop):
    client.force_login(shop.reader)
    body = client.get(shop.url("loads/?sel=L1")).content.decode()
    assert "Add an accessory" not in body
    assert "form-send" not in body
    for tail, data in (("loads/", filled(shop)), ("edit/", {"edit": "{}"}), ("undo/", {})):
        assert client.post(shop.url(tail), data).status_code == 403


@pytest.mark.parametrize("path",
                         ["circuits/?sel=ZZ9", "circuits/?state=lunch", "budget/?off=L99,,x", "loads/?add=dragon",
                                  "survey/?sel=%3Cscript%3E", "loads/?sel=W1"])
def test_strange_addresses_are_no_trouble(inside, shop, path):
    assert inside.get(shop.url(path)).status_code == 200


@pytest.mark.parametrize("path", ["moon/", "working/?key=nonsense", "working/", "card/L99.pdf", "card/W1.pdf"])
def test_what_is_not_there_is_404(inside, shop, path):
    assert inside.get(shop.url(path)).status_code == 404


def test_export_and_import_elsewhere(client, shop):
    client.force_login(shop.technician)
    exported = client.get(shop.url("plan.json")).content
    other = make_shop("Upland")
    client.force_login(other.technician)
    from django.core.files.uploadedfile import SimpleUploadedFile
    answer = client.post(f"/w/{other.workshop.slug}/import/", {"file": SimpleUploadedFile("p.json", exported)})
    assert answer.status_code == 302
    row = PlanHead.objects.filter(workshop=other.workshop).latest("pk")
    assert client.get(f"/w/{other.workshop.slug}/p/{row.pk}/plan.json").content == exported


@pytest.mark.parametrize(("content", "said"), [
    (b"{", "breaks off"), (b" " * (9 * 1024 * 1024), "Loadstar reads plans of up to 8 MB"),
    (json.dumps({"format": "loadstar-plan", "version": 99}).encode(), "of version 99"),
    (json.dumps({"format": "loadstar-plan", "version": 1, "parts": [{}] * 50_000}).encode(), "50,000 parts")])
def test_import_of_what_is_no_plan(inside, shop, content, said):
    from django.core.files.uploadedfile import SimpleUploadedFile
    before = PlanHead.objects.count()
    answer = inside.post(f"/w/{shop.workshop.slug}/import/", {"file": SimpleUploadedFile("p.json", content)})
    assert answer.status_code == 422
    assert said in answer.content.decode()
    assert PlanHead.objects.count() == before


def test_import_without_a_file(inside, shop):
    answer = inside.post(f"/w/{shop.workshop.slug}/import/", {})
    assert "Choose a plan file first" in answer.content.decode()


def test_a_plan_from_nothing_through_the_pages(inside, shop):
    answer = inside.post(f"/w/{shop.workshop.slug}/begin/", {"name": "Spring refit", "size": "empty"})
    row = PlanHead.objects.get(summary__name="Spring refit")
    base = f"/w/{shop.workshop.slug}/p/{row.pk}/"

    def send(**data) -> None:
        row.refresh_from_db()
        found = inside.post(base + "survey/", {"id": "", **data, "base": str(row.head)})
        assert found.status_code == 302, found.content.decode()[found.content.decode().find('class="error"'):][:300]
    assert answer.url.startswith(base.rstrip("/"))
    send(for_kind="machine", id="machine", name="Old roadster", kind="motorcycle", idle_rpm="1200", town_rpm="3000",
         cruise_rpm="5000", cranking_a="100")
    send(for_kind="place", name="box", x_mm="0", y_mm="0", ambient_c="40")
    send(for_kind="place", name="nose", x_mm="1200", y_mm="0", ambient_c="40")
    send(for_kind="run", a="P1", b="P2", length_m="1.1", ambient_c="")
    send(for_kind="battery", name="battery", place="P1", chemistry="agm", capacity_ah="10", rate_h="10",
         internal_mohm="15",
         charge_frac="80", charge_a="1")
    send(for_kind="generator", name="generator", place="P1", phases="3", rating1_w="100", rating1_rpm="1200",
         rating2_w="280", rating2_rpm="5000", rating_v="14.2", phase_ohm="0.3", diode_v="0.95", regulator="shunt",
         set_v="14.2", limit_a="")
    send(for_kind="tap", name="key wire", place="P1", live="key", rated_a="3", fused_a="5", source_mohm="60",
         wire_colour="")
    send(for_kind="block", name="block", place="P1", ways="6")
    send(for_kind="own", name="ignition", place="P1", power_w="60", live="engine")
    row.refresh_from_db()
    found = inside.post(base + "loads/", {**LOAD, "place": "P2", "feed": "B1", "base": str(row.head)})
    assert found.status_code == 302
    plan = store.load(PlanHead.objects.get(pk=row.pk)).plan
    assert isinstance(plan, Plan)
    assert plan.generator.limit_a is None
    assert inside.get(base + "circuits/").status_code == 200


def test_a_name_for_a_plan_is_needed(inside, shop):
    answer = inside.post(f"/w/{shop.workshop.slug}/begin/", {"name": "  ", "size": "empty"})
    assert answer.status_code == 422
    assert "An empty plan needs a name." in answer.content.decode()


def test_a_station_where_nothing_is_found_says_whether_it_was_begun(inside, shop):
    def marks(row):
        shown = inside.get(on(shop, row, "survey/")).content.decode()
        found = re.findall(r'id="station-(\w+)".*?<span class="mark">\s*(.*?)\s*</span>', shown, re.DOTALL)
        return {station: words for station, words in found if "sev" not in words}

    bare = marks(store.begin(shop.workshop, shop.technician, store.empty(shop.workshop, "Bare")))
    whole = marks(store.begin(shop.workshop, shop.technician, demo.winter()[0]))
    assert {bare[s] for s in ("loads", "circuits", "route", "ends")} == {"nothing yet"}, bare
    assert {whole[s] for s in ("loads", "circuits", "ends")} == {"clear"}


def test_the_bench_keeps_the_days_that_were_worked_out(shop):
    summary = PlanHead.objects.select_related("summary").get(pk=shop.row.pk).summary
    assert summary.parked_days == pytest.approx(store.load(shop.row).analysis.parked.days)


def test_the_circuit_card_is_a_pdf_of_one_page(inside, shop, tmp_path: Path):
    import subprocess
    answer = inside.get(shop.url("card/L2.pdf?state=idle"))
    assert answer["Content-Type"] == "application/pdf"
    path = tmp_path / "card.pdf"
    path.write_bytes(answer.content)
    info = subprocess.run(["pdfinfo", str(path)], capture_output=True, text=True, check=True).stdout
    assert re.search(r"Pages:\s+1\b", info)
    said = subprocess.run(["pdftotext", "-layout", str(path), "-"], capture_output=True, text=True, check=True).stdout
    plan = store.load(shop.row)
    fuse = next(p for p in plan.plan.parts if p.kind == "fuse" and p.made_for == "L2")
    assert re.search(rf"{re.escape(fuse.name)}\s+blade fuse {plan.analysis.ratings.rating_a(fuse.id):g}\s*A", said)
    for words in ("Left fog lamp", "revision 1", "Expected readings", "Cut length", "does not certify", "W10"):
        assert words in said, words


def count_queries(client, url: str) -> int:
    """Queries of one page, after the process has warmed up."""
    client.get(url)
    with CaptureQueriesContext(connection, ) as queries:
        assert client.get(url).status_code == 200
    return len(queries)


@pytest.mark.parametrize("page", ["bench", *STATIONS])
def test_queries_do_not_grow_with_plans_parts_or_revisions(inside, shop, page):
    from loadstar.core.edits import CopyLoad
    url = f"/w/{shop.workshop.slug}/" if page == "bench" else shop.url(f"{page}/")
    before = count_queries(inside, url)
    for _ in range(3):
        store.edit(shop.row, shop.technician, shop.row.head, CopyLoad(id="L2"))
        store.take_in(shop.workshop, shop.technician, store.load(shop.row).plan)
    assert count_queries(inside, url) == before
    assert before <= 8


@pytest.mark.django_db(transaction=False)
def test_a_stopped_database_keeps_what_was_sent(client, shop, monkeypatch):
    client.force_login(shop.technician)
    client.raise_request_exception = False

    def away(*_args, **_kwargs):
        raise OperationalError(2013, "Lost connection")
    monkeypatch.setattr(store, "edit", away)
    answer = client.post(shop.url("loads/"), filled(shop, name="Heated <visor>"))
    body = answer.content.decode()
    assert answer.status_code == 503
    assert "The database is away" in body
    assert 'name="name" value="Heated &lt;visor&gt;"' in body
    assert f'action="{shop.url("loads/")}"' in body
    monkeypatch.undo()
    fields = dict(re.findall(r'<input type="hidden" name="([^"]+)" value="([^"]*)"', body))
    assert client.post(shop.url("loads/"), {**fields, "name": "Heated visor"}).status_code == 302


def test_a_fault_of_ours_is_a_page_without_a_trace(client, shop, monkeypatch):
    client.force_login(shop.technician)
    client.raise_request_exception = False
    monkeypatch.setattr(store, "load", lambda *_: 1 / 0)
    answer = client.get(shop.url("loads/"))
    assert answer.status_code == 500
    assert "ZeroDivision" not in answer.content.decode()


def test_history_and_find(inside, shop):
    assert "imported from a file" in inside.get(shop.url("history/")).content.decode()
    found = inside.get(shop.url("find/?q=fog")).content.decode()
    assert "Left fog lamp" in found
    assert "Right fog lamp fuse" in found
    assert "Nothing in this plan" in inside.get(shop.url("find/?q=zeppelin")).content.decode()


def test_working_page_shows_formula_inputs_and_source(inside, shop):
    body = inside.get(shop.url("working/?key=wire_c/W8/idle&from=circuits")).content.decode()
    assert "Churchill and Chu 1975" in body
    assert "R_ins" in body


def test_revisions_are_compressed(shop):
    stored = Revision.objects.get(plan=shop.row, number=1)
    assert len(bytes(stored.document)) < len(document.to_bytes(store.load(shop.row).plan)) / 4


def test_every_fuse_and_contact_on_the_way_says_its_rating(inside, shop):
    found = store.load(shop.row)
    body = inside.get(shop.url("circuits/?sel=L2&state=idle")).content.decode()
    said = re.sub(r"\s+", " ", re.sub(r"<[^>]+>", " ", body))
    way = [k.element for k in found.analysis.path("L2").feed]
    fuses = [f for f in way if found.plan.of_kind("fuse") and f in found.analysis.ratings.rated]
    relay = next(e.split(".")[0] for e in way if e.split(".")[0] in {p.id for p in found.plan.of_kind("relay")})
    assert fuses
    for fuse in fuses:
        assert re.search(rf"\b{fuse} {found.analysis.ratings.rating_a(fuse):g} A fuse", said), fuse
    assert re.search(rf"\b{relay}\S* {found.analysis.ratings.contact_a(relay):g} A ", said)


def test_a_working_opened_by_itself_is_on_its_page_once(inside, shop):
    text = inside.get(shop.url("working/?key=margin/idle")).content.decode()
    assert text.count('id="panel"') == 1 and text.index('id="panel"') < text.index('id="panel-dialog"')
    assert inside.get(shop.url("loads/")).content.decode().count('id="panel"') == 1


def test_a_fault_of_several_stages_is_told_stage_by_stage(inside, shop):
    plan = PATHS["a ring with 40 A at its other end"].make()
    row = store.begin(shop.workshop, shop.technician, plan)
    address = reverse("station", args=[shop.workshop.slug, row.pk, "circuits"])
    page = inside.get(address, {"sel": "W5", "view": "protection"}).content.decode()
    assert "stage by stage" in page
    stages = re.search(r'id="stages".*?</table>', page, re.DOTALL)[0]
    assert "lamp fuse opens" in stages and "other end opens" in stages
