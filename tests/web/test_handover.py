"""Handing over: papers, a revision closed as built, the machine's file out and in, searching across plans."""

import hashlib
import html
import io
import json
import re
import struct
import subprocess
import zipfile

import pytest
from conftest import make_shop
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.urls import reverse
from PIL import Image

from loadstar import demo
from loadstar.core.edits import AddElement, ChangeElement
from loadstar.core.parts.fuse import FusePart
from loadstar.exchange import machine_file
from loadstar.exchange.machine_file import FileFault
from loadstar.web.evidence.sheet import made
from loadstar.web.papers.names import PAPERS
from loadstar.web.plans.models import PlanHead
from loadstar.web.records import store
from loadstar.web.records import work as records
from loadstar.web.records.machine import records_of
from loadstar.web.records.models import AsBuilt, BuildEntry, Photo, ProofReading, Thing

NOON = "2026-11-27T12:00:00+00:00"


def picture() -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (40, 30), (12, 96, 112)).save(out, "JPEG", quality=82)
    return out.getvalue()


@pytest.fixture
def at(shop):
    """A signed-in technician and a plan with some of its work, a reading, a photograph and a closing on record."""
    client = Client()
    client.force_login(shop.technician)
    row = store.begin(shop.workshop, shop.technician, demo.winter()[0])
    sheet = made(store.load(row).analysis)
    for key in sheet.keys[:3]:
        records.write(row, shop.technician, 1, sheet.work.operations[key], records.Line("done"))
    records.write(row, shop.technician, 1, sheet.work.operations[sheet.keys[2]],
                  records.Line("again", note="=cmd|' /C calc'!A0"))
    for value in (12.6, records.OPEN):
        records.keep(row, shop.technician, 1, step="posts.parked", quantity="V", row="parked", red="BT1.pos",
                     black="BT1.neg", value=value, expected=12.61, spread=0.4, plain=12.61, instrument="pocket meter")
    Photo.objects.create(plan=row, element="B1", caption="before", image=picture(), width=40, height=30,
                         by=shop.technician)

    def page(name="", **query):
        args = [shop.workshop.slug] if name == "waiting" else [shop.workshop.slug, row.pk]
        return client.get(reverse(name or "station", args=args if name else [*args, "handover"]), query)

    def close(**sent):
        address = reverse("act", args=[shop.workshop.slug, row.pk, "handover", "close"])
        return client.post(address, {"base": store.load(row).number, **sent}, follow=True)

    page.close, page.client, page.row, page.shop = close, client, row, shop
    return page


def said(answer) -> str:
    return html.unescape(answer.content.decode())


def text_of(answer, tmp_path) -> str:
    (tmp_path / "paper.pdf").write_bytes(answer.content)
    return subprocess.run(["pdftotext", "-layout", tmp_path / "paper.pdf", "-"], capture_output=True, text=True,
                          check=True).stdout


def pages(answer, tmp_path) -> int:
    (tmp_path / "paper.pdf").write_bytes(answer.content)
    told = subprocess.run(["pdfinfo", tmp_path / "paper.pdf"], capture_output=True, text=True, check=True).stdout
    return int(re.search(r"Pages:\s+(\d+)", told)[1])


# -- papers -----------------------------------------------------------------------------------------------------------


def test_all_papers_in_one_with_contents_numbers_date_and_cautions(at, tmp_path):
    answer = at("papers")
    text = text_of(answer, tmp_path)
    count = pages(answer, tmp_path)
    assert f"page 1 of {count}" in text and f"page {count} of {count}" in text
    for key, title in PAPERS.items():
        assert (title in text) is (key != "pins")  # this machine has no connectors as found
    assert "it does not certify" in text and "revision 1" in text and "Not closed as built yet" in text


@pytest.mark.parametrize(("only", "says"), [
    ("owner", "Heated grips"), ("fuses", "One spare of each"), ("drawing", "What the letters are"),
    ("cut", "W8"), ("order", "ring M6"), ("work", "3 of"), ("proof", "not proved"),
    ("standard", "negative lead"), ("rests", "Figures nobody has found")])
