"""What can be read: no text under 13 px in pictures, nothing cut by its box, no page wider than its window."""

import pytest

from loadstar.core.begin import Wish, begun
from loadstar.demo import as_found, tide_hauler
from loadstar.web.records import store
from loadstar.web.records.models import ShelfItem

pytestmark = pytest.mark.django_db(transaction=True)
LEAST_PX = 13
SIZES = ((1280, 800), (800, 1280))
SMALL = """least => [...document.querySelectorAll('svg.picture text')].filter(t => t.getClientRects().length).map(t => {
    const k = t.ownerSVGElement.getScreenCTM().a;
    return [Math.round(parseFloat(getComputedStyle(t).fontSize) * k * 10) / 10, t.textContent];
}).filter(([px]) => px < least)"""
CUT = """() => [...document.querySelectorAll(
    '.headline .what, .headline .value, select, .button, .act, .runlist a, summary')]
    .filter(e => e.offsetParent && e.scrollWidth > e.clientWidth + 1 && getComputedStyle(e).overflowX !== 'visible')
    .map(e => e.tagName + ': ' + e.textContent.trim().slice(0, 60))"""
CUT_SELECT = """() => [...document.querySelectorAll('select')].filter(
    e => e.offsetParent && e.selectedOptions.length).map(e => {
    const box = document.createElement('span');
    box.style.cssText = 'position:absolute;visibility:hidden;white-space:pre;font:' + getComputedStyle(e).font;
    box.textContent = e.selectedOptions[0].textContent;
    document.body.append(box);
    const wanted = box.getBoundingClientRect().width;
    box.remove();
    return [wanted + 36 - e.clientWidth, e.selectedOptions[0].textContent];
}).filter(([over]) => over > 0)"""
OVER_ITS_CELL = """() => [...document.querySelectorAll('.bench td, .bench th')]
    .filter(e => e.scrollWidth > e.clientWidth + 1).map(e => e.textContent.trim().slice(0, 40))"""
WIDE = "() => document.documentElement.scrollWidth - document.documentElement.clientWidth"


def test_pages_can_be_read(walk, shop):
    ShelfItem.objects.create(workshop=shop.workshop, what="blade receptacle 6.3, 0.5 to 1.5 mm²", number="box 3",
                            supplier="blade box", price=0.09, pack=50, here=4, least=20)
    begun_row = store.begin(shop.workshop, shop.technician, begun(store.empty(shop.workshop, "begun"), Wish(
        "touring motorcycle", "middle", "", ("grips", "lamp pair", "tracker"))))
    rows = [shop.row, begun_row, *(store.take_in(shop.workshop, shop.technician, make()[0])
                                   for make in (tide_hauler, as_found))]
    someone = walk(shop.technician)
    paths = [f"/w/{shop.workshop.slug}/", f"/w/{shop.workshop.slug}/begin/", f"/w/{shop.workshop.slug}/shelf/",
             f"/w/{shop.workshop.slug}/waiting/?q=relay"]
    paths += [f"/w/{shop.workshop.slug}/p/{row.pk}/{path}" for row in rows for path in (
        "job/", "survey/", "survey/?sel=machine", "loads/?sel=L1", "loads/?add=load", "loads/?add=load&usual=other",
        "budget/",
        "circuits/", "handover/", "rules/", "survey/?view=plugs", "survey/?view=readings", "survey/?view=reuse",
        "route/", "route/?sel=R3", "route/?view=board", "route/?view=places&sel=B1",
        "route/?view=returns&load=L1&load=L2", "route/?view=weigh&against=r1", "route/?sel=W8",
        "ends/", "ends/?sel=W8", "ends/?view=pins&example=1", "ends/?view=buy", "ends/?view=connectors",
        "handover/?view=drawing", "build/", "build/?view=list", "build/?view=trial", "prove/",
        "prove/?view=find&sel=L1", "prove/?view=result", "prove/?view=train")]
    found = []
    for path in paths:
        someone.page.goto(path)
        for width, height in SIZES:
            someone.page.set_viewport_size({"width": width, "height": height})
            for what, script in (("small", SMALL), ("cut", CUT), ("cut select", CUT_SELECT),
                                 ("over its cell", OVER_ITS_CELL)):
                found += [(path, width, what, one) for one in someone.page.evaluate(script, LEAST_PX)]
            if (over := someone.page.evaluate(WIDE)) > 0:
                found.append((path, width, "wider than the window", over))
    assert found == []
