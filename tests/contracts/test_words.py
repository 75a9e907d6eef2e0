"""What nobody understood who read it first stays away: no template, sentence or label uses a retired word."""

import ast
import re
from collections.abc import Iterator
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
SOURCE = ROOT / "src" / "loadstar"
MARKUP = re.compile(r"{#.*?#}|{%.*?%}|{{.*?}}|<[^>]*>", re.DOTALL)
QUOTED = re.compile(r"{%[^%]*?\b(?:words|label|what)=\"([^\"]*)\"[^%]*?%}")
ASIDE = ("migrations", "commands")  # nobody reads these on a page


def retired() -> list[tuple[re.Pattern[str], str]]:
    """The table at the end of docs/words.md: what is looked for, and what stands in its place."""
    rows = (ROOT / "docs" / "words.md").read_text().split("## Retired", 1)[1].splitlines()
    cells = [re.fullmatch(r"\| `(.+)` \| (.+) \|", row) for row in rows]
    return [(re.compile(cell[1].replace("&#124;", "|")), cell[2]) for cell in cells if cell]


def spoken(path: Path) -> Iterator[tuple[str, str]]:
    """What a file can put on a page, each with where it stands."""
    if path.suffix == ".html":
        text = path.read_text()
        for words in QUOTED.findall(text):
            yield path.name, words
        bare = MARKUP.sub(lambda mark: "\n" * mark[0].count("\n") + ("{}" if mark[0][:2] == "{{" else " "), text)
        for number, line in enumerate(bare.splitlines(), 1):
            yield f"{path.name}:{number}", line
        return
    tree = ast.parse(path.read_text())
    silent = {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr)}  # docstrings
    for node in ast.walk(tree):
        words = node.value if isinstance(node, ast.Constant) and isinstance(node.value, str) else ""
        if " " in words.strip() and id(node) not in silent:  # a key, a field and a mark have no blank
            yield f"{path.name}:{node.lineno}", words


def all_spoken() -> list[tuple[str, str]]:
    files = [p for p in sorted(SOURCE.rglob("*")) if p.suffix in (".py", ".html") and not set(p.parts) & set(ASIDE)]
    return [said for path in files for said in spoken(path)]


def test_no_retired_word_is_used():
    words = retired()
    assert len(words) > 30
    assert [(where, said.strip()[:80], instead) for where, said in all_spoken()
            for pattern, instead in words if pattern.search(said)] == []


@pytest.mark.parametrize(("kind", "text", "found"), [
    (".html", '<p title="x">\nWhat it may be {# mend #}</p>', "What it may be"),
    (".html", '{% include "a.html" with words="Take it" %}', "Take it"),
    (".py", '"""Mend it anew."""\nSAID = "It hangs on F1"\nKEY = "mended"\n', "It hangs on F1")])
def test_what_is_read_is_what_is_shown(tmp_path, kind, text, found):
    path = tmp_path / f"page{kind}"
    path.write_text(text)
    hit = [said.strip() for _, said in spoken(path) if any(p.search(said) for p, _ in retired())]
    assert hit == [found]
