"""Forms as they are sent: bad input beside its field, older revisions, findings' buttons, what is no edit."""

import json

import pytest
from answers import words_of
from asked import filled

from loadstar.web.plans.models import PlanHead
from loadstar.web.records import store

pytestmark = pytest.mark.django_db


def test_adding_an_accessory(inside, shop):
    answer = inside.post(shop.url("loads/"), filled(shop))
    assert answer.status_code == 302
    assert "sel=L8" in answer.url
    plan = store.load(PlanHead.objects.get(pk=shop.row.pk)).plan
    assert plan.part("L8").name == "Inflator"
    assert "Inflator" in inside.get(answer.url).content.decode()


@pytest.mark.parametrize(("field", "value", "said"), [
    ("amount", "-5", "outside what is accepted"), ("amount", "0", "outside what is accepted"),
    ("amount", "NaN", "NaN is no number"), ("amount", "lots", "lots is no number"),
    ("amount", "", "A number is needed"),
    ("at_v", "400", "400"), ("minutes_per_hour", "61", "from 0"), ("name", "", "may not be empty"),
    ("place", "P99", "Choose one of the list"), ("feed", "", "Choose one of the list"),
    ("window_low_v", "16", "lower limit must be the smaller"), ("amount", "1e400", "1e400 is no number"),
])
def test_bad_input_is_answered_beside_the_field_and_nothing_typed_is_lost(inside, shop, field, value, said):
    answer = inside.post(shop.url("loads/"), filled(shop, **{field: value, "supplied_lead": "keep this"}))
    assert answer.status_code == 422
    body = answer.content.decode()
    part = body[body.index(f'id="id_{field}"'):]
    error = part[part.index('class="error"'):]
    assert said in error[:400]
    assert "keep this" in body
    if value and field not in ("place", "feed"):
        assert f'value="{value}"' in body
    assert PlanHead.objects.get(pk=shop.row.pk).head == 1


def test_ten_kilometres_are_refused(inside, shop):
    run = store.load(shop.row).plan.runs[0]
    data = {"for_kind": "run", "id": run.id, "a": run.a, "b": run.b, "length_m": "10000", "ambient_c": "",
            "base": "1"}
    answer = inside.post(shop.url("survey/"), data)
    assert answer.status_code == 422
    assert "from 0.02 to 8" in answer.content.decode().replace("\xa0", " ").replace(" m", "")


def test_decimal_comma_and_units(inside, shop):
    shop.technician.length_unit = "ft"
    shop.technician.temperature_unit = "F"
    shop.technician.save()
    run = store.load(shop.row).plan.runs[0]
    data = {"for_kind": "run", "id": run.id, "a": run.a, "b": run.b, "length_m": "2,5", "ambient_c": "104", "base": "1"}
    assert inside.post(shop.url("survey/"), data).status_code == 302
    changed = store.load(PlanHead.objects.get(pk=shop.row.pk)).plan.runs[0]
    assert changed.length_m == pytest.approx(0.762)
    assert changed.ambient_c == pytest.approx(40)
    body = inside.get(shop.url(f"survey/?sel={run.id}")).content.decode()
    assert 'value="2.5"' in body
    assert 'value="104"' in body


def test_a_form_sent_on_an_older_revision_keeps_its_input_and_shows_what_changed(inside, shop):
    from loadstar.core.edits import ChangeElement
    store.edit(shop.row, shop.owner, 1, ChangeElement(id="L2", values={"amount": 11}))
    answer = inside.post(shop.url("loads/"), filled(shop, base="1"))
    body = words_of(answer)
    assert answer.status_code == 409
    assert "Mudflat owner</strong>" in body or "Mudflat owner has changed" in body
    assert "Left fog lamp (L2) changed" in body
    assert 'value="Inflator"' in body
    assert 'name="base" value="2"' in body
    again = inside.post(shop.url("loads/"), filled(shop, base="2"))
    assert again.status_code == 302


def test_a_finding_s_button_and_undo(inside, shop):
    drawer = inside.get(shop.url("circuits/")).content.decode()
    assert "Checking remedies" in drawer  # they are tried when somebody looks
    assert "Let Loadstar choose W18" not in drawer
    body = inside.get(shop.url("findings/")).content.decode()
    assert "Let Loadstar choose W18" in body
    assert body.count('id="findings-list"') == 1
    edit = json.dumps({"kind": "set_wire", "id": "W18", "values": {"area_mm2": None}})
    inside.post(shop.url("edit/"), {"edit": edit, "base": "1", "next": shop.url("circuits/")})
    assert PlanHead.objects.get(pk=shop.row.pk).summary.stops == 0
    inside.post(shop.url("undo/"), {"next": shop.url("circuits/")})
    assert PlanHead.objects.get(pk=shop.row.pk).summary.stops == 1


def test_the_findings_lead_back_to_the_page_they_were_opened_on_and_nowhere_else(inside, shop):
    here = shop.url("budget/") + "?state=idle"
    assert f'name="next" value="{here}"' in inside.get(shop.url("findings/"), {"next": here}).content.decode()
    assert 'value="https://elsewhere' not in inside.get(shop.url("findings/"),
                                                        {"next": "https://elsewhere.example/"}).content.decode()


def test_a_reader_sees_findings_without_buttons(client, shop):
    client.force_login(shop.reader)
    body = client.get(shop.url("findings/")).content.decode()
    assert "is not protected" in body
    assert "Let Loadstar choose" not in body


def test_edits_that_are_none(inside, shop):
    for edit in ("", "[]", "{", '{"kind": "explode"}', '{"kind":"remove","id":"L99"}',
                 '{"kind":"set_wire","id":"W1","values":{"area_mm2":"x"}}'):
        answer = inside.post(shop.url("edit/"), {"edit": edit, "base": "1", "next": "https://example.org/"})
        assert answer.status_code in (302, 404)
        if answer.status_code == 302:
            assert answer.url.startswith("/w/")
    assert PlanHead.objects.get(pk=shop.row.pk).head == 1
