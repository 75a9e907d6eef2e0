"""Work beside the request: asked for once, kept by what it is made of, told by the page, given up when nobody waits;
what goes wrong in it is a sentence."""

import logging
import re
import subprocess
from datetime import timedelta
from types import SimpleNamespace

import pytest
from conftest import make_shop
from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone

from loadstar.core.limits import TooLarge
from loadstar.web.jobs import work
from loadstar.web.jobs.kinds import Made, Piece
from loadstar.web.jobs.models import Job, Part
from loadstar.web.jobs.progress import Cancelled, told
from loadstar.web.papers import beside
from loadstar.web.records import store
from loadstar.web.workshop.models import Membership

pytestmark = pytest.mark.django_db


def pages_of(pdf):
    """The text of each page of a PDF."""
    done = subprocess.run(["pdftotext", "-layout", "-", "-"], input=pdf, capture_output=True, check=True)
    return done.stdout.decode().split("\f")[:-1]


@pytest.fixture
def member(shop):
    return Membership.objects.get(person=shop.technician, workshop=shop.workshop)


@pytest.fixture
def kind(monkeypatch):
    """A kind of job of this test's own; it waits in the row until `go` is called."""
    class Own:
        patience_s = None

        def pieces(self, job):
            return [Piece("a", "First", 2), Piece("b", "Second", 3)]

        def piece(self, job, key):
            if isinstance(job.asked.get("fails"), str):
                raise {"memory": MemoryError, "large": TooLarge, "ours": ValueError}[job.asked["fails"]]
            return key.encode()

        def whole(self, job, made):
            return Made(b"+".join(made), "text/plain", "x.txt")
    monkeypatch.setattr(work, "kind_of", lambda name: Own())
    return Own


def test_the_parts_of_a_job_are_put_together_in_their_order(member, kind):
    job = work.awaited(work.ask(member, "own", "Mine", "k" * 64, {}))
    assert (job.state, bytes(job.result), job.name, job.size) == ("done", b"a+b", "x.txt", 3)
    assert not Part.objects.exists()
    assert work.ask(member, "own", "Mine", "k" * 64, {}).pk == job.pk  # kept


@pytest.mark.parametrize(("fails", "words"), [
    ("memory", "to one piece of work (1536 MB)"), ("large", "too large to be computed"), ("ours", "made a mistake")])
def test_what_goes_wrong_is_a_sentence_and_is_tried_again_when_asked(member, kind, fails, words, caplog):
    job = work.awaited(work.ask(member, "own", "Mine", "k" * 64, {"fails": fails}))
    assert job.state == "failed" and words in job.faults[0] and "Traceback" not in job.faults[0]
    assert work.ask(member, "own", "Mine", "k" * 64, {}).pk != job.pk


@pytest.mark.parametrize(("state", "silent_s", "died"), [
    ("waiting", 149, False), ("waiting", 600, False), ("waiting", 1201, True), ("running", 149, False),
    ("running", 151, True), ("done", 9999, False), ("failed", 9999, False)])
def test_how_long_silence_may_last_before_it_has_died(member, state, silent_s, died):
    beat = timezone.now() - timedelta(seconds=silent_s)
    assert work._has_died(Job(state="".join(list(state)), beat=beat, workshop=member.workshop)) is died


def test_one_waits_for_a_job_a_moment_and_no_longer(member, kind, monkeypatch):
    made = Job.objects.create(key="w" * 64, kind="own", title="Mine", workshop=member.workshop, person=member.person)
    clock, slept = iter(range(100)), []
    monkeypatch.setattr(work, "time", SimpleNamespace(monotonic=lambda: next(clock), sleep=slept.append))
    assert work.awaited(made, 3).state == "waiting" and len(slept) == 3


@pytest.mark.parametrize("beside", [True, False])
def test_it_may_take_as_long_as_its_kind_says_only_beside_a_request(member, kind, settings, monkeypatch, beside):
    kind.patience_s, asked = 7.0, []
    telling = work.told
    monkeypatch.setattr(work, "told", lambda job, part, patience_s: asked.append(patience_s) or telling(
        job, part, patience_s))
    settings.TASKS_BESIDE = beside
    job = Job.objects.create(workshop=member.workshop, person=member.person, key="p" * 64, kind="own",
                             title="Mine")
    with work._ending(job):
        assert asked == [7.0 if beside else None]


def test_what_is_kept_and_for_how_long_is_this():
    """Two days, and 400 MiB, written down again; 150 s without a sign and it was ended."""
    assert (work.KEPT.total_seconds(), work.KEPT_BYTES) == (172_800, 419_430_400)
    assert (work.DIED.total_seconds(), work.NEVER_BEGUN.total_seconds(), work.MOST_UNENDED) == (150, 1200, 12)


def test_only_so_many_wait_for_one_workshop(member, kind, monkeypatch):
    monkeypatch.setattr(work, "_begin", type("Never", (), {"enqueue": lambda *_: None}))
    for n in range(work.MOST_UNENDED):
        work.ask(member, "own", "Mine", f"{n}", {})
    with pytest.raises(Exception, match="being made already"):
        work.ask(member, "own", "Mine", "one more", {})
    Job.objects.filter(key="0").update(beat=timezone.now() - timedelta(hours=1))
    assert work.ask(member, "own", "Mine", "one more", {}).state == "waiting"  # one whose process died makes room


def test_a_paper_that_has_to_wait_for_others_says_so(inside, shop, monkeypatch):
    monkeypatch.setattr(work, "MOST_UNENDED", 0)
    answer = inside.get(shop.url("papers.pdf?only=cut"))
    assert answer.status_code == 429 and "being made already" in answer.content.decode()


