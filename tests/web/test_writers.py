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
from django.test import Client

from loadstar.core.edits import AddElement, TakeSurvey
from loadstar.core.errors import PlanError
from loadstar.demo import fit_out
from loadstar.exchange import survey as exchange
from loadstar.web.plans.models import PlanHead, Revision
from loadstar.web.records import store, summary, undo
from loadstar.web.records.models import Need, Thing

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


def named(row: PlanHead) -> Counter[str]:
    """The places that writers have put into the newest revision."""
    return Counter(p.name for p in store.load(row).plan.places if p.name.startswith("place of"))


def test_of_twenty_from_one_head_one_is_stored_and_the_others_are_told():
    shop = make_shop("Mudflat", Bench().plan)

    def writer(n: int) -> str:
        try:
            store.edit(PlanHead.objects.get(pk=shop.row.pk), shop.technician, 1, place(n))
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
            row = PlanHead.objects.get(pk=shop.row.pk)
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


# -- every pair of writers ---------------------------------------------------------------------------------------------


def tried_again(act: Callable[[PlanHead], object]) -> Callable[[object], str]:
    """A writer that, told of a conflict, looks again and tries again; what became of it."""
    def writer(shop) -> str:
        for _ in range(TURNS):
            try:
                act(PlanHead.objects.get(pk=shop.row.pk))
            except store.Conflict:
                continue
            except PlanError as refused:
                return refused.faults[0].sentence
            return "done"
        return "never"
    return writer


def edited(shop) -> str:
    return tried_again(lambda row: store.edit(row, shop.technician, row.head, place(1)))(shop)


def undone(shop) -> str:
    return tried_again(lambda row: undo.undo(row, shop.owner, row.head))(shop)


def restored(shop) -> str:
    return tried_again(lambda row: store.restore(row, shop.technician, row.head, 2))(shop)


def survey_taken(shop) -> str:
    survey = exchange.survey_of(fit_out()[0])
    return tried_again(lambda row: store.edit(row, shop.technician, row.head, TakeSurvey(survey=survey)))(shop)


def archived(shop) -> str:
    return f"archived {store.put_away(PlanHead.objects.get(pk=shop.row.pk))}"


def taken_back(shop) -> str:
    return f"taken back {store.take_back(PlanHead.objects.get(pk=shop.row.pk))}"


def summarised(shop) -> str:
    store.refresh(PlanHead.objects.get(pk=shop.row.pk))
    return "done"


def imported(shop) -> str:
    row = store.take_in(shop.workshop, shop.technician, Bench().plan)
    return f"imported at {row.head}"


def looked_at(shop) -> str:
    client = Client()
    client.force_login(shop.reader)
    return f"seen {client.get(shop.url('loads/')).status_code}"


WROTE = (edited, undone, restored, survey_taken, archived, taken_back, summarised, imported, looked_at)
PAIRS = [(a, b) for n, a in enumerate(WROTE) for b in WROTE[n:]]


@pytest.mark.parametrize(("one", "two"), PAIRS, ids=lambda act: act.__name__)
def test_of_two_writers_at_once_nothing_is_lost_and_the_plan_lives(one, two):
    """Each pair twice: what was answered as done is a revision; the plan can be edited, shown and archived after."""
    for turn in range(2):
        shop = make_shop(f"Mudflat {turn}", Bench().plan)
        store.edit(shop.row, shop.owner, 1, place(-1))
        if taken_back in (one, two):
            store.put_away(shop.row)
        with ThreadPoolExecutor(2) as pool:
            gate = threading.Barrier(2)

            def run(act, shop=shop, gate=gate):
                gate.wait(timeout=60)
                try:
                    return act(shop)
                finally:
                    connection.close()
            said = list(pool.map(run, (one, two)))
        assert "never" not in said
        assert not any(words.startswith("seen") and words != "seen 200" for words in said)
        row = PlanHead.objects.get(pk=shop.row.pk)
        numbers = list(Revision.objects.filter(plan=row).order_by("number").values_list("number", flat=True))
        made = sum(words == "done" and act in (edited, undone, restored, survey_taken)
                   for act, words in zip((one, two), said, strict=True))
        assert numbers == list(range(1, len(numbers) + 1)) and row.head == numbers[-1]
        assert made - (one is two and one is survey_taken) <= len(numbers) - 2 <= made
        assert row.summary.revision == row.head or row.pk in summary.stale()
        if archived in (one, two) and taken_back not in (one, two):
            assert row.archived is not None  # an edit in flight does not take it out again
            assert not Need.objects.filter(plan=row).exists() and not Thing.objects.filter(plan=row).exists()
        if row.archived is not None:
            assert store.take_back(row)
        assert store.edit(row, shop.owner, row.head, place(99)).number == len(numbers) + 1
        found = set(Thing.objects.filter(plan=row).values_list("element", flat=True))
        assert found == {p.id for p in store.load(row).plan.parts}
