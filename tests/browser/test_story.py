"""The story, through real pages on a real database: from an accessory wanted to a card in the hand."""

import json

import pytest
from builders import Bench
from conftest import make_shop
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from playwright.sync_api import expect

from loadstar.core.edits import ChangeElement
from loadstar.web.plans.models import PlanHead
from loadstar.web.records import store

pytestmark = pytest.mark.django_db(transaction=True)


def margin(page) -> float:
    """The headline's charging margin, A."""
    text = page.locator(".headline .figure").first.inner_text()
    return float(text.replace("−", "-").replace("\u00a0", " ").split()[0])


def sign_in(page, shop) -> None:
    """From the first page to the demonstration plan."""
    page.goto("/")
    page.get_by_label("Your name").fill(shop.technician.username)
    page.get_by_label("Password").fill("estuary-tide-tables")
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("link", name="Survey season fit-out").click()
    page.wait_for_selector("html[data-redrawn]", state="attached")


def add_lamp(someone) -> str:
    """The margin falls and a circuit appears; its wire."""
    page = someone.page
    before = margin(page)
    someone.redraw(lambda: page.get_by_role("link", name="Add an accessory").click())
    someone.redraw(lambda: page.locator("#pick-other").click())
    page.get_by_label("What it is").fill("Reed-bed lamp")
    page.get_by_label("Kind").select_option("lamp")
    page.get_by_label("Draws").fill("27")
    page.get_by_label("Must live").select_option("engine")
    page.get_by_label("Sits at").select_option(label="lamp bar (P7)")
    page.get_by_label("Fed from").select_option("B1")
    someone.redraw(lambda: page.get_by_role("button", name="Add", exact=True).click())
    assert margin(page) == pytest.approx(before - 27 / 14.2, abs=0.06)
    someone.redraw(lambda: page.locator(".runlist a", has_text="Circuits").click())
    expect(page.get_by_role("heading", level=1)).to_have_text("Reed-bed lamp")
    expect(page.locator("svg.picture title").first).to_have_text("Descent of Reed-bed lamp, idle")
    return page.locator("#candidates h2").inner_text().split(":")[0]


def stops(page) -> str:
    """How many stops the button says."""
    return page.locator(".findings-button .sev-stop").inner_text().split()[-1]


def fuse_wrongly_and_mend(someone, wire: str) -> None:
    """Its wire thinned and fused too high: a finding, with the numbers and a button that puts it right."""
    page = someone.page
    assert stops(page) == "1"
    fuse = page.locator(".circuit.is-here .figures span").first.inner_text().split()[0]
    for element, label, value in ((fuse, "Rating", "15"), (wire, "Size", "0.35")):
        someone.redraw(lambda e=element: page.locator(f".steps a:text-is('{e}')").click())
        page.get_by_label(label).select_option(value)
        someone.redraw(lambda: page.locator("#form-send").click())
    assert stops(page) == "2"
    finding = page.locator("#candidates .finding.is-stop", has_text=wire).first
    expect(finding).to_contain_text("is not protected")
    someone.redraw(lambda: finding.get_by_role("button", name=f"Let Loadstar choose {wire}").click())
    assert stops(page) == "1"


def test_from_a_wanted_lamp_to_a_card_and_a_file(walk, shop):
    someone = walk()
    page = someone.page
    sign_in(page, shop)
    fuse_wrongly_and_mend(someone, add_lamp(someone))

    # Undo and redo.
    someone.redraw(lambda: page.get_by_role("button", name="Undo").click())
    assert stops(page) == "2"
    someone.redraw(lambda: page.get_by_role("button", name="Redo").click())
    assert stops(page) == "1"

    # Working of a figure, in place.
    page.locator(".headline .figure").first.click()
    expect(page.locator("dialog .working")).to_contain_text("Charging margin")
    page.locator("dialog").get_by_role("button", name="Close").click()

    # The card and the file.
    card = page.request.get(page.get_by_role("link", name="Circuit card").get_attribute("href"))
    assert card.headers["content-type"] == "application/pdf"
    someone.redraw(lambda: page.locator(".runlist a", has_text="Handover").click())
    with page.expect_download() as download:
        page.locator("#export").click()
    exported = download.value.path().read_bytes()
    assert any(p.get("name") == "Reed-bed lamp" for p in json.loads(exported)["parts"])

    # Import it elsewhere.
    other = make_shop("Upland", Bench().plan)
    guest = Client()
    guest.force_login(other.owner)
    answer = guest.post(f"/w/{other.workshop.slug}/import/", {"file": SimpleUploadedFile("p.json", exported)})
    assert answer.status_code == 302
    row = PlanHead.objects.filter(workshop=other.workshop).latest("pk")
    assert guest.get(f"/w/{other.workshop.slug}/p/{row.pk}/plan.json").content == exported


def test_state_bar_changes_every_figure(walk, shop):
    someone = walk(shop.technician)
    page = someone.goto(shop.url("circuits/?sel=L1"))
    idle = page.locator(".headline .figure").nth(1).inner_text()
    someone.redraw(lambda: page.locator("#state-cruise").click())
    assert page.locator(".headline .figure").nth(1).inner_text() != idle
    expect(page.locator("svg.picture title").first).to_have_text("Descent of Heated grips, cruise")
    assert "state=cruise" in page.url
    someone.redraw(lambda: page.locator("#state-parked").click())
    expect(page.locator("svg.picture title").first).to_contain_text("not live in this state")


