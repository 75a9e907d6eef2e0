"""The survey by finger, by pointer and by keys alone, in a real browser."""

import io
import threading

import pytest
from browser.touch import too_small
from conftest import make_shop
from PIL import Image
from playwright.sync_api import expect

from loadstar.demo import as_found
from loadstar.standins.machines import demo_machine
from loadstar.standins.meter import MeterServer
from loadstar.web.plans.models import PlanHead
from loadstar.web.records import store

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def creek(transactional_db):
    """A workshop with the demonstration's survey."""
    return make_shop("Creek", as_found()[0])


def plan_of(shop):
    return store.load(PlanHead.objects.get(pk=shop.row.pk)).plan


def middle(locator) -> tuple[float, float]:
    box = locator.bounding_box()
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def test_places_by_pointer_buttons_and_arrow_keys(walk, creek):
    someone = walk(creek.technician)
    page = someone.goto(creek.url("survey/"))
    start = plan_of(creek).place("P3")
    x, y = middle(page.locator("[data-place=P3] circle").first)
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 20, y + 10, steps=4)
    someone.redraw(page.mouse.up)
    dragged = plan_of(creek).place("P3")
    assert dragged.x_mm > start.x_mm + 10 and dragged.y_mm < start.y_mm - 5
    someone.redraw(lambda: page.get_by_role("button", name="right by 10 mm").click())
    assert plan_of(creek).place("P3").x_mm == dragged.x_mm + 10
    page.locator("[data-place=P3] a").focus()
    someone.redraw(lambda: page.keyboard.press("ArrowUp"))
    assert plan_of(creek).place("P3").y_mm == dragged.y_mm + 10
    # From the left the arrows still mean what one sees.
    someone.redraw(lambda: page.locator("#side-left").click())
    someone.redraw(lambda: page.get_by_role("button", name="right by 10 mm").click())
    assert plan_of(creek).place("P3").x_mm == dragged.x_mm
    someone.redraw(lambda: page.get_by_role("button", name="Undo").click())
    assert plan_of(creek).place("P3").x_mm == dragged.x_mm + 10


def test_every_place_can_be_grabbed_where_its_ring_is(walk, creek):
    """Also where another's label, its leader, or a neighbour's finger-sized area lies over it."""
    someone = walk(creek.technician)
    page = someone.goto(creek.url("survey/"))
    for place in [p.id for p in plan_of(creek).places]:
        before = plan_of(creek).place(place)
        x, y = middle(page.locator(f"[data-place={place}] circle").first)
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x - 15, y, steps=3)
        someone.redraw(page.mouse.up)
        assert plan_of(creek).place(place).x_mm < before.x_mm - 10, place
        someone.redraw(lambda: page.get_by_role("button", name="Undo").click())


def test_a_place_is_put_by_finger(walk, creek):
    someone = walk(creek.technician, has_touch=True)
    page = someone.goto(creek.url("survey/"))
    page.get_by_role("button", name="Put a place on the map").tap()
    x, y = middle(page.locator("[data-place=P4] circle").first)  # on a place, which is a link of its own
    someone.redraw(lambda: page.touchscreen.tap(x, y))
    assert plan_of(creek).places[-1].name == "place 9"
    expect(page.get_by_label("Place", exact=True)).to_have_value("place 9")
    for width, height in ((1280, 800), (800, 1280)):
        page.set_viewport_size({"width": width, "height": height})
        for view in ("map", "plugs", "probe", "readings", "tables", "removed", "reuse"):
            someone.goto(creek.url(f"survey/?view={view}") + ("&sel=AP1" if view == "plugs" else ""))
            assert too_small(page) == [], (view, width)
            assert page.evaluate("document.documentElement.scrollWidth <= window.innerWidth + 1"), (view, width)


