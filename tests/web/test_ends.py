"""Ends: the list, one wire's two ends, connectors, fewest pins, what to buy; papers and files of them."""

import csv
import html
import io
import re
import subprocess

import pytest
from answers import words_of
from django.contrib.auth import get_user_model
from django.test import Client
from django.urls import reverse

from loadstar import demo
from loadstar.core.analysis import analyse
from loadstar.core.edits import AddElement, CutWire, PutPlug, apply
from loadstar.core.order import order
from loadstar.web.records import store
from loadstar.web.records.models import ShelfItem


@pytest.fixture
def bench(shop):
    """A signed-in client with the demonstration, one of its wires led through a connector."""
    client = Client()
    client.force_login(shop.owner)
    plan = demo.fit_out()[0]
    lamp = next(w for w in plan.wires if w.b == "L1.pos")
    plan = apply(plan, CutWire(id=lamp.id, place=plan.part("L1").place))
    row = store.take_in(shop.workshop, shop.owner, plan)
    args = [shop.workshop.slug, row.pk]

    def page(**query):
        return client.get(reverse("station", args=[*args, "ends"]), query)

    def act(what, **sent):
        row.refresh_from_db()
        return client.post(reverse("act", args=[*args, "ends", what]), {"base": row.head, **sent})

    def paper(name):
        return client.get(reverse(name, args=args))

    page.act, page.paper, page.row, page.plan, page.shop, page.client = act, paper, row, plan, shop, client
    return page


def now(bench):
    bench.row.refresh_from_db()
    return store.load(bench.row).plan


def test_every_end_is_listed_with_its_terminal(bench):
    text = words_of(bench())
    a = analyse(bench.plan)
    for end in a.ends.every:
        assert f'id="of-{end.key}"' in text
        assert end.chosen is None or end.chosen.name in text
    assert "no blade 6.3 takes it" in text  # 0.35 mm², fixed by hand
    assert f"{len(a.ends.every)} ends of {len(bench.plan.wires)} wires" in text


def test_a_wire_shows_both_ends_and_what_its_part_s_wires_end_in_can_be_chosen(bench):
    wire = next(w for w in bench.plan.wires if w.b == "L1.neg" or w.a == "L1.neg").id
    text = words_of(bench(sel=wire))
    assert text.count("On the wire first:") == 2 and "butt splice" in text and text.count("<svg") == 2
    sent = {"part": "L1", "wire": wire, "termination": "blade 4.8"}
    assert bench.act("termination", **sent).status_code == 302
    assert now(bench).part("L1").termination == "blade 4.8"
    for wrong, status in (({**sent, "termination": "glue"}, 422), ({**sent, "part": "L99"}, 422)):
        answer = bench.act("termination", **wrong)
        assert answer.status_code == status
        assert "must be one of" in words_of(answer) or "no L99" in answer.content.decode()


def test_a_connector_shows_both_halves_from_both_sides(bench):
    coupling = bench.plan.of_kind("coupling")[0]
    text = words_of(bench(view="connectors"))
    assert text.count("looking into the mouth</text>") == 2 and text.count("looking at the wire side</text>") == 2
    assert "sealed small, 2-way" in text and "Feeds come to side a: receptacles there" in text
    assert f'id="cn-{coupling.id}"' in text
    assert "connector in" in words_of(bench(sel=coupling.id))


LEADS = "throttle;ground;;0.02;0.22;17\nlamp;ground;;1.5;0.5\nhorn;ground;;2,0;0.5"
ASKED = {"most_a": "10", "barrel_mm2": "1.5", "shared_mohm": "35.3", "spare": "1", "leads": LEADS}