def test_each_paper_prints_alone_on_both_sizes(at, tmp_path, only, says):
    answer = at("papers", only=only)
    text = " ".join(text_of(answer, tmp_path).split())
    assert says in text and "it does not certify" in text and "Contents" not in text
    letter = at("papers", only=only, size="Letter")
    (tmp_path / "letter.pdf").write_bytes(letter.content)
    told = subprocess.run(["pdfinfo", tmp_path / "letter.pdf"], capture_output=True, text=True, check=True).stdout
    assert "792 x 612" in told


@pytest.mark.parametrize("make", demo.PLANS, ids=lambda m: m.__name__)
def test_every_demonstration_has_its_papers(at, make, tmp_path):
    plan = make()[0]
    row = store.begin(at.shop.workshop, at.shop.technician, plan)
    answer = at.client.get(reverse("papers", args=[at.shop.workshop.slug, row.pk]))
    assert answer.status_code == 200
    text = " ".join(text_of(answer, tmp_path).split())
    assert "Back to standard" in text and not re.search(r"\bNone\b|\bnan\b", text)
    assert ("battery's negative lead before work" in text) is (plan.battery is not None)
    assert ("One spare of each" in text) is bool(plan.of(FusePart))
    assert ("A fuse that blows" in text) is (bool(plan.loads) and bool(plan.of(FusePart)))


def test_what_is_no_paper_is_not_found(at):
    for query in ({"only": "poem"}, {"only": "pins"}, {"size": "A0"}):
        assert at("papers", **query).status_code == 404
    strange = store.begin(make_shop("Estuary").workshop, at.shop.technician, demo.winter()[0])
    for name in ("papers", "machine-zip"):
        assert at.client.get(reverse(name, args=[at.shop.workshop.slug, strange.pk])).status_code == 404


def test_the_drawing_on_screen_leads_to_its_elements(at):
    text = said(at(view="drawing"))
    assert 'data-element="W8"' in text and "sel=K1" in text


# -- as built ---------------------------------------------------------------------------------------------------------


def test_a_revision_is_closed_once_with_what_is_unproved_and_later_edits_say_so(at, tmp_path):
    at.close(note="tried on the flats")
    built = AsBuilt.objects.get()
    assert (built.revision, built.by, built.unproved) == (1, at.shop.technician, ["Heated grips", "Radio charger"])
    assert "closed as built already" in said(at.close())
    assert AsBuilt.objects.count() == 1
    store.edit(at.row, at.shop.technician, 1, ChangeElement(id="L1", values={"amount": 31.0}))
    text = said(at())
    assert "Changed since: 1 revision" in text and "Not proved then: Heated grips, Radio charger" in text
    assert "The plan has changed since" in " ".join(text_of(at("papers"), tmp_path).split())


def test_a_plan_with_a_stop_needs_a_reason_an_empty_one_cannot_be_closed_nor_an_older_page(at):
    row = store.begin(at.shop.workshop, at.shop.technician, demo.fit_out()[0])
    address = reverse("act", args=[at.shop.workshop.slug, row.pk, "handover", "close"])
    refused = at.client.post(address, {"base": 1})
    assert refused.status_code == 422 and "1 finding stops it" in said(refused)
    assert at.client.post(address, {"base": 1, "note": "to be rewired in spring"}).status_code == 302
    bare = store.begin(at.shop.workshop, at.shop.technician, demo.as_found()[0])
    nothing = at.client.post(reverse("act", args=[at.shop.workshop.slug, bare.pk, "handover", "close"]), {"base": 1})
    assert nothing.status_code == 422
    store.edit(row, at.shop.technician, 1, ChangeElement(id="L1", values={"amount": 31.0}))
    assert at.client.post(address, {"base": 1, "note": "x"}).status_code == 409
    reader = Client()
    reader.force_login(at.shop.reader)
    assert reader.post(address, {"base": 2}).status_code == 403


