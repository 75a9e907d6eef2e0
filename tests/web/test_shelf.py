"""The workshop's shelf: taken in and out as a table, against an order list, seen by its own workshop only."""


import pytest
from answers import words_of
from conftest import make_shop
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.urls import reverse

from loadstar import demo
from loadstar.core.analysis import analyse
from loadstar.core.edits import ChangeElement, RemoveElement, Several
from loadstar.core.order import Item, Order, order
from loadstar.core.shelf import Stock, against
from loadstar.exchange import shelf as table
from loadstar.web.records import shelf, store
from loadstar.web.records.models import Need, Reserved, ShelfItem

RING = "ring M6, 0.35 to 1.5 mm²"


@pytest.fixture
def at(shop):
    """A signed-in technician, and the shelf's addresses."""
    client = Client()
    client.force_login(shop.technician)

    def ask(name, method="get", **sent):
        return getattr(client, method)(reverse(name, args=[shop.workshop.slug]), sent)

    ask.shop, ask.client = shop, client
    return ask


def sent_file(text: str, name: str = "shelf.csv") -> SimpleUploadedFile:
    return SimpleUploadedFile(name, text.encode())


def there(at) -> list[Stock]:
    return [i.stock for i in ShelfItem.objects.filter(workshop=at.shop.workshop).order_by("what")]


def test_what_is_there_goes_first_and_the_rest_is_bought_in_whole_packs():
    """By hand: 17 wanted, 5 there, packs of 10: two packs at 0.12 each are 2.40. 2.3 m from a reel that has 8 m."""
    listed = Order((Item("Terminals", RING, 15, 17), Item("Wire", "0.5 mm² BK", 2.0, 2.3, "m"),
                    Item("Terminals", "lug", 1, 3), Item("Terminals", "odd", 1, 3)), ())
    found = against(listed, (Stock(RING, price=0.12, pack=10, here=5), Stock("0.5 mm² BK", pack=10, here=8),
                             Stock("lug", pack=5)))
    ring, wire, lug, odd = found.lines
    assert (ring.taken, ring.buy, ring.cost) == (5, 20, pytest.approx(2.4))
    assert (wire.taken, wire.buy) == (2.3, 0) and wire.cost is None
    assert (lug.buy, lug.cost) == (5, None)
    assert (odd.stock, odd.buy, odd.cost) == (None, 3, None)
    assert found.cost == pytest.approx(2.4) and found.unpriced == 2  # not the wire, which is there


def test_a_thing_is_put_on_changed_and_taken_off(at):
    put = {"what": RING, "number": "A-17", "price": "0,12", "pack": "10", "here": "40", "least": "20"}
    assert at("shelf", "post", **put).status_code == 302
    assert there(at) == [Stock(RING, "A-17", "", 0.12, 10, 40, 20)]
    assert at("shelf", "post", **{**put, "here": "5"}).status_code == 302
    assert [s.here for s in there(at)] == [5]
    text = words_of(at("shelf", what=RING))
    assert "1 line below the least" in text and 'value="0.12"' in text
    assert at("shelf-off", "post", what=RING).status_code == 302
    assert there(at) == []


@pytest.mark.parametrize(("typed", "says"), [
    ({"what": ""}, "does not say what it is"), ({"price": "dear"}, "Dear is no number for price"),
    ({"pack": "0"}, "A pack holds more than nothing"), ({"here": "-3"}, "outside 0 to"),
    ({"what": "x" * 161}, "160 are the most"), ({"here": "nan"}, "is no number for here")])
def test_a_line_that_will_not_do_is_said_beside_it_and_kept_in_the_form(at, typed, says):
    answer = at("shelf", "post", **{"what": "tie", "here": "3", "number": "kept-77", **typed})
    text = words_of(answer)
    assert answer.status_code == 422 and says in text and "kept-77" in text
    assert there(at) == []


def test_a_shelf_goes_out_as_a_table_and_comes_back_the_same(at):
    stock = [Stock("=cmd()", "+1", "@home", 1.5, 10, 3, 1), Stock(RING, here=2), Stock("tie; long, \"thin\"", price=0)]
    text = table.to_csv(stock)
    assert "'=cmd()" in text and "\r\n" in text
    assert list(table.from_csv(text).stock) == stock
    assert at("shelf-file", "post", table=sent_file(text)).status_code == 302
    assert sorted(there(at), key=lambda s: s.what) == sorted(stock, key=lambda s: s.what)
    assert at("shelf-csv").content.decode().removeprefix("\ufeff").count("\r\n") == 4


