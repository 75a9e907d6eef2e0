"""The whole demonstration walked in a browser, and two walks compared: did anything change that was not meant to?

    python tools/walk.py ADDRESS INTO [--most 2]       walk a demonstration that runs; one file a page and paper
    python tools/walk.py ADDRESS INTO --like BEFORE    the same pages and papers again, of another one
    python tools/walk.py --compare BEFORE AFTER        every page and paper that differs, with what differs

Every link that is met is followed, at most --most of one shape (the same station with another element). Of a page its
words as a browser lays them out, the words that are folded away, its links and fields, and its picture are kept; of a
paper its words with their layout; of a file its text. Times of day are left out: two walks are never at the same one.
"""

import argparse
import difflib
import hashlib
import json
import re
import subprocess
import sys
import time
import urllib.parse
from collections import Counter, deque
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent))
from demo_server import browsing
from playwright.sync_api import APIResponse, Page

NEVER = ("/sign-out", "/sign-in", "/static/", "/backup", "/tour")  # leads away, or makes something
TIMES = re.compile(r"\b\d\d:\d\d(:\d\d)?\b|\b\d+ (seconds?|minutes?) ago\b|just now")
SEEN = """() => {
  const told = ["href", "name", "value", "aria-label", "title", "type", "for", "aria-current", "checked", "action"];
  const said = e => told.filter(a => e.hasAttribute(a)).map(a => a + "=" + e.getAttribute(a)).join(" ");
  return {
    shown: document.body.innerText,
    all: document.body.textContent.replace(/\\s+/g, ""),
    parts: [...document.body.querySelectorAll("a, input, select, option, textarea, button, label, form, summary, th")]
      .filter(e => e.name !== "csrfmiddlewaretoken")
      .map(e => e.tagName + " " + said(e)),
  };
}"""


def shape(path: str) -> str:
    """What pages of one kind have in common: the plan, the station, and which questions are asked."""
    parts = urllib.parse.urlsplit(path)
    asked = sorted(name if name != "view" else f"view={value}" for name, value in urllib.parse.parse_qsl(parts.query))
    plan = re.match(r"/w/[^/]+/p/\d+/", parts.path)
    rest = re.sub(r"[A-Z]{0,4}\d+", "#", parts.path[plan.end():] if plan else parts.path)
    return f"{plan[0] if plan else ''}{rest}?{'&'.join(asked)}"


def words_of(answer: APIResponse) -> str:
    """A paper's words with their layout; a file's text; a picture's length."""
    kind = answer.headers.get("content-type", "")
    if "pdf" in kind:
        return subprocess.run(["pdftotext", "-layout", "-", "-"], input=answer.body(), capture_output=True,
                              check=True).stdout.decode()
    if "text" in kind or "json" in kind or "svg" in kind or "csv" in kind:
        return answer.text()
    return f"{kind}, {len(answer.body())} bytes"


def settled(page: Page, path: str) -> None:
    """A page once nothing of it is still being worked out."""
    for _ in range(120):
        page.goto(path, wait_until="load")
        if not page.locator("[data-again], meta[http-equiv=refresh]").count():
            return
        page.wait_for_timeout(500)
    raise TimeoutError(path)


def file_of(page: Page, path: str) -> str:
    """A paper or a file, asked for until it is made."""
    for _ in range(240):
        answer = page.request.get(path)
        if b'http-equiv="refresh"' not in answer.body():
            return f"{answer.status}\n{words_of(answer)}"
        time.sleep(0.5)
    raise TimeoutError(path)


def is_page(page: Page, path: str) -> bool:
    """Whether an address is answered by a page, and not by a paper or a file."""
    name = urllib.parse.urlsplit(path).path
    if "." in name.rsplit("/", 1)[-1]:
        return False
    return "html" in page.request.head(path).headers.get("content-type", "html")


