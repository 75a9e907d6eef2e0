"""A demonstration application for bench and shots: gunicorn on a free port, and a browser signed in to it."""

import os
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager

from playwright.sync_api import Page, sync_playwright

FLAGS = ("--headless --no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking "
         "--disable-component-update --disable-sync").split()


@contextmanager
def served() -> Iterator[str]:
    """The address of a demo application that runs as long as the context does."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    process = subprocess.Popen(
        [sys.executable, "-m", "gunicorn", "loadstar.web.wsgi:application", "--bind", f"127.0.0.1:{port}",
         "--workers", "1", "--threads", "4", "--preload", "--error-logfile", os.devnull, "--no-control-socket"],
        stdin=subprocess.DEVNULL, start_new_session=True)
    try:
        deadline = time.monotonic() + 20
        while time.monotonic() < deadline:
            with socket.socket() as probe:
                if probe.connect_ex(("127.0.0.1", port)) == 0:
                    break
            time.sleep(0.1)
        yield f"http://127.0.0.1:{port}"
    finally:
        process.terminate()
        process.wait(15)


@contextmanager
def browsing(address: str, scheme: str = "light") -> Iterator[Page]:
    """A page of 1280x800 signed in to the demo workshop."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800}, color_scheme=scheme, base_url=address)
        page.goto("/sign-in/")
        page.get_by_role("button", name="Enter the demo workshop").click()
        page.wait_for_selector("h1")
        yield page
        browser.close()