def test_a_long_table_is_kept_in_a_few_queries_and_replaces_lines_of_the_same_name(at, django_assert_max_num_queries):
    ShelfItem.objects.create(workshop=at.shop.workshop, what="thing 7", here=1, number="old")
    text = "what,here\r\n" + "".join(f"thing {n},{n}\r\n" for n in range(300))
    with django_assert_max_num_queries(15):
        assert at("shelf-file", "post", table=sent_file(text)).status_code == 302
    found = {s.what: s for s in there(at)}
    assert len(found) == 300 and (found["thing 7"].here, found["thing 7"].number) == (7, "")


@pytest.mark.parametrize(("text", "says"), [
    ("", "Choose a file|empty"), ("name,price\r\ntie,1", 'There is no "what"'),
    ("what,colour\r\ntie,red", 'no column "colour"'),
    ("what;here\r\ntie;3\r\nlug;many\r\n", "Line 3: many is no number for here"),
    ("what\r\ntie\r\ntie\r\n", "Line 3: tie is there twice"),
    ("what\r\n" + "".join(f"n{i}\r\n" for i in range(10_000)), "10,000 lines; Loadstar takes up to 5,000"),
    ("what,here\r\n" + "".join(f"n{i},x\r\n" for i in range(20)), "And 12 more lines")])
def test_a_table_is_taken_whole_or_not_at_all(at, text, says):
    answer = at("shelf-file", "post", table=sent_file(text))
    assert answer.status_code == 422
    assert any(one in words_of(answer) for one in says.split("|"))
    assert there(at) == []


@pytest.mark.parametrize("data", [b"\xff\xfe\x00what", b"what\r\n\"tie\x00", b"PK\x03\x04" + bytes(2000)])
def test_what_is_no_table_is_said_to_be_none(at, data):
    answer = at("shelf-file", "post", table=SimpleUploadedFile("s.csv", data))
    assert answer.status_code == 422 and there(at) == []
    assert at("shelf-file", "post").status_code == 422
    big = SimpleUploadedFile("s.csv", b"what\r\n" + b"x" * 1_100_000)
    assert "larger than 1,024 kB" in at("shelf-file", "post", table=big).content.decode()


def test_the_order_list_of_a_plan_against_the_shelf(at):
    row = store.take_in(at.shop.workshop, at.shop.owner, demo.winter()[0])
    ShelfItem.objects.create(workshop=at.shop.workshop, what=RING, price=0.25, pack=1, here=1)
    address = reverse("station", args=[at.shop.workshop.slug, row.pk, "ends"])
    text = words_of(at.client.get(address, {"view": "buy"}))
    needs = against(order(analyse(demo.winter()[0])), there(at))
    assert needs.cost == pytest.approx(0.75)  # four wanted, one there
    assert "To buy: <b>0.75</b>" in text and f"{needs.unpriced} lines without a price" in text


def test_another_workshop_s_shelf_is_not_there_and_readers_only_look(at):
    other = make_shop("Estuary")
    ShelfItem.objects.create(workshop=other.workshop, what="secret lug")
    assert "secret lug" not in at("shelf").content.decode() + at("shelf-csv").content.decode()
    at("shelf-off", "post", what="secret lug")
    assert ShelfItem.objects.filter(what="secret lug").exists()
    for name in ("shelf", "shelf-csv"):
        assert at.client.get(reverse(name, args=[other.workshop.slug])).status_code == 404
    reader = Client()
    reader.force_login(at.shop.reader)
    assert "Put it on the shelf" not in reader.get(reverse("shelf", args=[at.shop.workshop.slug])).content.decode()
    for name, sent in (("shelf", {"what": "tie"}), ("shelf-off", {"what": "tie"}),
                       ("shelf-file", {"table": sent_file("what\r\ntie")})):
        assert reader.post(reverse(name, args=[at.shop.workshop.slug]), sent).status_code == 403


@pytest.fixture
def two(shop, at):
    """Two plans that need the same rings, of which there are seven."""
    plan, other = (store.begin(shop.workshop, shop.technician, demo.winter()[0]) for _ in range(2))
    ring = next(i for i in order(analyse(demo.winter()[0])).items if i.what.startswith("ring M6"))
    ShelfItem.objects.create(workshop=shop.workshop, what=ring.what, here=ring.order + 2, price=0.1)
    return plan, other, ring


def sent(at, plan, what):
    address = reverse("act", args=[at.shop.workshop.slug, plan.pk, "ends", what]) + "?view=buy"
    return at.client.post(address, {"base": plan.head}, follow=True)


