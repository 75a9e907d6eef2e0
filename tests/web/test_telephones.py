"""Telephones: signed in by a code that works once, what they keep of a plan, and what former members still held."""

import re
from datetime import timedelta

import pytest
from answers import plain_words
from asked import on, page
from conftest import make_shop
from django.db import connection
from django.test import Client
from django.utils import timezone

from loadstar import demo
from loadstar.core.parts.coupling import Coupling
from loadstar.web.evidence.sheet import made
from loadstar.web.records import store
from loadstar.web.records import work as records
from loadstar.web.workshop.models import FormerMember, Membership, Pairing, RefusedAct
from loadstar.web.workshop.telephones import LASTS

pytestmark = pytest.mark.django_db
ACT = {"HTTP_X_LOADSTAR_ACT": "0123456789abcdef0123", "HTTP_ACCEPT": "application/json"}


def code_of(answer) -> str:
    """The address that the square code on a page has, without where it begins."""
    return re.search(r"https?://[^<\s]+(/pair/[^<\s]+/)", answer.content.decode())[1]


# -- signing in ------------------------------------------------------------------------------------------------------


def test_a_code_signs_one_telephone_in_once(inside, shop):
    shown = inside.post("/telephone/")
    address = code_of(shown)
    assert "<svg" in shown.content.decode() and "no-store" in shown["Cache-Control"]
    telephone, second = Client(), Client()
    assert f"Sign in here as {shop.technician.shown_name}?" in plain_words(telephone.get(address))
    assert telephone.get("/me/").status_code == 302  # a look signs nobody in, and uses nothing up
    assert telephone.post(address)["Location"] == "/" and telephone.get("/me/").status_code == 200
    for answer in (second.get(address), second.post(address)):
        assert answer.status_code == 410 and "no longer good" in plain_words(answer)
    assert second.get("/me/").status_code == 302
    assert shop.technician.sign_ins.count() == 2


def test_a_code_is_good_for_two_minutes_and_another_makes_it_worth_nothing(inside, shop):
    first = code_of(inside.post("/telephone/"))
    latest = code_of(inside.post("/telephone/"))
    assert Client().post(first).status_code == 410
    Pairing.objects.update(expires=timezone.now() - timedelta(seconds=1))
    assert Client().post(latest).status_code == 410
    assert Client().get("/pair/none-at-all/").status_code == 410
    assert timedelta(minutes=2) == LASTS


def test_of_two_who_press_at_once_one_is_signed_in(inside, shop):
    address, other = code_of(inside.post("/telephone/")), []

    def quicker(execute, sql, params, many, context):
        answer = execute(sql, params, many, context)
        if sql.startswith("SELECT") and "workshop_pairing" in sql and not other:
            other.append(Pairing.objects.all().delete())
        return answer

    late = Client()
    with connection.execute_wrapper(quicker):
        assert late.post(address).status_code == 410
    assert other and late.get("/me/").status_code == 302


def test_the_code_is_kept_as_its_hash_and_only_whoever_is_signed_in_gets_one(inside, client, shop):
    address = code_of(inside.post("/telephone/"))
    assert Pairing.objects.get().digest not in address and address.split("/")[2] not in Pairing.objects.get().digest
    assert Client().post("/telephone/").status_code == 302 and Pairing.objects.count() == 1


def test_the_page_says_how_a_telephone_gets_here(inside, settings, tmp_path):
    assert "from this computer only" in plain_words(inside.get("/telephone/"))
    assert inside.get("/loadstar-root.crt").status_code == 404
    (tmp_path / "root.crt").write_bytes(b"-----BEGIN CERTIFICATE-----")
    settings.LAN, settings.ROOT_CERTIFICATE = "https://192.168.7.20:8700", str(tmp_path / "root.crt")
    words = plain_words(inside.get("/telephone/"))
    assert "https://192.168.7.20:8700" in words and "root certificate" in words and "this computer only" not in words
    assert "https://192.168.7.20:8700/pair/" in plain_words(inside.post("/telephone/"))
    loaded = Client().get("/loadstar-root.crt")
    assert loaded.content == b"-----BEGIN CERTIFICATE-----" and loaded["Content-Type"] == "application/x-x509-ca-cert"


# -- what is kept there ----------------------------------------------------------------------------------------------


def test_a_device_keeps_the_work_every_reading_connectors_and_wires(inside, shop):
    kept = inside.get(on(shop, shop.row, "kept-here/")).json()
    plan = store.load(shop.row)
    goes = len(made(plan.analysis).goes)
    assert kept["mark"] == "1" and len(kept["pages"]) == len(set(kept["pages"]))
    assert sum("/build/" in p and "go=" in p for p in kept["pages"]) == goes > 10
    assert sum("/prove/" in p and "n=" in p for p in kept["pages"]) > 30
    for element in (*plan.plan.wires, *plan.plan.of(Coupling)):
        assert any(p.endswith(f"sel={element.id}") or f"sel={element.id}&" in p for p in kept["pages"]), element.id
    for address in kept["pages"][::7]:
        assert inside.get(address).status_code == 200, address


