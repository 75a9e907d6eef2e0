"""Build and Prove as pages: ticks, readings, what is refused and why, practice, whose they are."""

import subprocess

import pytest
from answers import said
from conftest import make_shop
from django.test import Client
from django.urls import reverse

from loadstar import demo, practice
from loadstar.core.build.bench_test import trials
from loadstar.core.edits import SetWire
from loadstar.web.plans.models import PlanHead
from loadstar.web.records import store
from loadstar.web.records import work as records
from loadstar.web.records.models import BuildEntry, TrainerRun
from loadstar.web.stations.prove import training


def tick(machine, go, **more):
    return machine.act("build", "tick", go=go.key, **{"what": "done", **more})


def kept():
    """What the log has, in the order written."""
    return [(e.operation, e.what) for e in BuildEntry.objects.order_by("pk")]


# -- Build -----------------------------------------------------------------------------------------------


def test_one_go_after_the_other_and_the_log_keeps_who_and_what(machine):
    first, second = machine.sheet.goes[:2]
    assert first.words in said(machine("build"))
    assert second.words in said(tick(machine, first))
    entry = BuildEntry.objects.order_by("pk").first()
    assert (entry.operation, entry.what, entry.by, entry.revision) == (first.key, "done", machine.shop.technician, 1)
    assert [key for key, _ in kept()] == [o.key for o in first.operations]
    machine.row.refresh_from_db()
    assert (machine.row.summary.work_done, machine.row.summary.work_all) == (1, len(machine.sheet.goes))
    assert f"1 of {len(machine.sheet.goes)}" in said(machine("loads"))


def crimps(machine):
    return next(g for g in machine.sheet.goes if g.sitting.startswith("end ") and len(g.lines) > 1)


def test_a_tick_out_of_order_is_taken_and_what_it_leaves_unproved_is_said(machine):
    go = crimps(machine)
    text = said(tick(machine, go))
    assert "Ticked. Not ticked, though it comes before: " in text and "nothing shows that it was done" in text
    assert [key for key, _ in kept()] == [o.key for o in go.operations]
    gone = machine.act("build", "tick", go="melt/W8.a", what="done")
    assert gone.status_code == 422 and "no longer in this plan" in said(gone)


def test_only_the_lines_that_are_marked_are_ticked(machine):
    go = crimps(machine)
    line = go.lines[1]
    assert "Mark the lines" in said(tick(machine, go, what="some"))
    assert "no longer in this plan" in said(tick(machine, go, what="some", line=["W99 at nothing"]))
    tick(machine, go, what="some", line=[line.key])
    assert [key for key, _ in kept()] == [o.key for o in line.operations]
    assert f"1 of {len(go.lines)}" in said(machine("build"))


def test_one_sent_twice_counts_once_and_two_people_s_tick_is_told(machine):
    go = machine.sheet.goes[0]
    tick(machine, go, token="0123456789abcdef")
    tick(machine, go, token="0123456789abcdef")
    assert len(kept()) == len(go.operations)
    other = Client()
    other.force_login(machine.shop.owner)
    address = reverse("act", args=[machine.shop.workshop.slug, machine.row.pk, "build", "tick"])
    answer = other.post(address, {"base": 1, "go": go.key, "what": "done", "token": "f" * 16}, follow=True)
    assert "ticked it already" in said(answer) and len(kept()) == len(go.operations)


def test_of_one_page_that_is_not_drawn_anew_each_different_press_counts(machine):
    """As without the network: the page stays as it was, with one name, and is pressed again."""
    go = crimps(machine)
    first, second = go.lines[:2]
    page = {"token": "0123456789abcdef01234567"}
    for text in ("short of sleeve", "short of sleeve", "sleeve found"):
        tick(machine, go, what="note", line=[first.key], note=text, **page)
    assert [e.note for e in BuildEntry.objects.order_by("pk")] == ["short of sleeve", "sleeve found"]
    before = len(kept())
    tick(machine, go, what="some", line=[first.key], **page)
    tick(machine, go, what="some", line=[second.key], **page)
    tick(machine, go, what="again", line=[first.key], note="slipped", **page)
    tick(machine, go, what="some", line=[first.key], **page)
    done = [key for key, what in kept()[before:] if what == "done"]
    assert done.count(first.main.key) == 2 and done.count(second.main.key) == 1


