"""A Chromium shared over the session, and pages that fail the test on any console error or policy violation."""

import os

import pytest
from conftest import Shop, make_shop
from playwright.sync_api import Browser, Page, sync_playwright

os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "1")  # Playwright leaves an event loop in this thread
FLAGS = ("--headless --no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking "
         "--disable-component-update --disable-sync").split()


@pytest.fixture(scope="session")
def chromium():
    """One browser for all tests of this process."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        yield browser
        browser.close()


class Walker:
    """A person at a browser: signed in, with errors collected."""

    def __init__(self, browser: Browser, live_url: str, person, client, **options) -> None:
        self.base = live_url
        self.context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=live_url, **options)
        self.page: Page = self.context.new_page()
        self.errors: list[str] = []
        self.page.on("console", lambda m: self.errors.append(f"console: {m.text}")
                     if m.type == "error" and "status of 4" not in m.text else None)
        self.page.on("pageerror", lambda e: self.errors.append(f"script: {e}"))
        if person is not None:
            client.force_login(person)
            self.context.add_cookies([{"name": "sessionid", "value": client.cookies["sessionid"].value,
                                       "url": live_url}])

    def goto(self, path: str) -> Page:
        """Open an address and wait until scripts run."""
        self.page.goto(path)
        self.page.wait_for_selector("html[data-redrawn]", state="attached")
        return self.page

    def redraw(self, act) -> None:
        """Do something and wait until the frame has been redrawn."""
        before = int(self.page.locator("html").get_attribute("data-redrawn") or 0)
        act()
        self.page.wait_for_selector(f"html[data-redrawn='{before + 1}']", state="attached")


@pytest.fixture
def walk(chromium, live_server, transactional_db, client):
    """Makes walkers; at the end none may have seen an error."""
    made: list[Walker] = []

    def begin(person=None, **options) -> Walker:
        made.append(Walker(chromium, live_server.url, person, client, **options))
        return made[-1]
    yield begin
    errors = [e for w in made for e in w.errors]
    for walker in made:
        walker.context.close()
    assert errors == []


@pytest.fixture
def shop(transactional_db) -> Shop:
    """The workshop the walkers work in."""
    return make_shop("Mudflat")
