"""The survey's pages: forms, files, photographs, the meter; what cannot be is told and nothing is lost."""

import json
import threading

import pytest
from asked import jpeg
from conftest import make_shop

from loadstar.standins.machines import demo_machine
from loadstar.standins.meter import MeterServer
from loadstar.web.plans.models import PlanHead
from loadstar.web.records.models import KeptSurvey, Photo, TakenReading


@pytest.mark.parametrize("view", ["map", "plugs", "probe", "readings", "tables", "removed", "reuse"])
def test_every_part_for_every_role(client, creek, view):
    for person in (creek.owner, creek.technician, creek.reader):
        client.force_login(person)
        answer = client.get(creek.url(f"survey/?view={view}"))
        assert answer.status_code == 200
        assert f'id="view-{view}" aria-current="true"' in answer.content.decode()
        if person == creek.reader:
            assert b'method="post"' not in answer.content.split(b"<main")[1].split(b"</main")[0]


def test_readers_send_nothing_and_other_workshops_see_nothing(client, creek):
    client.force_login(creek.reader)
    assert client.post(creek.url("survey/reading/"), {"base": 1}).status_code == 403
    photo = Photo.objects.create(plan=creek.row, element="AP1", image=jpeg(), width=1, height=1, by=creek.owner)
    kept = KeptSurvey.objects.create(workshop=creek.workshop, family="x", document={}, by=creek.owner)
    stranger = make_shop("Upstream")
    client.force_login(stranger.owner)
    for tail in (f"photo/{photo.pk}.jpg", "survey.json", "survey.csv", "pin-maps.pdf", "survey/"):
        assert client.get(creek.url(tail)).status_code == 404, tail
        assert client.get(stranger.url(tail)).status_code == (404 if tail.startswith(("photo", "pin-maps"))
                                                              else 200), tail
    assert client.post(stranger.url("survey/take/"), {"base": stranger.row.head, "kept": kept.pk}).status_code == 404
    assert client.post(stranger.url("survey/photo/"), {"element": "BT1", "away": photo.pk}).status_code == 404
    assert client.post(stranger.url("survey/nothing/"), {"base": 1}).status_code == 404


# -- map ----------------------------------------------------------------------------------------------------------

def test_a_place_is_put_where_the_picture_was_touched(survey):
    before = survey.plan().place("P3")
    page = survey.page("?view=map").content.decode()
    ring = page.split('data-place="P3"')[1].split("<circle", 1)[1]
    x, y = (float(ring.split(f'{axis}="')[1].split('"')[0]) for axis in ("cx", "cy"))
    survey("place", id="P3", x=x, y=y)
    here = survey.plan().place("P3")
    assert abs(here.x_mm - before.x_mm) <= 2 and abs(here.y_mm - before.y_mm) <= 2
    survey("place", "?side=left", id="P3", x=x, y=y)
    assert survey.plan().place("P3").x_mm != here.x_mm  # from the left the same point lies elsewhere
    assert survey("place", x=300, y=200).status_code == 302
    assert survey.plan().places[-1].name == "place 9"
    for bad in ({"x": "nan", "y": "1"}, {"x": "", "y": "1"}, {"x": "99999", "y": "0"}):
        assert survey("place", id="P3", **bad).status_code == 404


def test_scale_by_wheelbase_or_measured_length(survey):
    survey("scale", wheelbase_mm="1517,5 mm")
    assert survey.plan().machine.wheelbase_mm == 1518
    for data, words in (
            ({"wheelbase_mm": "long"}, "is no number"), ({"wheelbase_mm": "nan"}, "is no number"),
            ({"length_mm": "1e999"}, "is no number"),
            ({"a": "P1", "b": "P1", "length_mm": "300"}, "at least 50 mm apart"),
            ({"wheelbase_mm": "9"}, "must be at least 600 mm")):
        answer = survey("scale", **data)
        assert (answer.status_code, words in answer.content.decode()) == (422, True), words
        assert all(f'value="{typed}"' in answer.content.decode() for typed in data.values())


# -- connectors ---------------------------------------------------------------------------------------------------

def test_a_connector_is_written_down_with_its_pins(survey):
    answer = survey("plug", name="alarm plug", place="P2", use="alarm", ways="3", rows="1", seen="wires", latch="none",
                    **{"pin-1-wire_colour": "RD", "pin-1-function": "feed/always", "pin-1-rated_a": "2,5",
                       "pin-2-function": "ground",
                       "pin-3-function": "unknown", "pin-7-rated_a": "99999"})
    assert answer.status_code == 302
    plan = survey.plan()
    plug = plan.plugs[-1]
    assert [(p.way, p.function, p.live, p.rated_a) for p in plan.pins(plug.id)] == [
        (1, "feed", "always", 2.5), (2, "ground", "key", 5), (3, "unknown", "key", 5)]


