"""Handing over: papers, a revision closed as built, the machine's file out and in, searching across plans."""

import html
import re
import subprocess

import pytest
from answers import paper_words, said
from conftest import make_shop
from django.test import Client
from django.urls import reverse

from loadstar import demo
from loadstar.core.edits import AddElement, ChangeElement
from loadstar.core.parts.fuse import FusePart
from loadstar.web.papers.names import PAPERS
from loadstar.web.records import store
from loadstar.web.records import work as records
from loadstar.web.records.models import AsBuilt, Thing


def pages(answer, tmp_path) -> int:
    (tmp_path / "paper.pdf").write_bytes(answer.content)
    told = subprocess.run(["pdfinfo", tmp_path / "paper.pdf"], capture_output=True, text=True, check=True).stdout
    return int(re.search(r"Pages:\s+(\d+)", told)[1])


# -- papers -----------------------------------------------------------------------------------------------------------


def test_all_papers_in_one_with_contents_numbers_date_and_cautions(handed, tmp_path):
    answer = handed("papers")
    text = paper_words(answer)
    count = pages(answer, tmp_path)
    assert f"page 1 of {count}" in text and f"page {count} of {count}" in text
    for key, title in PAPERS.items():
        assert (title in text) is (key != "pins")  # this machine has no connectors as found
    assert "it does not certify" in text and "revision 1" in text and "Not closed as built yet" in text


@pytest.mark.parametrize(("only", "says"), [
    ("owner", "Heated grips"), ("fuses", "One spare of each"), ("drawing", "L1 Heated grips, handlebar"),
    ("cut", "W8"), ("order", "ring M6"), ("work", "3 of"), ("proof", "not proved"),
    ("standard", "negative lead"), ("rests", "Figures nobody has found")])
def test_each_paper_prints_alone_on_both_sizes(handed, tmp_path, only, says):
    answer = handed("papers", only=only)
    text = " ".join(paper_words(answer).split())
    assert says in text and "it does not certify" in text and "Contents" not in text
    letter = handed("papers", only=only, size="Letter")
    (tmp_path / "letter.pdf").write_bytes(letter.content)
    told = subprocess.run(["pdfinfo", tmp_path / "letter.pdf"], capture_output=True, text=True, check=True).stdout
    assert ("792 x 612" if only == "drawing" else "612 x 792") in told  # lists stand upright


@pytest.mark.parametrize("make", demo.PLANS, ids=lambda m: m.__name__)
def test_every_demonstration_has_its_papers(handed, make, tmp_path):
    plan = make()[0]
    row = store.begin(handed.shop.workshop, handed.shop.technician, plan)
    answer = handed.client.get(reverse("papers", args=[handed.shop.workshop.slug, row.pk]))
    assert answer.status_code == 200
    text = " ".join(paper_words(answer).split())
    assert "Back to standard" in text and not re.search(r"\bNone\b|\bnan\b", text)
    assert ("battery's negative lead before work" in text) is (plan.battery is not None)
    assert ("One spare of each" in text) is bool(plan.of(FusePart))
    assert ("A fuse that blows" in text) is (bool(plan.loads) and bool(plan.of(FusePart)))


def test_what_is_no_paper_is_not_found(handed):
    for query in ({"only": "poem"}, {"only": "pins"}, {"size": "A0"}):
        assert handed("papers", **query).status_code == 404
    strange = store.begin(make_shop("Estuary").workshop, handed.shop.technician, demo.winter()[0])
    for name in ("papers", "machine-zip"):
        assert handed.client.get(reverse(name, args=[handed.shop.workshop.slug, strange.pk])).status_code == 404


def test_the_drawing_on_screen_leads_to_its_elements(handed):
    text = said(handed(view="drawing"))
    assert 'data-element="W8"' in text and "sel=K1" in text


# -- as built ---------------------------------------------------------------------------------------------------------


def test_a_revision_is_closed_once_with_what_is_unproved_and_later_edits_say_so(handed, tmp_path):
    handed.close(note="tried on the flats")
    built = AsBuilt.objects.get()
    assert (built.revision, built.by, built.unproved) == (1, handed.shop.technician, ["Heated grips", "Radio charger"])
    assert "closed as built already" in said(handed.close())
    assert AsBuilt.objects.count() == 1
    store.edit(handed.row, handed.shop.technician, 1, ChangeElement(id="L1", values={"amount": 31.0}))
    text = said(handed())
    assert "Changed since: 1 revision" in text and "Not proved then: Heated grips, Radio charger" in text
    assert "The plan has changed since" in " ".join(paper_words(handed("papers")).split())