def test_what_went_wrong_is_said_why_and_its_line_is_open_again(machine):
    """Noted at the crimp: what came after it on that end is open with it, the other ends stand."""
    go = crimps(machine)
    line = go.lines[0]
    assert "Say in a few words" in said(tick(machine, go, what="again", line=[line.key]))
    assert "Write what is to be noted" in said(tick(machine, go, what="note", line=[line.key], note="  "))
    tick(machine, go)
    tick(machine, go, what="again", line=[line.key], note="a  strand beside it", tool="pliers")
    last = BuildEntry.objects.last()
    assert (last.what, last.operation, last.note, last.tool) == ("again", line.main.key, "a strand beside it", "pliers")
    assert f"{len(go.lines) - 1} of {len(go.lines)}" in said(machine("build"))
    assert "a strand beside it" in said(machine("build", view="log"))


@pytest.mark.parametrize(("typed", "kept_n"), [("72", 72.0), ("72,5 N", 72.5), ("", None)])
def test_a_pull_has_a_value_or_held(machine, typed, kept_n):
    go = crimps(machine)
    tick(machine, go, **{f"pull_n-{go.lines[0].key}": typed})
    first, second = (BuildEntry.objects.get(operation=line.pull.key) for line in go.lines[:2])
    assert (first.pull_n, first.note) == (kept_n, "held" if kept_n is None else "")
    assert (second.pull_n, second.note) == (None, "held")
    assert not BuildEntry.objects.exclude(operation__startswith="pull/").exclude(note="").exists()


@pytest.mark.parametrize("typed", ["-4", "0", "many", "9999", "nan"])
def test_a_force_that_is_none_is_told(machine, typed):
    go = crimps(machine)
    answer = tick(machine, go, **{f"pull_n-{go.lines[1].key}": typed})
    assert answer.status_code == 422 and "is no force" in said(answer) and not kept()


def test_ticks_from_paper_are_entered_go_by_go_in_their_order(machine):
    goes = machine.sheet.goes
    machine.act("build", "ticks", view="list", go=[g.key for g in reversed(goes[:4])])
    assert [key for key, _ in kept()] == [o.key for g in goes[:4] for o in g.operations]
    before = len(kept())
    assert "Not ticked, though it comes before" in said(machine.act("build", "ticks", view="list", go=[goes[-1].key]))
    assert len(kept()) == before + len(goes[-1].operations)
    assert "no longer in this plan" in said(machine.act("build", "ticks", view="list", go=["x/y"]))
    assert "Mark what has been done" in said(machine.act("build", "ticks", view="list"))


def test_what_was_done_by_an_older_sheet_is_flagged_once_the_plan_changed(machine):
    go = next(g for g in machine.sheet.goes if any(o.key == "crimp core/W8.a" for o in g.operations))
    tick(machine, go)
    store.edit(machine.row, machine.shop.technician, 1, SetWire(id="W8", values={"area_mm2": 1.5}))
    text = said(machine("build"))
    assert "made to revision 1" in text and "Check it." in text
    machine.act("build", "tick", base=1, go=machine.sheet.goes[0].key, what="done")
    assert BuildEntry.objects.last().revision == 1
    assert machine.act("build", "tick", base=77, go=go.key, what="done").status_code == 404


