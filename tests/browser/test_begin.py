"""A newcomer's first minutes: from an empty workshop to a sized circuit, an accessory more, a figure measured; the
tour."""

import time

import pytest
from browser.axe import violations
from playwright.sync_api import expect

from loadstar.web.plans.models import PlanHead

pytestmark = pytest.mark.django_db(transaction=True)
MOST_PRESSES, MOST_S = 6, 60
MACHINES = {
    "touring motorcycle/middle": "grips", "utility bike/pull start": "work lamp", "small motorcycle/magneto 6": None,
    "trail e-bike/36 v": "bike lamp", "cargo e-bike/48 v": "bike cooler", "scooter/small": "usb"}


class Counted:
    """A page of which every press is counted."""

    def __init__(self, page) -> None:
        self.page, self.presses, self.begun = page, 0, time.monotonic()

    def press(self, locator) -> None:
        locator.click()
        self.presses += 1

    @property
    def seconds(self) -> float:
        return time.monotonic() - self.begun


@pytest.fixture
def empty(shop):
    """The workshop without any plan."""
    PlanHead.objects.filter(workshop=shop.workshop).delete()
    return shop


def test_from_the_empty_workshop_to_the_first_sized_circuit(walk, empty):
    told = []
    for size, accessory in MACHINES.items():
        page = walk(empty.technician).page
        page.goto(f"/w/{empty.workshop.slug}/")
        counted = Counted(page)
        counted.press(page.locator("#begin-plan"))
        counted.press(page.locator(f"input[name=size][value='{size}']"))
        if accessory:
            counted.press(page.locator(f"input[name=wanted][value='{accessory}']:visible"))
        counted.press(page.locator("#begin-send"))
        page.wait_for_url("**/circuits/**")
        expect(page.locator("svg.picture title").first).to_contain_text("Descent of")
        expect(page.locator("#candidates h2").first).to_contain_text("mm²")
        expect(page.locator(".headline")).to_be_visible()
        told.append((size, counted.presses, counted.seconds))
        assert counted.presses <= MOST_PRESSES and counted.seconds < MOST_S, told
    print(told)
    assert PlanHead.objects.filter(workshop=empty.workshop).count() == len(MACHINES)


def test_the_same_by_keyboard_alone(walk, empty):
    page = walk(empty.technician).page
    page.goto(f"/w/{empty.workshop.slug}/begin/")
    page.locator("input[name=size]").first.focus()
    page.keyboard.press("Space")
    wish = page.locator("input[name=wanted][value=grips]:visible")
    for _ in range(40):
        page.keyboard.press("Tab")
        if wish.evaluate("e => e === document.activeElement"):
            break
    page.keyboard.press("Space")
    page.keyboard.press("Enter")
    page.wait_for_url("**/circuits/**")
    expect(page.get_by_role("heading", level=1)).to_have_text("Heated grips")


def test_an_accessory_more_a_figure_measured_and_one_read_from_its_label(walk, empty):
    someone = walk(empty.technician, has_touch=True)
    page = someone.page
    page.goto(f"/w/{empty.workshop.slug}/begin/")
    page.locator("input[value='touring motorcycle/middle']").tap()
    page.locator("input[value='lamp pair']:visible").tap()
    page.locator("#begin-send").tap()
    page.wait_for_selector("html[data-redrawn]", state="attached")

    someone.redraw(lambda: page.locator("#station-loads").tap())
    someone.redraw(lambda: page.locator("#add-load").tap())
    someone.redraw(lambda: page.locator("#pick-usb-fast").tap())
    expect(page.locator("details.draws summary")).to_contain_text("27 W at 13.5 V, constant power, 9-24 V")
    expect(page.locator("details.draws summary")).to_contain_text("typical")
    someone.redraw(lambda: page.locator("#form-send").tap())
    expect(page.locator("table.loads")).to_contain_text("USB charger, fast")

    someone.redraw(lambda: page.locator("#rests-on").tap())
    expect(page.locator(".measures")).to_be_visible()
    page.wait_for_selector("#measure:not([data-again])", timeout=60_000)
    expect(page.locator(".headline .between").first).to_contain_text("to", timeout=60_000)
    rows = page.locator(".measure-row")
    count = int(page.locator("#rests-on").inner_text().split()[0])
    clamp = rows.filter(has_text="What the generator gives at idle")
    clamp.locator("input[name=I]").fill("11,5")
    clamp.locator("input[name=U]").fill("13.4 V")
    someone.redraw(lambda: clamp.get_by_role("button").tap())
    expect(page.locator("#rests-on")).to_have_text(f"{count - 1} to measure")
    page.wait_for_selector("#measure:not([data-again])", timeout=60_000)
    label = page.locator(".measure-row").filter(has_text="What LED lamp pair draws")
    label.locator("input[name=x]").fill("forty")
    someone.redraw(lambda: label.get_by_role("button").tap())
    expect(page.locator(".measure .error")).to_contain_text("as a number")
    expect(label.locator("input[name=x]")).to_have_value("forty")
    label.locator("input[name=x]").fill("36")
    someone.redraw(lambda: label.get_by_role("button").tap())
    expect(page.locator("#rests-on")).to_have_text(f"{count - 2} to measure")


def test_the_new_pages_through_axe(walk, empty):
    page = walk(empty.technician, color_scheme="light").page
    page.goto(f"/w/{empty.workshop.slug}/begin/")
    assert violations(page) == []
    page.locator("input[value='motorcycle/large']").check()
    page.locator("input[value=grips]:visible").check()
    page.locator("#begin-send").click()
    page.wait_for_url("**/circuits/**")
    plan = page.url.split("circuits/")[0]
    for path in ("survey/?view=measure", "loads/?add=load", "loads/?add=load&usual=usb", "loads/?sel=L1", "handover/",
                 "findings/"):
        page.goto(plan + path)
        assert violations(page) == [], path


def test_the_tour_is_offered_once_and_leads_to_a_card(walk, empty):
    page = walk(empty.technician).page
    page.goto(f"/w/{empty.workshop.slug}/")
    page.locator("#tour-begin").click()
    seen = []
    for _ in range(12):
        if not page.locator("#tour-next").is_visible():
            break
        seen.append((page.url.split("/p/")[1].split("/")[1], page.locator("#tour").inner_text()))
        page.locator("#tour-next").click()
        page.wait_for_load_state("networkidle")
    assert [station for station, _ in seen] == ["circuits", "survey", "budget", "survey", "circuits", "handover"]
    assert page.url.endswith(f"/w/{empty.workshop.slug}/") and not page.locator("#tour-begin").is_visible()
    row = PlanHead.objects.get(workshop=empty.workshop)
    assert row.summary.stops == 0
