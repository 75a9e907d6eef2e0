"""Build and Prove as pages: ticks, readings, what is refused and why, practice, whose they are."""

import html
import subprocess

import pytest
from conftest import make_shop
from django.test import Client
from django.urls import reverse

from loadstar import demo, practice
from loadstar.core.begin import Wish, begun
from loadstar.core.edits import SetWire
from loadstar.core.plan.model import Plan
from loadstar.core.prove.trainer import at_load
from loadstar.standins.machines import demo_machine
from loadstar.standins.meter import MeterServer
from loadstar.web.evidence import proving as known
from loadstar.web.evidence.sheet import made
from loadstar.web.plans.models import PlanHead
from loadstar.web.records import store
from loadstar.web.records import work as records
from loadstar.web.records.models import BuildEntry, ProofReading, TrainerRun
from loadstar.web.stations.prove import training


@pytest.fixture
def at(shop):
    """A signed-in technician at a plan without faults: its pages and what is sent from them."""
    client = Client()
    client.force_login(shop.technician)
    row = store.begin(shop.workshop, shop.technician, demo.winter()[0])

    def page(station, **query):
        return client.get(reverse("station", args=[shop.workshop.slug, row.pk, station]), query)

    def act(station, act_name, view="", base=None, **sent):
        address = reverse("act", args=[shop.workshop.slug, row.pk, station, act_name])
        return client.post(f"{address}?view={view}", {"base": base or store.load(row).number, **sent}, follow=True)

    def paper(name):
        more = [store.load(row).plan.loads[0].id] if name == "card" else []
        return reverse(name, args=[shop.workshop.slug, row.pk, *more])

    page.act, page.client, page.row, page.shop, page.paper = act, client, row, shop, paper
    page.sheet = made(store.load(row).analysis)
    return page


def said(answer) -> str:
    return html.unescape(answer.content.decode())


def text_of(answer) -> str:
    """The words of a paper."""
    return subprocess.run(["pdftotext", "-layout", "-", "-"], input=answer.content, capture_output=True,
                          check=True).stdout.decode()


def at_load_v(at, load) -> float:
    """What is expected at a load, idling."""
    steps = known.plan_of_analysis(store.load(at.row).analysis)
    return next(s.expects.value for s in steps if s.key == f"at.{load}.idle")


def tick(at, key, **more):
    return at.act("build", "tick", operation=key, **{"what": "done", **more})


# -- Build -----------------------------------------------------------------------------------------------


def test_one_operation_after_the_other_and_the_log_keeps_who_and_what(at):
    first, second = at.sheet.keys[:2]
    assert at.sheet.work.operations[first].words in said(at("build"))
    assert at.sheet.work.operations[second].words in said(tick(at, first))
    entry = BuildEntry.objects.get()
    assert (entry.operation, entry.what, entry.by, entry.revision) == (first, "done", at.shop.technician, 1)
    at.row.refresh_from_db()
    assert (at.row.summary.work_done, at.row.summary.work_all) == (1, len(at.sheet.keys))
    assert f"1 of {len(at.sheet.keys)}" in said(at("loads"))


def test_what_waits_for_something_is_refused_with_what_comes_first(at):
    crimp = "crimp core/W8.a"
    answer = tick(at, crimp)
    assert answer.status_code == 422 and "First: " in said(answer) and not BuildEntry.objects.exists()
    assert tick(at, "melt/W8.a").status_code == 422 and "no longer in this plan" in said(tick(at, "melt/W8.a"))


def test_one_sent_twice_counts_once_and_two_people_s_tick_is_told(at):
    key = at.sheet.keys[0]
    tick(at, key, token="0123456789abcdef")
    tick(at, key, token="0123456789abcdef")
    assert BuildEntry.objects.count() == 1
    other = Client()
    other.force_login(at.shop.owner)
    address = reverse("act", args=[at.shop.workshop.slug, at.row.pk, "build", "tick"])
    answer = other.post(address, {"base": 1, "operation": key, "what": "done", "token": "f" * 16}, follow=True)
    assert "ticked it already" in said(answer) and BuildEntry.objects.count() == 1


def test_what_went_wrong_is_said_why_and_is_open_again(at):
    key = at.sheet.keys[0]
    assert "Say in a few words" in said(tick(at, key, what="again"))
    tick(at, key)
    tick(at, key, what="again", note="the  clamp slipped", tool="pliers")
    last = BuildEntry.objects.last()
    assert (last.what, last.note, last.tool) == ("again", "the clamp slipped", "pliers")
    assert at.sheet.work.operations[key].words in said(at("build"))
    assert "the clamp slipped" in said(at("build", view="log"))