def test_layers_move_the_waterline(walk, shop):
    someone = walk(shop.technician)
    page = someone.goto(shop.url("budget/"))
    before = page.locator("svg desc").first.text_content()
    someone.redraw(lambda: page.locator("#layer-L1").click())
    assert page.locator("svg desc").first.text_content() != before
    expect(page.locator("#layer-L1")).to_have_attribute("aria-checked", "false")
    someone.redraw(lambda: page.locator("#layer-L1").click())
    assert page.locator("svg desc").first.text_content() == before


def test_two_browsers_the_second_is_told_and_keeps_its_input(walk, shop):
    someone = walk(shop.technician)
    page = someone.goto(shop.url("loads/?sel=L4"))
    page.locator("details.draws summary").click()
    page.get_by_label("Draws").fill("15,5")
    store.edit(shop.row, shop.owner, shop.row.head, ChangeElement(id="L2", values={"amount": 11}))
    someone.redraw(lambda: page.locator("#form-send").click())
    expect(page.locator(".notice.error")).to_contain_text("Mudflat owner has changed this plan")
    expect(page.locator(".notice.error")).to_contain_text("Left fog lamp (L2) changed")
    page.locator("details.draws summary").click()
    expect(page.get_by_label("Draws")).to_have_value("15,5")
    someone.redraw(lambda: page.locator("#form-send").click())
    plan = store.load(PlanHead.objects.get(pk=shop.row.pk)).plan
    assert (plan.part("L4").amount, plan.part("L2").amount) == (15.5, 11)


def test_bad_input_stays_in_the_form_with_its_sentence(walk, shop):
    someone = walk(shop.technician)
    page = someone.goto(shop.url("loads/?sel=L4"))
    page.locator("details.draws summary").click()
    page.get_by_label("Stated at V").fill("400")
    page.locator("summary", has_text="Its own lead").click()
    page.get_by_label("In the maker's lead").fill("box stays")
    someone.redraw(lambda: page.locator("#form-send").click())
    expect(page.locator(".has-error .error")).to_contain_text("is outside what is accepted: from 5 to 100 V")
    expect(page.get_by_label("In the maker's lead")).to_have_value("box stays")
    expect(page.locator(".has-error input")).to_be_focused()


def test_with_keys_alone(walk, shop):
    """Stations, states, add, fill, send, findings, undo: no pointer."""
    someone = walk(shop.technician)
    page = someone.goto(shop.url("survey/"))
    for key, station in (("3", "Budget"), ("4", "Heated grips"), ("2", "Loads")):
        someone.redraw(lambda k=key: page.keyboard.press(k))
        expect(page.get_by_role("heading", level=1)).to_have_text(station)
    someone.redraw(lambda: page.keyboard.press("]"))
    expect(page.locator("#state-town")).to_have_attribute("aria-current", "true")
    someone.redraw(lambda: page.keyboard.press("["))
    someone.redraw(lambda: page.keyboard.press("a"))
    expect(page.locator("#pick-grips")).to_be_focused()
    someone.redraw(lambda: page.keyboard.press("Enter"))
    expect(page.get_by_label("What it is")).to_be_focused()
    page.keyboard.press("Control+a")
    # Letters that are keys elsewhere do nothing while typing; what it draws, its size and its lead are folded.
    for typed, tabs in (("Horn f", 2), ("under the tank", 1), ("seat block", 4)):
        page.keyboard.type(typed)
        for _ in range(tabs):
            page.keyboard.press("Tab")
    someone.redraw(lambda: page.keyboard.press("Enter"))
    expect(page.locator(".loads")).to_contain_text("Horn f")
    page.locator("#work").focus()
    page.keyboard.press("f")
    expect(page.locator("#findings")).to_be_visible()
    expect(page.locator("#findings-title")).to_be_focused()
    page.keyboard.press("Escape")
    expect(page.locator("#findings")).to_be_hidden()
    page.keyboard.press("?")
    expect(page.locator("#keys")).to_be_visible()
    page.keyboard.press("Escape")
    page.locator("#work").focus()
    someone.redraw(lambda: page.keyboard.press("u"))
    expect(page.locator(".loads")).not_to_contain_text("Horn f")
    someone.redraw(lambda: page.keyboard.press("Shift+U"))
    expect(page.locator(".loads")).to_contain_text("Horn f")
    page.keyboard.press("/")
    expect(page.locator("#find")).to_be_focused()


def test_single_keys_can_be_switched_off(walk, shop):
    shop.technician.single_keys = False
    shop.technician.save()
    someone = walk(shop.technician)
    page = someone.goto(shop.url("loads/"))
    page.keyboard.press("f")
    expect(page.locator("#findings")).to_be_hidden()


def test_a_picture_is_the_way_in(walk, shop):
    someone = walk(shop.technician)
    page = someone.goto(shop.url("circuits/?sel=L1"))
    link = page.locator("svg.picture a[href*='sel=W9']")
    link.focus()
    page.keyboard.press("Enter")
    page.wait_for_url("**sel=W9**")
    expect(page.locator("#candidates h2")).to_contain_text("W9")


def test_without_scripts_everything_still_works(walk, shop):
    someone = walk(shop.technician, java_script_enabled=False)
    someone.page.goto(shop.url("loads/?sel=L4"))
    page = someone.page
    page.locator("details.draws summary").click()
    page.get_by_label("Draws").fill("14")
    page.locator("#form-send").click()
    assert store.load(PlanHead.objects.get(pk=shop.row.pk)).plan.part("L4").amount == 14
    page.get_by_role("button", name="Undo").click()
    assert store.load(PlanHead.objects.get(pk=shop.row.pk)).plan.part("L4").amount == 12
    page.locator(".headline .figure").first.click()
    expect(page.locator("body")).to_contain_text("Charging margin")
