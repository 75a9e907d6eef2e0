"""A telephone at the machine: no page wider than its screen, what is pressed most inside the first one and large
enough, the stations that are used there at the thumb and the rest one press away."""

import pytest
from playwright.sync_api import expect

from loadstar.demo import as_found
from loadstar.web.records import store

pytestmark = pytest.mark.django_db(transaction=True)
SIZES = ((390, 844), (360, 640))
LEAST_PX, TALL = 48, 800
SHORT = ("build/", "prove/")  # pages whose first press is there on the smallest telephone, too
WIDE = "() => document.documentElement.scrollWidth - document.documentElement.clientWidth"
FIRST = (("build/", "#done"), ("prove/", ".now button.primary"), ("prove/?view=find", "#probe-enter"),
         ("survey/?view=readings", "#form-send"))
SMALL = """least => [...document.querySelectorAll('.runlist > *, .findings-button, .tabs a, .states a, .now .button')]
    .filter(e => e.offsetParent && e.getBoundingClientRect().height < least - 0.5).map(e => e.textContent.trim())"""


@pytest.fixture(params=SIZES, ids=lambda size: f"{size[0]}x{size[1]}")
def thumb(request, walk, shop):
    """Somebody with a telephone."""
    someone = walk(shop.technician, has_touch=True)
    width, height = request.param
    someone.page.set_viewport_size({"width": width, "height": height})
    someone.height = height
    return someone


def test_nothing_is_wider_than_the_screen(thumb, shop):
    survey = store.take_in(shop.workshop, shop.technician, as_found()[0])
    paths = ["", *(f"p/{shop.row.pk}/{path}" for path in (
        "loads/", "budget/", "circuits/?sel=W8", "route/", "ends/", "ends/?view=connectors", "build/",
        "build/?view=list", "build/?view=trial", "prove/", "prove/?view=find", "prove/?view=result", "handover/",
        "survey/", "survey/?view=measure")), f"p/{survey.pk}/survey/?view=probe", f"p/{survey.pk}/survey/?view=plugs"]
    over = []
    for path in paths:
        thumb.page.goto(f"/w/{shop.workshop.slug}/{path}")
        over += [(path, by)] if (by := thumb.page.evaluate(WIDE)) else []
        over += [(path, small) for small in thumb.page.evaluate(SMALL, LEAST_PX)]
    assert over == []


def test_what_is_pressed_most_is_on_the_first_screen_above_the_bar(thumb, shop):
    low = []
    for path, press in FIRST:
        page = thumb.goto(shop.url(path))
        bar = page.locator(".headline").bounding_box()
        box = page.locator(press).first.bounding_box()
        if box["y"] + box["height"] > bar["y"] and (thumb.height >= TALL or path in SHORT):
            low.append((path, box["y"] + box["height"], bar["y"]))
        assert page.locator(".headline > div:visible").count() == 1  # the worst, in one line
    assert low == []


def test_five_stations_at_the_thumb_and_the_rest_behind_one_press(thumb, shop):
    page = thumb.goto(shop.url("circuits/"))
    names = page.locator(".runlist > a:visible strong").all_inner_texts()
    assert names == ["Survey", "Circuits", "Build", "Prove"]
    more = page.locator("#more-open")
    expect(more).to_have_attribute("aria-expanded", "false")
    more.tap()
    expect(more).to_have_attribute("aria-expanded", "true")
    assert page.locator(".runlist > a:visible strong").count() == 10
    page.locator("#station-handover").tap()
    expect(page.locator("#station-handover")).to_have_attribute("aria-current", "page")
