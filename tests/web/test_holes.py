"""What an attack of 0.9.0 found in the keeping of it, each as it was found: a worker without memory, a full disk, texts
that grow, hosts that are nobody's, guesses without end."""

import io
import logging
import struct
import zlib

import pytest
from argon2.exceptions import HashingError, VerificationError
from axes.models import AccessAttempt
from conftest import make_shop
from django.core.cache import caches
from django.db import OperationalError
from django.test import RequestFactory
from django.test.utils import override_settings
from PIL import Image

from loadstar.core.doc.texts import one_line
from loadstar.core.edits import AddElement
from loadstar.core.errors import PlanError
from loadstar.core.plan import document
from loadstar.demo import fit_out
from loadstar.draw import elevation
from loadstar.web import gunicorn, room
from loadstar.web.logs import NobodysHost
from loadstar.web.plans import known as what_is_known
from loadstar.web.plans import shared
from loadstar.web.records import found_by, store
from loadstar.web.records.models import Need, Photo, Thing
from loadstar.web.records.photos import keep_photo, reencoded
from loadstar.web.workshop import turns
from loadstar.web.workshop.access import address_of

pytestmark = pytest.mark.django_db
PASSWORD = "estuary-tide-tables"


# -- memory ------------------------------------------------------------------------------------------------------------


def test_a_password_is_never_called_wrong_for_want_of_memory(client, shop, monkeypatch):
    client.raise_request_exception = False

    def full(*_):
        raise VerificationError("Memory allocation error")
    def fuller(*_, **__):
        raise HashingError("Memory allocation error")
    monkeypatch.setattr("argon2.PasswordHasher.verify", full)
    monkeypatch.setattr("argon2.low_level.hash_secret", fuller)
    for name in ("Mudflat owner", "nobody of that name"):  # for whom a hash is made, so that it takes as long
        for _ in range(12):
            answer = client.post("/sign-in/", {"username": name, "password": PASSWORD})
            assert answer.status_code == 503 and "used up its memory" in answer.content.decode()
    monkeypatch.undo()
    assert not AccessAttempt.objects.exists()
    assert client.post("/sign-in/", {"username": "Mudflat owner", "password": PASSWORD}).status_code == 302


def test_a_worker_that_is_nearly_full_is_renewed(monkeypatch, caplog):
    caplog.set_level(logging.INFO)

    class Worker:
        alive, log = True, logging.getLogger("x")
    for held, alive in ((gunicorn.RENEWED_AT_BYTES - 1, True), (gunicorn.RENEWED_AT_BYTES + 1, False)):
        worker = Worker()
        monkeypatch.setattr(gunicorn, "held_bytes", lambda held=held: held)
        gunicorn.post_request(worker, None, None, None)
        assert worker.alive is alive
    assert [r.getMessage() for r in caplog.records] == ["a worker is renewed: it holds 1075 MB"]
    monkeypatch.undo()
    assert 10e6 < gunicorn.held_bytes() < gunicorn.WORKER_MOST_BYTES


