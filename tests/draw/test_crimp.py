"""An end's picture: one scale, everything whole in it, good and bad told apart. What it measures is read back."""

import re
from dataclasses import replace
from itertools import pairwise
from xml.etree import ElementTree

import pytest

from loadstar import demo
from loadstar.core.analysis import analyse
from loadstar.core.materials.terminals import TERMINALS, Terminal
from loadstar.core.order import half_of
from loadstar.draw import crimp
from loadstar.draw.crimp import faults

SVG = "{http://www.w3.org/2000/svg}"
# How wide a letter is on the screen, px, measured in the browser, the widest word of each class.
LETTER_PX = {"d-figure": 9.3, "d-label": 7.6, "d-bad": 7.6, "d-band": 7.4, "d-soft": 7.2}


@pytest.fixture(scope="module")
def fit_out():
    return analyse(demo.fit_out()[0])


def drawn(a, terminal: Terminal, half: str = "", area_mm2: float = 0.0, paper: bool = True):
    """The picture of a terminal on its smallest wire, or on one of this size."""
    end = next(e for e in a.ends.every if e.chosen is not None and not e.soldered)
    od = min(max(2.0, terminal.od_mm[0]), terminal.od_mm[1], 9.0)
    made = replace(end, chosen=terminal, family=terminal.family, area_mm2=area_mm2 or terminal.area_mm2[0], od_mm=od,
                   shrink=None, on_first=())
    return ElementTree.fromstring(crimp.draw(made, "RD", half, paper=paper))


def scale(svg) -> float:
    """Px a millimetre, by the bar of ten."""
    bar = next(e for e in svg.iter(f"{SVG}line") if e.get("stroke-width") == "2" and e.get("y1") == e.get("y2"))
    return (float(bar.get("x2")) - float(bar.get("x1"))) / 10


def words(svg) -> list[str]:
    return [e.text for e in svg.iter(f"{SVG}text")]


@pytest.mark.parametrize("terminal", TERMINALS, ids=lambda t: t.key)
def test_every_terminal_is_drawn_whole_to_one_scale(fit_out, terminal):
    svg = drawn(fit_out, terminal)
    width, height = (float(v) for v in svg.get("viewBox").split()[2:])
    k = scale(svg)
    strip = next(e for e in svg.iter(f"{SVG}line") if e.get("y1") == e.get("y2") and e.get("stroke-width") != "2"
                 and e.get("stroke-dasharray") is None and e.get("fill") == "none" and e.get("x1") != e.get("x2"))
    assert float(strip.get("x2")) - float(strip.get("x1")) == pytest.approx(terminal.strip_mm * k, abs=0.25)
    for e in svg.iter(f"{SVG}path"):
        for x, y in re.findall(r"(-?[\d.]+) (-?[\d.]+)", e.get("d")):
            assert 0 <= float(x) <= width, (terminal.key, e.get("d"))
            assert 0 <= float(y) <= height, (terminal.key, e.get("d"))


@pytest.mark.parametrize("terminal", TERMINALS, ids=lambda t: t.key)
def test_its_words_are_whole_and_clear_of_one_another(fit_out, terminal):
    svg = drawn(fit_out, terminal, paper=False)
    lines: dict[float, list[tuple[float, float, str]]] = {}
    for e in svg.iter(f"{SVG}text"):
        long = len(e.text) * LETTER_PX[e.get("class")]
        begin = float(e.get("x")) - (long if e.get("text-anchor") == "end" else 0)
        lines.setdefault(float(e.get("y")), []).append((begin, begin + long, e.text))
    heights = sorted(lines)
    assert all(b - a < 6 or b - a >= 14 for a, b in pairwise(heights)), heights  # in one line, or clear of the next
    for line in lines.values():
        spans = sorted(line)
        assert spans[0][0] >= 0
        assert spans[-1][1] <= float(svg.get("viewBox").split()[2]), spans
        for (_, end, one), (begin, _, other) in pairwise(spans):
            assert end < begin, (one, other)


@pytest.mark.parametrize("terminal", TERMINALS, ids=lambda t: t.key)
def test_the_four_usual_faults_stand_under_the_good_one(fit_out, terminal):
    svg = drawn(fit_out, terminal)
    said = words(svg)
    usual = faults.usual(terminal, joint=False)
    assert len({f.name for f in usual}) == len({f.made for f in usual}) == 4
    for fault in usual:
        assert fault.name in said
        assert fault.so in said
        assert fault.name in svg.find(f"{SVG}desc").text


def test_a_ring_has_its_studs_hole(fit_out):
    ring = next(t for t in TERMINALS if t.key == "ring M8 6")
    svg = drawn(fit_out, ring)
    holes = [float(e.get("r")) for e in svg.iter(f"{SVG}circle") if e.get("fill") == "#ffffff"]
    assert any(r == pytest.approx(8 / 2 * scale(svg), abs=0.1) for r in holes)


def test_both_halves_are_drawn_where_neither_is_known(fit_out):
    blade = next(t for t in TERMINALS if t.key == "blade 6.3 1.5")
    both, male, female = (drawn(fit_out, blade, half) for half in ("", "male", "female"))
    assert {"male", "female"} <= set(words(both))
    assert "female" not in words(male)
    assert "male" not in words(female)
    assert len(list(both.iter(f"{SVG}path"))) > len(list(male.iter(f"{SVG}path")))


def insulation_ends(svg) -> list[float]:
    """How long the upper insulation is drawn in each cut, by the good one's scale; the good one first."""
    k = scale(svg)
    found = [[float(x) for x in re.findall(r"(-?[\d.]+) -?[\d.]+", e.get("d"))]
             for e in svg.iter(f"{SVG}path") if e.get("fill") == "#c3221f"]
    return [(max(xs) - min(xs)) / k for xs in found[::2]]


def test_a_bad_one_is_bad_where_its_name_says(fit_out):
    wide = next(t for t in TERMINALS if t.key == "ring M6 2.5")
    _, stray, into, no_bell, bare = insulation_ends(drawn(fit_out, wide, area_mm2=2.5))
    assert into > stray + 1  # all bad ones are drawn to one scale
    assert bare < stray - 1
    assert stray == pytest.approx(no_bell)
    lines = [e for e in drawn(fit_out, wide).iter(f"{SVG}line") if e.get("stroke") == "#6b3f17"
             and e.get("stroke-width") == "2"]
    assert len(lines) == 3


def test_known_halves_come_from_the_plan(fit_out):
    halves = {half_of(fit_out.plan, e) for e in fit_out.ends.every}
    assert halves <= {"", "male", "female"}
    assert "" in halves


def test_a_sealed_one_has_its_seal_and_no_other(fit_out):
    for terminal in TERMINALS:
        seals = [e for e in drawn(fit_out, terminal).iter() if e.get("fill") == "#b9d3d6"]
        assert bool(seals) == terminal.sealed, terminal.key


def test_on_the_screen_its_colours_are_the_style_sheets(fit_out):
    blade = next(t for t in TERMINALS if t.key == "blade 6.3 1.5")
    svg = drawn(fit_out, blade, paper=False)
    classes = {c for e in svg.iter() for c in (e.get("class") or "").split()}
    assert {"c-cut", "c-core", "c-strand", "c-face", "c-insulation"} <= classes
    assert not [e for e in svg.iter() if e.get("fill") == "#c3c9cb"]
