"""Beginning a plan, adding from the list, measuring, the tour: who may, what bad input gets, what is kept."""

import html
import json
import re
from pathlib import Path

import pytest
from answers import plain_words
from asked import on, page
from conftest import make_shop
from django.core.cache import caches
from django.db import connection
from django.test.utils import CaptureQueriesContext

from loadstar.core.analysis import analyse
from loadstar.core.jobs import ALL, task_of
from loadstar.core.materials.typical import SIZES
from loadstar.core.plan import document
from loadstar.core.survey.measures import figure_words
from loadstar.core.whatif.unknown import Outlooks
from loadstar.exchange import survey as exchange
from loadstar.web.papers.card import card_context
from loadstar.web.plans import known as module
from loadstar.web.plans.known import known, pack
from loadstar.web.plans.models import PlanHead
from loadstar.web.records import store
from loadstar.web.records.models import KeptSurvey, TakenReading

pytestmark = pytest.mark.django_db
SIZE = "touring motorcycle/middle"


# -- beginning -------------------------------------------------------------------------------------------------------


def test_every_kind_and_size_is_on_the_page_and_begins(inside, shop):
    shown = inside.get(page(shop, "begin/")).content.decode()
    for kind, sizes in SIZES.items():
        for size in sizes:
            assert f'value="{kind}/{size.key}"' in shown
    answer = inside.post(page(shop, "begin/"), {"size": SIZE, "machine": "Reed tourer", "wanted": ["grips", "usb"]})
    row = PlanHead.objects.latest("pk")
    assert answer.url == on(shop, row, "circuits/?sel=L1")
    plan = store.load(row).plan
    assert plan.machine.name == "Reed tourer" and [load.usual for load in plan.loads] == ["grips", "usb"]
    assert row.summary.name == "Reed tourer: what is wanted"


@pytest.mark.parametrize(("sent", "words"), [
    ({}, "Choose the kind of machine"), ({"size": "raft/huge"}, "Choose the kind of machine"),
    ({"size": "trail e-bike/36 v", "wanted": ["grips"]}, "nothing that could feed: Heated grips"),
    ({"size": SIZE, "wanted": ["usb"] * 41}, "At most 40"), ({"size": "empty"}, "An empty plan needs a name."),
    ({"size": SIZE, "name": "x" * 81}, "at most 80 characters"),
    ({"size": SIZE, "job": "sail"}, "Choose what the job is"),
    ({"size": "trail e-bike/36 v", "job": "renew/generator"}, "is for machines with a battery and a generator")])
def test_what_cannot_be_begun_comes_back_as_it_was(inside, shop, sent, words):
    before = PlanHead.objects.count()
    answer = inside.post(page(shop, "begin/"), {"machine": "Kept as typed", **sent})
    assert answer.status_code == 422 and words in plain_words(answer)
    assert 'value="Kept as typed"' in answer.content.decode() and PlanHead.objects.count() == before


FIRST = {"fit/accessories": "loads/", "renew/generator": "job/?want=renew+generator",
         "repair/wire": "job/?want=repair+wire",
         "convert/led": "job/?want=led", "second source/battery": "job/?want=second+battery",
         "strip down/weigh": "route/?view=weigh", "write down/survey": "survey/?view=plugs"}


@pytest.mark.parametrize("job", FIRST)
def test_a_job_begins_on_its_first_page_with_its_pages_in_turn(inside, shop, job):
    answer = inside.post(page(shop, "begin/"), {"job": job, "size": SIZE, "machine": "Reed tourer"})
    row = PlanHead.objects.latest("pk")
    assert answer.url == on(shop, row, FIRST[job])
    plan, (kind, task) = store.load(row).plan, task_of(job)
    assert plan.job == kind.key and not plan.loads
    assert row.summary.name.startswith("Reed tourer: ")
    shown = inside.get(on(shop, row, "job/")).content.decode()
    turn = re.findall(r'id="station-(\w+)"', shown)
    assert turn[0] == "job" and turn[1:1 + len(kind.pages)] == list(kind.pages)
    assert sorted(turn[1:]) == sorted(ALL)  # what the job does not need stands behind it
    assert f"<strong>{kind.words}</strong>" in shown and task.words[1:] in shown


