"""What pages, papers and files show of three workshops with some records, as last read and agreed.

Every link that is met is followed, one of each shape. Written anew by `./loadstar test tests/web/test_shown.py
--write-shown`: only when pages are meant to change, and what is printed is to be read.
"""

import re
from collections import deque
from collections.abc import Iterator
from datetime import UTC, datetime
from html.parser import HTMLParser
from io import BytesIO
from urllib.parse import parse_qsl, urlsplit
from zipfile import ZipFile

from answers import paper_words
from asked import jpeg
from conftest import Shop, make_shop
from django.test import Client

from loadstar import demo
from loadstar.web.evidence.sheet import made
from loadstar.web.records import store
from loadstar.web.records import work as records
from loadstar.web.records.models import Photo, ShelfItem

NEVER = ("/sign-out", "/sign-in", "/static/", "/backup", "/tour", "/machine-file", "#", "plan.json")
OTHER_EACH_TIME = re.compile(  # tokens, secrets, dates, times of day
    r"[0-9a-f]{8}-[0-9a-f-]{27}|\b[0-9a-f]{12,64}\b|(?:[A-Z2-7]{4} ){7}[A-Z2-7]{4}"
    r"|\b\d{1,2} (?:Jan|Feb|Mar|Apr|May|June?|July?|Aug|Sept?|Oct|Nov|Dec)[a-z]*\b(?: \d{4})?|\b\d{4}-\d\d-\d\d"
    r"|\bT?\d\d:\d\d(?::[\d.+:]+)?|\b\d+ (?:seconds?|minutes?) ago")
MOST_ASKED = 1  # in one address
ON = datetime(2026, 12, 1, 10, 30, tzinfo=UTC)  # lines of a paper break by how long its date is
TELLING = ("name", "value", "href", "action", "aria-label", "aria-current", "checked", "selected", "disabled", "title")
MAKES = {"fit_out": demo.fit_out, "as_found": demo.as_found, "tide_hauler": demo.tide_hauler}  # and crawled
MORE = {"winter": demo.winter}
ROLES = {"fit_out": "owner", "as_found": "reader", "tide_hauler": "technician"}


class _Words(HTMLParser):
    """The words of a page and what may be pressed and filled in, line by line."""

    def __init__(self) -> None:
        super().__init__()
        self.lines: list[str] = []
        self.links: list[str] = []
        self.silent = 0

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        """A link or field with what it says of itself."""
        given = dict(attrs)
        if tag in ("script", "style"):
            self.silent += 1
        if tag == "a" and given.get("href"):
            self.links.append(str(given["href"]))
        if tag in ("a", "form", "input", "select", "option", "textarea", "button") and (
                given.get("name") != "csrfmiddlewaretoken"):
            told = " ".join(f"{name}={given[name]}" for name in TELLING if name in given)
            self.lines.append(f"<{tag} {told}>")

    def handle_endtag(self, tag: str) -> None:
        """Scripts are over."""
        self.silent -= tag in ("script", "style")

    def handle_data(self, data: str) -> None:
        """Words."""
        if (words := " ".join(data.split())) and not self.silent:
            self.lines.append(words)


def shop_of(name: str) -> Shop:
    """A workshop with a demonstration and some of its work, readings, photographs and stock on record."""
    shop = make_shop(name.replace("_", " "), (MAKES | MORE)[name]()[0])
    plan = store.load(shop.row)
    if plan.analysis.sized:
        sheet = made(plan.analysis)
        for key in sheet.keys[:3]:
            records.write(shop.row, shop.technician, 1, sheet.work.operations[key], records.Line("done"))
    for value in (12.6, records.OPEN):
        records.keep(shop.row, shop.technician, 1, step="posts.parked", quantity="V", row="parked", red="BT1.pos",
                     black="BT1.neg", value=value, expected=12.61, spread=0.4, plain=12.61, instrument="pocket meter")
    Photo.objects.create(plan=shop.row, element=plan.plan.parts[0].id, caption="before", width=40, height=30,
                         image=jpeg((40, 30), quality=82), by=shop.technician)
    ShelfItem.objects.create(workshop=shop.workshop, what="wire 1 mm² red, ISO 6722-1 B thin wall", here=12, price=0.6)
    return shop


def crawled(name: str) -> Iterator[tuple[str, list[str]]]:
    """Every page that is come to by links from the bench: its address, and what it shows."""
    shop = shop_of(name)
    client = Client()
    client.force_login(getattr(shop, ROLES[name]))
    start = f"/w/{shop.workshop.slug}/"
    todo, met = deque([start]), {_shape(start)}
    while todo:
        path = todo.popleft()
        answer = client.get(path, follow=True)
        words, links = _shown(answer)
        yield _plain(path, shop), [f"{answer.status_code}", *(_plain(line, shop) for line in words)]
        here = urlsplit(path).path
        for link in links:
            link = link if link.startswith("/") else f"{here}{link}" if link.startswith("?") else ""
            if link and _shape(link) not in met and not any(no in link for no in NEVER):
                met.add(_shape(link))
                todo.append(link)


def _shape(path: str) -> str:
    """What addresses of one kind have in common: of a file its name, of many questions that there
    are many."""
    parts = urlsplit(path)
    asked = sorted(n if n != "view" else f"{n}={v}" for n, v in parse_qsl(parts.query) if n != "state")
    where = re.sub(r"[A-Z]{0,4}[0-9]+", "#", parts.path)
    return where if "." in where else f"{where}?{'&'.join(asked) if len(asked) <= MOST_ASKED else '...'}"


def _shown(answer) -> tuple[list[str], list[str]]:
    kind = answer.headers.get("content-type", "")
    if "html" in kind:
        reader = _Words()
        reader.feed(answer.content.decode())
        return reader.lines, reader.links
    if "pdf" in kind:
        return [" ".join(line.split()) for line in paper_words(answer).splitlines() if line.strip()], []
    content = b"".join(answer.streaming_content) if answer.streaming else answer.content
    if "zip" in kind:
        with ZipFile(BytesIO(content)) as archive:
            return archive.namelist(), []
    return (content.decode().splitlines() if kind.startswith(("text", "application/json", "image/svg"))
            else [f"{kind}, {len(content) // 4096} pages"]), []


def _plain(text: str, shop: Shop) -> str:
    """Without what is another one each time: numbers of rows, times, tokens."""
    text = text.replace(f"/w/{shop.workshop.slug}/", "/w/W/").replace(f"/p/{shop.row.pk}/", "/p/P/")
    text = OTHER_EACH_TIME.sub("~", text)
    return re.sub(r"(photo|plan|member|person|sign_in|name=id value)([/=]+)\d+", r"\1\2~", text)
