"""A telephone in a cellar: a plan kept by a press, read and ticked without a network, sent when there is one again."""

import pytest
from playwright.sync_api import expect

from loadstar.web.records import store
from loadstar.web.records import work as records

pytestmark = pytest.mark.django_db(transaction=True)
KEPT_MS, AGAIN_MS = 90_000, 15_000
SHOWS = "7.5"


@pytest.fixture
def cellar(walk, shop):
    """Somebody with a telephone on which the plan is kept."""
    someone = walk(shop.technician, has_touch=True)
    someone.page.set_viewport_size({"width": 390, "height": 844})
    page = someone.goto(shop.url("prove/"))
    page.locator("#more-open").tap()
    page.locator("#keep-here").tap()
    expect(page.locator("#keep-here")).to_contain_text("Kept here", timeout=KEPT_MS)
    yield someone
    # what a browser says of a network that was taken away on purpose
    someone.errors = [e for e in someone.errors if not any(
        one in e for one in ("ERR_INTERNET_DISCONNECTED", "ERR_FAILED", "status of 503"))]


def test_a_circuit_is_read_and_ticked_without_a_network_and_nothing_is_lost(cellar, shop):
    page = cellar.page
    asked = page.locator(".ask-big").inner_text()
    page.context.set_offline(True)
    page.reload()
    expect(page.locator("#as-of")).to_contain_text("Not reached now: this is as it was")
    assert page.locator(".ask-big").inner_text() == asked
    presses = 0
    for number in (1, 2):  # a number and Enter: the next point comes by itself
        before = page.locator(".ask-big").inner_text()
        page.locator("#id_value").fill(SHOWS)
        page.keyboard.press("Enter")
        presses += 1
        expect(page.locator(".ask-big")).not_to_have_text(before)
        expect(page.locator("#unsent")).to_contain_text(f"{number} not sent yet")
    page.locator("#station-build").tap()
    go = page.locator(".ask-big").inner_text()
    page.locator("#done").tap()
    expect(page.locator(".ask-big")).not_to_have_text(go)
    page.goto(shop.url("build/?go=1"))  # the go that was pressed, looked at again, says so
    expect(page.locator("#pressed")).to_contain_text("waits to be sent")
    page.reload()
    expect(page.locator("#unsent")).to_contain_text("3 not sent yet")
    assert not records.readings(shop.row) and not records.entries(shop.row) and presses == 2
    page.context.set_offline(False)
    expect(page.locator("#unsent")).to_be_hidden(timeout=AGAIN_MS)
    assert [r.value for r in records.readings(shop.row)] == [float(SHOWS)] * 2
    assert {e.what for e in records.entries(shop.row)} == {"done"}
    page.reload()
    expect(page.locator("#as-of")).to_be_hidden()


def test_what_is_not_kept_says_so_and_signing_out_forgets_everything(cellar, shop):
    page = cellar.page
    row = store.begin(shop.workshop, shop.technician, store.load(shop.row).plan)
    page.context.set_offline(True)
    page.goto(page.url.replace(f"/p/{shop.row.pk}/", f"/p/{row.pk}/"))
    expect(page.locator("body")).to_contain_text("This page is not kept here")
    page.context.set_offline(False)
    page.goto(page.url.split("/w/")[0] + "/me/")
    page.get_by_role("button", name="Sign out").first.tap()
    expect(page.get_by_role("button", name="Sign in", exact=True)).to_be_visible()
    page.wait_for_function("async () => !(await caches.keys()).includes('loadstar-pages')")
    assert page.evaluate("() => Object.keys(localStorage).filter(k => k.startsWith('loadstar-kept-')).length") == 0


FULL = """() => {
  IDBObjectStore.prototype.add = () => { throw new DOMException("no room", "QuotaExceededError"); };
}"""


def test_a_device_without_room_says_so_and_what_was_typed_stays(cellar, shop):
    page = cellar.page
    page.evaluate(FULL)
    page.context.set_offline(True)
    page.locator("#id_value").fill(SHOWS)
    page.keyboard.press("Enter")
    expect(page.locator("#unsent")).to_contain_text("This device has no room left")
    assert page.locator("#id_value").input_value() == SHOWS and not records.readings(shop.row)
    page.context.set_offline(False)
    page.locator("#id_value").press("Enter")  # with a network it needs no room here
    expect(page.locator(".ask-big")).not_to_have_text("")
    page.wait_for_function("() => !document.getElementById('id_value') || !document.getElementById('id_value').value")
    assert [r.value for r in records.readings(shop.row)] == [float(SHOWS)]