def test_what_is_wanted_counts_only_where_the_job_asks_for_it(inside, shop):
    inside.post(page(shop, "begin/"), {"job": "repair/fuse", "size": SIZE, "wanted": ["grips"]})
    assert not store.load(PlanHead.objects.latest("pk")).plan.loads
    inside.post(page(shop, "begin/"), {"job": "convert/led", "size": SIZE, "wanted": ["grips"]})
    assert len(store.load(PlanHead.objects.latest("pk")).plan.loads) == 1


def test_another_kind_of_job_is_one_press_and_can_be_taken_back(inside, shop):
    assert "Job: fit something" in inside.get(shop.url("job/")).content.decode()
    edit = {"edit": '{"kind": "set_job", "job": "repair"}', "base": shop.row.head, "next": shop.url("job/")}
    answer = inside.post(shop.url("edit/"), edit)
    assert answer.status_code == 302, answer.content.decode()[:3000]
    assert "Job: repair" in inside.get(shop.url("job/")).content.decode()
    inside.post(shop.url("undo/"), {"next": shop.url("job/")})
    assert "Job: fit something" in inside.get(shop.url("job/")).content.decode()


def test_a_kept_survey_comes_with_it_and_another_workshop_s_is_not_there(inside, shop):
    plan = store.load(shop.row).plan
    kept = KeptSurvey.objects.create(workshop=shop.workshop, family="Marsh", document=exchange.survey_of(plan),
                                     by=shop.owner)
    other = make_shop("Upland")
    theirs = KeptSurvey.objects.create(workshop=other.workshop, family="Hill", document=exchange.survey_of(plan),
                                       by=other.owner)
    assert "Hill" not in inside.get(page(shop, "begin/")).content.decode()
    assert inside.post(page(shop, "begin/"), {"size": SIZE, "survey": theirs.pk}).status_code == 404
    assert inside.post(page(shop, "begin/"), {"size": SIZE, "survey": kept.pk}).status_code == 302
    made = store.load(PlanHead.objects.latest("pk")).plan
    assert {p.name for p in plan.places} <= {p.name for p in made.places}
    assert all(t.standing == "believed" for t in made.taps)


def test_readers_begin_nothing_and_strangers_see_nothing(client, shop):
    client.force_login(shop.reader)
    assert client.get(page(shop, "begin/")).status_code == 403
    assert client.post(page(shop, "begin/"), {"size": SIZE}).status_code == 403
    assert client.post(page(shop, "tour/"), {"do": "begin"}).status_code == 403
    client.force_login(make_shop("Upland").owner)
    assert client.get(page(shop, "begin/")).status_code == 404
    assert client.post(page(shop, "tour/"), {"do": "begin"}).status_code == 404


def test_the_bench_asks_as_little_for_many_plans_as_for_few(inside, shop):
    with CaptureQueriesContext(connection) as few:
        assert "Marsh warden's tourer" in plain_words(inside.get(page(shop)))
    for n in range(5):
        store.begin(shop.workshop, shop.technician, store.empty(shop.workshop, f"plan {n}"))
    with CaptureQueriesContext(connection) as many:
        shown = plain_words(inside.get(page(shop)))
    assert len(many) == len(few) and "plan 4" in shown and "Mudflat technician" in shown


# -- from the list ---------------------------------------------------------------------------------------------------


def test_an_accessory_from_the_list_with_three_choices(inside, shop, begun_row):
    picking = inside.get(on(shop, begun_row, "loads/?add=load")).content.decode()
    assert "usual=tracker" in picking.replace("&amp;", "&") and 'name="amount"' not in picking
    form = inside.get(on(shop, begun_row, "loads/?add=load&usual=tracker")).content.decode()
    assert "2.5 W at 12.8 V, constant power, 8-30 V, 2 min an hour, 12 mA on standby" in form
    assert "On the label look for what it draws asleep, mA" in form
    fields = dict(re.findall(r'<input[^>]*name="(\w+)" value="([^"]*)"', form.split('id="form-panel"')[1]))
    sent = {**fields, "for_kind": "load", "id": "", "usual": "tracker", "name": "Tracker", "live": "always",
            "place": "P10",
            "feed": "B1", "base": begun_row.head}
    assert inside.post(on(shop, begun_row, "loads/"), sent).status_code == 302
    load = store.load(PlanHead.objects.get(pk=begun_row.pk)).plan.loads[-1]
    assert (load.usual, load.amount, load.standing_of("amount")) == ("tracker", 2.5, "typical")
    assert load.standby_ma == 12 and load.reason_always


