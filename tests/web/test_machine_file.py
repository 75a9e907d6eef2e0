"""The machine's file: everything of a plan out and in again, or nothing and a sentence."""

import hashlib
import io
import json
import struct
import zipfile

import pytest
from answers import said
from asked import jpeg
from conftest import make_shop
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.urls import reverse
from PIL import Image
from web.pdf_tags import lacks

from loadstar.exchange import machine_file
from loadstar.exchange.machine_file import FileFault
from loadstar.web.plans.models import PlanHead
from loadstar.web.records import store
from loadstar.web.records.machine import file_of, records_of
from loadstar.web.records.models import BuildEntry, ProofReading

NOON = "2026-11-27T12:00:00+00:00"


def import_into(shop, data: bytes, name: str = "machine.zip"):
    client = Client()
    client.force_login(shop.owner)
    return client.post(reverse("import", args=[shop.workshop.slug]), {"file": SimpleUploadedFile(name, data)})


def test_the_file_has_everything_with_its_sums_and_goes_into_another_workshop_whole(handed):
    handed.close()
    data = handed("machine-zip").content
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        names = set(archive.namelist())
        manifest = json.loads(archive.read("manifest.json"))
        for member in manifest["members"]:
            assert hashlib.sha256(archive.read(member["name"])).hexdigest() == member["sha256"]
        assert archive.read("photos/1.jpg") == jpeg((40, 30), quality=82)
        assert b"'=cmd" in archive.read("tables/log.csv")  # no spreadsheet computes it
        for name in (name for name in names if name.endswith(".pdf")):
            assert lacks(archive.read(name)) == [], name
    assert {"plan.json", "survey.json", "records.json", "tables/pins.csv", "tables/log.csv", "tables/proof.csv",
            "tables/order.csv", "tables/cut.csv", "drawings/board.dxf", "drawings/board.svg", "drawings/circuit-1.svg",
            "netlists/idle.cir", "papers/all.pdf", "papers/work-sheet.pdf", "papers/board.pdf", "papers/crimp-card.pdf",
            "papers/labels.pdf", "papers/circuit-cards.pdf", "photos/1.jpg", "manifest.json"} <= names
    other = make_shop("Estuary")
    assert import_into(other, data).status_code == 302
    row = PlanHead.objects.filter(workshop=other.workshop).latest("pk")
    assert store.load(row).plan == store.load(handed.row).plan
    assert records_of(row) == records_of(handed.row)
    assert bytes(row.photos.get().image) == jpeg((40, 30), quality=82)
    assert BuildEntry.objects.filter(plan=row).first().by == other.owner  # who brought it in; who did it stands beside
    again = file_of(store.load(row), {})
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
def test_a_file_that_will_not_do_is_told_and_nothing_is_taken(handed, data, says):
    before = PlanHead.objects.count()
    answer = import_into(handed.shop, data)
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
def test_records_that_cannot_be_are_told_and_the_plan_is_not_taken_either(handed, change, says):
    members = machine_file.unpack(file_of(store.load(handed.row), {}))
    kept = {**json.loads(members["records.json"]), "photos": [], **change}
    members["records.json"] = json.dumps(kept).encode()
    before = (PlanHead.objects.count(), ProofReading.objects.count())
    answer = import_into(handed.shop, machine_file.pack(members, {}))
    assert answer.status_code == 422 and says in said(answer)
    assert (PlanHead.objects.count(), ProofReading.objects.count()) == before


def test_a_member_that_says_it_is_small_is_not_read_beyond_its_bound():
    with pytest.raises(FileFault, match="up to 64 MB"):
        machine_file.unpack(b"PK" + b"\0" * machine_file.MOST_BYTES)
    assert machine_file.pack({"a": b"1"}, {}) == machine_file.pack({"a": b"1"}, {})  # the same bytes each time


def test_a_photograph_in_a_file_with_anything_of_the_camera_s_is_encoded_anew(handed):
    out = io.BytesIO()
    exif = Image.Exif()
    exif[0x010F] = "a camera"
    Image.new("RGB", (50, 40)).save(out, "JPEG", exif=exif)
    members = machine_file.unpack(file_of(store.load(handed.row), {}))
    members["photos/1.jpg"] = out.getvalue()
    assert import_into(handed.shop, machine_file.pack(members, {})).status_code == 302
    kept = bytes(PlanHead.objects.latest("pk").photos.get().image)
    assert b"a camera" in out.getvalue() and b"a camera" not in kept
    plain = io.BytesIO()
    Image.new("RGB", (50, 40)).save(plain, "JPEG")
    members["photos/1.jpg"] = plain.getvalue() + b"<script>alert(1)</script>"  # was kept as sent
    assert import_into(handed.shop, machine_file.pack(members, {})).status_code == 302
    assert b"<script>" not in bytes(PlanHead.objects.latest("pk").photos.get().image)
    members["photos/1.jpg"] = b"no picture"
    assert "no photograph that can be read" in said(import_into(handed.shop, machine_file.pack(members, {})))