def test_a_plan_with_a_stop_needs_a_reason_an_empty_one_cannot_be_closed_nor_an_older_page(handed):
    row = store.begin(handed.shop.workshop, handed.shop.technician, demo.fit_out()[0])
    address = reverse("act", args=[handed.shop.workshop.slug, row.pk, "handover", "close"])
    refused = handed.client.post(address, {"base": 1})
    assert refused.status_code == 422 and "1 finding stops it" in said(refused)
    assert handed.client.post(address, {"base": 1, "note": "to be rewired in spring"}).status_code == 302
    bare = store.begin(handed.shop.workshop, handed.shop.technician, demo.as_found()[0])
    of_bare = reverse("act", args=[handed.shop.workshop.slug, bare.pk, "handover", "close"])
    nothing = handed.client.post(of_bare, {"base": 1})
    assert nothing.status_code == 422
    store.edit(row, handed.shop.technician, 1, ChangeElement(id="L1", values={"amount": 31.0}))
    assert handed.client.post(address, {"base": 1, "note": "x"}).status_code == 409
    reader = Client()
    reader.force_login(handed.shop.reader)
    assert reader.post(address, {"base": 2}).status_code == 403


# -- the machine's file -----------------------------------------------------------------------------------------------


# -- across plans -----------------------------------------------------------------------------------------------------


def test_things_are_found_across_plans_the_newest_first_and_only_the_workshop_s(handed):
    store.begin(handed.shop.workshop, handed.shop.technician, demo.mud_hopper()[0])
    store.begin(make_shop("Estuary").workshop, handed.shop.technician, demo.tide_hauler()[0])
    text = said(handed("waiting", q="engine relay"))
    assert "seat block engine relay" in text and "Winter counts" in text
    assert "12 V box</a>" not in said(handed("waiting", q="12 V box"))  # another workshop's
    trigger = said(handed("waiting", q="trigger"))
    assert "regulator run line" in trigger and "seat block engine relay</a>" not in trigger
    assert "relay with its socket" in text or "relay with its socket" in said(handed("waiting", q="relay"))
    assert "Two letters at least" in said(handed("waiting", q="x")) and "Nothing of that name" in said(
        handed("waiting", q="flux capacitor"))
    newest = said(handed("waiting", q="headlamp"))
    assert newest.index("Charging and lamps added") < len(newest)


def test_what_is_found_follows_the_plan(handed):
    assert "Nothing of that name" in said(handed("waiting", q="sand anchor"))
    place = store.load(handed.row).plan.places[0].id
    new = AddElement(what="junction", values={"name": "sand anchor", "place": place})
    store.edit(handed.row, handed.shop.technician, 1, new)
    assert Thing.objects.filter(plan=handed.row, name="sand anchor").exists()
    text = said(handed("waiting", q="sand anchor"))
    assert re.search(r"sand anchor\s*</a>", text)


def test_what_is_in_the_archive_is_not_found_until_it_comes_back(handed):
    address = handed.shop.url("archive/").replace(f"/p/{handed.shop.row.pk}/", f"/p/{handed.row.pk}/")
    mine = f"/p/{handed.row.pk}/find/"
    assert mine in said(handed("waiting", q="HEATED grips"))
    assert handed.client.post(address).status_code == 302
    assert mine not in said(handed("waiting", q="heated grips"))
    assert handed.client.post(address.replace("archive", "unarchive")).status_code == 302
    assert mine in said(handed("waiting", q="heated grips"))


def test_many_machines_come_in_pages_with_all_plans_of_each(handed):
    plan = store.load(handed.row).plan
    for n in range(16):
        machine = plan.machine.model_copy(update={"name": f"Boat tender {n:02}"})
        for name in ("first", "second"):
            more = plan.model_copy(update={"machine": machine, "name": name})
            store.take_in(handed.shop.workshop, handed.shop.owner, more)
    bench = f"/w/{handed.shop.workshop.slug}/"
    first, second = (html.unescape(handed.client.get(bench, {"page": n}).content.decode()) for n in (1, 2))
    assert "Page 1 of 2" in first and first.count("Boat tender") == 15 and first.count(">second</a>") == 15
    assert "Boat tender 15" in second and plan.machine.name in second


def test_what_waits_is_listed_until_it_is_done(handed):
    assert "Winter counts" not in said(handed("waiting")).split("<h2>Waiting")[1]
    records.note_work(handed.row, 3, 179)
    text = said(handed("waiting")).split("<h2>Waiting")[1]
    assert "Winter counts" in text and "3 of 179" in text
    records.note_work(handed.row, 179, 179)
    assert "Winter counts" not in said(handed("waiting")).split("<h2>Waiting")[1]


def test_queries_are_the_same_however_many_plans_there_are(handed, django_assert_max_num_queries):
    for _ in range(6):
        store.begin(handed.shop.workshop, handed.shop.technician, demo.mud_hopper()[0])
    for query in ({}, {"q": "relay"}):
        with django_assert_max_num_queries(10):
            assert handed("waiting", **query).status_code == 200
