"""Pictures: to scale, without overlapping labels, escaped, and the same each time."""

import re
import xml.etree.ElementTree as ET
from itertools import combinations

import pytest
from builders import Bench

from loadstar.core.analysis import analyse
from loadstar.core.begin import Wish, begun
from loadstar.core.doc.states import STATES
from loadstar.core.edits.builder import Builder
from loadstar.core.plan.model import Plan
from loadstar.demo import fit_out
from loadstar.draw import bikemap, descent, waterline
from loadstar.draw.labels import Box, Label, nice_step, place
from loadstar.draw.svg import Look, el, text

ANALYSIS = analyse(fit_out()[0])
LOADS = [load.id for load in ANALYSIS.plan.loads]


def picture_of(load: str, state: str) -> descent._Picture:
    """The placed picture of a circuit."""
    way = descent.walk(ANALYSIS, load, state)
    return descent._Picture(ANALYSIS, load, way, descent.scale_of(way, 840, 400))


@pytest.mark.parametrize("load", LOADS)
def test_labels_of_a_descent_never_overlap(load):
    boxes = [p.box for p in picture_of(load, "idle").labels().values() if p]
    boxes.append(picture_of(load, "idle").summary_box()[0])
    assert len(boxes) >= 4
    assert not [1 for a, b in combinations(boxes, 2) if a.overlaps(b)]


@pytest.mark.parametrize("load", LOADS)
def test_every_step_of_a_demonstration_circuit_has_its_label(load):
    missing = [k for k, p in picture_of(load, "idle").labels().items() if p is None]
    assert len(missing) <= 1, missing


def test_the_walk_is_the_solved_network():
    way = descent.walk(ANALYSIS, "L1", "idle")
    result = ANALYSIS.states["idle"]
    assert way.feed[0].v0 == pytest.approx(result.posts_v)
    assert way.back[-1].v1 == pytest.approx(0, abs=1e-9)
    assert way.across_v == pytest.approx(ANALYSIS.volts.across_v("L1", "idle"))
    for one, two in zip(way.feed, way.feed[1:], strict=False):
        assert one.v1 == pytest.approx(two.v0)
        assert one.x1_m == pytest.approx(two.x0_m)
    total = sum(ANALYSIS.wires[s.element].length_m for s in (*way.feed, *way.back) if s.kind == "wire")
    assert way.length_m == pytest.approx(total)


def test_both_bands_have_one_scale():
    way = descent.walk(ANALYSIS, "L1", "idle")
    s = descent.scale_of(way, 840, 400)
    assert s.feed_y(12.0) - s.feed_y(12.1) == pytest.approx(s.back_y(0.0) - s.back_y(0.1))
    assert s.x(way.length_m) == pytest.approx(840 - descent.RIGHT)
    for stride in way.feed:
        assert s.feed_top <= s.feed_y(stride.v0) <= s.feed_bottom
    for stride in way.back:
        assert s.back_top <= s.back_y(stride.v1) <= s.back_bottom


@pytest.mark.parametrize("state", STATES)
@pytest.mark.parametrize("paper", [False, True])
def test_every_state_is_well_formed_and_inline_free(state, paper):
    for load in LOADS[:2] + LOADS[-1:]:
        svg = descent.draw(ANALYSIS, load, state, Look("/x?sel={}", paper=paper))
        root = ET.fromstring(svg)
        assert root.find("{http://www.w3.org/2000/svg}title").text
        assert "style=" not in svg
        assert "<script" not in svg
        assert ("class=" in svg) != paper
        assert svg == descent.draw(ANALYSIS, load, state, Look("/x?sel={}", paper=paper))


def test_names_are_escaped():
    b = Bench()
    lamp = b.lamp(name='<b onload="x">&')
    svg = descent.draw(analyse(b.plan), lamp, "idle")
    ET.fromstring(svg)
    assert "<b onload" not in svg
    assert el("text", {"x": '"><script>'}, text("<&>")) == '<text x="&quot;&gt;&lt;script&gt;">&lt;&amp;&gt;</text>'


