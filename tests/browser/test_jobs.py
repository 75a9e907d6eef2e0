"""Ten jobs, one of each kind and more, from Begin to the printed papers: each with its presses and fields counted."""

import re
from collections.abc import Callable
from dataclasses import dataclass, field
from types import SimpleNamespace

import pytest
from answers import paper_words
from playwright.sync_api import expect

from loadstar.web.plans.models import PlanHead
from loadstar.web.records import store

pytestmark = pytest.mark.django_db(transaction=True)


class Hands:
    """Somebody at a page: presses and fields are counted."""

    def __init__(self, someone) -> None:
        self.someone, self.page, self.presses, self.fields = someone, someone.page, 0, 0

    def press(self, where: str) -> None:
        """A link or button that redraws the frame."""
        self.presses += 1
        self.someone.redraw(lambda: self.page.locator(where).first.click())

    def choose(self, name: str, value: str) -> None:
        """One of the beginning's circles or boxes."""
        self.presses += 1
        self.page.locator(f"input[name={name}][value='{value}']:visible").check()

    def fill(self, **typed: str) -> None:
        """Fields of the open form: typed, or one of a list."""
        for name, value in typed.items():
            self.fields += 1
            where = self.page.locator(f"#form-panel [name={name}]")
            if where.evaluate("e => e.tagName") == "SELECT":
                where.select_option(value)
            else:
                where.fill(value)

    def make(self) -> None:
        """Send the open form; it is taken."""
        self.press("#form-send")
        expect(self.page.locator("#form-panel .error")).to_have_count(0)

    def read(self) -> str:
        """What the page says."""
        return re.sub(r"\s+", " ", self.page.locator("main").inner_text())

    def circuit(self, **more: str) -> None:
        """A circuit of the machine's own, put down as it is."""
        self.fill(**{"what": "Tail lamp", "power_w": "10", "fuse_a": "5", "size_mm2": "0.5", "colour": "BN", **more})
        self.make()


@dataclass(frozen=True)
class Story:
    """A job: how it begins, what is done, what its pages and its papers must say, and how much it may take."""

    job: str
    size: str
    wanted: tuple[str, ...] = ()
    does: Callable[[Hands], None] = lambda hands: None
    says: dict[str, str] = field(default_factory=dict)  # by page
    papers: dict[str, str] = field(default_factory=dict)  # by paper
    most: tuple[int, int] = (12, 12)  # presses, fields


def generator(hands: Hands) -> None:
    hands.fill(high_w="430", winding="YE > WH, YE > WH, YE > WH", others="GN > BU, RD/BK > GY", lead_mm2="1.5")
    hands.make()


def battery(hands: Hands) -> None:
    hands.fill(chemistry="lfp", capacity_ah="6")
    hands.make()


def wrong_fuse(hands: Hands) -> None:
    hands.circuit(fuse_a="20")
    assert "20 A" in hands.read() and "is not protected" in hands.read()


def broken_wire(hands: Hands) -> None:
    assert "Put down the circuit first" in hands.read()  # nothing is there yet that could be mended
    hands.press("#station-job")
    hands.press("#task-fuse")
    hands.circuit()
    hands.press("#station-job")
    hands.press("#task-wire")
    hands.fill(piece_m="0.2")
    hands.make()


def led(hands: Hands) -> None:
    hands.fill(was_w="35", new_w="12")
    hands.make()


def second_pack(hands: Hands) -> None:
    hands.fill(way="parallel")
    hands.page.locator("#form-send").scroll_into_view_if_needed()
    hands.make()
    assert hands.page.locator("#work").evaluate("e => e.scrollTop") == 0  # another page begins at its top


def taken_off(hands: Hands) -> None:
    hands.press("text=Put down what was taken off" if hands.page.locator("text=Put down what was taken off").count()
                else "[data-add]")
    hands.fill(name="clock and its bracket", mass_g="180")
    hands.make()


STORIES = {
    "fit two accessories": Story(
        "fit/accessories", "touring motorcycle/middle", ("grips", "usb"),
        says={"circuits": "Heated grips", "ends": "To buy", "build": "done, about", "prove": "Should show"},
        papers={"owner": "blade fuse", "fuses": "blade fuse", "cut": "mm²"}),
    "renew a generator": Story(
        "renew/generator", "motorcycle/middle", does=generator,
        says={"survey": "generator connector", "ends": "as it is", "build": "done, about",
              "prove": "Winding, lead 1 to lead 2"},
        papers={"pins": "generator connector", "standard": "generator, the old one"}),
    "renew a battery": Story(
        "renew/battery", "scooter/large", does=battery, says={"budget": "Parked", "survey": "battery"},
        papers={"standard": "the old one"}),
    "a fuse that is the wrong one": Story(
        "repair/fuse", "scooter/small", does=wrong_fuse, says={"circuits": "is not protected", "prove": "Tail lamp"},
        papers={"owner": "Tail lamp", "drawing": "Tail lamp"}),
    "a broken wire": Story(
        "repair/wire", "motorcycle/middle", does=broken_wire,
        says={"ends": "butt splice", "build": "done, about", "circuits": "Tail lamp"}, papers={"cut": "0.20"}),
    "lamps to LED": Story(
        "convert/led", "small motorcycle/small", does=led, says={"budget": "Idle"}, papers={"rests": "typical"}),
    "from ignition only to full electrics": Story(
        "convert/electrics", "utility bike/pull start", ("work lamp",),
        says={"circuits": "Work lamp", "ends": "To buy", "build": "done, about"}, papers={"fuses": "blade fuse"}),
    "a second pack": Story(
        "second source/pack", "cargo e-bike/48 v", does=second_pack,
        says={"circuits": "Joined pack", "build": "done, about", "budget": "pack"}, papers={"fuses": "58"}),
    "strip down": Story(
        "strip down/off", "motorcycle/off-road", does=taken_off, says={"survey": "clock and its bracket"},
        papers={"standard": "clock and its bracket"}),
    "write down only": Story(
        "write down/survey", "touring motorcycle/large", says={"survey": "accessory plug", "prove": "At the supply"},
        papers={"pins": "accessory plug"}),
}


@pytest.mark.parametrize("name", STORIES)
def test_a_job_goes_from_begin_to_its_papers(walk, shop, name):
    story = STORIES[name]
    hands = Hands(walk(shop.technician))
    hands.page.goto(f"/w/{shop.workshop.slug}/begin/")
    hands.choose("job", story.job)
    hands.choose("size", story.size)
    for key in story.wanted:
        hands.choose("wanted", key)
    hands.presses += 1
    hands.page.locator("#begin-send").click()
    hands.page.wait_for_selector("html[data-redrawn]", state="attached")
    story.does(hands)
    row = PlanHead.objects.latest("pk")
    plan = store.load(row).plan
    assert plan.job == story.job.partition("/")[0]
    for station, words in story.says.items():
        hands.press(f"#station-{station}")
        assert words in hands.read(), station
    for paper, words in story.papers.items():
        answer = hands.page.request.get(f"/w/{shop.workshop.slug}/p/{row.pk}/papers.pdf?only={paper}")
        assert answer.ok and words in paper_words(SimpleNamespace(content=answer.body())), paper
    pages = len(story.says)
    print(f"{name}: {hands.presses - pages} presses and {pages} pages looked at, {hands.fields} fields")
    assert hands.presses - pages <= story.most[0] and hands.fields <= story.most[1]
