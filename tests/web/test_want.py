"""Whole circuits through the pages: what is offered, made in one step, refused beside its field, and for whom."""

import html
import re

import pytest
from conftest import make_shop
from intents import LEADS, TYPED

from loadstar.core.begin import Wish, begun
from loadstar.core.intents import INTENTS, offered
from loadstar.core.plan.model import Plan
from loadstar.core.stages import stages
from loadstar.web.records import store

pytestmark = pytest.mark.django_db
MACHINES = {"motorcycle": ("motorcycle", "middle"), "magneto": ("small motorcycle", "magneto 6"),
            "pack": ("cargo e-bike", "36 v")}


def begun_on(shop, machine: str):
    kind, size = MACHINES[machine]
    return store.begin(shop.workshop, shop.technician, begun(store.empty(shop.workshop, machine), Wish(kind, size)))


def address(shop, row, tail=""):
    return f"/w/{shop.workshop.slug}/p/{row.pk}/{tail}"


def fields(page: str) -> dict[str, str]:
    """What a form sends as it stands."""
    form = page[page.index('id="form-panel"'):]
    sent = dict(re.findall(r'<input[^>]*name="(\w+)"[^>]*value="([^"]*)"', form))
    for name, options in re.findall(r'<select[^>]*name="(\w+)".*?>(.*?)</select>', form, re.S):
        chosen = re.search(r'value="([^"]*)" selected', options) or re.search(r'<option value="([^"]*)"', options)
        sent[name] = html.unescape(chosen[1]) if chosen else ""
    return sent


@pytest.mark.parametrize("machine", MACHINES)
def test_every_circuit_that_is_offered_is_made_with_its_first_choices(inside, shop, machine):
    row = begun_on(shop, machine)
    listed = inside.get(address(shop, row, "loads/?add=load")).content.decode()
    plan = store.load(row).plan
    for kind in INTENTS.values():
        assert (f">{kind.TITLE}<" in listed) == (kind in offered(plan) and kind.ADDS)
    for kind in offered(plan):
        row = begun_on(shop, machine)
        page = inside.get(address(shop, row, "job/"), {"want": kind.KEY}).content.decode()
        assert kind.SAYS in html.unescape(page)
        if missing := kind.lacks(plan):
            assert missing in html.unescape(page)
            continue
        head, typed = row.head, {name: TYPED[name] for name in kind.model_fields.keys() & TYPED.keys()}
        if "winding" in kind.model_fields:
            typed["winding"] = LEADS[plan.generator.phases]
        answer = inside.post(address(shop, row, "job/want/"), {**fields(page), **typed})
        told = re.findall(r'class="error"[^>]*>(.*?)</p>', answer.content.decode())
        assert answer.status_code == 302, (kind.KEY, told)
        row.refresh_from_db()
        assert row.head == head + 1  # one step, one undo
        after = store.load(row).plan
        assert (len(after.parts) > len(plan.parts)) >= kind.ADDS and after != plan
        assert inside.get(answer.url).status_code == 200


@pytest.mark.parametrize(("sent", "field", "words"), [
    ({"watts": "0"}, "watts", "outside what is accepted"), ({"watts": "much"}, "watts", "much is no number"),
    ({"horn_at": "P99"}, "horn_at", "Choose one of the list"), ({"feed": ""}, "feed", "Choose one of the list")])
def test_what_will_not_do_comes_back_beside_its_field(inside, shop, sent, field, words):
    row = begun_on(shop, "motorcycle")
    page = inside.get(address(shop, row, "job/"), {"want": "horn"}).content.decode()
    answer = inside.post(address(shop, row, "job/want/"), {**fields(page), **sent})
    text = answer.content.decode()
    assert answer.status_code == 422
    assert words in text[text.index(f'id="id_{field}"') - 900: text.index(f'id="id_{field}"') + 900]
    row.refresh_from_db()
    assert row.head == 1


@pytest.mark.parametrize(("key", "sent", "field", "words"), [
    ("found circuit", {"what": " "}, "what", "may not be empty"),
    ("found circuit", {"what": "lamp", "power_w": "21", "counted_in": "M99"}, "counted_in", "Choose one of the list"),
    ("run output", {"wire_colour": "x" * 40}, "wire_colour", "at most 20"),
    ("renew generator", {"high_w": "400", "winding": "YE WH"}, "winding", "say the old colour"),
    ("renew generator", {"high_w": "9", "phase_ohm": "12", "winding": "YE > WH"}, "phase_ohm", "outside what is"),
    ("led", {"lamp_of": "M1", "new_w": "2"}, "was_w", "Say what the old lamp took")])
