"""Every revision listed, looked at, compared, taken out, restored; undo without end; the archive."""

from datetime import timedelta

import pytest
from answers import words_of
from conftest import make_shop
from django.core.management import call_command
from django.utils import timezone

from loadstar.core.edits import Rename
from loadstar.core.errors import PlanError
from loadstar.web.plans.models import PlanHead, Revision
from loadstar.web.records import store, undo
from loadstar.web.records.models import AsBuilt
from loadstar.web.workshop.models import Trail

pytestmark = pytest.mark.django_db


def renamed(shop, *names):
    for name in names:
        store.edit(shop.row, shop.technician, shop.row.head, Rename(name=name))


def test_all_revisions_are_listed_page_by_page(inside, shop, django_assert_max_num_queries):
    renamed(shop, *(f"plan {n}" for n in range(60)))
    first = inside.get(shop.url("history/")).content.decode()
    assert "Page 1 of 2" in first and ">61<" in first and '<td class="n">2<' not in first
    with django_assert_max_num_queries(14):
        second = inside.get(shop.url("history/?page=2")).content.decode()
    assert "imported from a file" in second
    for page in ("99", "x", "²", "-1"):
        assert inside.get(shop.url(f"history/?page={page}")).status_code == 200


def test_a_former_revision_is_looked_at_and_not_changed(inside, shop):
    renamed(shop, "later name")
    for station in ("survey/", "loads/", "budget/", "circuits/", "handover/", "findings/", "find/?q=l"):
        address = shop.url(station) + ("&" if "?" in station else "?") + "rev=1"
        answer = inside.get(address)
        text = answer.content.decode()
        assert answer.status_code == 200 and "You look at revision 1" in text and "later name" not in text, station
        assert 'id="form-send"' not in text and 'id="undo-form"' not in text
    text = inside.get(shop.url("circuits/?rev=1")).content.decode()
    assert "rev=1" in text.split('id="station-loads"')[0].rsplit("<a", 1)[1]
    assert "You look at" not in inside.get(shop.url("loads/?rev=2")).content.decode()  # it is the newest
    for wrong in ("0", "3", "x", "²", "9" * 50):
        assert inside.get(shop.url(f"loads/?rev={wrong}")).status_code == 404
    assert inside.post(shop.url("edit/?rev=1"), {"base": 1, "edit": '{"kind":"rename","name":"x"}'}).status_code == 404
    assert '"name": "later name"' in inside.get(shop.url("plan.json")).content.decode()
    assert '"later name"' not in inside.get(shop.url("plan.json?rev=1")).content.decode()
    shop.row.refresh_from_db()
    assert shop.row.summary.name == "later name"  # what the bench shows is of the newest


def test_two_revisions_are_compared(inside, shop):
    was = shop.row.summary.name
    renamed(shop, "later name")
    text = words_of(inside.get(shop.url("history/compared/?a=1&b=2")))
    assert f"{was} → later name" in text
    assert "they are the same" in inside.get(shop.url("history/compared/?a=2&b=2")).content.decode()
    for query in ("a=0&b=1", "a=1&b=9", "a=x&b=1", "", "a=²&b=1"):
        assert inside.get(shop.url(f"history/compared/?{query}")).status_code == 404


def test_a_former_revision_is_restored_as_a_new_one(inside, shop):
    was = shop.row.summary.name
    renamed(shop, "later name", "latest name")
    assert inside.post(shop.url("history/restore/"), {"base": 3, "number": 1}).status_code == 302
    shop.row.refresh_from_db()
    assert (shop.row.head, shop.row.summary.name) == (4, was)
    inside.post(shop.url("history/restore/"), {"base": 3, "number": 2})  # somebody was faster
    shop.row.refresh_from_db()
    assert shop.row.head == 4
    assert inside.post(shop.url("history/restore/"), {"base": 4, "number": 9}).status_code == 404
    inside.post(shop.url("undo/"))
    shop.row.refresh_from_db()
    assert shop.row.summary.name == "latest name"


def test_readers_restore_and_archive_nothing(client, shop):
    renamed(shop, "later name")
    client.force_login(shop.reader)
    assert "Restore" not in client.get(shop.url("history/")).content.decode()
    assert client.post(shop.url("history/restore/"), {"base": 2, "number": 1}).status_code == 403
    assert client.post(shop.url("archive/")).status_code == 403
    client.force_login(make_shop("Creek").owner)
    for tail in ("history/restore/", "archive/", "unarchive/"):
        assert client.post(shop.url(tail), {"base": 2, "number": 1}).status_code == 404
    assert client.get(shop.url("history/compared/?a=1&b=2")).status_code == 404


def test_undo_goes_back_as_far_as_there_are_edits(shop, monkeypatch):
    """After 200 undos it said that no edit was left, which was false: only the newest 400 revisions were looked at."""
    monkeypatch.setattr(undo, "HISTORY_LOOKED_AT", 2)
    names = [f"plan {n}" for n in range(12)]
    renamed(shop, *names)
    for name in reversed(names[:-1]):
        undo.undo(shop.row, shop.technician, shop.row.head)
        shop.row.refresh_from_db()
        assert shop.row.summary.name == name
    undo.undo(shop.row, shop.technician, shop.row.head)
    with pytest.raises(PlanError, match="no edit of yours left"):
        undo.undo(shop.row, shop.technician, shop.row.head)


def test_an_archived_plan_is_looked_at_not_changed_and_taken_back(inside, shop):
    inside.post(shop.url("archive/"))
    bench = f"/w/{shop.workshop.slug}/"
    assert f"/p/{shop.row.pk}/" not in inside.get(bench).content.decode()
    assert shop.row.summary.name in inside.get(bench + "archive/").content.decode()
    text = words_of(inside.get(shop.url("loads/")))
    assert "it can be looked at, not changed" in text and 'id="form-send"' not in text
    inside.post(shop.url("edit/"), {"base": 1, "edit": '{"kind":"rename","name":"x"}'})
    shop.row.refresh_from_db()
    assert shop.row.head == 1
    assert inside.post(shop.url("survey/keep/"), {"base": 1, "family": "tourers"}).status_code == 403
    with pytest.raises(PlanError, match="in the archive"):
        renamed(shop, "x")
    inside.post(shop.url("unarchive/"))
    assert f"/p/{shop.row.pk}/" in inside.get(bench).content.decode()
    renamed(shop, "on the bench again")
    assert [line.what for line in Trail.objects.filter(about__startswith="plan").order_by("pk")] == [
        "archived", "restored"]


def test_the_nightly_tidy_deletes_what_was_long_in_the_archive(shop):
    PlanHead.objects.filter(pk=shop.row.pk).update(archived=timezone.now() - timedelta(days=29))
    call_command("tidy")
    assert PlanHead.objects.filter(pk=shop.row.pk).exists()
    PlanHead.objects.filter(pk=shop.row.pk).update(archived=timezone.now() - timedelta(days=31))
    call_command("tidy")
    assert not PlanHead.objects.filter(pk=shop.row.pk).exists() and not Revision.objects.exists()
    assert Trail.objects.get(what="deleted").name == "Loadstar"


@pytest.mark.parametrize(("count", "words"), [(0, ""), (12, "L12"), (13, "L12 and 1 more"), (15, "L12 and 3 more")])
def test_circuits_that_were_not_proved_are_named_up_to_twelve(count, words):
    closed = AsBuilt(unproved=[f"L{n}" for n in range(1, count + 1)])
    said = closed.unproved_in_words
    assert said.endswith(words) and said.count(",") == max(min(count, 12) - 1, 0)
