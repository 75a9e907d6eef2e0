"""A demonstration application for bench and shots: gunicorn on a free port, and a browser signed in to it."""

import os
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from playwright.sync_api import Browser, Page, sync_playwright

FLAGS = ("--headless --no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking "
         "--disable-component-update --disable-sync").split()


@dataclass(frozen=True)
class Server:
    """A running application: where it answers, and its first process."""

    address: str
    pid: int

    def first_page(self) -> None:
        """The sign-in page, read to its end."""
        with urllib.request.urlopen(f"{self.address}/sign-in/", timeout=20) as answer:
            answer.read()

    def worker_mb(self) -> float:
        """What its one worker holds that is its own or that it has touched, MB (proportional set size)."""
        tasks = Path(f"/proc/{self.pid}/task/{self.pid}/children")
        (worker,) = tasks.read_text().split()
        rows = Path(f"/proc/{worker}/smaps_rollup").read_text().splitlines()
        return next(int(row.split()[1]) for row in rows if row.startswith("Pss:")) / 1024


@contextmanager
def served(environment: Mapping[str, str] | None = None) -> Iterator[Server]:
    """A demo application that runs as long as the context does."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    process = subprocess.Popen(
        [sys.executable, "-m", "gunicorn", "loadstar.web.wsgi:application", "--bind", f"127.0.0.1:{port}",
         "--workers", "1", "--threads", "4", "--preload", "--error-logfile", os.devnull, "--no-control-socket"],
        stdin=subprocess.DEVNULL, start_new_session=True, env=environment)
    try:
        deadline = time.monotonic() + 20
        while time.monotonic() < deadline:
            with socket.socket() as probe:
                if probe.connect_ex(("127.0.0.1", port)) == 0:
                    break
            time.sleep(0.02)
        yield Server(f"http://127.0.0.1:{port}", process.pid)
    finally:
        process.terminate()
        process.wait(15)


@contextmanager
def browser() -> Iterator[Browser]:
    """A browser without a window."""
    with sync_playwright() as playwright:
        opened = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        yield opened
        opened.close()


def signed_in(opened: Browser, address: str, scheme: Literal["light", "dark"] = "light") -> Page:
    """A page of 1280x800 of its own, signed in to the demo workshop."""
    page = opened.new_page(viewport={"width": 1280, "height": 800}, color_scheme=scheme, base_url=address)
    page.goto("/sign-in/")
    page.get_by_role("button", name="Enter the demo workshop").click()
    page.wait_for_selector("h1")
    return page


@contextmanager
def browsing(address: str, scheme: Literal["light", "dark"] = "light") -> Iterator[Page]:
    """Such a page in a browser of its own."""
    with browser() as opened:
        yield signed_in(opened, address, scheme)