def test_fewest_pins_are_found_said_why_and_made_connectors(bench):
    answer = bench.act("pins", **ASKED)
    text = words_of(answer)
    assert answer.status_code == 200 and now(bench) == bench.plan
    assert "3 leads on 2 pins: fewer are impossible" in text
    assert "shift throttle by" in text and "3-way connector" in text
    assert LEADS.splitlines()[0] in text
    place = bench.plan.places[0].id
    assert bench.act("connect", **ASKED, place=place).status_code == 302
    made = now(bench).of_kind("coupling")[-1]
    assert (made.ways, made.place, made.name) == (3, place, "joint connector 1")
    come = [w for w in now(bench).wires if w.b.part == made.id]
    assert len(come) == 2 and {p.name for p in now(bench).of_kind("device")} == {
        "throttle", "lamp", "horn", "unit, leads to connector 1"}
    assert bench.act("connect", **ASKED, place="P99").status_code == 422
    many = "\n".join(f"l{n};net {n}" for n in range(30))
    answer = bench.act("connect", **{**ASKED, "leads": many}, place=place)
    assert answer.status_code == 422 and "No connector has so many ways." in answer.content.decode()


def test_typed_leads_come_from_their_place_and_power_is_kept_apart_unless_told(bench):
    plan = bench.plan
    come, at = plan.places[0].id, plan.places[1].id
    asked = {**ASKED, "leads": f"sensor feed;5 V;box;0.02;0.22;;5\nsensor ground;ground;box;0.02;0.22;;5\n{LEADS}"}
    parted = words_of(bench.act("pins", **asked))
    assert "(power, apart from 5 V signals)" in parted and "power stays out of the connector" in parted
    assert "(power" not in words_of(bench.act("pins", **asked, together="1"))
    assert bench.act("connect", **asked, place=at, come=come, unit=" loom box ").status_code == 302
    made = now(bench)
    assert {made.part(p.id).place for p in made.of_kind("device") if "loom box" not in p.name} == {come}
    assert {p.place for p in made.of_kind("device") if p.name.startswith("loom box, leads to")} == {at}
    assert len(made.of_kind("coupling")) == len(plan.of_kind("coupling")) + 2
    for view in ("ends", "connectors", "buy", "cut"):
        assert bench(view=view, sel="").status_code == 200


def test_leads_of_the_plan_are_led_through_by_one_press(bench):
    bars = next(p.id for p in now(bench).places if p.name == "handlebar")
    typed = html.unescape(re.search(r'<textarea id="id_leads".*?>(.*?)</textarea>',
                                    bench(view="pins", at=bars).content.decode(), re.DOTALL).group(1))
    asked = {**ASKED, "leads": typed, "at": bars}
    text = words_of(bench.act("pins", **asked))
    assert "Lead them through" in text and f'name="at" value="{bars}"' in text
    told = bench.act("connect", **{**asked, "leads": f"{typed}\nradio;ground;;1;0.5"}, place=bars)
    assert told.status_code == 422 and "radio is no lead of the plan" in words_of(told)
    assert bench.act("connect", **asked, place=bars).status_code == 302
    made = now(bench)
    joint = made.of_kind("coupling")[-1]
    before = {joint.id, *(p.id for p in made.of_kind("junction"))} - set(bench.plan.part_by_id)
    come = {w.id for w in bench.plan.wires if {now.part for now in (made.wire(w.id).a, made.wire(w.id).b)} & before}
    assert len(come) == len(typed.splitlines()) == 4
    assert bench(view="connectors", sel="").status_code == 200


@pytest.mark.parametrize(("sent", "says"), [
    ({"leads": "a;ground;;many"}, "Line 1: many is no number of A"), ({"leads": ""}, "Enter a lead"),
    ({"leads": "a;ground\na;ground"}, "Line 2: a is there twice"), ({"leads": "a"}, "Line 1: a lead has a name"),
    ({"leads": "a;ground;;1;0.6"}, "0.6 mm² is no listed size"), ({"leads": "a;g;;1;0.5;;;b"}, "twisted with b"),
    ({"leads": "a;g;;500"}, "500 A is outside 0 to 200"), ({"leads": "a;g;;12;2.5"}, "a contact 10 A"),
    ({"leads": "a;g;;1;0.5;;;;;;;"}, "columns"), ({"leads": "a;g;;1;;;;;near"}, 'is "apart" or empty'),
    ({"leads": "x;y\n" * 201}, "200 are the most"), ({"most_a": "lots"}, "lots is no figure from 0.5 to 200 A"),
    ({"barrel_mm2": ""}, "Nothing is no figure"), ({"shared_mohm": "-1"}, "-1 is no figure"),
    ({"spare": "1.5"}, "1.5 is no whole number"), ({"spare": "nan"}, "no whole number")])
