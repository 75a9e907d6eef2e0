"""Pictures that are charts: to scale, labels clear of each other and of the curves, the same each time."""

import re
import xml.etree.ElementTree as ET
from itertools import combinations, pairwise
from math import hypot

import pytest
from builders import Bench

from loadstar.core.analysis import analyse
from loadstar.core.edits import ChangeElement, apply
from loadstar.core.plan.bodies import BODY_KINDS
from loadstar.core.sizing.argument import Curves
from loadstar.demo import PLANS, ferry_runner, tide_hauler
from loadstar.draw import bikemap, coordination, lamps, packs
from loadstar.draw.bodies import BODIES
from loadstar.draw.chart import Axis, Chart
from loadstar.draw.elevation import elevation, points

LAMPS, PACK = analyse(ferry_runner()[0]), analyse(tide_hauler()[0])


def overlaps(chart):
    boxes = [p.box for p in chart.placed().values() if p]
    return [1 for a, b in combinations(boxes, 2) if a.overlaps(b)]


def drawn_curves(rating=10):
    b = Bench()
    lamp = b.lamp()
    b.change(b.fuse_of(lamp), rating_a=rating)
    b.wire(b.feed_wire(lamp), area_mm2=0.75)
    b.change(next(p.id for p in b.plan.parts if p.kind == "fuse" and p.made_for == b.block), rating_a=30)
    a = analyse(b.plan)
    wire = a.wires[b.feed_wire(lamp)]
    return Curves(wire.coordination, a.chafes[wire.id].far_a)


def test_a_linear_axis():
    axis = Axis(0, 50, "volts", "V")
    assert axis.share(25) == 0.5
    assert axis.ticks(6) == [0, 10, 20, 30, 40, 50]


def test_a_logarithmic_axis():
    axis = Axis(1, 1000, "amps", "A", True)
    assert axis.share(10) == pytest.approx(1 / 3)
    assert axis.ticks(8) == [1, 10, 100, 1000]
    assert Axis(1, 50, "amps", "A", True).ticks(8) == [1, 2, 5, 10, 20, 50]


def test_values_outside_the_range_stay_at_the_frame():
    chart = Chart(400, 300, Axis(0, 10, "x", ""), Axis(0, 10, "y", ""))
    assert chart.x(-5) == chart.area.x0
    assert chart.y(20) == chart.area.y0
    chart.curve([(0, 20), (1, 30)], "c-line")
    assert chart.curves == []


def test_the_coordination_picture_is_to_scale():
    found = drawn_curves()
    chart = coordination.chart(found, "W1", "F1", 560, 330)
    x = [chart.x(found.rated_a * n) for n in (1, 2, 4)]
    assert x[1] - x[0] == pytest.approx(x[2] - x[1])
    assert chart.y(1.0) - chart.y(10.0) == pytest.approx(chart.y(0.1) - chart.y(1.0))
    assert not overlaps(chart)
    assert {"fault", "damage", "band"} <= set(chart.placed())


def test_a_fuse_that_comes_too_late_is_marked():
    late = drawn_curves(30)
    chart = coordination.chart(late, "W1", "F1", 560, 330)
    assert (late.fails_from_a is not None) == ("fails" in chart.placed())
    assert late.fails_from_a is not None
    assert "can open too late" in coordination.draw(late, "W1", "F1")


@pytest.mark.parametrize("gone", ["", "L1", "L2"])
def test_lamps_over_speed(gone):
    chart = lamps.chart(LAMPS, gone, 760, 380)
    assert not overlaps(chart)
    assert len([1 for kind, _ in chart.curves if kind.startswith("c-line")]) == (3 if not gone else 2)
    top = max(y for _, points in chart.curves for _, y in points)
    assert top <= chart.area.y1
    assert lamps.draw(LAMPS, gone) == lamps.draw(LAMPS, gone)