def test_the_probe_with_the_meter_until_every_pin_is_settled(walk, creek, settings):
    """Each reading that is asked for is taken from the meter; what is settled is then written down, and is a feed."""
    with MeterServer(demo_machine()) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        settings.METER = f"127.0.0.1:{server.server_address[1]}"
        someone = walk(creek.technician)
        page = someone.goto(creek.url("survey/?view=probe"))
        for _ in range(40):
            if not page.locator("#meter-take").count():
                break
            someone.redraw(lambda: page.locator("#meter-take").click())
        expect(page.locator(".lead")).to_contain_text("Every pin that may be tapped is settled")
        server.shutdown()
    someone.redraw(lambda: page.get_by_role("button", name="Accept", exact=True).first.click())
    someone.redraw(lambda: page.get_by_role("button", name="Accept all that is settled").click())
    expect(page.get_by_role("button", name="Accept", exact=True)).to_have_count(0)
    plan = plan_of(creek)
    assert [(p.function, p.live if p.function == "feed" else "") for p in plan.pins("AP1")] == [
        ("feed", "key"), ("lamp", ""), ("ground", ""), ("feed", "always")]
    heated = plan.pins("AP2")[0]
    assert (heated.function, heated.live) == ("feed", "engine")
    assert {p.function for p in plan.pins("AP3")} == {"unknown"}  # never tapped: never asked
    page.locator(".verdicts .figure").first.click()
    expect(page.locator("dialog .working")).to_contain_text("How sure")


class Keys:
    """A keyboard that counts what is pressed."""

    def __init__(self, page) -> None:
        self.page, self.presses = page, 0

    def press(self, key: str, times: int = 1) -> None:
        """One key, so many times."""
        for _ in range(times):
            self.presses += 1
            self.page.keyboard.press(key)

    def write(self, text: str) -> None:
        """Letter by letter."""
        for letter in text:
            self.press(letter)

    def write_pin(self) -> int:
        """Colour, what it is, amps, and on to the next; how many presses that takes."""
        begun = self.presses
        self.write("rd")
        self.press("Tab")
        self.write("k")
        self.press("Tab")
        self.write("5")
        self.press("Tab", 8)
        return self.presses - begun


def test_twelve_connectors_with_forty_pins_by_keys_alone(walk, creek):
    """No pointer, and never away from the page. Counts the key presses of one pin: colour, what it is, amps."""
    someone = walk(creek.technician)
    page = someone.goto(creek.url("survey/?view=plugs"))
    keys = Keys(page)
    someone.redraw(lambda: keys.press("a"))
    of_one_pin = []
    for number, count in enumerate([4, 3, 4, 3, 3, 4, 3, 3, 4, 3, 3, 3], 1):
        expect(page.locator("#form-panel [name=name]")).to_be_focused()
        keys.write(f"p{number}")
        keys.press("Tab")
        keys.write("un")  # the first place that begins so: under the seat
        keys.press("Tab", 2)
        keys.write(str(count))
        keys.press("Tab", 4)  # never tapped, to reach it, and past the rest that is folded away
        of_one_pin += [keys.write_pin() for _ in range(count)]
        keys.press("Tab")  # past "write it down" to "then the next connector"
        someone.redraw(lambda: keys.press("Enter"))
    plan = plan_of(creek)
    mine = [p for p in plan.plugs if p.name.startswith("p")]
    pins = [pin for plug in mine for pin in plan.pins(plug.id)]
    assert len(mine) == 12 and len(pins) == 40
    assert {(p.wire_colour, p.function, p.live, p.rated_a) for p in pins} == {("rd", "feed", "key", 5.0)}
    assert max(of_one_pin) == 14, of_one_pin


def test_a_pin_map_is_seen_from_both_sides(walk, creek):
    someone = walk(creek.technician)
    page = someone.goto(creek.url("survey/?view=plugs&sel=AP1"))
    expect(page.locator(".face svg title")).to_have_text("accessory plug, looking into the mouth")
    first = page.locator(".face svg a[aria-label='pin 1']").bounding_box()["x"]
    someone.redraw(lambda: page.locator("#flip").click())
    expect(page.locator(".face svg title")).to_have_text("accessory plug, looking at the wire side")
    assert page.locator(".face svg a[aria-label='pin 1']").bounding_box()["x"] > first + 30