def test_what_is_reserved_for_one_plan_is_not_there_for_another_until_it_is_given_back(at, two):
    plan, other, ring = two
    assert "reserved for this plan" in sent(at, plan, "reserve").content.decode()
    assert Reserved.objects.get(plan=plan).amount == ring.order
    seen = sent(at, other, "reserve").content.decode()
    assert f"{ring.order:g} for others" in seen
    assert Reserved.objects.get(plan=other).amount == 2
    sent(at, plan, "release")
    assert not Reserved.objects.filter(plan=plan).exists()
    sent(at, other, "reserve")
    assert Reserved.objects.get(plan=other).amount == ring.order


def test_what_was_reserved_is_taken_off_the_shelf_once(at, two):
    plan, *_ = two
    sent(at, plan, "reserve")
    sent(at, plan, "take")
    assert there(at)[0].here == 2 and not Reserved.objects.exists()
    sent(at, plan, "take")
    assert there(at)[0].here == 2


def test_reserving_is_for_members_who_may_change_and_for_their_own_plans(at, two):
    plan, _, _ = two
    reader = Client()
    reader.force_login(at.shop.reader)
    address = reverse("act", args=[at.shop.workshop.slug, plan.pk, "ends", "reserve"])
    assert reader.post(address, {"base": plan.head}).status_code == 403
    strange = store.begin(make_shop("Estuary").workshop, at.shop.technician, demo.winter()[0])
    assert at.client.post(reverse("act", args=[at.shop.workshop.slug, strange.pk, "ends", "reserve"]),
                          {"base": strange.head}).status_code == 404
    assert not Reserved.objects.exists()


def test_where_a_thing_is_used_follows_the_plans(at, two):
    plan, other, ring = two
    page = at("shelf", used=ring.what).content.decode()
    assert page.count(plan.summary.name) == 2 and "3 plans" in page  # the workshop had one before
    emptied = store.edit(other, at.shop.technician, other.head,
                         Several(edits=tuple(RemoveElement(id=p.id) for p in store.load(other).plan.loads)))
    assert emptied.number == 2
    assert Need.objects.filter(plan=other).count() < Need.objects.filter(plan=plan).count()
    strange = store.begin(make_shop("Estuary").workshop, at.shop.technician, demo.winter()[0])
    assert Need.objects.filter(plan=strange, what=ring.what).exists()
    assert at("shelf", used=ring.what).content.decode().count(f"/p/{strange.pk}/") == 0


def test_reels_are_taken_in_and_out_and_cut_from_one_by_one(at):
    listed = table.from_csv("what,here,reels\r\n1 mm² RD,,12.5 3\r\n2 mm² BK,7,\r\n")
    assert not listed.faults and listed.stock[0].here == 15.5 and listed.stock[0].reels == (12.5, 3.0)
    assert listed.stock[1].lengths == (7.0,)
    assert table.from_csv(table.to_csv(listed.stock)).stock == listed.stock
    for cell, words in (("3 x", "is no number for reels"), ("0", "more than nothing"), ("1 " * 41, "40 are the most")):
        assert words in table.from_csv(f"what,reels\r\nwire,{cell}\r\n").faults[0]
    assert "together, and 9 are said" in table.from_csv("what,here,reels\r\nwire,9,12.5 3\r\n").faults[0]
    at("shelf", "post", what="1 mm² RD", reels="12.5 3")
    assert there(at)[0].reels == (12.5, 3.0)
    assert 'value="12.5 3"' in at("shelf", what="1 mm² RD").content.decode()


def test_what_a_plan_needs_is_summed_where_a_thing_is_needed_twice(shop):
    """Two runs with the same edge: trim for both; and tubes over joints and over cut braids."""
    plan = store.load(shop.row).plan
    used = [bundle.run for bundle in analyse(plan).loom.bundles][:2]
    for number, run in enumerate(used, 1):
        store.edit(shop.row, shop.technician, number, ChangeElement(id=run.id, values={"edge": "edge trim"}))
    items = order(store.load(shop.row).analysis).items
    summed = {}
    for item in items:
        summed[item.what] = summed.get(item.what, 0.0) + item.need
    assert len(summed) < len(items)
    assert {need.what: need.amount for need in Need.objects.filter(plan=shop.row)} == pytest.approx(summed, abs=1e-3)


def test_nothing_is_set_aside_of_what_none_is_needed(shop):
    shelf.reserve(shop.row, shop.technician, {"ring": 0.0, "tube": 2.0, "less than none": -1.0})
    assert list(Reserved.objects.filter(plan=shop.row).values_list("what", "amount")) == [("tube", 2.0)]