def test_what_is_typed_over_a_typical_figure_is_stated_and_the_label_vouches_for_the_rest(inside, shop, begun_row):
    sent = {"for_kind": "load", "id": "L2", "amount": "44", "base": begun_row.head}
    assert inside.post(on(shop, begun_row, "loads/"), sent).status_code == 302
    begun_row.refresh_from_db()
    lamps = store.load(begun_row).plan.part("L2")
    assert (lamps.amount, lamps.standing_of("amount"), lamps.standing_of("inrush_a")) == (44, "stated", "typical")
    shown = inside.get(on(shop, begun_row, "loads/?sel=L2")).content.decode()
    edit = html.unescape(re.search(r'name="edit" value="([^"]*vouch[^"]*)"', shown)[1])
    inside.post(on(shop, begun_row, "edit/"), {"edit": edit, "base": begun_row.head})
    begun_row.refresh_from_db()
    assert "typical" not in store.load(begun_row).plan.part("L2").marks.values()


# -- measuring -------------------------------------------------------------------------------------------------------


def measured(inside, shop, row, **sent):
    row.refresh_from_db()
    return inside.post(on(shop, row, "survey/figure/?view=measure"), {"base": row.head, **sent})


def test_a_reading_taken_in_place_becomes_found_and_is_in_the_record(inside, shop, begun_row):
    answer = measured(inside, shop, begun_row, element="G1", field="rating1_w", I="11,5", U="13.4 V",
                      instrument="clamp")
    assert answer.status_code == 302
    begun_row.refresh_from_db()
    generator = store.load(begun_row).plan.generator
    assert generator.rating1_w == pytest.approx(154.1) and generator.standing_of("rating1_w") == "found"
    reading = TakenReading.objects.get()
    assert (reading.quantity, reading.field, reading.by, reading.instrument) == (
        "figure", "rating1_w", shop.technician, "clamp")
    assert "what the generator gives at idle" in plain_words(inside.get(on(shop, begun_row, "survey/?view=readings")))


def test_what_a_label_says_is_stated_also_when_it_says_what_was_usual(inside, shop, begun_row):
    usual = store.load(begun_row).plan.part("L2").amount
    assert measured(inside, shop, begun_row, element="L2", field="amount", x=f"{usual:g}").status_code == 302
    begun_row.refresh_from_db()
    assert store.load(begun_row).plan.part("L2").standing_of("amount") == "stated"


@pytest.mark.parametrize(("sent", "status", "words"), [
    ({"element": "G1", "field": "rating1_w", "I": "lots", "U": "13"}, 422, "Type the amps as a number in A."),
    ({"element": "G1", "field": "rating1_w", "I": "nan", "U": "13"}, 422, "Type the amps as a number"),
    ({"element": "BT1", "field": "internal_mohm", "U_0": "12.7", "U_1": "12.7", "I": "0"}, 422, "With 0 here"),
    ({"element": "BT1", "field": "internal_mohm", "U_0": "12.7", "U_1": "13", "I": "5"}, 422, "must be at least"),
    ({"element": "X9", "field": "rating1_w", "I": "1", "U": "1"}, 422, "There is no X9"),
    ({"element": "G1", "field": "name", "I": "1", "U": "1"}, 404, ""), ({}, 422, "There is no")])
def test_a_reading_that_will_not_do(inside, shop, begun_row, sent, status, words):
    answer = measured(inside, shop, begun_row, **sent)
    assert answer.status_code == status and words in plain_words(answer)
    begun_row.refresh_from_db()
    assert begun_row.head == 1


def test_the_page_says_what_hangs_on_what_and_the_headline_between_what_it_lies(inside, shop, begun_row, monkeypatch):
    monkeypatch.setattr(module, "LOOK_S", 1e9)
    shown = plain_words(inside.get(on(shop, begun_row, "survey/?view=measure")))
    assert "mostly because of what the generator gives at idle" in shown and "Clamp on the regulator" in shown
    assert re.search(r"Margin, idle could be −[\d.]+ to −?[\d.]+ A; mostly because", shown)
    bands = plain_words(inside.get(on(shop, begun_row, "bands/")))
    assert re.search(r"−[\d.]+ to −?[\d.]+ A", bands)
    findings = plain_words(inside.get(on(shop, begun_row, "findings/")))
    assert "It depends on what the generator gives at idle, which is typical" in findings
    assert inside.get(on(shop, begun_row, "bands/?from=nowhere")).status_code == 404


