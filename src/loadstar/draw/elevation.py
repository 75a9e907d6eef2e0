"""A machine's side elevation: its outline on the ground, at any scale."""

import re

from .bodies import BODIES, Body
from .svg import document, el

PAD_MM, TYRE_MM = 60.0, 46.0


def points(path: str) -> list[tuple[float, float]]:
    """The points that a path of an outline goes through or is bent by."""
    numbers = [float(n) for n in re.findall(r"-?\d+", re.sub(r"A \d+ \d+ 0 0 \d", "L", path))]
    return list(zip(numbers[::2], numbers[1::2], strict=True))


def bounds(shape: Body) -> tuple[float, float, float, float]:
    """Left, right, ground and top of an outline, mm."""
    (x0, _, r0), (x1, _, r1) = shape.axles
    drawn = [x for _, path in shape.shapes for x, _ in points(path)]
    return min(x0 - r0, *drawn) - PAD_MM, max(x1 + r1, *drawn) + PAD_MM, -shape.wheel_r, shape.top


def outline(shape: Body, kx: float, ky: float, x0: float, y0: float) -> str:
    """Wheels and body, placed by a scale and an origin; `kx` is negative where it faces left."""
    wheels = []
    for x, y, r in shape.axles:
        for radius, kind in ((r - TYRE_MM / 2, "b-tyre"), (r - 1.5 * TYRE_MM, "b-rim"), (0.13 * r, "b-metal")):
            wheels.append(el("circle", {"cx": x, "cy": y, "r": round(radius, 1), "class": kind,
                                        "stroke-width": TYRE_MM if kind == "b-tyre" else None}))
    shapes = [el("path", {"d": path, "class": kind}) for kind, path in shape.shapes]
    return el("g", {"transform": f"matrix({kx:.5f} 0 0 {ky:.5f} {x0:.2f} {y0:.2f})", "class": "b-outline"},
              *wheels, *shapes)


def elevation(kind: str, width: float, height: float, id_prefix: str) -> str:
    """A small picture of a kind of machine, facing right."""
    shape = BODIES[kind]
    left, right, low, top = bounds(shape)
    k = min(width / (right - left), height / (top - low + 2 * PAD_MM))
    ground = height - PAD_MM * k / 2
    x0 = (width - k * (right + left)) / 2
    return document((width, height), f"A {kind}", "Its outline from the right.", [
        el("line", {"x1": 0, "x2": width, "y1": ground, "y2": ground, "class": "b-ground"}),
        outline(shape, k, -k, x0, ground + low * k)], id_prefix)