def test_every_curve_of_a_lamp_is_named_at_its_end_in_the_order_of_the_curves():
    svg = ET.fromstring(lamps.draw(LAMPS))
    named = [(float(t.get("y")), t.text.rpartition(",")[0]) for t in svg.iter("{http://www.w3.org/2000/svg}text")
             if "t-" in t.get("class", "")]
    assert {words for _, words in named} == {p.name for p in LAMPS.plan.loads}
    ends = {p.name: LAMPS.lamps.at(p.id, LAMPS.lamps.rpm[-1]) for p in LAMPS.plan.loads}
    assert [words for _, words in sorted(named)] == sorted(ends, key=ends.get, reverse=True)
    heights = sorted(y for y, _ in named)
    assert all(b - a >= 16.9 for a, b in pairwise(heights))


def test_a_pack_from_full_to_empty():
    chart = packs.chart(PACK, 760, 380)
    assert not overlaps(chart)
    rested, assist, full = (points for kind, points in chart.curves if kind.startswith("c-line"))
    assert rested[-1][1] < assist[-1][1] < full[-1][1]  # lower volts lie lower in the picture
    assert "cut-off" in packs.draw(PACK)


def test_without_lamps_or_pack_there_is_no_picture():
    assert lamps.draw(PACK) == ""
    assert packs.draw(LAMPS) == ""


@pytest.mark.parametrize("text",
                         [coordination.draw(drawn_curves(), "W<1>", "F&1"), lamps.draw(LAMPS), packs.draw(PACK)])
def test_pictures_are_well_formed_escaped_and_described(text):
    root = ET.fromstring(text)
    assert root.find("{http://www.w3.org/2000/svg}title").text
    assert root.find("{http://www.w3.org/2000/svg}desc").text
    assert "style=" not in text


@pytest.mark.parametrize("make", PLANS, ids=lambda m: m.__name__)
def test_every_machine_has_a_map_with_all_its_places(make):
    analysis = analyse(make()[0])
    text = bikemap.draw(analysis)
    ET.fromstring(text)
    for place in analysis.plan.places:
        assert f">{place.id} {place.name}<" in text


@pytest.mark.parametrize("kind", BODIES)
def test_every_kind_of_machine_can_be_drawn(kind):
    plan = ferry_runner()[0]
    plan = plan.model_copy(update={"machine": plan.machine.model_copy(update={"kind": kind})})
    assert ET.fromstring(bikemap.draw(analyse(plan))) is not None
    shape = BODIES[kind]
    (rear_x, rear_y, rear_r), (front_x, front_y, front_r) = shape.axles
    assert front_x - rear_x > rear_r + front_r
    assert rear_y - rear_r == front_y - front_r  # both wheels stand on one ground


@pytest.mark.parametrize("kind", BODIES)
def test_wheels_touch_the_ground_line_of_the_picture(kind):
    svg = ET.fromstring(elevation(kind, 300, 200, "one"))
    ns = "{http://www.w3.org/2000/svg}"
    ground = float(svg.find(f"{ns}line").get("y1"))
    group = svg.find(f"{ns}g")
    _, _, _, ky, _, y0 = (float(v) for v in re.match(r"matrix\((.*)\)", group.get("transform"))[1].split())
    tyres = [c for c in group.findall(f"{ns}circle") if c.get("class") == "b-tyre"]
    assert len(tyres) == 2
    for tyre in tyres:
        lowest_mm = float(tyre.get("cy")) - float(tyre.get("r")) - float(tyre.get("stroke-width")) / 2
        assert abs(y0 + ky * lowest_mm - ground) < 0.5


@pytest.mark.parametrize("kind", BODIES)
def test_places_lie_on_the_body(kind):
    """Within 90 mm of a point that the outline goes through or is bent by, or between some of one shape."""
    outlines = [points(path) for _, path in BODIES[kind].shapes]
    for place in BODY_KINDS[kind].places:
        at = (place.x_mm, place.y_mm)
        near = min(hypot(at[0] - x, at[1] - y) for shape in outlines for x, y in shape)
        within = any(min(x for x, _ in shape) <= at[0] <= max(x for x, _ in shape)
                     and min(y for _, y in shape) <= at[1] <= max(y for _, y in shape) for shape in outlines)
        assert near < 90 or within, (place.name, near)


def test_a_selected_converter_s_lowest_window_is_in_the_picture():
    box = PACK.plan.of_kind("converter")[0]
    changed = analyse(apply(PACK.plan, ChangeElement(id=box.id, values={"window_low_v": 45})))
    assert "from 45 V" in packs.draw(changed)