@pytest.mark.parametrize(("typed", "kept"), [("72", 72.0), ("72,5 N", 72.5), ("", None)])
def test_a_pull_is_kept_as_it_was_typed(at, typed, kept):
    keys = list(at.sheet.keys)
    pull = next(k for k in keys if k.startswith("pull/"))
    at.act("build", "ticks", view="list", operation=keys[:keys.index(pull)])
    tick(at, pull, pull_n=typed)
    assert BuildEntry.objects.get(operation=pull).pull_n == kept


@pytest.mark.parametrize("typed", ["-4", "0", "many", "9999", "nan"])
def test_a_force_that_is_none_is_told(at, typed):
    keys = list(at.sheet.keys)
    pull = next(k for k in keys if k.startswith("pull/"))
    at.act("build", "ticks", view="list", operation=keys[:keys.index(pull)])
    answer = tick(at, pull, pull_n=typed)
    assert answer.status_code == 422 and "is no force" in said(answer)
    assert not BuildEntry.objects.filter(operation=pull).exists()


def test_ticks_from_paper_are_entered_in_their_order_as_far_as_nothing_is_left_out(at):
    keys = list(at.sheet.keys)
    at.act("build", "ticks", view="list", operation=list(reversed(keys[:6])))
    assert [e.operation for e in BuildEntry.objects.order_by("pk")] == keys[:6]
    answer = at.act("build", "ticks", view="list", operation=[keys[-1]])
    assert answer.status_code == 422 and "1 not ticked" in said(answer)
    assert "no longer in this plan" in said(at.act("build", "ticks", view="list", operation=["x/y"]))


def test_what_was_done_by_an_older_sheet_is_flagged_once_the_plan_changed(at):
    keys = list(at.sheet.keys)
    crimp = "crimp core/W8.a"
    at.act("build", "ticks", view="list", operation=keys[:keys.index(crimp) + 1])
    store.edit(at.row, at.shop.technician, 1, SetWire(id="W8", values={"area_mm2": 1.5}))
    text = said(at("build"))
    assert "made to revision 1" in text and "Check it." in text
    at.act("build", "tick", base=1, operation=keys[keys.index(crimp) + 1], what="done")
    assert BuildEntry.objects.last().revision == 1
    assert at.act("build", "tick", base=77, operation=keys[0], what="done").status_code == 404


def test_the_sheet_prints_with_a_box_for_everything(at, tmp_path):
    made_pdf = at.client.get(reverse("work-sheet", args=[at.shop.workshop.slug, at.row.pk]))
    (tmp_path / "sheet.pdf").write_bytes(made_pdf.content)
    text = subprocess.run(["pdftotext", "-layout", tmp_path / "sheet.pdf", "-"], capture_output=True, text=True,
                          check=True).stdout
    assert text.count("□") == len(at.sheet.keys) and "Supply disconnected" in text


@pytest.mark.parametrize("view", ["work", "list", "kit", "trial", "log"])
def test_every_part_of_the_sheet_is_shown_also_of_a_plan_with_nothing_to_build(at, view):
    assert at("build", view=view).status_code == 200
    empty = store.begin(at.shop.workshop, at.shop.technician, store.empty(at.shop.workshop, "bare"))
    address = reverse("station", args=[at.shop.workshop.slug, empty.pk, "build"])
    assert "nothing to build yet" in said(at.client.get(address, {"view": view}))


# -- Prove -----------------------------------------------------------------------------------------------


def read(at, step, value, **more):
    return at.act("prove", "read", view="plan", step=step, value=value, **more)


def test_a_reading_is_judged_kept_and_the_next_is_asked_for(at):
    plan = known.plan_of_analysis(store.load(at.row).analysis)
    assert plan[0].what in said(at("prove"))
    answer = read(at, plan[0].key, f"{plan[0].expects.value:.2f}")
    assert plan[1].what in said(answer) and "in order" in said(answer)
    kept = ProofReading.objects.get()
    assert (kept.step, kept.by, kept.revision) == (plan[0].key, at.shop.technician, 1)
    at.row.refresh_from_db()
    assert (at.row.summary.proof_read, at.row.summary.proof_all, at.row.summary.proof_out) == (1, len(plan), 0)