# -- the machine's file -----------------------------------------------------------------------------------------------


def import_into(shop, data: bytes, name: str = "machine.zip"):
    client = Client()
    client.force_login(shop.owner)
    return client.post(reverse("import", args=[shop.workshop.slug]), {"file": SimpleUploadedFile(name, data)})


def test_the_file_has_everything_with_its_sums_and_goes_into_another_workshop_whole(at):
    at.close()
    data = at("machine-zip").content
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        names = set(archive.namelist())
        manifest = json.loads(archive.read("manifest.json"))
        for member in manifest["members"]:
            assert hashlib.sha256(archive.read(member["name"])).hexdigest() == member["sha256"]
        assert archive.read("photos/1.jpg") == picture()
        assert b"'=cmd" in archive.read("tables/log.csv")  # no spreadsheet computes it
    assert {"plan.json", "survey.json", "records.json", "tables/pins.csv", "tables/log.csv", "tables/proof.csv",
            "tables/order.csv", "drawings/board.dxf", "drawings/board.svg", "drawings/circuit-1.svg",
            "netlists/idle.cir", "papers/all.pdf", "photos/1.jpg", "manifest.json"} <= names
    other = make_shop("Estuary")
    assert import_into(other, data).status_code == 302
    row = PlanHead.objects.filter(workshop=other.workshop).latest("pk")
    assert store.load(row).plan == store.load(at.row).plan
    assert records_of(row) == records_of(at.row)
    assert bytes(row.photos.get().image) == picture()
    assert BuildEntry.objects.filter(plan=row).first().by == other.owner  # who brought it in; who did it stands beside
    client = Client()
    client.force_login(other.owner)
    again = client.get(reverse("machine-zip", args=[other.workshop.slug, row.pk])).content
    for name in ("plan.json", "records.json", "photos/1.jpg", "tables/log.csv", "netlists/idle.cir"):
        assert machine_file.unpack(again)[name] == machine_file.unpack(data)[name], name


def packed(**members: bytes) -> bytes:
    return machine_file.pack({"plan.json": b"{}", **members}, {})


def rewritten(data: bytes, change) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:
        members = {n: old.read(n) for n in old.namelist()}
        change(members)
        for name, content in members.items():
            new.writestr(name, content)
    return out.getvalue()


def with_method(data: bytes, number: int) -> bytes:
    """A file that says of its last member that it is packed by another method."""
    at = data.rindex(b"PK\x01\x02")
    return data[:at + 10] + struct.pack("<H", number) + data[at + 12:]


def bomb() -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for n in range(9):
            archive.writestr(f"zeros/{n}", b"\0" * 16 * 1024 * 1024)
    return out.getvalue()


@pytest.mark.parametrize(("data", "says"), [
    (b"PK\x03\x04 and then nothing", "no ZIP"), (bomb(), "larger than any machine's file"),
    (rewritten(packed(), lambda m: m.update({"../../etc/passwd": b"x"})), "'../../etc/passwd'"),
    (rewritten(packed(), lambda m: m.update({"/abs": b"x"})), "'/abs'"),
    (rewritten(packed(), lambda m: m.update({"plan.json": b"{ }"})), "not what the manifest says"),
    (rewritten(packed(), lambda m: m.pop("plan.json")), "missing in the file"),
    (rewritten(packed(), lambda m: m.update({"extra.txt": b"x"})), "not in its manifest"),
    (rewritten(packed(), lambda m: m.pop("manifest.json")), "no manifest"),
    (rewritten(packed(), lambda m: m.update({"manifest.json": b"[]"})), "of no machine's file"),
    (rewritten(packed(), lambda m: m.update({"manifest.json": m["manifest.json"].replace(b'on": 1', b'on": 7')})),
     "version 7"),
    (machine_file.pack({"records.json": b"{}"}, {}), "no plan in it"),
    (with_method(packed(), 97), "packed by a method"), (with_method(packed(), 14), "packed by a method"),
    (packed()[:60] + b"\xff" * 20 + packed()[80:], "no ZIP that can be read"),
    (packed(), "no Loadstar plan")])
