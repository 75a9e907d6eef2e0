"""The bike map from both sides and to scale, and the mouth of a connector: placed right, mirrored, nothing over
anything."""

import re
from itertools import combinations

import pytest
from builders import Bench

from loadstar.core.analysis import analyse
from loadstar.core.edits import ChangeElement, CutWire, SetMachine, apply
from loadstar.core.edits.plugs import PutPlug
from loadstar.core.edits.survey import BodyPlaces, SetScale
from loadstar.core.parts.coupling import Coupling
from loadstar.core.plan.bodies import BODY_KINDS
from loadstar.core.plan.model import Plan
from loadstar.demo import fit_out
from loadstar.draw import bikemap, mouth
from loadstar.draw.bodies import BODIES
from loadstar.draw.svg import Look


def body(kind: str) -> Plan:
    return apply(apply(Plan(), SetMachine(values={"kind": kind, "name": kind})), BodyPlaces())


def ring(svg: str, place: str) -> tuple[float, float]:
    """The middle of a place's ring in a map."""
    found = re.search(rf'data-place="{place}".*?<circle cx="([\d.-]+)" cy="([\d.-]+)"', svg)
    return float(found[1]), float(found[2])


def test_core_and_pictures_agree_on_the_kinds_of_machine():
    assert BODIES.keys() == BODY_KINDS.keys()
    for kind, given in BODY_KINDS.items():
        assert BODIES[kind].wheelbase == given.wheelbase_mm


@pytest.mark.parametrize("side", ["left", "right"])
@pytest.mark.parametrize("kind", list(BODY_KINDS))
def test_every_body_from_either_side(kind, side):
    a = analyse(body(kind))
    svg = bikemap.draw(a, side=side)
    boxes = [tuple(float(v) for v in m) for m in re.findall(
        r'<rect x="([\d.-]+)" y="([\d.-]+)" width="([\d.]+)" height="([\d.]+)" rx="3" class="d-plate"', svg)]
    assert len(boxes) == len(a.plan.places)
    for (x0, y0, w0, h0), (x1, y1, w1, h1) in combinations(boxes, 2):
        assert x0 + w0 <= x1 + 0.2 or x1 + w1 <= x0 + 0.2 or y0 + h0 <= y1 + 0.2 or y1 + h1 <= y0 + 0.2
    # A point of the picture is the millimetres that were drawn there.
    for place in a.plan.places:
        x_mm, y_mm = bikemap.mm_at(a, *ring(svg, place.id), side=side)
        assert abs(x_mm - place.x_mm) <= 1 and abs(y_mm - place.y_mm) <= 1


def test_forward_is_to_the_left_when_seen_from_the_left():
    a = analyse(body("motorcycle"))
    for side, sign in (("right", 1), ("left", -1)):
        svg = bikemap.draw(a, side=side)
        head, box = ring(svg, "P5")[0], ring(svg, "P1")[0]
        assert (head - box) * sign > 0


def test_the_outline_grows_with_the_wheelbase():
    plan = body("scooter")
    wheels = []
    for base in (1300, 1430):
        scaled = apply(plan, SetScale(wheelbase_mm=base))
        svg = bikemap.draw(analyse(scaled), size=(2000, 1000))
        rear, front = (float(x) for x in re.findall(r'<circle cx="([\d.-]+)"[^>]*class="b-tyre"', svg))
        a, b = scaled.place("P1"), scaled.place("P5")  # drawn to the picture's scale
        per_mm = (ring(svg, "P5")[0] - ring(svg, "P1")[0]) / (b.x_mm - a.x_mm)
        wheels.append((front - rear) * float(re.search(r"matrix\(([\d.]+)", svg)[1]) / per_mm)
    assert wheels == [pytest.approx(1300, abs=3), pytest.approx(1430, abs=3)]