def test_what_will_not_do_of_what_is_there_comes_back_beside_its_field(inside, shop, key, sent, field, words):
    row = begun_on(shop, "motorcycle")
    page = inside.get(address(shop, row, "job/"), {"want": key}).content.decode()
    answer = inside.post(address(shop, row, "job/want/"), {**fields(page), **sent})
    text = html.unescape(answer.content.decode())
    assert answer.status_code == 422
    at = text.index(f'id="id_{field}"')
    assert words in text[at - 900: at + 1500]
    row.refresh_from_db()
    assert row.head == 1


def test_what_the_plan_refuses_is_said_in_the_form(inside, shop):
    row = begun_on(shop, "pack")
    for expected in (302, 422):
        page = inside.get(address(shop, row, "job/"), {"want": "traction"}).content.decode()
        answer = inside.post(address(shop, row, "job/want/"), fields(page))
        assert answer.status_code == expected
        row.refresh_from_db()
    assert "has its leads already" in answer.content.decode()


def test_readers_and_strangers_make_nothing(client, shop):
    row = begun_on(shop, "motorcycle")
    client.force_login(shop.reader)
    assert client.post(address(shop, row, "job/want/"), {"want": "horn", "base": 1}).status_code == 403
    assert "form-panel" not in client.get(address(shop, row, "job/?want=horn")).content.decode()
    client.force_login(make_shop("Upstream").owner)
    assert client.post(address(shop, row, "job/want/"), {"want": "horn", "base": 1}).status_code == 404


def test_nothing_of_that_kind_is_told(inside, shop):
    answer = inside.post(shop.url("job/want/"), {"want": "sail", "base": shop.row.head})
    assert answer.status_code == 422
    assert "Nothing of that kind" in answer.content.decode()


def test_two_at_once_are_told_and_what_was_typed_stays(inside, shop):
    row = begun_on(shop, "motorcycle")
    page = inside.get(address(shop, row, "job/"), {"want": "horn"}).content.decode()
    sent = fields(page)
    assert inside.post(address(shop, row, "job/want/"), sent).status_code == 302
    answer = inside.post(address(shop, row, "job/want/"), {**sent, "watts": "33"})
    assert answer.status_code == 409
    assert 'value="33"' in answer.content.decode()


def test_a_wire_is_cut_spliced_and_its_end_moved_by_form(inside, shop):
    def send(what, **data):
        shop.row.refresh_from_db()
        return inside.post(shop.url(f"circuits/{what}/?sel=W18"), {"base": shop.row.head, "id": "W18", **data})

    def plan() -> Plan:
        shop.row.refresh_from_db()
        return store.load(shop.row).plan

    page = inside.get(shop.url("circuits/?sel=W18")).content.decode()
    assert "Cut W18, or move an end" in page
    end = plan().wire("W18").b
    assert send("cut", place="P4").status_code == 302
    assert [c.name for c in plan().of_kind("coupling")] == ["connector in W18"]
    assert send("cut", place="P4", into="splice").status_code == 302
    assert plan().wire("W18").b.part == plan().of_kind("junction")[-1].id
    assert send("move", end="b", to=end).status_code == 302
    assert plan().wire("W18").b == end
    assert send("move", end="b", to="XX1.nowhere").status_code == 422
    assert send("cut", place="P77").status_code == 422
    assert send("cut", id="W999", place="P4").status_code == 422


def test_a_machine_on_packs_is_read_in_states_of_its_own(inside, shop):
    row = begun_on(shop, "pack")
    page = inside.get(address(shop, row, "survey/?view=readings")).content.decode()
    offered_states = re.findall(r'<option value="(\w+)"', page[page.index('name="state"'):page.index('name="value"')])
    assert offered_states == ["key_off", "key_on", "lamp_on", "assist", "charging"]
    assert "cranking" not in page
    assert "cranking" in inside.get(shop.url("survey/?view=readings")).content.decode()


def test_stages_are_judged_at_the_handover(inside, shop):
    def change(element, **values):
        shop.row.refresh_from_db()
        answer = inside.post(shop.url(f"loads/?sel={element}"), {"for_kind": "load", "id": element,
                                                                "base": shop.row.head, **values})
        assert answer.status_code == 302

    assert "Stages" not in inside.get(shop.url("handover/")).content.decode()
    change("L1", stage="A")
    change("L2", stage="B", mass_g="310", lead_m="0.4")
    page = inside.get(shop.url("handover/")).content.decode()
    made = stages(store.load(shop.row).plan)
    # every wire is new in one stage: together they are all of the plan's metres
    assert sum(stage.new_wire_m for stage in made) == pytest.approx(
        sum(wire.length_m for wire in made[-1].analysis.wires.values()))
    assert 'id="stage-A"' in page and 'id="stage-B"' in page and 'id="stage-C"' not in page
    shown = inside.get(shop.url("loads/?sel=L2")).content.decode()
    assert 'value="310"' in shown and 'value="0.4"' in shown


def test_a_block_shows_its_spare_ways(inside, shop):
    assert re.search(r"spare of \d+ ways:", inside.get(shop.url("survey/")).content.decode())