def test_what_will_not_do_stays_in_the_sheet_with_its_sentence(survey):
    answer = survey("plug", id="AP1", name="accessory plug", place="P2", use="accessory", ways="4", rows="2",
                    seen="mouth", latch="up",
                    **{"pin-2-rated_a": "-4", "pin-2-others": "the horn", "pin-2-function": "unknown"})
    body = answer.content.decode()
    assert answer.status_code == 422
    assert "is outside what is accepted" in body
    assert 'value="the horn"' in body
    assert 'value="-4"' in body
    assert survey("plug", id="AP77", name="x", place="P2").status_code == 409


def test_two_at_once_the_second_keeps_its_sheet(survey):
    base = survey.shop.row.head
    survey("scale", wheelbase_mm="1500")
    answer = survey.client.post(survey.shop.url("survey/plug/"), {
        "base": base, "id": "AP1", "name": "other name", "place": "P2", "use": "accessory", "ways": "4", "rows": "2",
        "seen": "mouth", "latch": "up"})
    assert answer.status_code == 409
    assert "has changed this plan" in answer.content.decode()
    assert 'value="other name"' in answer.content.decode()


# -- readings -----------------------------------------------------------------------------------------------------

def test_a_reading_is_kept_as_a_row_and_in_the_plan(survey):
    survey("reading", element="BT1", quantity="V", state="key_off", value="12,71", instrument="bench meter")
    reading = survey.plan().readings[-1]
    row = TakenReading.objects.get(plan=survey.shop.row, reading=reading.id)
    assert (row.value, row.by, reading.by, row.instrument) == (12.71, survey.shop.technician, "Creek technician",
                                                               "bench meter")
    survey.client.post(survey.shop.url("undo/"))
    assert reading.id not in {r.id for r in survey.plan().readings}
    assert TakenReading.objects.filter(pk=row.pk).exists()  # what happened, happened


@pytest.mark.parametrize(("value", "words"),
    [("twelve", "is no number of V"), ("1e12", "outside what is accepted"), ("", "A number is needed"),
                                              ("NaN", "is no number of V"),
                                              ("12 mA", "mA is no unit of a voltage"),
                                              ("400", "400 V cannot be on a 12 V machine"),
                                              ("1.2.3 V", "is no number")])
def test_readings_that_are_none(survey, value, words):
    head, taken = survey.shop.row.head, TakenReading.objects.count()
    answer = survey("reading", element="BT1", quantity="V", state="key_off", value=value)
    body = answer.content.decode()
    assert answer.status_code == 422 and words in body and (not value or f'value="{value}"' in body)
    assert survey("probe", element="T3", quantity="V", state="key_on", value=value).status_code == 422
    survey.shop.row.refresh_from_db()
    assert (survey.shop.row.head, TakenReading.objects.count()) == (head, taken)


@pytest.mark.parametrize(("quantity", "typed", "value"), [
    ("V", "12,4V", 12.4), ("V", "450 mV", 0.45), ("A", "35 mA", 0.035), ("ohm", "4.7 kΩ", 4700),
    ("ohm", "12 mΩ", 0.012),
    ("ohm", "2 M\u2126", 2e6), ("s", "2 min", 120), ("V", "−0.2", -0.2)])
def test_values_may_carry_their_unit(survey, quantity, typed, value):
    survey("reading", element="BT1", quantity=quantity, state="key_off", value=typed)
    assert survey.plan().readings[-1].value == pytest.approx(value)


@pytest.mark.parametrize(("quantity", "value", "words"), [
    ("ohm", "-3", "the wire was live"), ("A", "900", "was it milliamps"), ("s", "9000", "0 to 7200"),
    ("beep", "2", "A beep is 1")])
def test_readings_that_cannot_be(survey, quantity, value, words):
    answer = survey("reading", element="T3", quantity=quantity, state="key_off", value=value)
    assert answer.status_code == 422 and words in answer.content.decode()