def test_a_file_that_will_not_do_is_told_and_nothing_is_taken(at, data, says):
    before = PlanHead.objects.count()
    answer = import_into(at.shop, data)
    assert answer.status_code == 422 and says in said(answer), said(answer)[-900:]
    assert PlanHead.objects.count() == before


@pytest.mark.parametrize(("change", "says"), [
    ({"log": [{"revision": 1, "operation": "x", "what": "flown", "at": NOON, "by": "T"}]}, "what"),
    ({"log": [{"revision": 1, "operation": "x", "what": "done", "at": "yesterday", "by": "T"}]}, "isoformat"),
    ({"log": [{"revision": 1, "operation": "x", "what": "done", "at": "2026-13-45T99:00", "by": "T"}]}, "log.0.at"),
    ({"log": [{"revision": 1, "operation": "x", "what": "done", "at": "0001-01-01T00:00", "by": "T"}]}, "no year of"),
    ({"log": [{"revision": 5_000_000_000, "operation": "x", "what": "done", "at": NOON, "by": "T"}]}, "revision"),
    ({"proof": [{"revision": 5_000_000_000, "quantity": "V", "red": "a", "black": "b", "at": NOON, "by": "T"}]},
     "proof.0.revision"),
    ({"as_built": [{"revision": 1, "at": NOON, "by": "T"}] * 2}, "closed as built twice"),
    ({"as_built": [{"revision": 1, "at": NOON, "by": "T", "unproved": ["fog"] * 40_000}]}, "more than 5000 circuits"),
    ({"photos": [{"element": "B1", "member": "photos/1.jpg", "at": NOON, "by": "T"}] * 41}, "at most 40"),
    ({"photos": [{"element": "B1", "member": "photos/1.jpg", "at": NOON, "by": "T"}] * 3}, "member twice"),
    ({"photos": [{"element": "B1", "member": "photos/9.jpg", "at": NOON, "by": "T"}]}, "on record and not in")])
def test_records_that_cannot_be_are_told_and_the_plan_is_not_taken_either(at, change, says):
    members = machine_file.unpack(at("machine-zip").content)
    kept = {**json.loads(members["records.json"]), "photos": [], **change}
    members["records.json"] = json.dumps(kept).encode()
    before = (PlanHead.objects.count(), ProofReading.objects.count())
    answer = import_into(at.shop, machine_file.pack(members, {}))
    assert answer.status_code == 422 and says in said(answer)
    assert (PlanHead.objects.count(), ProofReading.objects.count()) == before


def test_a_member_that_says_it_is_small_is_not_read_beyond_its_bound():
    with pytest.raises(FileFault, match="up to 64 MB"):
        machine_file.unpack(b"PK" + b"\0" * machine_file.MOST_BYTES)
    assert machine_file.pack({"a": b"1"}, {}) == machine_file.pack({"a": b"1"}, {})  # the same bytes each time


def test_a_photograph_in_a_file_with_anything_of_the_camera_s_is_encoded_anew(at):
    out = io.BytesIO()
    exif = Image.Exif()
    exif[0x010F] = "a camera"
    Image.new("RGB", (50, 40)).save(out, "JPEG", exif=exif)
    members = machine_file.unpack(at("machine-zip").content)
    members["photos/1.jpg"] = out.getvalue()
    assert import_into(at.shop, machine_file.pack(members, {})).status_code == 302
    kept = bytes(PlanHead.objects.latest("pk").photos.get().image)
    assert b"a camera" in out.getvalue() and b"a camera" not in kept
    plain = io.BytesIO()
    Image.new("RGB", (50, 40)).save(plain, "JPEG")
    members["photos/1.jpg"] = plain.getvalue() + b"<script>alert(1)</script>"  # was kept as sent
    assert import_into(at.shop, machine_file.pack(members, {})).status_code == 302
    assert b"<script>" not in bytes(PlanHead.objects.latest("pk").photos.get().image)
    members["photos/1.jpg"] = b"no picture"
    assert "no photograph that can be read" in said(import_into(at.shop, machine_file.pack(members, {})))