def keep(page: Page, into: Path, path: str) -> bool:
    """Keep what an address answers; whether that is a page, and it is open now."""
    target = into / hashlib.sha256(path.encode()).hexdigest()[:16]
    if not is_page(page, path):
        target.with_suffix(".json").write_text(json.dumps({"path": path, "shown": TIMES.sub("", file_of(page, path))}))
        return False
    settled(page, path)
    kept = {"path": path, **page.evaluate(SEEN)}
    kept |= {name: TIMES.sub("", kept[name]) for name in ("shown", "all")}
    page.screenshot(path=target.with_suffix(".png"), animations="disabled")
    target.with_suffix(".json").write_text(json.dumps(kept))
    return True


def again(page: Page, into: Path, before: Path) -> int:
    """Keep the pages and papers of an earlier walk as they are now."""
    paths = sorted(json.loads(kept.read_text())["path"] for kept in before.glob("*.json"))
    for n, path in enumerate(paths, 1):
        keep(page, into, path)
        print(f"\r{n} of {len(paths)}   ", end="", file=sys.stderr, flush=True)
    return len(paths)


def walk(page: Page, into: Path, most: int) -> int:
    """Follow every link from where the page is; how many pages and papers were kept."""
    origin = "{0.scheme}://{0.netloc}".format(urllib.parse.urlsplit(page.url))
    todo, met, shapes = deque([page.url.removeprefix(origin)]), set(), Counter[str]()
    while todo:
        path = todo.popleft()
        if path in met or any(no in path for no in NEVER):
            continue
        met.add(path)
        shapes[shape(path)] += 1
        if shapes[shape(path)] > most:
            continue
        if keep(page, into, path):
            links = page.eval_on_selector_all(
                "a[href]", "all => all.map(a => new URL(a.getAttribute('href'), document.baseURI).href)")
            todo.extend(sorted({link.removeprefix(origin).split("#")[0] for link in links
                                if link.startswith(origin)} - met))
        print(f"\r{len(met)} met, {len(todo)} to go   ", end="", file=sys.stderr, flush=True)
    return len(list(into.glob("*.json")))


def changed_lines(old: str | list[str], new: str | list[str]) -> list[str]:
    """What was taken out (-) and what came in (+)."""
    lines = [text.splitlines() if isinstance(text, str) else text for text in (old, new)]
    return [d for d in difflib.unified_diff(*lines, lineterm="", n=0) if not d.startswith(("---", "+++", "@@"))]


def compare(before: Path, after: Path) -> int:
    """Print what differs; how many pages and papers do."""
    old, new = ({p.stem: json.loads(p.read_text()) for p in folder.glob("*.json")} for folder in (before, after))
    differ = 0
    for stem in sorted(old | new, key=lambda s: (old.get(s) or new[s])["path"]):
        if stem not in old or stem not in new:
            print(f"only {'before' if stem in old else 'after'}: {(old.get(stem) or new[stem])['path']}")
            differ += 1
            continue
        what = [name for name in old[stem] if old[stem][name] != new[stem].get(name)]
        pictures = [folder / f"{stem}.png" for folder in (before, after)]
        if all(p.exists() for p in pictures) and pictures[0].read_bytes() != pictures[1].read_bytes():
            what.append("picture")
        if not what:
            continue
        differ += 1
        print(f"{old[stem]['path']}: {', '.join(what)}  ({stem})")
        for name in ("shown", "parts"):
            for line in changed_lines(old[stem].get(name, []), new[stem].get(name, []))[:8]:
                print(f"    {line[:160]}")
    print(f"{len(old)} before, {len(new)} after, {differ} differ")
    return differ


def main() -> int:
    """1 when two walks differ."""
    parser = argparse.ArgumentParser()
    parser.add_argument("address", nargs="?")
    parser.add_argument("into", nargs="?", type=Path)
    parser.add_argument("--most", type=int, default=2)
    parser.add_argument("--like", type=Path)
    parser.add_argument("--compare", nargs=2, type=Path)
    given = parser.parse_args()
    if given.compare:
        return int(bool(compare(*given.compare)))
    given.into.mkdir(parents=True, exist_ok=True)
    with browsing(given.address) as page:
        kept = again(page, given.into, given.like) if given.like else walk(page, given.into, given.most)
    print(f"{kept} pages and papers in {given.into}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