def test_a_circuit_with_a_reading_out_is_in_order_on_no_page_and_no_paper(at):
    load = store.load(at.row).plan.loads[0]
    at.client.get(at.paper("card"))  # one that was made before the reading is not handed out after it
    assert said(at("handover")).count("✓ in order") == len(store.load(at.row).plan.loads)
    read(at, f"at.{load.id}.idle", "0.4 V")
    page = said(at("handover"))
    assert page.count("✓ in order") == len(store.load(at.row).plan.loads) - 1
    assert "■ 1 reading out" in page
    assert "1 reading of this circuit out" in text_of(at.client.get(at.paper("card")))
    owner = " ".join(text_of(at.client.get(at.paper("papers"), {"only": "owner"})).split())
    assert "not to be relied on" in owner
    read(at, f"at.{load.id}.idle", f"{at_load_v(at, load.id):.2f} V")
    assert "■ 1 reading out" not in said(at("handover"))


def test_the_papers_of_a_high_pack_name_the_class_of_its_wires_and_the_volts_of_its_fuses(at):
    plan = begun(Plan(), Wish("e-scooter", "60 v", wanted=("bike lamp bright",)))
    row = store.begin(at.shop.workshop, at.shop.technician, plan)

    def words(paper):
        address = reverse("papers", args=[at.shop.workshop.slug, row.pk])
        return " ".join(text_of(at.client.get(address, {"only": paper})).split())

    assert words("cut").count(", 600 V") == 3  # pack to fuse, to the converter, and back
    assert "1, 80 V" in words("fuses") and "Same amps and volts only" in words("fuses")


@pytest.mark.parametrize(("step", "typed", "value"), [
    ("posts.parked", "12,55", 12.55), ("posts.parked", "12550 mV", 12.55), ("back.L1", "120 mΩ", 0.12),
    ("back.L1", "0.3 ohm", 0.3), ("standing", "6 mA", 0.006), ("at.L1.idle", "−0.4 V", -0.4)])
def test_readings_are_taken_in_any_unit_of_their_kind(at, step, typed, value):
    read(at, step, typed)
    assert ProofReading.objects.get().value == pytest.approx(value)


@pytest.mark.parametrize(("step", "typed", "says"), [
    ("posts.parked", "3 Ω", "Ω is no unit of a voltage; give it in V"),
    ("back.L1", "12 V", "V is no unit of a resistance"),
    ("back.L1", "-2", "never negative"), ("posts.parked", "60", "cannot be on a machine"),
    ("posts.parked", "", "is no number of V"), ("posts.parked", "twelve", "is no number of V"),
    ("back.L1", "99 MΩ", "OL"),
    ("standing", "900 A", "more than any meter"), ("posts.nowhere", "12", "no longer in this plan")])
def test_what_cannot_be_is_told_beside_the_field_and_nothing_is_kept(at, step, typed, says):
    answer = read(at, step, typed)
    assert answer.status_code == 422 and says in said(answer) and not ProofReading.objects.exists()


def test_a_wrong_reading_leads_to_its_circuit_and_the_probes_find_the_fault(at):
    read(at, "posts.idle", "14.1")
    analysis = store.load(at.row).analysis
    d = known.diagnosis(analysis, "L1")
    n = [f.key for f in d.faults].index("W8 +0.8")
    answer = read(at, "at.L1.idle", f"{float(d.shown(at_load(d, d.usual))[n]):.2f}")
    assert "out" in said(answer) and "What may be wrong?" in said(answer)
    for _ in range(8):
        text = said(at("prove", view="find", sel="L1"))
        if "all but certain" in text:
            break
        taken = [r.taken for r in records.readings(at.row) if r.load == "L1" or r.step == "at.L1.idle"]
        probe = d.next(taken).probe
        shown = float(d.shown(probe)[n])
        at.act("prove", "probe", view="find", load="L1", row=probe.row, quantity=probe.quantity, red=probe.red,
               black=probe.black, value="OL" if shown == float("inf") else f"{shown:.3f}")
    assert "Too much resistance: W8 or a crimp of it" in text
    at.act("prove", "mended", view="find", load="L1")
    assert "Before anything is read" in said(at("prove", view="find", sel="L1"))
    assert "not yet" in said(at("prove", view="result"))


