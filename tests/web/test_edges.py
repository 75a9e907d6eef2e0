"""What no page of Loadstar sends: each is told in a sentence or is a 4xx, and nothing is changed or lost."""

import json

import pytest
from answers import plain_words
from django.core.files.uploadedfile import SimpleUploadedFile

from loadstar.core.plan import document
from loadstar.demo import fit_out
from loadstar.web.plans.models import PlanHead, Revision
from loadstar.web.records import store
from loadstar.web.records.models import TakenReading

pytestmark = pytest.mark.django_db
RENAME = {"kind": "rename", "name": "tide"}
READING = {"kind": "take_readings", "readings": [
    {"element": "B1", "quantity": "V", "state": "key_off", "value": 12.6, "by": "somebody else",
     "taken": "2001-01-01T00:00:00"}]}


def deep(edit, times):
    for _ in range(times):
        edit = {"kind": "several", "edits": [edit]}
    return edit


@pytest.mark.parametrize(("sent", "words"), [
    ("{", "not whole JSON"), ("[" * 200 + "]" * 200, "nested too deeply"),
    (json.dumps(deep(RENAME, 9)), "nested too deeply"),
    (json.dumps(deep(RENAME, 6)), "at most 4 deep"), ('{"kind": "rename", "name": ' + "1" * 5000 + "}", "5,000 digits"),
    (json.dumps(READING), "who took them and when"), (json.dumps(deep(READING, 2)), "who took them and when"),
    (json.dumps({"kind": "change", "id": "L1", "values": {"made_for": "L2"}}), "cannot be set"),
    ('{"kind": "rename", "name": "a\\ud800b"}', "Half a character"), ('{"kind": "\\uDFFF"}', "Half a character"),
    ('{"kind": "set_scale", "a": "P1", "b": "P2", "length_mm": 1e308}', "must be at most"),
    (json.dumps({"kind": "unheard of"}), "not one that Loadstar knows")])
def test_a_change_that_is_none(inside, shop, sent, words):
    answer = inside.post(shop.url("edit/"), {"edit": sent, "base": shop.row.head}, follow=True)
    assert answer.status_code == 200 and words in answer.content.decode()
    assert Revision.objects.filter(plan=shop.row).count() == 1 and not TakenReading.objects.exists()
    inside.post(shop.url("edit/"), {"edit": json.dumps(RENAME), "base": shop.row.head})
    assert PlanHead.objects.get(pk=shop.row.pk).summary.name == "tide"


@pytest.mark.parametrize(("base", "status"),
                         [("", 404), ("x", 404), ("9" * 5000, 404), ("9" * 30, 302), ("-1", 302), ("0", 302)])
def test_a_change_of_no_revision(inside, shop, base, status):
    answer = inside.post(shop.url("edit/"), {"edit": json.dumps(RENAME), "base": base})
    assert answer.status_code == status
    assert Revision.objects.filter(plan=shop.row).count() == 1
    if status == 302:
        assert "Nothing of yours was applied" in inside.get(answer.url).content.decode()


@pytest.mark.parametrize(("base", "status"), [("", 404), ("x", 404), ("99", 409), ("0", 409), ("9" * 30, 409)])
def test_a_reading_of_no_revision(inside, shop, base, status):
    sent = {"base": base, "element": store.load(shop.row).plan.supply.id, "instrument": "", "quantity": "V",
            "state": "key_off", "value": "12.6"}
    assert inside.post(shop.url("survey/reading/"), sent).status_code == status
    assert not TakenReading.objects.exists()
    assert inside.post(shop.url("survey/reading/"), {**sent, "base": shop.row.head}).status_code == 302
    assert TakenReading.objects.get().by == shop.technician


@pytest.mark.parametrize("number", ["", "x", "²", "9" * 5000, "9" * 30, "-1", "0"])
def test_a_kept_survey_or_photograph_that_is_none(inside, shop, number):
    element = store.load(shop.row).plan.parts[0].id
    assert inside.post(shop.url("survey/take/"), {"base": shop.row.head, "kept": number}).status_code == 404
    if number:
        assert inside.post(shop.url("survey/photo/"),
                           {"base": shop.row.head, "element": element, "away": number}).status_code == 404


@pytest.mark.parametrize(("name", "where"), [("plan", "import/"), ("survey", "")])
def test_a_file_with_a_number_of_five_thousand_digits(inside, shop, name, where):
    file = SimpleUploadedFile("f.json", f'{{"format": "loadstar-{name}", "version": {"1" * 5000}}}'.encode())
    address = f"/w/{shop.workshop.slug}/{where}" if where else shop.url("survey/file/")
    answer = inside.post(address, {"file": file, "base": shop.row.head})
    assert answer.status_code == 422 and "5,000 digits" in answer.content.decode()
    assert PlanHead.objects.count() == 1


def test_a_name_that_cannot_be_drawn_comes_in_cleared(inside, shop):
    text = document.to_json(fit_out()[0]).replace('"name": "', '"name": "\\u0007\\u202e', 1)
    answer = inside.post(f"/w/{shop.workshop.slug}/import/", {"file": SimpleUploadedFile("f.json", text.encode())})
    assert answer.status_code == 302
    kept = document.to_json(store.load(PlanHead.objects.latest("pk")).plan)
    assert "\\u202e" not in kept
    assert "\u202e" not in kept


def test_house_rules_kept_by_another_version(client, shop):
    shop.workshop.house_rules = {"thermal_margin_k": 21, "solder_frac": 1}
    shop.workshop.save()
    client.force_login(shop.owner)
    page = client.get(f"/w/{shop.workshop.slug}/rules/").content.decode()
    assert "Solder (a share of 1) is not a field" in page or "Solder is not a field" in page
    assert 'value="21' in page
    begun = client.post(f"/w/{shop.workshop.slug}/begin/", {"name": "spring", "size": "empty"}, follow=True)
    assert "The usual value stands in its place." in begun.content.decode()
    assert store.load(PlanHead.objects.get(summary__name="spring")).plan.rules.thermal_margin_k == 21


def test_the_form_of_something_else_on_the_house_rules(inside, shop):
    assert inside.get(shop.url("rules/?add=battery")).status_code == 404
    assert inside.post(shop.url("rules/"), {"for_kind": "load", "base": 1}).status_code == 404
    assert inside.get(shop.url("rules/?sel=L1")).status_code == 200


def test_a_change_may_be_large_and_not_endless(inside, shop):
    def sent(count):
        edits = [{"kind": "rename", "name": f"tide {n}"} for n in range(count)]
        body = json.dumps({"kind": "several", "edits": edits})
        answer = inside.post(shop.url("edit/"), {"base": "1", "edit": body}, follow=True)
        return len(body), plain_words(answer)
    size, said = sent(150)
    assert size > 4_000 and "tide 149" in said
    size, said = sent(30_000)
    assert size > 1024**2 and "tide 29999" not in said and "too large" in said
