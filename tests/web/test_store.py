"""Revisions: edits, undo and redo, conflicts, projections, growth."""

import re

import pytest
from builders import wide_plan
from conftest import make_shop
from django.core.management import call_command
from django.db import IntegrityError, connection, transaction
from django.test import Client
from django.test.utils import CaptureQueriesContext

from loadstar.core.edits import ChangeElement, Rename, SetWire
from loadstar.core.errors import PlanError
from loadstar.core.plan.model import Plan
from loadstar.web.plans.models import PlanHead, PlanSummary, Revision
from loadstar.web.records import store, summary, undo, work

pytestmark = pytest.mark.django_db


def change(amount: float, load: str = "L1") -> ChangeElement:
    """An edit of a load's amount."""
    return ChangeElement(id=load, values={"amount": amount})


def test_every_edit_is_a_revision_with_author_and_label(shop):
    store.edit(shop.row, shop.technician, 1, change(50))
    newest = Revision.objects.filter(plan=shop.row).latest("number")
    assert (newest.number, newest.author, newest.label) == (2, shop.technician, "Heated grips changed")
    assert store.load(shop.row).plan.part("L1").amount == 50
    assert store.load(shop.row, 1).plan.part("L1").amount == 56


def test_an_empty_plan_has_the_name_that_was_given_or_the_usual_one(shop):
    assert store.empty(shop.workshop, "Tide gauge").name == "Tide gauge"
    assert store.empty(shop.workshop).name == Plan().name
    with pytest.raises(PlanError):
        store.empty(shop.workshop, "x" * 81)


def test_an_edit_that_changes_nothing_makes_no_revision(shop):
    store.edit(shop.row, shop.technician, 1, change(56))
    assert shop.row.head == 1


def test_undo_and_redo_walk_back_and_forth(shop):
    for amount in (50, 45, 40):
        store.edit(shop.row, shop.technician, shop.row.head, change(amount))

    def amount() -> float:
        return store.load(shop.row).plan.part("L1").amount
    seen = []
    for step in (undo.undo, undo.undo, undo.redo, undo.undo, undo.undo):
        step(shop.row, shop.technician, shop.row.head)
        seen.append(amount())
    assert seen == [45, 50, 45, 50, 56]
    with pytest.raises(PlanError, match="no edit of yours left"):
        undo.undo(shop.row, shop.technician, shop.row.head)
    for expected in (50, 45, 40):
        undo.redo(shop.row, shop.technician, shop.row.head)
        assert amount() == expected
    with pytest.raises(PlanError, match="nothing that you have undone"):
        undo.redo(shop.row, shop.technician, shop.row.head)


def test_a_new_edit_ends_redo(shop):
    store.edit(shop.row, shop.technician, shop.row.head, change(50))
    undo.undo(shop.row, shop.technician, shop.row.head)
    store.edit(shop.row, shop.technician, shop.row.head, Rename(name="Other"))
    with pytest.raises(PlanError):
        undo.redo(shop.row, shop.technician, shop.row.head)


def test_undo_takes_back_my_edit_not_another_s(shop):
    store.edit(shop.row, shop.technician, shop.row.head, change(50))
    store.edit(shop.row, shop.owner, shop.row.head, change(9, "L2"))
    undo.undo(shop.row, shop.technician, shop.row.head)
    plan = store.load(shop.row).plan
    assert plan.part("L1").amount == 56
    assert plan.part("L2").amount == 9


def test_undo_is_refused_when_somebody_touched_the_same(shop):
    store.edit(shop.row, shop.technician, shop.row.head, change(50))
    store.edit(shop.row, shop.owner, shop.row.head, change(44))
    head = shop.row.head
    with pytest.raises(PlanError, match="Heated grips has been changed again"):
        undo.undo(shop.row, shop.technician, shop.row.head)
    assert PlanHead.objects.get(pk=shop.row.pk).head == head


def test_two_editors_the_second_is_told(shop):
    store.edit(shop.row, shop.owner, 1, change(50))
    late = PlanHead.objects.get(pk=shop.row.pk)
    with pytest.raises(store.Conflict) as conflict:
        store.edit(late, shop.technician, 1, change(9, "L2"))
    assert conflict.value.by == "Mudflat owner"
    assert [c.key for c in conflict.value.changes] == ["L1"]
    assert store.load(late).plan.part("L2").amount == 18


def test_the_head_moves_only_from_where_it_was(shop):
    """The swap itself: somebody moves the head between reading and writing."""
    stale = PlanHead.objects.get(pk=shop.row.pk)
    plan = store.load(stale).plan
    store.edit(shop.row, shop.owner, 1, change(50))
    stale.head = 1
    with pytest.raises(store.Conflict):
        store.move(store.Loaded(stale, 1, store.known(store.pack(plan))), shop.technician, plan, "edit", "late")
    assert Revision.objects.filter(plan=shop.row).count() == 2


def test_projections_follow_the_newest_revision(shop):
    row = PlanHead.objects.get(pk=shop.row.pk)
    shown = row.summary
    assert (shown.machine, shown.loads, shown.stops, shown.revision) == ("Marsh warden's tourer", 7, 1, 1)
    assert shown.idle_margin_a == pytest.approx(-13.3, abs=0.2)
    thin = next(w.id for w in store.load(row).plan.wires if w.area_mm2 == 0.35)
    store.edit(row, shop.technician, row.head, SetWire(id=thin, values={"area_mm2": None}))
    shown = PlanHead.objects.get(pk=row.pk).summary
    assert (shown.stops, shown.revision) == (0, 2)