def test_volts_that_another_circuit_moves_are_said_to_be_moved_from_outside(at):
    """This machine has two circuits: with the other one dead, the first has more volts than any fault of its own gives.
    """
    read(at, "posts.idle", "14.1")
    analysis = store.load(at.row).analysis
    d, other = known.diagnosis(analysis, "L1"), known.diagnosis(analysis, "L2")
    probe = at_load(d, d.usual)
    n = [f.key for f in other.faults].index("dead L2")
    more = float(d.shown(probe)[0]) + 3 * (float(other.shown(probe)[n]) - float(d.shown(probe)[0]))
    read(at, "at.L1.idle", f"{more:.2f}")
    text = said(at("prove", view="find", sel="L1"))
    assert "omething outside this circuit" in text and "See whether every other accessory is on" in text
    assert "Two at once" not in text


def test_a_reading_that_is_in_order_by_itself_points_nowhere_outside(at):
    """More volts than the sound circuit shows, yet within what parts and joints scatter."""
    analysis = store.load(at.row).analysis
    expects = next(s for s in known.plan_of_analysis(analysis) if s.key == "at.L1.idle").expects
    read(at, "at.L1.idle", f"{expects.value + 0.6 * expects.spread:.2f}")
    text = said(at("prove", view="find", sel="L1"))
    assert "in order by itself" in text
    assert "See whether every other accessory is on" not in text and "all but certain" not in text


def test_a_circuit_is_proved_once_everything_of_it_is_in_order_and_no_longer_when_the_plan_changes(at):
    plan = known.plan_of_analysis(store.load(at.row).analysis)
    for s in plan:
        if "L2" in s.proves:
            read(at, s.key, "OL" if s.expects.value == float("inf") else f"{s.expects.value:.4f}")
    text = said(at("prove", view="result"))
    assert "1 of 2 circuits proved" in text
    store.edit(at.row, at.shop.technician, 1, SetWire(id="W10", values={"length_m": 9.0}))
    assert "0 of 2 circuits proved" in said(at("prove", view="result"))
    assert "read on an older plan" in said(at("prove", view="result"))


def test_a_reading_may_be_taken_from_the_meter_on_its_socket_that_knows_the_plan(at, settings):
    with MeterServer(demo_machine()) as server:
        import threading
        threading.Thread(target=server.serve_forever, daemon=True).start()
        settings.METER = f"127.0.0.1:{server.server_address[1]}"
        answer = at.act("prove", "read", view="plan", step="posts.parked", **{"from": "meter"})
        assert answer.status_code == 200
        kept = ProofReading.objects.get()
        assert kept.value == pytest.approx(kept.expected, abs=0.1) and kept.instrument == "Loadstar, simulated meter"
        at.act("prove", "read", view="plan", step="back.L1", **{"from": "meter"})
        assert ProofReading.objects.last().value == pytest.approx(0.08, abs=0.2)
        server.shutdown()
    answer = at.act("prove", "read", view="plan", step="posts.idle", **{"from": "meter"})
    assert answer.status_code == 502 and "does not answer" in said(answer) and ProofReading.objects.count() == 2


@pytest.mark.parametrize("sent", [
    {"load": "L9"}, {"load": "L1", "quantity": "K"}, {"load": "L1", "row": "warp/9"}])
def test_what_is_none_of_the_plan_s_is_not_found(at, sent):
    more = {"red": "L1.pos", "black": "BT1.neg", "quantity": "V", "row": "idle", "value": "3", **sent}
    assert at.act("prove", "probe", view="find", **more).status_code == 404


def test_probes_go_on_two_points_of_the_circuit(at):
    for red, black in (("L1.pos", "L1.pos"), ("L1.pos", "L2.pos"), ("x", "y")):
        answer = at.act("prove", "probe", view="find", load="L1", row="idle", red=red, black=black, value="3")
        assert answer.status_code == 422 and "two points" in said(answer)


# -- practice --------------------------------------------------------------------------------------------