def test_what_a_device_keeps_of_a_plan_that_is_not_solved_is_what_there_is(inside, shop):
    row = store.begin(shop.workshop, shop.technician, store.empty(shop.workshop, "Bare"))
    kept = inside.get(on(shop, row, "kept-here/")).json()
    assert kept["pages"] and not any("n=" in p for p in kept["pages"])
    assert all(inside.get(address).status_code == 200 for address in kept["pages"])


def test_of_a_plan_without_a_supply_no_reading_is_kept_that_its_page_does_not_have(inside, shop):
    plan = demo.winter()[0]
    lost = plan.battery.id
    bare = plan.model_copy(update={"parts": tuple(p for p in plan.parts if p.id != lost), "wires": tuple(
        w for w in plan.wires if lost not in (w.a.part, w.b.part)), "readings": ()})
    row = store.begin(shop.workshop, shop.technician, bare)
    pages = inside.get(on(shop, row, "kept-here/")).json()["pages"]
    assert not store.load(row).analysis.is_solved and any("/prove/" in p for p in pages)
    assert not any("n=" in p or "view=find" in p for p in pages)


def test_another_workshops_plan_is_kept_nowhere(inside):
    other = make_shop("Far")
    assert inside.get(other.url("kept-here/")).status_code == 404


def test_the_worker_lies_at_the_top_and_the_pages_name_what_comes_next(inside, shop):
    assert inside.get(on(shop, shop.row, "build/")).content.decode().count('data-next="/w/') == 1
    first = re.search(r'data-next="([^"]+)"', inside.get(on(shop, shop.row, "prove/")).content.decode())[1]
    assert "n=1" in first
    for name, kind in (("worker.js", "javascript"), ("loadstar.webmanifest", "manifest")):
        found = inside.get(f"/{name}")
        assert found.status_code == 200 and kind in found["Content-Type"], found["Content-Type"]


def test_a_reading_that_was_just_taken_stands_on_the_next_point_with_its_verdict(machine):
    first = machine("prove").content.decode()
    step = re.search(r'name="step" value="([^"]+)"', first)[1]
    machine.act("prove", "read", step=step, value="OL")
    words = machine("prove").content.decode()
    assert re.search(r'class="just" role="status" data-verdict="in"', words)


# -- former members --------------------------------------------------------------------------------------------------


@pytest.fixture
def gone(shop):
    """A technician who was taken out while ticks waited in their browser: sends one."""
    client, owner = Client(), Client()
    client.force_login(shop.technician)
    owner.force_login(shop.owner)
    go = made(store.load(shop.row).analysis).goes[0]
    member = Membership.objects.get(person=shop.technician, workshop=shop.workshop)
    owner.post(page(shop, "members/remove/"), {"id": member.pk})

    def send(**changed):
        headers = {**ACT, "HTTP_X_LOADSTAR_PERSON": str(shop.technician.pk), **changed}
        return client.post(on(shop, shop.row, "build/tick/"), {"go": go.key, "what": "done", "base": 1}, **headers)

    send.owner, send.go = owner, go
    return send


def test_what_a_former_member_still_held_is_not_taken_and_kept_for_the_owner_to_see(gone, shop):
    answer = gone()
    told = answer.json()
    assert answer.status_code == 403 and told["act"] == ACT["HTTP_X_LOADSTAR_ACT"] and told["taken"] is False
    assert "You no longer belong to Mudflat" in told["said"]
    gone()  # the same act again
    kept = RefusedAct.objects.get()
    assert kept.name == shop.technician.shown_name and f"go: {gone.go.key}" in kept.said and "what: done" in kept.said
    assert not records.entries(shop.row)
    words = plain_words(gone.owner.get(page(shop, "trail/")))
    assert "Not taken from people who no longer belong here: 1" in words and gone.go.key in words


@pytest.mark.parametrize("changed", [{"HTTP_X_LOADSTAR_ACT": "no id"}, {"HTTP_X_LOADSTAR_ACT": ""},
                                     {"HTTP_X_LOADSTAR_PERSON": "999999"}])
def test_nothing_else_of_theirs_is_kept(gone, changed):
    assert gone(**changed).status_code == 404 and not RefusedAct.objects.exists()


def test_for_whoever_never_belonged_the_workshop_is_not_there(shop):
    far = make_shop("Far")
    client = Client()
    client.force_login(far.technician)
    answer = client.post(on(shop, shop.row, "build/tick/"), {"what": "done"}, **ACT,
                         HTTP_X_LOADSTAR_PERSON=str(far.technician.pk))
    assert answer.status_code == 404 and not RefusedAct.objects.exists() and not FormerMember.objects.exists()


def test_who_left_by_themselves_is_told_the_same(inside, shop):
    inside.post(page(shop, "members/leave/"))
    assert FormerMember.objects.get().person == shop.technician