def test_what_will_not_do_is_said_beside_the_field_and_nothing_typed_is_lost(bench, sent, says):
    answer = bench.act("pins", **{**ASKED, **sent})
    text = words_of(answer)
    assert answer.status_code == 422
    assert says in text
    assert html.unescape({**ASKED, **sent}["leads"].splitlines()[0] if {**ASKED, **sent}["leads"] else "") in text


@pytest.mark.parametrize("spare", ["2.0", " 2", "2,0"])
def test_a_whole_number_may_be_typed_in_any_way(bench, spare):
    answer = bench.act("pins", **{**ASKED, "spare": spare})
    assert answer.status_code == 200 and "4-way connector" in answer.content.decode()


def test_heavy_pins_come_into_a_connector_of_their_own(bench):
    leads = "motor;48 V;;18;2.5;;48\nlamp;lamp;;1;0.5"
    text = words_of(bench.act("pins", **{**ASKED, "most_a": "25", "leads": leads}))
    assert "1-way connector (heavy or high voltage, apart)" in text and "2-way connector </h3>" in text


def test_more_ways_than_a_connector_has_are_said_so(bench):
    many = "\n".join(f"l{n};net {n}" for n in range(30))
    assert "No connector has 31 ways" in words_of(bench.act("pins", **{**ASKED, "leads": many}))


def test_the_order_list_on_the_page_and_as_a_file(bench):
    listed = order(analyse(bench.plan))
    text = words_of(bench(view="buy"))
    for item in listed.items:
        assert item.what in text
    assert "as nothing takes them" in text
    answer = bench.paper("order-csv")
    rows = list(csv.reader(io.StringIO(answer.content.decode().removeprefix("\ufeff"))))
    assert rows[0] == ["group", "what", "needed", "order", "unit", "for"]
    assert [r[1] for r in rows[1:]] == [i.what for i in listed.items]
    assert answer["Content-Type"].startswith("text/csv")


def test_the_cut_list_is_a_table_with_a_line_for_each_wire_that_is_made(bench):
    analysis = analyse(bench.plan)
    answer = bench.paper("cut-csv")
    rows = list(csv.DictReader(io.StringIO(answer.content.decode().removeprefix("\ufeff"))))
    assert answer["Content-Type"].startswith("text/csv") and "cut.csv" in bench(view="cut").content.decode()
    assert {r["wire"] for r in rows} == {w.id for w in bench.plan.wires if not analysis.topology.untouched(w)}
    assert [float(r["cut_m"]) for r in rows] == sorted((float(r["cut_m"]) for r in rows), reverse=True)
    for row in rows:
        assert float(row["size_mm2"]) == analysis.wires[row["wire"]].area_mm2
        assert float(row["cut_m"]) == pytest.approx(analysis.loom.cut_m[row["wire"]], abs=0.006)
        end = analysis.ends.by_key[f"{row['wire']}.a"]
        if end.chosen and not end.kept:
            assert row["end_from"] == end.chosen.name and float(row["strip_from_mm"]) == end.chosen.strip_mm
        else:
            assert row["end_from"] == ("stays as it is" if end.kept else "not said") and not row["strip_from_mm"]


def test_the_crimp_card_is_printed_for_members_only(bench):
    answer = bench.paper("crimp-card")
    assert answer.content.startswith(b"%PDF") and len(answer.content) > 10_000
    stranger = Client()
    stranger.force_login(get_user_model().objects.create_user(username="stranger"))
    for name in ("crimp-card", "order-csv", "cut-csv"):
        assert stranger.get(reverse(name, args=[bench.shop.workshop.slug, bench.row.pk])).status_code == 404


def test_a_reader_looks_and_changes_nothing(bench):
    reader = Client()
    reader.force_login(bench.shop.reader)
    args = [bench.shop.workshop.slug, bench.row.pk]
    wire = bench.plan.wires[0].id
    text = reader.get(reverse("station", args=[*args, "ends"]), {"sel": wire}).content.decode()
    assert "On the wire first" in text and 'name="termination"' not in text
    for what in ("termination", "connect", "pins"):
        assert reader.post(reverse("act", args=[*args, "ends", what]), {"base": 1}).status_code == 403


