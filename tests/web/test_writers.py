"""Twenty writers on one plan, in threads of their own with connections of their own: every edit is stored or its writer
is told, none is lost, none waits for ever."""

import threading
from collections import Counter
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

import pytest
from builders import Bench
from conftest import make_shop
from django.db import connection

from loadstar.core.edits import AddElement
from loadstar.web.plans import store
from loadstar.web.plans.models import PlanRow, Revision

pytestmark = pytest.mark.django_db(transaction=True)
WRITERS = 20
TURNS = 200


def at_once(writer: Callable[[int], str]) -> list[str]:
    """What each of the writers answers, all begun together."""
    gate = threading.Barrier(WRITERS)

    def one(n: int) -> str:
        gate.wait(timeout=60)
        try:
            return writer(n)
        finally:
            connection.close()
    with ThreadPoolExecutor(WRITERS) as pool:
        return list(pool.map(one, range(WRITERS)))


def place(n: int) -> AddElement:
    """An edit that only this writer makes."""
    return AddElement(what="place", values={"name": f"place of {n}"})


def named(row: PlanRow) -> Counter[str]:
    """The places that writers have put into the newest revision."""
    return Counter(p.name for p in store.load(row).plan.places if p.name.startswith("place of"))


def test_of_twenty_from_one_head_one_is_stored_and_the_others_are_told():
    shop = make_shop("Mudflat", Bench().plan)

    def writer(n: int) -> str:
        try:
            store.edit(PlanRow.objects.get(pk=shop.row.pk), shop.technician, 1, place(n))
        except store.Conflict as told:
            return f"told of {told.head}"
        return f"stored {n}"
    said = at_once(writer)
    stored = [words.removeprefix("stored ") for words in said if words.startswith("stored")]
    assert len(stored) == 1
    assert Counter(said)["told of 2"] == WRITERS - 1
    shop.row.refresh_from_db()
    assert shop.row.head == 2
    assert named(shop.row) == {f"place of {stored[0]}": 1}


def test_twenty_who_try_again_are_all_stored_once():
    shop = make_shop("Mudflat", Bench().plan)

    def writer(n: int) -> str:
        for turn in range(TURNS):
            row = PlanRow.objects.get(pk=shop.row.pk)
            try:
                store.edit(row, shop.technician, row.head, place(n))
            except store.Conflict:
                continue
            return f"stored at turn {turn}"
        return "never"
    assert "never" not in at_once(writer)
    shop.row.refresh_from_db()
    assert named(shop.row) == {f"place of {n}": 1 for n in range(WRITERS)}
    numbers = list(Revision.objects.filter(plan=shop.row).order_by("number").values_list("number", flat=True))
    assert numbers == list(range(1, WRITERS + 2))
    assert shop.row.head == WRITERS + 1
