"""A kind that nobody has thought of: one file and its line in the registry, and everything that asks what a part can do
finds it. The kind is of `data/supercapacitor.py`, in a copy of the core."""

import json
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from loadstar import core

HERE, TESTS = Path(__file__).parent, Path(__file__).parents[1]
BESIDE = ("exchange", "draw")
ASKED = """
import json, sys
sys.path[:0] = sys.argv[1:]
from builders import Bench
from loadstar.core.analysis import analyse
from loadstar.core.build.whole import work
from loadstar.core.edits import RemoveWire, apply
from loadstar.core.order import order
from loadstar.core.prove.faults import candidates
from loadstar.draw.bikemap import draw
from loadstar.exchange.netlist import netlist
b = Bench()
before = analyse(b.plan)
bank = b.add("supercapacitor", name="start bank", place=b.box, esr_mohm=6, charged_v=12.6, leak_ma=5)
a = analyse(b.plan)
mine = [w.id for w in a.plan.wires if w.made_for == bank]
loose = b.plan
for wire in mine:
    loose = apply(loose, RemoveWire(id=wire))
fuse = next(p for p in a.plan.parts if p.made_for == bank)
print(json.dumps({
    "mine": mine, "area": [a.wires[w].area_mm2 for w in mine], "crank_a": [a.ratings.short_a(w) for w in mine],
    "fuse": a.ratings.rating_a(fuse.id),
    "posts_v": [r.states["cranking"].posts_v for r in (before, a)],
    "idle_a": a.states["idle"].current(bank), "days": [before.parked.days, a.parked.days, analyse(loose).parked.days],
    "order": [i.what for i in order(a).items], "work": [o.words for o in work(a).operations.values()],
    "faults": [f.words for f in candidates(a, frozenset([*mine, fuse.id]))],
    "ends": {e.key: e.family for e in a.ends.every if e.at.part == bank},
    "grave": [f.sentence for f in a.findings if f.severity in ("stop", "caution")],
    "netlist": bank in netlist(a, "cranking"), "map": draw(a)[:4],
    "guards": [bool(a.wires[w].guard) for w in mine[1:2]],
}))
"""


@pytest.fixture(scope="module")
def found(tmp_path_factory):
    """What a core with the new kind says of a plan with one."""
    root = tmp_path_factory.mktemp("grown")
    package, old = root / "loadstar", Path(core.__file__).parents[1]
    for room in ("core", *BESIDE):
        shutil.copytree(old / room, package / room, ignore=shutil.ignore_patterns("__pycache__"))
    shutil.copy(old / "__init__.py", package)
    parts = package / "core" / "parts"
    shutil.copy(HERE / "data" / "supercapacitor.py", parts)
    registry = (parts / "registry.py").read_text()
    registry = registry.replace("from .switch", "from .supercapacitor import Supercapacitor\nfrom .switch")
    (parts / "registry.py").write_text(registry.replace("    SecondBattery,", "    SecondBattery, Supercapacitor,"))
    asked = subprocess.run([sys.executable, "-c", ASKED, str(root), str(TESTS)], capture_output=True, text=True,
                           env={"PATH": ""})
    assert asked.returncode == 0, asked.stderr
    return json.loads(asked.stdout)


def test_its_leads_are_for_what_flows_while_the_starter_turns(found):
    """Nothing flows in them at any other time. By hand (IEC 60364-4-43): three tries of five seconds at 30 A are
    (30 / 0.5)^2 * 15 / 226^2 = 1.06 for 0.5 mm2, which the copper alone would pass 550 C by; they get more."""
    assert len(found["mine"]) == 4
    assert all(amps > 25 for amps in found["crank_a"]), found["crank_a"]
    assert all(area >= 1 for area in found["area"]), found["area"]
    assert found["fuse"] >= 15 and found["posts_v"][1] > found["posts_v"][0] + 0.2
    assert abs(found["idle_a"]) < 1e-6


def test_its_leak_counts_once_it_is_wired(found):
    """5 mA of the bench's own 0.3 mA and more: the parked days fall; unwired it takes nothing."""
    before, wired, loose = found["days"]
    assert wired < 0.5 * before
    assert loose == pytest.approx(before)


def test_it_is_ordered_made_measured_and_drawn(found):
    assert all(family == "ring M6" for family in found["ends"].values()) and len(found["ends"]) == 2
    assert any(what.startswith("ring M6") for what in found["order"])
    assert any(f"{found['fuse']} A" in what for what in found["order"])
    assert any("start bank" in words and words.startswith("Connect") for words in found["work"])
    between = f"{found['mine'][1]} or a crimp of it (start bank fuse at the battery to start bank fuse)"
    assert f"open: {between}" in found["faults"]
    assert found["netlist"] and found["map"] == "<svg" and found["guards"] == [True] and not found["grave"]