def test_the_probe_asks_takes_and_is_taken_over(survey):
    body = survey.page("?view=probe").content.decode()
    assert "accessory plug pin" in body and "Enter" in body
    pin = survey.plan().pins("AP1")[0].id
    for state, value in (("idle", "14,1"), ("lamp_on", "12")):
        survey("probe", element=pin, quantity="V", state=state, value=value)
    body = survey.page("?view=probe").content.decode()
    edit = json.loads(body.split('aria-label="Next reading"')[-1].split('name="edit" value="')[1].split('"')[0].replace(
        "&quot;", '"'))
    assert edit == {"kind": "change", "id": pin,
                    "values": {"function": "feed", "live": "key", "off_delay_s": 0.0, "standing": "found"}}
    survey.shop.row.refresh_from_db()
    survey.client.post(survey.shop.url("edit/"),
                       {"edit": json.dumps(edit), "base": survey.shop.row.head, "next": survey.shop.url("survey/")})
    assert pin in {t.id for t in survey.plan().taps}
    # What was found is now offered as a feed.
    assert f'value="{pin}"' in survey.client.get(survey.shop.url("loads/?add=load&usual=other")).content.decode()


def test_what_is_never_tapped_is_never_probed(survey):
    pin = survey.plan().pins("AP3")[0]
    body = survey.page(f"?view=probe&sel={pin.id}").content.decode()
    assert f">{pin.name}" not in body.split('aria-label="Next reading"')[1].split("</section>")[0]
    assert f"sel={pin.id}&" not in body.split("<main")[1].replace("&amp;", "&") and "CAN: never tapped" in body


def test_readings_are_taken_from_the_meter(survey, settings):
    pin = survey.plan().pins("AP1")[3].id
    with MeterServer(demo_machine()) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        settings.METER = f"127.0.0.1:{server.server_address[1]}"
        assert "Read from the meter" in survey.page("?view=probe").content.decode()
        assert survey("meter", element=pin, quantity="V", state="key_off").status_code == 302
        taken = survey.plan().readings[-1]
        assert 12 < taken.value < 13.2 and taken.instrument == "Loadstar, simulated meter"
        server.shutdown()
    for wrong in ({"state": "idle\n*RST"}, {"quantity": "W"}, {"element": "G1"}, {"element": "X1"}):
        assert survey("meter", **{"element": pin, "quantity": "V", "state": "key_on", **wrong}).status_code == 404
    answer = survey("meter", element=pin, quantity="V", state="key_on")
    assert answer.status_code == 502 and "does not answer" in answer.content.decode()
    settings.METER = ""
    assert survey("meter", element=pin, quantity="V", state="key_on").status_code == 404


# -- continuity ---------------------------------------------------------------------------------------------------

def test_a_table_is_made_filled_and_understood(survey):
    survey("table", name="brake switch", terminals="red; black", positions="off, pressed")
    table = survey.plan().tables[-1]
    survey("table", id=table.id, name=table.name, **{"t-0-0-1": "silent", "t-1-0-1": "beeps"})
    assert "a contact that some positions close" in survey.page(f"?view=tables&sel={table.id}").content.decode()
    answer = survey("table", "?add=table", name="nothing", terminals="one")
    body = answer.content.decode()
    assert answer.status_code == 422 and "Terminals must have at least 2 entries" in body and 'value="nothing"' in body


# -- papers, queries ----------------------------------------------------------------------------------------------

def test_pin_maps_are_printed(survey):
    answer = survey.client.get(survey.shop.url("pin-maps.pdf"))
    assert answer["Content-Type"] == "application/pdf" and answer.content[:5] == b"%PDF-" and len(
        answer.content) > 10_000


def test_queries_do_not_grow_with_the_survey(survey, django_assert_max_num_queries):
    for view in ("map", "plugs", "probe", "readings", "tables", "removed", "reuse"):
        with django_assert_max_num_queries(9):
            survey.page(f"?view={view}" + ("&sel=AP1" if view == "plugs" else ""))


@pytest.mark.parametrize(("pasted", "words"), [
    ("connector,pin,colour\rseat plug,1,BK\r", "Pins taken"),
    ("connector,pin\n" + "x" * 140_000 + ",1", "cannot be read as one"),
    ('connector,pin\n"seat plug,1\n' + "y,2\n" * 60_000, "cannot be read as one")])
def test_tables_that_the_reader_of_tables_refuses(survey, pasted, words):
    name = survey.plan().plugs[0].name
    answer = survey("pins", pasted=pasted.replace("seat plug", name))
    if answer.status_code == 302:
        answer = survey.client.get(answer.url)
    assert words in answer.content.decode() and answer.status_code in (200, 422)


@pytest.mark.parametrize("length", ["1e308", "1e999", "nan", "-5", "0", "20000", "x" * 500])
def test_a_length_that_is_none_at_the_scale(survey, length):
    a, b = (p.id for p in survey.plan().places[:2])
    answer = survey("scale", a=a, b=b, length_mm=length)
    assert answer.status_code == 422
    assert survey.shop.row.head == PlanHead.objects.get(pk=survey.shop.row.pk).head