def test_a_go_is_begun_measured_named_and_reviewed(at):
    at.act("prove", "begin", view="train", practice="turned")
    run = TrainerRun.objects.get()
    assert "“Probe charger does nothing, though it is live.”" in said(at("prove", view="train", run=run.pk))
    probes = {"red": "L3.pos", "black": "L3.neg", "power": "on", "quantity": "V"}
    answer = at.act("prove", "measure", view="train", run=run.pk, **probes)
    assert "−11." in said(answer) or "-11." in said(answer)
    wrong = at.act("prove", "name", view="train", run=run.pk, about="dead L3")
    assert wrong.status_code == 422 and "it was in order" in said(wrong)
    text = said(at.act("prove", "name", view="train", run=run.pk, about="turned L3"))
    run.refresh_from_db()
    assert run.found and run.wrong_parts == 1 and run.points < 50 and "are swapped" in text and "par 1 readings" in text
    assert at.act("prove", "measure", view="train", run=run.pk, red="L3.pos", black="L3.neg").status_code == 404


def test_ohms_on_a_live_circuit_cost_the_meter_its_fuse(at):
    at.act("prove", "begin", view="train", practice="blown")
    run = TrainerRun.objects.get()
    answer = at.act("prove", "measure", view="train", run=run.pk, red="F3.a", black="F3.b", power="on", quantity="ohm")
    run.refresh_from_db()
    assert answer.status_code == 422 and "fuse went" in said(answer) and run.meter_fuses == 1 and run.taken == []
    at.act("prove", "measure", view="train", run=run.pk, red="F3.a", black="F3.b", power="off", quantity="ohm")
    run.refresh_from_db()
    assert run.taken[0]["value"] is None  # it has blown: open
    at.act("prove", "give-up", view="train", run=run.pk)
    run.refresh_from_db()
    assert run.ended and not run.found and run.points == 0


def test_a_fault_is_hidden_on_the_plan_itself_and_none_where_nothing_can_be_told(at):
    at.act("prove", "begin", view="train")
    run = TrainerRun.objects.get()
    assert run.plan == at.row and run.revision == 1 and training.opened(run) is not None
    bare = store.begin(at.shop.workshop, at.shop.technician, demo.as_found()[0])
    address = reverse("act", args=[at.shop.workshop.slug, bare.pk, "prove", "begin"])
    assert at.client.post(address + "?view=train", {"base": 1}).status_code == 422


def test_a_go_is_its_member_s_own_and_the_owner_sees_everybody_s_results(at):
    at.act("prove", "begin", view="train", practice="turned")
    run = TrainerRun.objects.get()
    at.act("prove", "give-up", view="train", run=run.pk)
    owner = Client()
    owner.force_login(at.shop.owner)
    address = reverse("station", args=[at.shop.workshop.slug, at.row.pk, "prove"])
    assert run.title in said(owner.get(address, {"view": "train"}))
    assert owner.get(address, {"view": "train", "run": run.pk}).status_code == 404
    TrainerRun.objects.filter(pk=run.pk).update(fault="something older")
    assert "another version of Loadstar" in said(at("prove", view="train", run=run.pk))
    assert at.act("prove", "begin", view="train", practice="none").status_code == 404
    assert len(practice.SET) >= 6


def test_records_are_of_the_member_s_workshop_and_readers_write_none(at):
    strange = store.begin(make_shop("Estuary").workshop, at.shop.technician, demo.winter()[0])
    for station, what in (("build", "tick"), ("prove", "read"), ("prove", "begin")):
        address = reverse("act", args=[at.shop.workshop.slug, strange.pk, station, what])
        assert at.client.post(address, {"base": 1, "operation": "disconnect/supply"}).status_code == 404
        reader = Client()
        reader.force_login(at.shop.reader)
        mine = reverse("act", args=[at.shop.workshop.slug, at.row.pk, station, what])
        assert reader.post(mine, {"base": 1}).status_code == 403
    assert not BuildEntry.objects.exists() and PlanHead.objects.get(pk=strange.pk).summary.work_all == 0


def test_queries_do_not_grow_with_the_log(at, django_assert_max_num_queries):
    keys = list(at.sheet.keys)
    at.act("build", "ticks", view="list", operation=keys[:60])
    for n in range(30):
        records.keep(at.row, at.shop.technician, 1, step="posts.parked", quantity="V", row="parked", red="BT1.pos",
                     black="BT1.neg", value=12.5 + n / 1000, expected=12.5, spread=0.3, plain=12.5)
    for station in ("build", "prove"):
        with django_assert_max_num_queries(14):
            assert at(station).status_code == 200


def test_a_page_that_would_take_too_long_says_so(at, settings):
    settings.COMPUTE_S = 0.0
    at.client.raise_request_exception = False
    answer = at("prove", view="find", sel="L1")
    assert answer.status_code == 503 and "too large to compute this page" in said(answer)