def test_a_plan_without_wires_says_where_to_begin(bench):
    row = store.take_in(bench.shop.workshop, bench.shop.owner, store.empty(bench.shop.workshop, "bare"))
    for view in ("ends", "connectors", "pins", "buy"):
        address = reverse("station", args=[bench.shop.workshop.slug, row.pk, "ends"])
        text = bench.client.get(address, {"view": view}).content.decode()
        assert ("There are no wires yet" in text) is (view != "pins")


def test_the_cut_list_takes_from_the_shelf_first(bench):
    item = next(i for i in order(analyse(bench.plan)).items if i.pieces)
    ShelfItem.objects.create(workshop=bench.shop.workshop, what=item.what, here=50)
    text = words_of(bench(view="cut"))
    for wire in bench.plan.wires:
        assert f"{wire.id} " in text
    left = 50 - sum(metres for _, metres in item.pieces)
    assert f"{left:.1f}\xa0m" in text


def test_labels_are_printed_two_for_each_wire(bench):
    answer = bench.paper("labels")
    assert answer.content.startswith(b"%PDF")
    done = subprocess.run(["pdftotext", "-", "-"], input=answer.content, capture_output=True, check=True)
    text = done.stdout.decode()
    wire = bench.plan.wires[0]
    assert text.count("\nto ") == text.count("\nat ") == 2 * len(bench.plan.wires)
    assert f"at {wire.a}" in text and f"to {wire.a}" in text


def test_the_counterpart_of_a_connector_as_found_is_chosen_and_ordered(bench):
    plan = apply(bench.plan, PutPlug(values={"name": "lamp plug", "place": bench.plan.places[0].id, "ways": 2}, pins=(
        {"way": 1, "function": "feed", "live": "key", "rated_a": 3, "fused_a": 5}, {"way": 2, "function": "ground"})))
    pin = next(t for t in plan.taps if t.plug)
    plan = apply(plan, AddElement(what="load", values={"name": "clock", "amount": 3, "place": pin.place, "feed": pin.id,
                                                       "live": pin.live}))
    bench.row = row = store.take_in(bench.shop.workshop, bench.shop.owner, plan)
    args = [bench.shop.workshop.slug, row.pk]
    plug = plan.plug(pin.plug)

    def post(**sent):
        row.refresh_from_db()
        return bench.client.post(reverse("act", args=[*args, "ends", "counterpart"]), {"base": row.head, **sent})

    assert f'id="id_{plug.id}"' in bench.client.get(reverse("station", args=[*args, "ends"]),
                                                   {"view": "connectors"}).content.decode()
    assert post(plug=plug.id, termination="sealed 2.8").status_code == 302
    made = now(bench)
    assert {t.termination for t in made.pins(plug.id)} == {"sealed 2.8"}
    assert any(f"{plug.ways}-way, one half" in i.what and plug.name in i.what for i in order(analyse(made)).items)
    assert post(plug="AP99", termination="sealed 2.8").status_code == 422
    assert post(plug=plug.id, termination="glue").status_code == 422


def test_leads_are_taken_from_the_plan_at_a_place(bench):
    text = bench(view="pins", at=next(p.id for p in now(bench).places if p.name == "handlebar")).content.decode()
    assert "a1;connector in W8 a1;;3.66" in text and "Heated grips neg;ground;;3.66" in text  # a connector in its feed
    lone = next(p.id for p in now(bench).places if p.name == "headstock")
    assert "No wire comes to headstock" in bench(view="pins", at=lone).content.decode()


@pytest.mark.parametrize(("form", "how"), [("", "wrap the print first"), ("flag", "fold at the wire")])
def test_labels_come_to_wrap_or_as_flags(bench, form, how, tmp_path):
    address = reverse("labels", args=[bench.shop.workshop.slug, bench.row.pk])
    sheet = tmp_path / "labels.pdf"
    sheet.write_bytes(bench.client.get(address, {"form": form} if form else {}).content)
    text = subprocess.run(["pdftotext", "-layout", sheet, "-"], capture_output=True, text=True, check=True).stdout
    assert how in " ".join(text.split())
    assert bench.client.get(address, {"form": "tube"}).status_code == 404
