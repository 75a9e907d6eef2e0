"""Ticks and readings that a browser keeps until they are answered for: taken once, by whose they are, or refused and
nothing left of them."""

import threading
from concurrent.futures import ThreadPoolExecutor

import pytest
from django.db import connection
from django.test import Client
from django.urls import reverse

from loadstar import demo
from loadstar.web.evidence.sheet import made
from loadstar.web.records import store
from loadstar.web.records.models import Act, BuildEntry

pytestmark = pytest.mark.django_db(transaction=True)
ID = "0123456789abcdef0123456789abcdef"


@pytest.fixture
def bench(shop):
    """A plan to build, and what sends a tick of it with an id."""
    row = store.begin(shop.workshop, shop.technician, demo.winter()[0])
    keys = [go.key for go in made(store.load(row).analysis).goes]
    address = reverse("act", args=[shop.workshop.slug, row.pk, "build", "tick"])

    def tick(key, act_id=ID, person=shop.technician, client=None, said_by=None):
        client = client or Client()
        client.force_login(person)
        return client.post(address, {"base": 1, "go": key, "what": "done"}, headers={
            "X-Loadstar-Act": act_id, "X-Loadstar-Person": str((said_by or person).pk)})
    tick.keys, tick.row, tick.shop, tick.address = keys, row, shop, address
    return tick


def test_an_act_is_answered_with_its_id_and_taken_once(bench):
    first = bench(bench.keys[0]).json()
    assert (first["act"], first["taken"]) == (ID, True) and f"/p/{bench.row.pk}/build/?" in first["go"]
    again = bench(bench.keys[0]).json()  # the answer was lost on the way
    assert (again["act"], again["taken"]) == (ID, True)
    assert BuildEntry.objects.count() == Act.objects.count() == 1


def test_of_the_same_act_sent_by_many_at_once_one_is_taken(bench):
    gate = threading.Barrier(6)

    def send(_):
        gate.wait(timeout=30)
        try:
            return bench(bench.keys[0]).json()["taken"]
        finally:
            connection.close()
    with ThreadPoolExecutor(6) as pool:
        assert list(pool.map(send, range(6))) == [True] * 6
    assert BuildEntry.objects.count() == Act.objects.count() == 1


def test_what_is_refused_leaves_nothing_and_can_be_sent_again(bench):
    answer = bench("no/go")
    said = answer.json()
    assert answer.status_code == 422 and said["act"] == ID and not said["taken"]
    assert said["said"].startswith("That work is no longer") and 'id="frame"' in said["page"]
    assert not BuildEntry.objects.exists() and not Act.objects.exists()
    assert bench(bench.keys[0]).json()["taken"]


def test_an_act_is_its_own_member_s_only(bench):
    other = bench(bench.keys[0], person=bench.shop.owner, said_by=bench.shop.technician)
    assert other.status_code == 409 and other.json()["act"] == "" and not BuildEntry.objects.exists()
    refused = bench(bench.keys[0], person=bench.shop.reader)
    assert refused.status_code == 403 and refused.json()["said"].startswith("You may not")
    store.put_away(bench.row)
    assert "in the archive" in bench(bench.keys[0]).json()["said"] and not BuildEntry.objects.exists()
    store.take_back(bench.row)
    nobody = Client().post(bench.address, {"base": 1}, headers={"X-Loadstar-Act": ID})
    assert nobody.status_code == 302 and "/sign-in/" in nobody["Location"]  # what follows it answers for no act
    for wrong in ("x", "G" * 32, "a" * 41):
        assert bench(bench.keys[0], act_id=wrong).status_code == 404


def test_who_may_only_look_is_told_so_and_the_act_is_kept_by_nobody(bench):
    answer = bench(bench.keys[0], person=bench.shop.reader)
    assert answer.status_code == 403 and answer.json()["act"] == ID and answer.json()["taken"] is False
    assert "may not change this plan" in answer.json()["said"] and not BuildEntry.objects.exists()