def test_what_is_on_the_other_side_is_faint_and_hazards_are_hatched():
    plan = body("motorcycle")
    plan = apply(apply(plan, ChangeElement(id="P1", values={"side": "left"})),
                 ChangeElement(id="P2", values={"water": "washed over"}))
    right, left = (bikemap.draw(analyse(plan), side=side) for side in ("right", "left"))
    assert "m-far" in right and "m-far" not in left
    # beside the front, which is washed over by itself; headstock and handlebar move
    assert [right.count(f"url(#hatch-{kind})") for kind in ("wet", "hot", "moves")] == [2, 1, 2]


def plug(ways=6, rows=2, **values):
    b = Bench()
    plan = apply(b.plan, PutPlug(values={"name": "six", "place": b.box, "ways": ways, "rows": rows, **values}, pins=(
        {"way": 1, "wire_colour": "red/white", "function": "feed", "live": "always"},
        {"way": 2, "wire_colour": "GN", "function": "ground"})))
    return plan, plan.plugs[0]


def test_the_wire_side_is_the_mouth_s_mirror_image():
    _, six = plug()
    face, back = mouth.grid(mouth.Face.of(six), "mouth"), mouth.grid(mouth.Face.of(six), "wires")
    assert [face[n] for n in range(1, 7)] == [(0, 0), (1, 0), (2, 0), (0, 1), (1, 1), (2, 1)]
    assert all(back[n] == (2 - column, row) for n, (column, row) in face.items())
    _, counted_behind = plug(seen="wires")
    assert mouth.grid(mouth.Face.of(counted_behind), "wires") == face
    assert mouth.grid(mouth.Face.of(counted_behind), "mouth") == back


@pytest.mark.parametrize(("latch", "mirrored"),
                         [("up", "up"), ("down", "down"), ("left", "right"), ("right", "left"), ("none", "none")])
def test_the_latch_turns_with_the_side(latch, mirrored):
    plan, six = plug(latch=latch)
    _, other = plug(latch=mirrored)
    latches = [re.findall(r'rx="2" class="d-load"', mouth.draw(plan, six, "wires"))]
    assert len(latches[0]) == (0 if latch == "none" else 1)
    place = re.compile(r'<rect ([^>]*) rx="2"')
    assert place.findall(mouth.draw(plan, six, "wires")) == place.findall(mouth.draw(plan, other, "mouth"))


def test_a_cavity_shows_its_number_its_wire_s_true_colours_and_what_it_is():
    plan, six = plug()
    svg = mouth.draw(plan, six, "mouth")
    assert ">BAT<" in svg and ">GND<" in svg and svg.count('class="d-label"') == 6
    assert mouth.wire_colours("red/white") == ["#c3221f",
                                               "#f7f5ee"] == mouth.wire_colours("RD-WH") == mouth.wire_colours("rd wh")
    assert mouth.wire_colours("striped") == []
    paper = mouth.draw(plan, six, "mouth", Look(paper=True))
    assert "class=" not in paper and "Loadstar Text" in paper


def test_pin_n_of_one_half_meets_pin_n_of_the_other_in_every_drawing():
    """By the cavities' coordinates: two halves mouth to mouth are mirror images, wire sides and mouths of one too."""
    for ways in range(1, 25):
        coupling = Coupling(id="CN1", name="joint", place="P1", ways=ways)
        a, b = mouth.of_half(coupling, "a"), mouth.of_half(coupling, "b")
        columns = max(c for c, _ in mouth.grid(a, "mouth").values())
        for face in (a, b):
            for n, (c, r) in mouth.grid(face, "mouth").items():
                assert mouth.grid(face, "wires")[n] == (columns - c, r)
        for n, (c, r) in mouth.grid(a, "mouth").items():
            assert mouth.grid(b, "mouth")[n] == (columns - c, r)
    plan = apply(fit_out()[0], CutWire(id="W8", place="P2"))
    coupling = plan.of_kind("coupling")[0]
    at = {(side, seen): re.search(r'<rect x="([\d.]+)"[^>]*height="54"', mouth.half(plan, coupling, side, seen))[1]
          for side in "ab" for seen in ("mouth", "wires")}
    assert at["a", "mouth"] == at["b", "wires"] and at["a", "wires"] == at["b", "mouth"] != at["a", "mouth"]
    assert "W8" in mouth.half(plan, coupling, "a", "mouth")
