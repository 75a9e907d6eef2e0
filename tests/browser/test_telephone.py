"""A telephone at the machine: no page wider than its screen, what is pressed most inside the first one and large
enough, the stations that are used there at the thumb and the rest one press away."""

import pytest
from browser.axe import faint
from playwright.sync_api import expect

from loadstar.core.edits import CutWire
from loadstar.demo import as_found
from loadstar.web.records import store

pytestmark = pytest.mark.django_db(transaction=True)
SIZES = ((390, 844), (360, 640))
LEAST_PX, TWICE_PX = 48, 32
WIDE = "() => document.documentElement.scrollWidth - document.documentElement.clientWidth"
FIRST = (("build/", "#done"), ("prove/", ".now button.primary"), ("prove/?view=find", "#probe-enter"),
         ("circuits/?sel=W8", "#label"), ("ends/?view=connectors", ".faces-row svg"))
CUT = """() => [...document.querySelectorAll('body *')].filter(e => {
    const shown = getComputedStyle(e), box = e.getBoundingClientRect();
    return e.offsetParent && !e.children.length && e.textContent.trim() && box.width > 2
      && (shown.overflowX === 'hidden' || shown.textOverflow === 'ellipsis') && e.scrollWidth > e.clientWidth + 1;
  }).map(e => e.textContent.trim().slice(0, 40))"""
TARGETS = ".runlist > *, .findings-button, .tabs a, .states a, .now .button, [type=checkbox], [type=radio], select"
LEAST_GAP_PX = 8
TOUCHING = """([least, which]) => {
    const boxes = [...document.querySelectorAll(which)].filter(e => e.offsetParent && !e.closest("details:not([open])"))
        .map(e => [e.textContent.trim().slice(0, 30), e.getBoundingClientRect(), e.closest(".work")]);
    return boxes.flatMap(([name, a, scrolls], i) => boxes.slice(i + 1)
        .filter(([, b, with_it]) => with_it === scrolls
            && Math.max(b.left - a.right, a.left - b.right, b.top - a.bottom, a.top - b.bottom)
            < least - 0.5)
        .map(([other]) => `${name} | ${other}`));
  }"""
SMALL = """([least, which]) => [...document.querySelectorAll(which)]
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
        "survey/", "survey/?view=measure", "history/", "job/")), "begin/", "pocket/", "rules/", "members/", "shelf/",
        f"p/{survey.pk}/survey/?view=probe", f"p/{survey.pk}/survey/?view=plugs"]
    over = []
    for path in paths:
        thumb.page.goto(f"/w/{shop.workshop.slug}/{path}")
        over += [(path, small) for small in thumb.page.evaluate(SMALL, [LEAST_PX, TARGETS])]
        over += [(path, near) for near in thumb.page.evaluate(TOUCHING, [LEAST_GAP_PX, TARGETS])]
        for size in ("as it is", "twice"):
            if size == "twice":
                thumb.page.evaluate("px => { document.documentElement.style.fontSize = `${px}px`; }", TWICE_PX)
            over += [(path, size, by)] if (by := thumb.page.evaluate(WIDE)) else []
            over += [(path, size, words) for words in thumb.page.evaluate(CUT)]
    assert over == [], "\n".join(map(repr, over))


def test_what_is_pressed_most_is_on_the_first_screen_above_the_bar(thumb, shop):
    survey = store.take_in(shop.workshop, shop.technician, as_found()[0])
    head = next(p.id for p in store.load(shop.row).plan.places if p.name == "headstock")
    store.edit(shop.row, shop.technician, 1, CutWire(id="W8", place=head))
    low = []
    for path, press in (*((shop.url(path), press) for path, press in FIRST),
                        (f"/w/{shop.workshop.slug}/p/{survey.pk}/survey/?view=probe", "#probe-send")):
        page = thumb.goto(path)
        bar = page.locator(".headline").bounding_box()
        box = page.locator(press).first.bounding_box()
        if box["y"] + box["height"] > bar["y"]:
            low.append((path, box["y"] + box["height"], bar["y"]))
        assert page.locator(".headline > div:visible").count() == 1  # the worst, in one line
        assert faint(page) == [], path
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
    assert page.locator(".headline > div:visible").count() == 5  # and the whole headline
    page.locator("#station-handover").tap()
    expect(page.locator("#station-handover")).to_have_attribute("aria-current", "page")


def test_a_picture_is_shown_larger_by_a_press_and_comes_back(thumb, shop):
    page = thumb.goto(shop.url("circuits/?sel=W8"))
    box = page.locator(".circuit-main .picture-box").first
    before = box.locator("svg").bounding_box()["width"]
    box.tap(position={"x": 4, "y": box.bounding_box()["height"] - 6})
    large = page.locator("#picture-dialog svg")
    assert large.bounding_box()["width"] > 2 * before and page.evaluate(WIDE) == 0
    page.locator("#picture-close").tap()
    expect(box.locator("svg")).to_be_visible()
    assert page.locator("#picture-dialog svg").count() == 0