def test_kept_for_the_next_machine_and_confirmed_there(walk, creek):
    someone = walk(creek.technician)
    page = someone.goto(creek.url("survey/?view=reuse"))
    page.get_by_label("Family").fill("Marsh tourer")
    page.get_by_label("Differences noted").fill("alarm plug only from 2021")
    someone.redraw(lambda: page.get_by_role("button", name="Save this survey").click())
    page.goto(f"/w/{creek.workshop.slug}/begin/")
    page.get_by_label("begin with an empty plan").check()
    page.get_by_label("Plan", exact=True).fill("The next one")
    page.get_by_role("button", name="Begin").click()
    page.wait_for_selector("html[data-redrawn]", state="attached")
    someone.redraw(lambda: page.get_by_role("link", name="take one over").click())
    someone.redraw(lambda: page.get_by_role("button", name="Copy to this machine").click())
    expect(page.locator(".m-believed")).to_have_count(8)
    row = PlanHead.objects.latest("pk")
    pin = store.load(row).plan.pins("AP2")[0]
    assert (pin.standing, pin.name) == ("believed", "heated-gear plug pin 1")
    # One by one, where each stands, or all at once.
    someone.redraw(lambda: page.locator(".line", has_text="tail rack").first.click())
    someone.redraw(lambda: page.get_by_role("button", name="Confirm: seen here").click())
    expect(page.locator(".m-believed")).to_have_count(7)
    someone.redraw(lambda: page.locator("#view-plugs").click())
    someone.redraw(lambda: page.locator("#plug-AP2").click())
    someone.redraw(lambda: page.get_by_role("button", name="Confirm connector and pins").click())
    assert store.load(PlanHead.objects.get(pk=row.pk)).plan.pins("AP2")[0].standing == "found"
    someone.redraw(lambda: page.locator("#view-reuse").click())
    someone.redraw(lambda: page.get_by_role("button", name="Confirm all of them").click())
    someone.redraw(lambda: page.locator("#view-map").click())
    expect(page.locator(".m-believed")).to_have_count(0)


def test_a_photograph_and_a_pasted_table(walk, creek):
    someone = walk(creek.technician)
    page = someone.goto(creek.url("survey/?view=plugs&sel=AP1"))
    picture = io.BytesIO()
    Image.new("RGB", (900, 700), "orange").save(picture, "JPEG")
    page.get_by_label("Photograph",
        exact=True).set_input_files({"name": "p.jpg", "mimeType": "image/jpeg", "buffer": picture.getvalue()})
    page.get_by_label("What it shows").fill("before it was parted")
    page.get_by_role("button", name="Save photograph").click()
    shown = page.get_by_alt_text("before it was parted")
    shown.scroll_into_view_if_needed()
    expect(shown).to_be_visible()
    page.wait_for_function("document.querySelector('.photos img').naturalWidth === 900")
    page = someone.goto(creek.url("survey/?view=reuse"))
    pasted = page.get_by_label("Paste the table here")
    pasted.fill("connector\tpin\tlive\trated_a\nheated-gear plug\t1\tengine\tlots\n")
    page.get_by_role("button", name="Copy the pins").click()
    expect(page.locator(".has-error .error")).to_have_text("Line 2: rated_a must be a number (given: lots).")
    expect(pasted).to_have_value("connector\tpin\tlive\trated_a\nheated-gear plug\t1\tengine\tlots\n")
    pasted.fill("connector\tpin\tlive\trated_a\nheated-gear plug\t1\tengine\t8\n")
    page.get_by_role("button", name="Copy the pins").click()
    expect(page.locator(".notice")).to_contain_text("Pins taken: 1.")
    assert plan_of(creek).pins("AP2")[0].rated_a == 8