def test_a_bench_trial_is_kept_with_what_it_comes_to(machine):
    """The charger draws what it should; a force, a negative and another workshop's circuit are told."""
    trial = next(iter(trials(store.load(machine.row).analysis)))
    answer = machine.act("build", "trial", view="trial", load=trial.load.id, amps=f"{trial.amps:.3f}",
                         volts=f"{trial.volts:.2f}")
    assert ": pass" in said(answer)
    entry = BuildEntry.objects.get()
    assert entry.operation == f"trial/{trial.load.id}" and entry.note.endswith("pass")
    assert entry.element == trial.load.id
    for wrong in ({"amps": "-1"}, {"amps": "many"}, {"volts": ""}, {"volts": "900"}):
        sent = {"amps": "1", "volts": "12", **wrong}
        assert machine.act("build", "trial", view="trial", load=trial.load.id, **sent).status_code == 422
    gone = machine.act("build", "trial", view="trial", load="L9", amps="1", volts="12")
    assert "no longer in this plan" in said(gone)
    assert BuildEntry.objects.count() == 1


def test_the_sheet_prints_with_a_box_for_every_line(machine, tmp_path):
    made_pdf = machine.client.get(reverse("work-sheet", args=[machine.shop.workshop.slug, machine.row.pk]))
    (tmp_path / "sheet.pdf").write_bytes(made_pdf.content)
    text = subprocess.run(["pdftotext", "-layout", tmp_path / "sheet.pdf", "-"], capture_output=True, text=True,
                          check=True).stdout
    lines = [line for go in machine.sheet.goes for line in go.lines]
    assert text.count("□") == len(lines) and "Supply disconnected" in text
    assert text.count("held ___") == sum(line.pull is not None for line in lines) > 0


@pytest.mark.parametrize("view", ["work", "list", "kit", "trial", "log"])
def test_every_part_of_the_sheet_is_shown_also_of_a_plan_with_nothing_to_build(machine, view):
    assert machine("build", view=view).status_code == 200
    empty = store.begin(machine.shop.workshop, machine.shop.technician, store.empty(machine.shop.workshop, "bare"))
    address = reverse("station", args=[machine.shop.workshop.slug, empty.pk, "build"])
    assert "nothing to build yet" in said(machine.client.get(address, {"view": view}))


# -- Prove -----------------------------------------------------------------------------------------------


@pytest.mark.parametrize("sent", [
    {"load": "L9"}, {"load": "L1", "quantity": "K"}, {"load": "L1", "row": "warp/9"}])
def test_what_is_none_of_the_plan_s_is_not_found(machine, sent):
    more = {"red": "L1.pos", "black": "BT1.neg", "quantity": "V", "row": "idle", "value": "3", **sent}
    assert machine.act("prove", "probe", view="find", **more).status_code == 404


def test_probes_go_on_two_points_of_the_circuit(machine):
    for red, black in (("L1.pos", "L1.pos"), ("L1.pos", "L2.pos"), ("x", "y")):
        answer = machine.act("prove", "probe", view="find", load="L1", row="idle", red=red, black=black, value="3")
        assert answer.status_code == 422 and "two points" in said(answer)


# -- practice --------------------------------------------------------------------------------------------


def test_a_go_is_begun_measured_named_and_reviewed(machine):
    machine.act("prove", "begin", view="train", practice="turned")
    run = TrainerRun.objects.get()
    assert "“Probe charger does nothing, though it is live.”" in said(machine("prove", view="train", run=run.pk))
    probes = {"red": "L3.pos", "black": "L3.neg", "power": "on", "quantity": "V"}
    answer = machine.act("prove", "measure", view="train", run=run.pk, **probes)
    assert "−11." in said(answer) or "-11." in said(answer)
    wrong = machine.act("prove", "name", view="train", run=run.pk, about="dead L3")
    assert wrong.status_code == 422 and "it was good" in said(wrong)
    text = said(machine.act("prove", "name", view="train", run=run.pk, about="turned L3"))
    run.refresh_from_db()
    assert run.found and run.wrong_parts == 1 and run.points < 50 and "are swapped" in text
    assert "target: 1 reading," in text
    assert machine.act("prove", "measure", view="train", run=run.pk, red="L3.pos", black="L3.neg").status_code == 404