def test_what_is_kept_in_memory_is_bounded_in_bytes(monkeypatch):
    what_is_known.forget()
    cache = what_is_known.known.cache
    plan = fit_out()[0]
    weighs = what_is_known.known(what_is_known.pack(plan)).weighs
    assert weighs == len(document.to_bytes(plan)) * what_is_known.BYTES_EACH == cache.currsize
    for n in range(int(what_is_known.KEPT_BYTES // weighs) + 5):
        what_is_known.known(what_is_known.pack(plan.model_copy(update={"name": f"plan {n}"})))
    assert cache.currsize <= what_is_known.KEPT_BYTES and len(cache) > 3
    what_is_known.forget()
    assert cache.currsize == 0


def test_what_is_kept_on_the_disk_is_bounded_in_bytes(tmp_path, monkeypatch):
    monkeypatch.setattr(shared, "MOST_BYTES", 50_000)
    files = shared.Files(str(tmp_path), {})
    monkeypatch.setattr(caches["analyses"], "set", files.set, raising=False)
    for n in range(20):
        shared.keep(f"k{n}", bytes(struct.pack("Q", n * 7919)) * 3000 + zlib.compress(bytes(range(256)) * n))
    size = sum(p.stat().st_size for p in tmp_path.iterdir())
    assert 0 < size <= 50_000 + 25_000 and files.get("k19") is not None


# -- the disk ----------------------------------------------------------------------------------------------------------


@pytest.fixture
def disk(monkeypatch, tmp_path, settings):
    """Says how much is free on the disk of the data folder."""
    settings.DATA = tmp_path

    def free(mb):
        usage = type("Usage", (), {"free": mb * 1024**2})
        monkeypatch.setattr(room.shutil, "disk_usage", lambda _: usage)
    return free


def test_a_full_disk_is_said_with_the_figure_and_takes_no_edit_that_it_could_not_keep(inside, shop, disk):
    bench = f"/w/{shop.workshop.slug}/"
    for mb, taken, said in ((2000, True, ""), (300, True, "nearly full: 300 MB free"), (12, False, "full: 12 MB free")):
        disk(mb)
        page = inside.get(bench).content.decode()
        assert said in page and ("disk" in page) == (mb < 500)
        health = inside.get("/health/").content.decode()
        assert health.startswith("well") and said in health
        head = store.load(shop.row).number
        answer = inside.post(shop.url("edit/"), {"base": head, "edit": f'{{"kind": "rename", "name": "at {mb}"}}'})
        assert answer.status_code == (302 if taken else 507)
        shop.row.refresh_from_db()
        assert (store.load(shop.row).number == head + 1) == taken
    text = answer.content.decode()
    assert "12 MB free" in text and "at 12" in text and "Send it again" in text  # what was typed is held
    assert inside.get(shop.url("loads/")).status_code == 200
    inside.logout()
    assert inside.post("/sign-in/", {"username": "Mudflat owner", "password": PASSWORD}).status_code == 302
    disk(2000)
    again = {"base": head, "edit": '{"kind": "rename", "name": "back"}'}
    assert inside.post(shop.url("edit/"), again).status_code == 302


# -- texts -------------------------------------------------------------------------------------------------------------


def test_a_text_that_grows_when_it_is_lowered_is_kept(shop):
    name = "İ" * 80
    assert len(name.lower()) == 160
    plan = store.load(shop.row).plan
    row = store.edit(shop.row, shop.technician, 1, AddElement(what="load", values={
        "name": name, "place": plan.places[0].id, "amount": 5, "feed": plan.supply.id})).row
    assert Thing.objects.get(plan=row, name=name).text.startswith(name.lower()[:100])
    assert len(found_by.lowered("İ" * 160, Need)) == 160


@pytest.mark.parametrize("letter", ["\ufffe", "\uffff", "\U0001fffe", "\U0010ffff", "\ufdd0", "\x00", "\u2028"])
def test_what_is_no_character_does_not_come_into_a_plan(letter):
    assert one_line(f"fog{letter}lamp") == "fog lamp"
    assert one_line("Möwe “2” 灯 😀") == "Möwe “2” 灯 😀"
    assert elevation.elevation("touring motorcycle", 100, 60, "x").isascii()


def test_two_owners_who_wait_for_each_other_are_tried_again(monkeypatch):
    tries = []

    @turns.taken_in_turn
    def act():
        tries.append(1)
        if len(tries) < 4:
            raise OperationalError(1213, "Deadlock found when trying to get lock")
        return "done"
    monkeypatch.setattr(turns, "connection", type("C", (), {"in_atomic_block": False}))
    assert act() == "done" and len(tries) == 4

    @turns.taken_in_turn
    def other():
        tries.append(1)
        raise OperationalError(1054, "Unknown column")
    with pytest.raises(OperationalError):
        other()
    assert len(tries) == 5  # no other fault is tried again


# -- photographs -------------------------------------------------------------------------------------------------------


def picture(size=(64, 48), form="JPEG", **more):
    out = io.BytesIO()
    Image.new("RGB", size, (120, 90, 60)).save(out, form, **more)
    return out.getvalue()


def test_photographs_that_are_too_narrow_or_damaged_are_a_sentence():
    for size, words in (((60000, 900), "so narrow"), ((2000, 60), "so narrow"), ((31000, 1900), "so narrow"),
                        ((9000, 7000), "has 63 million pixels; up to 60 million are taken")):
        with pytest.raises(PlanError, match=words):
            reencoded(picture(size))
    for form in ("JPEG", "PNG", "WEBP"):
        whole = picture(form=form)
        assert reencoded(whole)[1:] == (64, 48)
        for n in range(4, len(whole), max(1, len(whole) // 60)):
            for bad in (whole[:n], whole[:n] + bytes([whole[n] ^ 0xFF]) + whole[n + 1:]):
                try:
                    reencoded(bad)
                except PlanError as error:
                    assert "no photograph" in error.faults[0].sentence or "pixels" in error.faults[0].sentence


def test_a_plan_s_photographs_are_counted_where_they_are_written(shop):
    for n in range(40):
        Photo.objects.create(plan=shop.row, element="W1", image=b"x", width=1, height=1, by=shop.owner, caption=str(n))
    with pytest.raises(PlanError, match="40 photographs already"):
        keep_photo(shop.row, shop.owner, "W1", "", picture())
    assert Photo.objects.count() == 40


# -- who asks ----------------------------------------------------------------------------------------------------------


def test_nobody_s_word_is_taken_for_where_a_request_comes_from_but_a_proxy_s():
    request = RequestFactory().get("/", HTTP_X_FORWARDED_FOR="203.0.113.7", REMOTE_ADDR="127.0.0.1")
    assert address_of(request) == "127.0.0.1"
    with override_settings(PROXIES=frozenset({"127.0.0.1"})):
        assert address_of(request) == "203.0.113.7"
        assert address_of(RequestFactory().get("/", HTTP_X_FORWARDED_FOR="203.0.113.7",
                                               REMOTE_ADDR="198.51.100.2")) == "198.51.100.2"


def test_a_host_that_is_not_served_is_one_line_without_a_trace(client, caplog):
    assert client.get("/sign-in/", HTTP_HOST="evil.example").status_code == 400
    lines = NobodysHost()
    first, again = (logging.LogRecord("django.security.DisallowedHost", logging.ERROR, "", 1, "Invalid", (), (1, 2, 3))
                    for _ in range(2))
    assert lines.filter(first) and first.exc_info is None and "not served here" in first.getMessage()
    assert not lines.filter(again)
    assert lines.filter(logging.LogRecord("django.request", logging.ERROR, "", 1, "ours", (), None))


def test_passwords_and_codes_cannot_be_guessed_by_whoever_sits_at_an_open_session(client, shop):
    client.post("/sign-in/", {"username": "Mudflat owner", "password": PASSWORD})
    new = "eelgrass-and-samphire"
    wrong = {"old_password": "wrong", "new_password1": new, "new_password2": new}
    said = [client.post("/me/password/", wrong).content.decode() for _ in range(10)]
    assert "That is not your password" in said[0] and "Too many tries" in said[-1]
    answer = client.post("/me/password/", {**wrong, "old_password": PASSWORD})
    assert answer.status_code == 422 and "Too many tries" in answer.content.decode()
    assert client.post("/me/no-second-factor/", {"password": PASSWORD}).status_code == 422
    other = make_shop("Creek")  # somebody else is not locked out by it
    client.post("/sign-out/")
    assert client.post("/sign-in/", {"username": "Creek owner", "password": PASSWORD}).status_code == 302
    good = {**wrong, "old_password": PASSWORD}
    assert client.post("/me/password/", good).status_code == 302, other