def test_one_whose_process_was_ended_says_so(client, member, kind, shop, monkeypatch):
    monkeypatch.setattr(work, "_begin", type("Never", (), {"enqueue": lambda *_: None}))
    job = work.ask(member, "own", "Mine", "k", {})
    client.force_login(shop.technician)
    address = f"/w/{shop.workshop.slug}/jobs/{job.pk}/"
    page = client.get(address).content.decode()
    assert 'http-equiv="refresh"' in page and "looks again by itself" in page
    Job.objects.filter(pk=job.pk).update(state="working", pages=40, beat=timezone.now())
    Part.objects.create(job=job, number=0, key="a", words="Cut list", pages=12)
    assert "Page 12 of about 40" in client.get(address).content.decode()
    Job.objects.filter(pk=job.pk).update(beat=timezone.now() - timedelta(hours=1))
    answer = client.get(address)
    assert answer.status_code == 503 and "was ended" in answer.content.decode()
    for other in (shop.owner, make_shop("Creek").owner):
        client.force_login(other)
        assert client.get(address).status_code == 404


def test_pages_are_told_and_nobody_s_are_given_up(member, kind, monkeypatch):
    monkeypatch.setattr(work, "_begin", type("Never", (), {"enqueue": lambda *_: None}))
    monkeypatch.setattr("loadstar.web.jobs.progress.EVERY_S", -1.0)
    job = work.ask(member, "own", "Mine", "k", {})
    part = Part.objects.create(job=job, number=0, key="a", words="Cut list")
    log = logging.getLogger("weasyprint.progress")
    with told(job, part, 20.0):
        log.info("Step 5 - Creating layout - Page %d", 7)
    part.refresh_from_db()
    assert part.pages == 7 and not log.handlers
    Job.objects.filter(pk=job.pk).update(wanted=timezone.now() - timedelta(seconds=30))
    with pytest.raises(Cancelled), told(job, part, 20.0):
        log.info("Step 5 - Creating layout - Page %d", 8)


def test_old_ones_and_the_oldest_of_too_many_bytes_are_thrown_away(member, kind, monkeypatch):
    monkeypatch.setattr(work, "KEPT_BYTES", 7)
    for n in range(4):
        work.ask(member, "own", "Mine", f"{n}", {})
    assert sorted(Job.objects.values_list("key", flat=True)) == ["2", "3"]
    Job.objects.update(made=timezone.now() - timedelta(days=9))
    work.tidy()
    assert not Job.objects.exists()


def test_a_paper_is_made_once_for_a_revision_and_anew_when_what_it_tells_of_changes(inside, shop, monkeypatch):
    made = []
    real = beside.Papers.piece
    monkeypatch.setattr(beside.Papers, "piece", lambda self, job, key: made.append(key) or real(self, job, key))
    first = inside.get(shop.url("papers.pdf?only=cut"))
    assert first["Content-Type"] == "application/pdf" and made == ["cut.0.1"]
    assert inside.get(shop.url("papers.pdf?only=cut")).content == first.content and len(made) == 1
    inside.get(shop.url("papers.pdf?only=cut&size=Letter"))
    assert len(made) == 2
    store.put_away(shop.row) and store.take_back(shop.row)
    inside.get(shop.url("papers.pdf?only=cut"))
    assert len(made) == 2
    inside.post(shop.url("edit/"), {"base": 1, "edit": '{"kind": "rename", "name": "later"}'})
    text = pages_of(inside.get(shop.url("papers.pdf?only=cut")).content)[0]
    assert len(made) == 3 and "later" in text and "page 1 of 1" in text
    client = inside.__class__()
    client.force_login(shop.owner)  # each in their own units
    shop.owner.area_unit = "awg"
    shop.owner.save()
    client.get(shop.url("papers.pdf?only=cut"))
    assert len(made) == 4


def test_long_papers_are_laid_out_in_slices_and_numbered_through(inside, shop, monkeypatch):
    said = pages_of(inside.get(shop.url("papers.pdf")).content)
    assert all(f"page {n} of {len(said)}" in text for n, text in enumerate(said, 1))
    long = beside.machine.LONG["cut"]
    monkeypatch.setitem(beside.machine.LONG, "cut", beside.machine.Long(long.rows, long.number, 9, 31))
    monkeypatch.setattr(beside, "program", lambda: "another")
    texts = pages_of(inside.get(shop.url("papers.pdf")).content)
    assert sum("Cut list, continued" in text for text in texts) == 2  # 22 wires
    for wire in store.load(shop.row).plan.wires:
        assert any(f"{wire.id} " in text.replace("\n", " ") for text in texts), wire.id
    at = next(n for n, text in enumerate(texts, 1) if n > 1 and text.lstrip().startswith("Cut list"))
    assert re.search(rf"Cut list +page {at}\n", texts[0])


def test_a_file_that_takes_longer_leads_on_by_its_own_page(inside, shop, monkeypatch):
    monkeypatch.setattr(work, "WAIT_S", 0.0)
    monkeypatch.setattr(work, "awaited", lambda job, wait_s=0.0: Job.objects.get(pk=job.pk))
    real, held = work._begin, []
    monkeypatch.setattr(work, "_begin", type("Later", (), {"enqueue": lambda pk: held.append(pk)}))
    answer = inside.post(f"/w/{shop.workshop.slug}/import/", {"file": SimpleUploadedFile("plan.json", b"{}")})
    assert answer.status_code == 302 and "/jobs/" in answer["Location"]
    assert "Being read" in inside.get(answer["Location"]).content.decode()
    real.enqueue(held[0])
    refused = inside.get(answer["Location"])
    assert refused.status_code == 422 and "has not been taken in" in refused.content.decode()
