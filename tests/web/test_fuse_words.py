"""A fuse is the same one on every page and paper: kind, amps, volts."""

from pathlib import Path
from types import SimpleNamespace

import pytest
from django.test import RequestFactory

from loadstar.core.analysis import analyse
from loadstar.core.order import order
from loadstar.core.parts.fuse import FusePart
from loadstar.core.plan import document
from loadstar.web.papers import labels, machine
from loadstar.web.stations.circuits import page

EXAMPLES = Path(__file__).resolve().parents[2] / "examples"
FILES = sorted(path for path in (*EXAMPLES.glob("*.json"), *(EXAMPLES / "jobs").glob("*.json"))
               if b'"kind": "fuse"' in path.read_bytes())


@pytest.mark.parametrize("path", FILES, ids=lambda path: path.stem)
def test_a_fuse_is_called_the_same_everywhere(path):
    a = analyse(document.from_json(path.read_bytes()))
    frame = SimpleNamespace(analysis=a, plan=a.plan, base={"workshop": "w", "plan": 1},
                            request=RequestFactory().get("/"))
    card = {row["part"].id: row["words"] for row in machine.MAKES["fuses"](frame)["fuses"]}
    tags = {label["id"]: label["what"] for label in labels.fuse_labels(frame)}
    lines = {item.what for item in order(a).items}
    fuses = [f for f in a.plan.of(FusePart) if f.id in a.ratings.rated]
    assert fuses and card.keys() == tags.keys() == {f.id for f in fuses}
    for fuse in fuses:
        words = fuse.words(a.ratings.rating_a(fuse.id))
        assert words.startswith(fuse.of_kind.words) and f" {a.ratings.rating_a(fuse.id):g} A" in words
        assert (f"{fuse.volts_v} V" in words) == (fuse.volts_v != 32)
        assert page.fuse_words(a, fuse.id) == tags[fuse.id] == words and card[fuse.id].startswith(words)
        assert fuse.supplied or words in lines
