"""House rules through their page, who may change them, and the tour."""

import json

import pytest
from answers import plain_words
from asked import on, page
from django.core.management import call_command

from loadstar.web.frame.tour import STEPS
from loadstar.web.plans.models import PlanHead
from loadstar.web.records import store

pytestmark = pytest.mark.django_db


def test_house_rules_are_asked_in_per_cent_and_kept_as_shares(inside, shop):
    sent = {"for_kind": "rules", "id": "rules", "base": shop.row.head, "drop_lamp_frac": "4",
            "why_drop_lamp_frac": "LED"}
    assert inside.post(shop.url("rules/"), sent).status_code == 302
    shop.row.refresh_from_db()
    assert store.load(shop.row).plan.rules.drop_lamp_frac == pytest.approx(0.04)
    shown = plain_words(inside.get(shop.url("rules/")))
    assert "Wires to lamps are made thick enough to lose no more. Workshop: 5 %." in shown
    refused = inside.post(shop.url("rules/"), {**sent, "drop_lamp_frac": "0.05", "base": shop.row.head})
    assert refused.status_code == 422 and "from 0.5 to 20 %" in plain_words(refused).replace("\u00a0", " ")


def test_who_may_not_change_house_rules_reads_them(client, shop):
    client.force_login(shop.reader)
    shown = plain_words(client.get(shop.url("rules/")))
    assert "Most of a fuse's rating that is used 75 %" in shown and "Wires to lamps" in shown


def test_what_mends_a_finding_is_offered_to_who_may_change_the_plan(client, shop):
    shown = {}
    for person in (shop.technician, shop.reader):
        client.force_login(person)
        shown[person] = client.get(shop.url("findings/")).content.decode()
    assert 'name="edit"' in shown[shop.technician] and 'name="edit"' not in shown[shop.reader]
    assert all("Checking remedies" not in page for page in shown.values())


def test_the_migrations_make_what_the_models_say():
    call_command("makemigrations", check=True, dry_run=True, verbosity=0)


# -- the tour --------------------------------------------------------------------------------------------------------


def test_the_tour_is_offered_once_and_ends_where_it_began(inside, shop):
    assert "tour-begin" in inside.get(page(shop)).content.decode()
    answer = inside.post(page(shop, "tour/"), {"do": "begin"})
    row = PlanHead.objects.latest("pk")
    for step in STEPS:
        shown = plain_words(inside.get(answer.url))
        assert step.sentence in shown and step.press in shown
        assert step.sentence not in plain_words(inside.get(shop.url("loads/")))  # only on its own plan
        answer = inside.post(page(shop, "tour/"), {"do": "next"})
        assert answer.status_code == 302
    assert answer.url == page(shop)
    plan = store.load(PlanHead.objects.get(pk=row.pk)).plan
    assert plan.generator.standing_of("rating1_w") == "found" and plan.taps[0].fused_a == 7.5
    assert "tour-begin" not in inside.get(page(shop)).content.decode()
    assert inside.post(page(shop, "tour/"), {"do": "next"}).url == page(shop)


def test_the_tour_is_skipped_for_good(inside, shop):
    before = PlanHead.objects.count()
    inside.post(page(shop, "tour/"), {"do": "never"})
    assert "tour-begin" not in inside.get(page(shop)).content.decode() and PlanHead.objects.count() == before


def test_a_tour_whose_plan_was_changed_goes_on(inside, shop):
    inside.post(page(shop, "tour/"), {"do": "begin"})
    row = PlanHead.objects.latest("pk")
    inside.post(page(shop, "tour/"), {"do": "next"})
    inside.post(on(shop, row, "edit/"), {"edit": json.dumps({"kind": "remove", "id": "L2"}), "base": row.head})
    for _ in STEPS[1:]:
        assert inside.post(page(shop, "tour/"), {"do": "next"}).status_code == 302
    inside.post(page(shop, "tour/"), {"do": "begin"})
    PlanHead.objects.latest("pk").delete()
    assert inside.post(page(shop, "tour/"), {"do": "next"}).status_code == 404
    assert inside.post(page(shop, "tour/"), {"do": "next"}).status_code == 302