def test_waterline_numbers():
    sea = waterline.water(ANALYSIS)
    assert sea.demand_w == pytest.approx(308, abs=2)
    assert sea.layers[0].low_w == 0
    for one, two in zip(sea.layers, sea.layers[1:], strict=False):
        assert one.high_w == pytest.approx(two.low_w)
    assert sea.floats_rpm == pytest.approx(ANALYSIS.break_even_rpm)
    off = frozenset({"L1", "L6"})
    assert waterline.water(ANALYSIS, off).demand_w < sea.demand_w


@pytest.mark.parametrize("off", [frozenset(), frozenset({"L1"}), frozenset(LOADS)])
def test_waterline_labels_never_overlap(off):
    sea = waterline.water(ANALYSIS, off)
    labels = waterline._Picture(ANALYSIS, sea, "idle", 800, 470).labels()
    boxes = [p.box for p in labels.values() if p]
    assert all(p is not None for p in labels.values())
    assert not [1 for a, b in combinations(boxes, 2) if a.overlaps(b)]
    ET.fromstring(waterline.draw(ANALYSIS, "town", off))


def test_the_amps_of_a_small_generator_are_told_apart():
    """40 W at 14 V: every tick has its own words, none says 0 A beside the watts of half an ampere."""
    plan = begun(Plan(), Wish("utility bike", "pull start"))
    b = Builder("small", plan)
    b.change(plan.generator.id, rating1_w=8, rating2_w=22)
    ticks = re.findall(r">([\d.]+)\u00a0A<", waterline.draw(analyse(b.plan), "idle"))
    assert len(ticks) > 2 and len(set(ticks)) == len(ticks) and all(float(t) > 0 for t in ticks)


def test_waterline_hatches_from_idle_only():
    svg = waterline.draw(ANALYSIS, "idle")
    points = re.search(r'<polygon points="([^"]+)"', svg).group(1).split()
    picture = waterline._Picture(ANALYSIS, waterline.water(ANALYSIS), "idle", 800, 470)
    xs = [float(p.split(",")[0]) for p in points]
    assert min(xs) == pytest.approx(picture.x(1300), abs=0.1)
    assert max(xs) == pytest.approx(picture.x(ANALYSIS.break_even_rpm), abs=0.1)


def test_without_a_generator_the_waterline_says_so():
    b = Bench(generator=False)
    assert "No generator" in waterline.draw(analyse(b.plan), "idle")


def test_map_has_every_place_and_run_once():
    svg = bikemap.draw(ANALYSIS, Look("/s?sel={}"))
    ET.fromstring(svg)
    for element in (*ANALYSIS.plan.places, *ANALYSIS.plan.runs):
        assert svg.count(f'href="/s?sel={element.id}"') == 1


def test_labels_keep_clear_of_lines_and_area():
    area = Box(0, 0, 200, 100)
    labels = [Label(str(n), ("label",), 100, 50) for n in range(4)]
    placed = place(labels, area, [], [(0, 50, 200, 50)])
    boxes = [p.box for p in placed.values() if p]
    assert len(boxes) == 4
    assert all(b.within(area) for b in boxes)
    assert not [1 for a, b in combinations(boxes, 2) if a.overlaps(b)]
    assert not any(b.y0 < 50 < b.y1 for b in boxes)


def test_a_label_without_room_is_left_out():
    assert place([Label("x", ("much too long for this",), 5, 5)], Box(0, 0, 20, 10), [], [])["x"] is None


@pytest.mark.parametrize(("span", "most", "step"), [(10, 5, 2), (0.5, 6, 0.1), (8000, 9, 1000), (0.031, 6, 0.01)])
def test_nice_steps(span, most, step):
    assert nice_step(span, most) == pytest.approx(step)
