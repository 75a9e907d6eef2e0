"""A plan and who is signed in at it, as several files of tests need them: each answers a page and sends its forms."""

import pytest
from asked import jpeg
from conftest import make_shop
from django.test import Client
from django.urls import reverse

from loadstar import demo
from loadstar.core.begin import Wish, begun
from loadstar.demo import as_found
from loadstar.web.evidence import proving as known
from loadstar.web.evidence.sheet import made
from loadstar.web.plans.models import PlanHead
from loadstar.web.records import store
from loadstar.web.records import work as records
from loadstar.web.records.models import Photo


@pytest.fixture
def machine(shop):
    """A signed-in technician at a plan without faults: its pages and what is sent from them."""
    client = Client()
    client.force_login(shop.technician)
    row = store.begin(shop.workshop, shop.technician, demo.winter()[0])

    def page(station, **query):
        return client.get(reverse("station", args=[shop.workshop.slug, row.pk, station]), query)

    def act(station, act_name, view="", base=None, **sent):
        address = reverse("act", args=[shop.workshop.slug, row.pk, station, act_name])
        return client.post(f"{address}?view={view}", {"base": base or store.load(row).number, **sent}, follow=True)

    def paper(name):
        more = [store.load(row).plan.loads[0].id] if name == "card" else []
        return reverse(name, args=[shop.workshop.slug, row.pk, *more])

    def usual_v(load):
        steps = known.plan_of_analysis(store.load(row).analysis)
        return next(s.expects.value for s in steps if s.key == f"at.{load}.idle")

    page.act, page.client, page.row, page.shop, page.paper, page.usual_v = act, client, row, shop, paper, usual_v
    page.sheet = made(store.load(row).analysis)
    return page


@pytest.fixture
def creek(db):
    """A workshop with the demonstration's survey."""
    return make_shop("Creek", as_found()[0])


@pytest.fixture
def survey(client, creek):
    """Sends the survey's forms as the technician."""
    client.force_login(creek.technician)

    def send(what, query="", **data):
        creek.row.refresh_from_db()
        return client.post(creek.url(f"survey/{what}/") + query, {"base": creek.row.head, **data})
    send.client, send.shop = client, creek
    send.plan = lambda: store.load(PlanHead.objects.get(pk=creek.row.pk)).plan
    send.page = lambda query="": client.get(creek.url("survey/") + query)
    return send


@pytest.fixture
def begun_row(shop):
    """A plan of the workshop that rests on typical figures."""
    wish = Wish("touring motorcycle", "middle", "Reed tourer", ("grips", "lamp pair"))
    return store.begin(shop.workshop, shop.technician, begun(store.empty(shop.workshop, "begun"), wish))


@pytest.fixture
def handed(shop):
    """A signed-in technician and a plan with some of its work, a reading, a photograph and a closing on record."""
    client = Client()
    client.force_login(shop.technician)
    row = store.begin(shop.workshop, shop.technician, demo.winter()[0])
    sheet = made(store.load(row).analysis)
    for key in sheet.keys[:3]:
        records.write(row, shop.technician, 1, sheet.work.operations[key], records.Line("done"))
    records.write(row, shop.technician, 1, sheet.work.operations[sheet.keys[2]],
                  records.Line("again", note="=cmd|' /C calc'!A0"))
    for value in (12.6, records.OPEN):
        records.keep(row, shop.technician, 1, step="posts.parked", quantity="V", row="parked", red="BT1.pos",
                     black="BT1.neg", value=value, expected=12.61, spread=0.4, plain=12.61, instrument="pocket meter")
    Photo.objects.create(plan=row, element="B1", caption="before", image=jpeg((40, 30), quality=82), width=40,
                         height=30, by=shop.technician)

    def page(name="", **query):
        args = [shop.workshop.slug] if name == "waiting" else [shop.workshop.slug, row.pk]
        return client.get(reverse(name or "station", args=args if name else [*args, "handover"]), query)

    def close(**sent):
        address = reverse("act", args=[shop.workshop.slug, row.pk, "handover", "close"])
        return client.post(address, {"base": store.load(row).number, **sent}, follow=True)

    page.close, page.client, page.row, page.shop = close, client, row, shop
    return page


@pytest.fixture
def bench(shop):
    """A signed-in client and the address of a paper or page of the demonstration."""
    client = Client()
    client.force_login(shop.owner)
    plan = demo.fit_out()[0]
    row = store.take_in(shop.workshop, shop.owner, plan)

    def at(name, **query):
        args = [shop.workshop.slug, row.pk]
        address = reverse("station", args=[*args, "route"]) if name == "route" else reverse(name, args=args)
        return client.get(address, query)

    at.client, at.row, at.plan, at.shop = client, row, plan, shop
    return at