def test_a_summary_that_is_gone_or_of_an_older_core_is_made_again(shop):
    row = shop.row
    assert summary.stale() == []
    PlanSummary.objects.filter(plan=row).update(core_version="0.1", stops=40)
    assert summary.stale() == [row.pk] and PlanHead.objects.get(pk=row.pk).summary.of_an_older_core
    for spoil in (lambda: None, PlanSummary.objects.filter(plan=row).delete):
        spoil()
        store.refresh(PlanHead.objects.get(pk=row.pk))
        shown = PlanHead.objects.get(pk=row.pk).summary
        assert (shown.stops, shown.of_an_older_core) == (1, False) and summary.stale() == []


def test_after_an_upgrade_every_summary_is_worked_out_anew(shop):
    PlanSummary.objects.filter(plan=shop.row).update(core_version="0.1", stops=40)
    assert "being calculated again" in bench_of(shop)
    call_command("prepare", demo=True)
    assert summary.stale() == [] and "being calculated again" not in bench_of(shop)


def bench_of(shop):
    client = Client()
    client.force_login(shop.owner)
    return client.get(f"/w/{shop.workshop.slug}/").content.decode()


def test_looking_at_a_plan_writes_nothing(inside, shop):
    """A page that was only looked at after an upgrade moved the head back over a colleague's edit."""
    PlanSummary.objects.filter(plan=shop.row).update(core_version="0.1")
    for tail in ("", "loads/", "survey/", "circuits/", "route/", "ends/", "build/", "prove/", "handover/", "history/",
                 "findings/", "bands/", "plan.json", "find/?q=lamp"):
        with CaptureQueriesContext(connection) as caught:
            assert inside.get(shop.url(tail)).status_code in (200, 302), tail
        # the session and the trail of files taken out are no part of the plan
        wrote = [q["sql"] for q in caught if re.match("(INSERT|UPDATE|DELETE|REPLACE)", q["sql"])
                 and "workshop_trail" not in q["sql"]]
        assert wrote == [], tail


def test_a_head_behind_its_newest_revision_is_mended(shop, capsys):
    """0.9.0 could leave a plan so, whose next edit then failed for ever."""
    store.edit(shop.row, shop.owner, 1, change(50))
    PlanHead.objects.filter(pk=shop.row.pk).update(head=1)
    with pytest.raises(IntegrityError), transaction.atomic():
        store.edit(PlanHead.objects.get(pk=shop.row.pk), shop.owner, 1, change(51))
    call_command("prepare", demo=True)
    assert f"Plan {shop.row.pk} stood at revision 1 though 2 was there" in capsys.readouterr().out
    row = PlanHead.objects.get(pk=shop.row.pk)
    assert row.head == 2 and store.load(row).plan.part("L1").amount == 50
    assert store.edit(row, shop.owner, 2, change(52)).number == 3
    assert store.mend_heads() == []


def test_a_thousand_edits_of_a_wide_plan_stay_small(shop, monkeypatch):
    """1,000 edits of a 200-wire plan must add less than 25 MB: measured on 40, with the documents' real sizes."""
    plan = wide_plan()
    assert len(plan.wires) >= 200
    row = store.take_in(shop.workshop, shop.technician, plan)
    # The analysis has no part in what is stored; without it the test is quick.
    monkeypatch.setattr(store, "summarise", lambda *_: None)
    monkeypatch.setattr(store, "keep_found", lambda *_: None)
    for n in range(40):
        store.edit(row, shop.technician, row.head, change(3 + n % 7, f"L{1 + n % 60}"))
    with connection.cursor() as cursor:
        cursor.execute("SELECT SUM(LENGTH(document)) FROM plans_revision WHERE plan_id = %s AND number > 1", [row.pk])
        stored = float(cursor.fetchone()[0])
    # InnoDB keeps long values on whole 16 kB pages: count each revision up to the next page, and a row's overhead.
    pages = sum(-(-len(bytes(d)) // 16_384) for d in Revision.objects.filter(plan=row, number__gt=1).values_list(
        "document", flat=True))
    assert stored > 0
    assert pages * 16_384 / 40 * 1000 + 1000 * 400 < 25e6


def test_two_workshops_do_not_share(shop):
    other = make_shop("Upland")
    assert not PlanHead.objects.filter(workshop=other.workshop, pk=shop.row.pk).exists()


@pytest.mark.parametrize(("spread", "value", "kept"), [(0.3, 12.5, (0.3, 12.5)), (work.OPEN, work.OPEN, (0.0, None))])
def test_a_reading_is_kept_as_it_was_and_an_open_circuit_as_nothing(shop, spread, value, kept):
    made = work.keep(shop.row, shop.technician, 1, step="short.F1", quantity="ohm", row="", red="F1.b", black="BT1.neg",
                     value=value, expected=12.5, spread=spread, plain=12.5)
    assert (made.spread, made.value) == kept and made.expected == made.plain == 12.5
    shown = work.readings(shop.row)[-1]
    assert (shown.value, shown.spread) == (value, kept[0])
