"""Every page in light and dark through axe: no violation."""

import pytest
from browser.axe import violations

from loadstar.demo import as_found, ferry_runner, tide_hauler
from loadstar.web.records import store

pytestmark = pytest.mark.django_db(transaction=True)
PLAN_PAGES = ("survey/", "survey/?sel=P1", "survey/?sel=R1", "survey/?add=generator",
              "loads/", "loads/?add=load", "loads/?sel=L1", "loads/?sel=L2&ask=feeds", "budget/", "budget/?off=L1",
              "circuits/", "circuits/?sel=W18", "circuits/?sel=F2", "circuits/?state=parked", "rules/",
              "route/", "route/?sel=R3", "route/?view=board", "route/?view=places&sel=B1", "route/?view=returns",
              "route/?view=weigh", "route/?sel=W8",
              "ends/", "ends/?sel=W8", "ends/?view=pins&example=1", "ends/?view=buy", "ends/?view=connectors",
              "build/", "build/?view=list", "build/?view=kit", "build/?view=trial", "build/?view=log",
              "prove/", "prove/?view=find&sel=L1", "prove/?view=result", "prove/?view=train",
              "handover/", "handover/?view=drawing", "history/", "find/?q=lamp", "working/?key=parked")


def test_pages_of_a_plan(walk, shop):
    someone = walk(shop.owner, color_scheme="light")
    for path in PLAN_PAGES:
        page = someone.goto(shop.url(path))
        assert violations(page) == [], path
    for make in (ferry_runner, tide_hauler):
        row = store.take_in(shop.workshop, shop.owner, make()[0])
        for path in ("survey/", "budget/", "circuits/", "loads/"):
            page = someone.goto(f"/w/{shop.workshop.slug}/p/{row.pk}/{path}")
            assert violations(page) == [], (make.__name__, path)
    row = store.take_in(shop.workshop, shop.owner, as_found()[0])
    for view in ("map&sel=P3", "plugs&sel=AP1", "plugs&add=plug", "probe", "readings", "tables", "tables&add=table",
                 "removed", "reuse"):
        page = someone.goto(f"/w/{shop.workshop.slug}/p/{row.pk}/survey/?view={view}")
        assert violations(page) == [], view
    page = someone.goto(shop.url("loads/"))
    page.locator("#findings-open").click()
    assert violations(page) == []


def test_pages_about_people(walk, shop):
    someone = walk(shop.owner, color_scheme="light")
    for path in (f"/w/{shop.workshop.slug}/", f"/w/{shop.workshop.slug}/members/", f"/w/{shop.workshop.slug}/rules/",
                 f"/w/{shop.workshop.slug}/shelf/", f"/w/{shop.workshop.slug}/waiting/?q=relay",
                 f"/w/{shop.workshop.slug}/pocket/", f"/w/{shop.workshop.slug}/pocket/?q=enough",
                 f"/w/{shop.workshop.slug}/pocket/?q=wire&amount=0", "/telephone/", "/me/", "/nowhere/"):
        someone.page.goto(path)
        assert violations(someone.page) == [], path
    nobody = walk(color_scheme="light")
    for path in ("/sign-in/", "/pair/none/"):
        nobody.page.goto(path)
        assert violations(nobody.page) == [], path
