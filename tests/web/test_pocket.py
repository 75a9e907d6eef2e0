"""Answers in the pocket: by their address, with bad values told beside the field, kept by a press."""

import html

import pytest
from answers import plain_words
from conftest import make_shop
from django.db import connection
from django.test.utils import CaptureQueriesContext

from loadstar.core.doc.rules import HouseRules
from loadstar.core.edits import SetWire
from loadstar.core.pocket import QUESTIONS
from loadstar.core.pocket.wire import WireQuestion
from loadstar.web.plans.models import PlanHead
from loadstar.web.records import store

pytestmark = pytest.mark.django_db
AT = "/w/creek/pocket/"


@pytest.fixture
def bench(client):
    """A workshop with a plan, and its technician's browser."""
    shop = make_shop("Creek")
    client.force_login(shop.technician)
    return shop


def shown(client, query="", status=200):
    found = client.get(AT + query)
    assert found.status_code == status
    return html.unescape(plain_words(found))


@pytest.mark.parametrize("key", QUESTIONS)
def test_every_question_is_asked_and_answered_on_its_page(client, bench, key):
    words = shown(client, f"?q={key}").replace("\xa0", " ")
    assert QUESTIONS[key].TITLE in words
    assert QUESTIONS[key]().answer(bench.workshop.rules).said in words


def test_an_address_carries_every_value_and_the_same_answer_comes_again(client, bench):
    query = "?q=wire&system_v=12&amount=12&unit=A&length_m=2,5&returns=own+wire&in_loom=2&ambient_c=40&area_mm2="
    said = WireQuestion(amount=12, length_m=2.5).answer(bench.workshop.rules).said
    assert said in shown(client, query).replace("\xa0", " ") == shown(client, query).replace("\xa0", " ")
    assert "The sizes about it are being tried" in shown(client, query)
    assert "Verdict" in shown(client, query + "&beside=1") and "being tried" not in shown(client, query + "&beside=1")


def test_a_person_reads_and_types_in_their_own_units_and_gets_the_house_rules(client, bench):
    bench.technician.length_unit, bench.technician.temperature_unit = "ft", "F"
    bench.technician.save()
    bench.workshop.house_rules = {**bench.workshop.rules.model_dump(mode="json"), "drop_other_frac": 0.02}
    bench.workshop.save()
    asked = WireQuestion(amount=6, length_m=3 * 0.3048, ambient_c=40)
    said = asked.answer(bench.workshop.rules).said
    assert said in shown(client, "?q=wire&amount=6&length_m=3&ambient_c=104").replace("\xa0", " ")
    assert said != asked.answer(HouseRules()).said


@pytest.mark.parametrize(("query", "told"), [
    ("?q=wire&amount=0", "more than 0"), ("?q=wire&length_m=0", "is outside what is accepted"),
    ("?q=wire&length_m=1000", "from 0.05 to 8"), ("?q=wire&amount=lots", "is no number"),
    ("?q=wire&system_v=13", "Choose one of the list"), ("?q=colour&colour=purple-ish", "Choose one of the list"),
    ("?q=enough&listed=20+lots", "Write watts, one after the other"),
    ("?q=wire&system_v=48&returns=frame", "returns by a wire"),
    ("?q=size&area_mm2=&strands=&strand_mm=", "count its strands")])
def test_what_cannot_be_asked_is_told_beside_its_field(client, bench, query, told):
    words = shown(client, query, 422)
    assert told in words and "No answer: see the field that is marked" in words


def test_what_is_no_question_and_a_workshop_of_others_are_not_there(client, bench):
    other = make_shop("Far")
    assert client.get(f"{AT}?q=any").status_code == 404
    assert client.get("/w/far/pocket/").status_code == 404
    assert client.post("/w/far/pocket/keep/", {"q": "wire"}).status_code == 404
    assert client.post(f"{AT}keep/", {"q": "wire", "amount": 6, "plan": other.row.pk}).status_code == 404
    assert client.get(f"{AT}keep/").status_code == 405
    client.logout()
    assert client.get(AT).status_code == 302


def test_an_answer_is_kept_as_a_plan_with_its_circuit(client, bench):
    before = PlanHead.objects.count()
    sent = client.post(f"{AT}keep/", {"q": "wire", "amount": "6", "unit": "A", "length_m": "3", "plan": ""})
    row = PlanHead.objects.order_by("-pk").first()
    assert PlanHead.objects.count() == before + 1 and sent["Location"].endswith(f"/p/{row.pk}/")
    kept = store.load(row).plan
    assert kept.name == "6 A over 3 m" and kept.rules == bench.workshop.rules
    said = WireQuestion(amount=6, length_m=3).answer(kept.rules).said
    assert {w.area_mm2 for w in kept.wires} == {float(said.split()[0])}


def test_what_it_feeds_is_kept_in_a_plan_that_is_there(client, bench):
    before = store.load(bench.row).plan
    sent = client.post(f"{AT}keep/", {"q": "wire", "amount": "36", "unit": "W", "plan": bench.row.pk}, follow=True)
    bench.row.refresh_from_db()
    after = store.load(bench.row).plan
    new = next(p for p in after.loads if p.id not in before.part_by_id)
    assert (new.amount, new.unit, new.behaviour) == (36, "W", "power") and new.name == "asked for: 36 W"
    assert new.standing_of("at_v") == "typical" and new.standing_of("amount") == "stated"
    assert new.window_low_v == type(new).model_fields["window_low_v"].default  # nobody said how low it may be
    assert f"sel={new.id}" in sent.redirect_chain[-1][0] and "where it sits" in sent.content.decode()
    assert any(str(w.b) == f"{new.id}.pos" for w in after.wires)


def test_nothing_is_kept_of_what_has_no_answer_in_the_archive_or_by_a_reader(client, bench):
    before = PlanHead.objects.count()
    refused = client.post(f"{AT}keep/", {"q": "wire", "amount": "0"}, follow=True)
    assert "That was not kept" in refused.content.decode() and "amount=0" in refused.redirect_chain[-1][0]
    assert "That was not kept" in client.post(f"{AT}keep/", {"q": "divider"}, follow=True).content.decode()
    assert client.post(f"{AT}keep/", {"q": "enough", "plan": bench.row.pk}).status_code == 404
    store.put_away(bench.row)
    assert client.post(f"{AT}keep/", {"q": "wire", "amount": "6", "plan": bench.row.pk}).status_code == 404
    client.force_login(bench.reader)
    assert 'id="keep"' not in client.get(f"{AT}?q=wire&amount=6").content.decode()
    assert client.post(f"{AT}keep/", {"q": "wire", "amount": "6"}).status_code == 403
    assert PlanHead.objects.count() == before


def test_a_colour_is_looked_for_in_the_plans_that_are_there_in_one_query(client, bench):
    wire = store.load(bench.row).plan.wires[0].id
    store.edit(bench.row, bench.technician, 1, SetWire(id=wire, values={"colour": "TQ", "stripe": "PK"}))
    words = shown(client, "?q=colour&colour=TQ&stripe=PK")
    assert "TQ/PK in this workshop's plans" in words and wire in words
    assert "No plan here has TQ/BN" in shown(client, "?q=colour&colour=TQ&stripe=BN")
    with CaptureQueriesContext(connection) as few:
        shown(client, "?q=colour&colour=TQ&stripe=PK")
    for _ in range(3):
        store.begin(bench.workshop, bench.technician, store.load(bench.row).plan)
    with CaptureQueriesContext(connection) as more:
        assert shown(client, "?q=colour&colour=TQ&stripe=PK").count(wire) >= 4
    assert len(more) == len(few)