# -- across plans -----------------------------------------------------------------------------------------------------


def test_things_are_found_across_plans_the_newest_first_and_only_the_workshop_s(at):
    store.begin(at.shop.workshop, at.shop.technician, demo.mud_hopper()[0])
    store.begin(make_shop("Estuary").workshop, at.shop.technician, demo.tide_hauler()[0])
    text = said(at("waiting", q="engine relay"))
    assert "seat block engine relay" in text and "Winter counts" in text
    assert "12 V box</a>" not in said(at("waiting", q="12 V box"))  # another workshop's
    trigger = said(at("waiting", q="trigger"))
    assert "regulator run line" in trigger and "seat block engine relay</a>" not in trigger
    assert "relay with its socket" in text or "relay with its socket" in said(at("waiting", q="relay"))
    assert "Two letters at least" in said(at("waiting", q="x")) and "Nothing of that name" in said(
        at("waiting", q="flux capacitor"))
    newest = said(at("waiting", q="headlamp"))
    assert newest.index("Charging and lamps added") < len(newest)


def test_what_is_found_follows_the_plan(at):
    assert "Nothing of that name" in said(at("waiting", q="sand anchor"))
    place = store.load(at.row).plan.places[0].id
    new = AddElement(what="junction", values={"name": "sand anchor", "place": place})
    store.edit(at.row, at.shop.technician, 1, new)
    assert Thing.objects.filter(plan=at.row, name="sand anchor").exists()
    text = said(at("waiting", q="sand anchor"))
    assert re.search(r"sand anchor\s*</a>", text)


def test_what_is_in_the_archive_is_not_found_until_it_comes_back(at):
    address = at.shop.url("archive/").replace(f"/p/{at.shop.row.pk}/", f"/p/{at.row.pk}/")
    mine = f"/p/{at.row.pk}/find/"
    assert mine in said(at("waiting", q="HEATED grips"))
    assert at.client.post(address).status_code == 302
    assert mine not in said(at("waiting", q="heated grips"))
    assert at.client.post(address.replace("archive", "unarchive")).status_code == 302
    assert mine in said(at("waiting", q="heated grips"))


def test_many_machines_come_in_pages_with_all_plans_of_each(at):
    plan = store.load(at.row).plan
    for n in range(16):
        machine = plan.machine.model_copy(update={"name": f"Boat tender {n:02}"})
        for name in ("first", "second"):
            store.take_in(at.shop.workshop, at.shop.owner, plan.model_copy(update={"machine": machine, "name": name}))
    bench = f"/w/{at.shop.workshop.slug}/"
    first, second = (html.unescape(at.client.get(bench, {"page": n}).content.decode()) for n in (1, 2))
    assert "Page 1 of 2" in first and first.count("Boat tender") == 15 and first.count(">second</a>") == 15
    assert "Boat tender 15" in second and plan.machine.name in second


def test_what_waits_is_listed_until_it_is_done(at):
    assert "Winter counts" not in said(at("waiting")).split("<h2>Waiting")[1]
    records.note_work(at.row, 3, 179)
    text = said(at("waiting")).split("<h2>Waiting")[1]
    assert "Winter counts" in text and "3 of 179" in text
    records.note_work(at.row, 179, 179)
    assert "Winter counts" not in said(at("waiting")).split("<h2>Waiting")[1]


def test_queries_are_the_same_however_many_plans_there_are(at, django_assert_max_num_queries):
    for _ in range(6):
        store.begin(at.shop.workshop, at.shop.technician, demo.mud_hopper()[0])
    for query in ({}, {"q": "relay"}):
        with django_assert_max_num_queries(10):
            assert at("waiting", **query).status_code == 200