def test_a_look_that_is_not_over_says_so_and_another_worker_goes_on(inside, shop, begun_row, monkeypatch):
    caches["analyses"].clear()
    known.cache_clear()
    monkeypatch.setattr(module, "LOOK_S", 0.0)
    shown = inside.get(on(shop, begun_row, "survey/?view=measure")).content.decode()
    assert "still being tried" in shown and 'data-again="' in shown
    plan = store.load(begun_row).plan
    likely = Outlooks(analyse(plan)).outlook(0.0).likely
    assert likely and all(html.escape(figure_words(plan, u.element, u.field)) in shown for u in likely[:5])
    monkeypatch.setattr(module, "LOOK_S", 1e9)
    stored = pack(store.load(begun_row).plan)
    first = known(stored)
    first._tries().outlook(0.0)
    whole = first.outlook()
    known.cache_clear()  # as in another process
    second = known(stored)
    assert second is not first and second.outlook_so_far == whole


def test_a_plan_with_nothing_left_to_measure_says_so(inside, shop):
    shown = plain_words(inside.get(shop.url("survey/?view=measure")))
    assert "Nothing is left to measure" in shown
    assert "data-again" not in inside.get(shop.url("loads/")).content.decode()
    assert "to measure" not in plain_words(inside.get(shop.url("loads/")))


def test_workings_say_how_their_figures_are_known(inside, shop, begun_row):
    shown = plain_words(inside.get(on(shop, begun_row, "working/?key=margin/idle")))
    assert "its ratings: typical, not measured yet" in shown and "This plan rests on" in shown
    measured(inside, shop, begun_row, element="G1", field="rating1_w", I="11", U="13.4")
    measured(inside, shop, begun_row, element="G1", field="rating2_w", I="31", U="14.2")
    assert "its ratings: measured on this machine" in plain_words(
        inside.get(on(shop, begun_row, "working/?key=margin/idle")))


def test_the_card_names_what_is_not_measured_and_says_dead_where_it_should_be(rf, shop, begun_row):
    from django.template.loader import render_to_string

    from loadstar.web.frame.frame import frame_for
    from loadstar.web.workshop.models import Membership

    request = rf.get("/")
    frame = frame_for(request, Membership.objects.get(person=shop.technician, workshop=shop.workshop), begun_row.pk,
                      "circuits")
    said = re.sub(r"\s+", " ", re.sub(r"<[^>]+>", " ", render_to_string("papers/card.html", {
        "frame": frame, **card_context(frame, "L1")})))
    assert "dead, as it should be" in said and "Of its warmth" in said
    assert "Measure before it is built" in said and "(typical; range" in said


def test_pins_that_nobody_knows_have_no_amps(inside, shop, begun_row):
    plug = store.load(begun_row).plan.plugs[0]
    shown = inside.get(on(shop, begun_row, f"survey/?view=plugs&sel={plug.id}")).content.decode()
    assert re.search(r'name="pin-1-rated_a"[^>]*>', shown) and 'name="pin-1-rated_a" value="5"' not in shown
    assert '"5"' not in exchange.to_csv(store.load(begun_row).plan)


# -- house rules in per cent -----------------------------------------------------------------------------------------


# -- the command line ------------------------------------------------------------------------------------------------


def test_check_unknown_says_what_to_measure_next(begun_row, tmp_path: Path, capsys):
    from loadstar import cli

    path = tmp_path / "plan.json"
    path.write_text(document.to_json(store.load(begun_row).plan))
    assert cli.main(["check", str(path), "--unknown"]) == 0
    assert "Clamp on the regulator's output lead" in capsys.readouterr().out
    assert cli.main(["check", str(path), "--unknown", "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found["figures"][0]["flips"] and set(found["bands"]) >= {"idle", "cruise"}
    assert cli.main(["check", str(path), "--json"]) == 0
    rests_on = json.loads(capsys.readouterr().out)["rests_on"]
    assert {"figure": "G1.rating1_w", "standing": "typical"} in rests_on
    path.write_text("{}")
    assert cli.main(["check", str(path), "--unknown"]) == 2
