"""The stations on other supplies: packs, magneto lamps, feeds compared, protection, references, house rules."""

import html
import json
import re
from functools import cache

import pytest
from core.test_side_coil import dirt
from django.urls import reverse
from web.test_handover import pages

from loadstar import demo
from loadstar.web.records import store


@pytest.fixture
def bench(shop):
    """A signed-in client and the pages of each demonstration plan, taken in when it is first asked for."""
    client, workshop, person = inside_of(shop)
    row = cache(lambda name: store.take_in(workshop, person, getattr(demo, name)()[0]))

    def page(plan, station, **query):
        return client.get(reverse("station", args=[workshop.slug, row(plan).pk, station]), query)

    page.client, page.row, page.workshop = client, row, workshop
    return page


def inside_of(shop):
    from django.test import Client
    client = Client()
    client.force_login(shop.owner)
    return client, shop.workshop, shop.owner


@pytest.mark.parametrize("station", ["survey", "loads", "budget", "circuits", "handover", "rules"])
@pytest.mark.parametrize("plan", [p.__name__ for p in demo.PLANS])
def test_every_station_of_every_machine(bench, plan, station):
    answer = bench(plan, station)
    assert answer.status_code == 200
    body = answer.content.decode()
    assert "unknown" not in body.split("<main", 1)[1]
    for link in set(re.findall(r'<a class="figure" href="([^"]+)"', body)):  # every figure has a working
        assert bench.client.get(html.unescape(link)).status_code == 200, link


@pytest.mark.parametrize("view", ["map", "plugs", "probe", "readings", "tables", "removed", "reuse"])
def test_every_part_of_every_machine_s_survey(bench, view):
    for make in demo.PLANS:
        assert bench(make.__name__, "survey", view=view).status_code == 200, make.__name__


def test_a_pack_s_states_and_headline(bench):
    text = bench("tide_hauler", "budget").content.decode()
    for words in ("Full power", "Charging", "Range with accessories", "Joining the two", "cuts out"):
        assert words in text
    assert "Cranking" not in text


def test_lamps_over_speed_and_one_failed(bench):
    row = bench.row("ferry_runner")
    lamp = store.load(row).plan.loads[0]
    text = bench("ferry_runner", "budget", gone=lamp.id).content.decode()
    assert f"{lamp.name} failed" in text or "failed" in text
    assert "All lamps work again" in text


def test_comparing_feeds_and_taking_one(bench):
    row = bench.row("fit_out")
    load = next(p for p in store.load(row).plan.loads if p.name == "Left fog lamp")
    text = bench("fit_out", "loads", sel=load.id, ask="feeds").content.decode()
    assert "Which feed for Left fog lamp?" in text
    assert "regulator run line" in text
    battery = store.load(row).plan.battery.id
    edit = json.dumps({"kind": "change", "id": load.id, "values": {"feed": battery}})
    answer = bench.client.post(reverse("edit", args=[bench.workshop.slug, row.pk]), {"edit": edit, "base": row.head})
    assert answer.status_code == 302
    row.refresh_from_db()
    assert store.load(row).plan.part(load.id).feed == battery


def test_protection_and_references_of_a_circuit(bench):
    text = bench("fit_out", "circuits", sel="W18").content.decode()
    for words in ("W18 against Heated vest fuse", "If W18 touches the frame", "survives", "Connections to supply "
        "and frame",
                  "battery, negative"):
        assert words in text, words


def test_house_rules_of_a_plan_with_their_reason(bench):
    row = bench.row("winter")
    address = reverse("station", args=[bench.workshop.slug, row.pk, "rules"])
    sent = {"for_kind": "rules", "id": "rules", "base": row.head, "thermal_margin_k": "20",
            "why_thermal_margin_k": "hot tank"}
    assert bench.client.post(address, sent).status_code == 302
    rules = store.load(row.__class__.objects.get(pk=row.pk)).plan.rules
    assert (rules.thermal_margin_k, rules.reasons) == (20, {"thermal_margin_k": "hot tank"})
    text = bench.client.get(address).content.decode()
    assert "Workshop: 15 K." in text and "Because:" in text


def test_the_workshop_s_rules_begin_new_plans(bench, shop):
    address = reverse("workshop-rules", args=[bench.workshop.slug])
    assert bench.client.get(address).status_code == 200
    assert bench.client.post(address, {"parked_days": "40", "least_area_mm2": "0.75"}).status_code == 302
    bench.workshop.refresh_from_db()
    row = store.begin(bench.workshop, shop.owner, store.empty(bench.workshop, "after"))
    plan = store.load(row).plan
    assert plan.rules.parked_days == 40
    assert plan.workshop_rules == plan.rules
    assert plan.rules.least_area_mm2 == 0.75
    bad = bench.client.post(address, {"parked_days": "never"})
    assert bad.status_code == 422
    assert "is no number of" in bad.content.decode()