def test_ohms_on_a_live_circuit_cost_the_meter_its_fuse(machine):
    machine.act("prove", "begin", view="train", practice="blown")
    run = TrainerRun.objects.get()
    answer = machine.act("prove", "measure", view="train", run=run.pk, red="F3.a", black="F3.b", power="on",
                         quantity="ohm")
    run.refresh_from_db()
    assert answer.status_code == 422 and "fuse went" in said(answer) and run.meter_fuses == 1 and run.taken == []
    machine.act("prove", "measure", view="train", run=run.pk, red="F3.a", black="F3.b", power="off", quantity="ohm")
    run.refresh_from_db()
    assert run.taken[0]["value"] is None  # it has blown: open
    machine.act("prove", "give-up", view="train", run=run.pk)
    run.refresh_from_db()
    assert run.ended and not run.found and run.points == 0


def test_a_fault_is_hidden_on_the_plan_itself_and_none_where_nothing_can_be_told(machine):
    machine.act("prove", "begin", view="train")
    run = TrainerRun.objects.get()
    assert run.plan == machine.row and run.revision == 1 and training.opened(run) is not None
    bare = store.begin(machine.shop.workshop, machine.shop.technician, demo.as_found()[0])
    address = reverse("act", args=[machine.shop.workshop.slug, bare.pk, "prove", "begin"])
    assert machine.client.post(address + "?view=train", {"base": 1}).status_code == 422


def test_a_go_is_its_member_s_own_and_the_owner_sees_everybody_s_results(machine):
    machine.act("prove", "begin", view="train", practice="turned")
    run = TrainerRun.objects.get()
    machine.act("prove", "give-up", view="train", run=run.pk)
    owner = Client()
    owner.force_login(machine.shop.owner)
    address = reverse("station", args=[machine.shop.workshop.slug, machine.row.pk, "prove"])
    assert run.title in said(owner.get(address, {"view": "train"}))
    assert owner.get(address, {"view": "train", "run": run.pk}).status_code == 404
    TrainerRun.objects.filter(pk=run.pk).update(fault="something older")
    assert "another version of Loadstar" in said(machine("prove", view="train", run=run.pk))
    assert machine.act("prove", "begin", view="train", practice="none").status_code == 404
    assert len(practice.SET) >= 6


def test_records_are_of_the_member_s_workshop_and_readers_write_none(machine):
    strange = store.begin(make_shop("Estuary").workshop, machine.shop.technician, demo.winter()[0])
    for station, what in (("build", "tick"), ("prove", "read"), ("prove", "begin")):
        address = reverse("act", args=[machine.shop.workshop.slug, strange.pk, station, what])
        assert machine.client.post(address, {"base": 1, "operation": "disconnect/supply"}).status_code == 404
        reader = Client()
        reader.force_login(machine.shop.reader)
        mine = reverse("act", args=[machine.shop.workshop.slug, machine.row.pk, station, what])
        assert reader.post(mine, {"base": 1}).status_code == 403
    assert not BuildEntry.objects.exists() and PlanHead.objects.get(pk=strange.pk).summary.work_all == 0


def test_queries_do_not_grow_with_the_log(machine, django_assert_max_num_queries):
    keys = list(machine.sheet.keys)
    machine.act("build", "ticks", view="list", operation=keys[:60])
    for n in range(30):
        records.keep(machine.row, machine.shop.technician, 1, step="posts.parked", quantity="V", row="parked",
                     red="BT1.pos", black="BT1.neg", value=12.5 + n / 1000, expected=12.5, spread=0.3, plain=12.5)
    for station in ("build", "prove"):
        with django_assert_max_num_queries(14):
            assert machine(station).status_code == 200


def test_a_page_that_would_take_too_long_says_so(machine, settings):
    settings.COMPUTE_S = 0.0
    machine.client.raise_request_exception = False
    answer = machine("prove", view="find", sel="L1")
    assert answer.status_code == 503 and "too large to compute this page" in said(answer)