def test_an_e_bike_from_nothing_through_the_pages(bench, shop):
    row = store.begin(bench.workshop, shop.owner, store.empty(bench.workshop, "New bike"))
    survey = reverse("station", args=[bench.workshop.slug, row.pk, "survey"])

    def send(form, **values):
        row.refresh_from_db()
        answer = bench.client.post(survey, {"for_kind": form, "id": "", "base": row.head, **values})
        assert answer.status_code == 302, answer.content.decode()[:2000]
        return store.load(row.__class__.objects.get(pk=row.pk)).plan

    row.refresh_from_db()
    sent = {"for_kind": "machine", "id": "machine", "base": row.head, "name": "Bike", "kind": "cargo e-bike",
            "system": "pack",
            "system_v": "48", "chassis": "floating"}
    assert bench.client.post(survey, sent).status_code == 302
    place = send("place", name="tube").places[0].id
    pack = send("pack", name="pack", place=place, series="13", parallel="5").packs[0].id
    assert pack == "PK1"
    send("drive", name="drive", place=place)
    box = send("converter", name="box", place=place, window_low_v="36", window_high_v="60",
               rated_a="5").of_kind("converter")[0].id
    send("port", name="port", place=place, enabled="yes", live="key")
    row.refresh_from_db()
    loads = reverse("station", args=[bench.workshop.slug, row.pk, "loads"])
    answer = bench.client.post(loads,
        {"for_kind": "load", "id": "", "base": row.head, "name": "Lamp", "amount": "12", "at_v": "12",
                                       "window_low_v": "9", "place": place, "feed": box, "live": "key"})
    assert answer.status_code == 302
    row.refresh_from_db()
    assert row.summary.range_km is not None
    assert row.summary.stops == 0


def test_a_pack_on_a_machine_that_has_none_is_refused_in_words(bench):
    row = bench.row("winter")
    survey = reverse("station", args=[bench.workshop.slug, row.pk, "survey"])
    place = store.load(row).plan.places[0].id
    answer = bench.client.post(survey,
        {"for_kind": "pack", "id": "", "base": row.head, "name": "p", "place": place, "series": "13"})
    assert answer.status_code == 422
    assert "set the machine&#x27;s system to that first" in answer.content.decode()


def test_a_wire_laid_by_hand_and_taken_out(bench):
    row = bench.row("winter")
    address = reverse("station", args=[bench.workshop.slug, row.pk, "circuits"])
    assert "Add a wire yourself" in bench.client.get(address).content.decode()
    assert "choose a terminal" in bench.client.get(address, {"add": "wire"}).content.decode()
    sent = {"for_kind": "wire", "id": "", "base": row.head, "a": "T1.pin", "b": "B1.ret", "colour": "GY"}
    assert bench.client.post(address, {**sent, "b": ""}).status_code == 422
    assert bench.client.post(address, sent).status_code == 302
    row.refresh_from_db()
    wire = store.load(row).plan.wires[-1]
    assert (wire.a, wire.b, wire.colour) == ("T1.pin", "B1.ret", "GY")
    edit = json.dumps({"kind": "remove_wire", "id": wire.id})
    assert bench.client.post(reverse("edit", args=[bench.workshop.slug, row.pk]),
                             {"edit": edit, "base": row.head}).status_code == 302
    assert wire.id not in {w.id for w in store.load(row.__class__.objects.get(pk=row.pk)).plan.wires}


@pytest.mark.parametrize(("plan", "begins"), [
    ("tide_hauler", "At its converter"), ("ferry_runner", "At the posts"), ("mud_hopper", "At the posts")])
def test_cards_of_other_supplies(bench, plan, begins, tmp_path):
    from loadstar.web.papers.card import card_context
    row = bench.row(plan)
    load = store.load(row).plan.loads[-1].id
    for one in store.load(row).plan.loads:  # each on one page, with its findings and cautions
        answer = bench.client.get(reverse("card", args=[bench.workshop.slug, row.pk, one.id]))
        assert answer.content.startswith(b"%PDF") and pages(answer, tmp_path) == 1, one.id
    frame = bench(plan, "handover").context["frame"]
    context = card_context(frame, load)
    assert context["begins"] == begins
    assert any(r["volts"] is not None for r in context["readings"])
    assert all(r["volts"] is None or r["posts"] >= r["volts"] for r in context["readings"])


def test_the_lithium_caution_stands_where_there_is_a_pack(bench):
    assert "its protection is not defeated" in bench("tide_hauler", "handover").content.decode()
    assert "its protection is not defeated" not in bench("fit_out", "handover").content.decode()


def test_a_coil_beside_a_battery_has_its_lamps_beside_the_waterline(bench, shop):
    beside, _ = dirt()
    row = store.take_in(bench.workshop, shop.owner, beside.plan)

    def text(station, **query):
        return bench.client.get(reverse("station", args=[bench.workshop.slug, row.pk, station]), query).content.decode()

    head = next(p for p in beside.plan.loads if p.name == "head")
    assert "Lamps on coil" in text("budget")
    assert "engine speed" in text("budget", of="lamps")
    assert "All lamps work again" in text("budget", of="lamps", gone=head.id)
    assert "of=lamps" in text("budget", of="lamps", gone=head.id)
    assert "the coil&#x27;s" in text("loads") or "the coil's" in text("loads")
    assert "Lamps on coil" not in bench("fit_out", "budget").content.decode()
