"""The bike map: a calm side elevation in millimetres, with the plan's places and runs on it.

The outline is our own, a dozen shapes of no particular machine: origin at the rear axle, forward and up positive.
Runs are as thick as the bundle they carry.
"""

from loadstar.core.analysis import Analysis
from loadstar.core.materials.conductors import BY_AREA
from loadstar.core.physics.heat import bundle_diameter_mm

from .labels import Box, Label, Line, place
from .svg import document, el, num, text

PAD = 30.0
WHEELBASE, WHEEL_R = 1480.0, 320.0
# (class, path in millimetres): drawn from back to front.
TOURER = (
    ("b-metal", "M -20 0 L 560 120 L 600 60 L -20 -30 Z"),
    ("b-line", "M 560 90 L 430 470 L 760 640 L 1090 700"),
    ("b-line", "M 560 90 L 900 40 L 1010 560 L 1090 720"),
    ("b-engine", "M 620 60 L 930 40 L 980 190 L 880 330 L 690 330 L 600 190 Z"),
    ("b-engine", "M 720 330 L 870 330 L 900 500 L 750 510 Z"),
    ("b-body", "M 640 640 C 700 760 980 800 1060 700 C 1060 610 960 560 820 560 C 740 560 660 580 640 640 Z"),
    ("b-seat", "M -270 690 C -150 700 20 640 180 600 C 320 570 520 560 650 640 L 640 590 C 500 500 300 510 120 550 "
               "C -20 590 -160 630 -270 650 Z"),
    ("b-body", "M 150 540 L 520 520 L 470 330 L 330 350 Z"),
    ("b-metal", "M 880 210 C 960 60 900 -60 700 -80 L 300 -60 L -130 20 L -150 90 L 310 10 L 690 -20 C 830 -10 880 60 "
                "830 210 Z"),
    ("b-body", "M 1040 790 C 1160 820 1290 760 1340 640 L 1200 560 L 1080 600 Z"),
    ("b-glass", "M 1080 790 L 1010 1060 C 1120 1010 1200 880 1210 780 Z"),
    ("b-line", "M 1090 720 L 1480 0 M 1130 760 L 1050 980 L 900 990"),
    ("b-body", "M 1270 330 C 1380 400 1600 380 1690 250 C 1600 320 1400 320 1290 270 Z"),
)


def draw(analysis: Analysis, *, width: float = 760, height: float = 370, selected: str = "", link: str = "") -> str:
    """The picture; `link` is an address with "{}" for the id of a place or run."""
    picture = _Map(analysis, width, height, selected, link)
    plan = analysis.plan
    return document(width, height, f"Side view of {plan.machine.name}",
                    f"{len(plan.places)} places and {len(plan.runs)} runs; the list beside it names them.",
                    picture.body(), id_prefix="map", linked=bool(link))


class _Map:
    def __init__(self, analysis: Analysis, width: float, height: float, selected: str, link: str) -> None:
        self.analysis, self.plan = analysis, analysis.plan
        self.width, self.height, self.selected, self.link = width, height, selected, link
        xs = [p.x_mm for p in self.plan.places] + [-WHEEL_R, WHEELBASE + WHEEL_R]
        ys = [p.y_mm for p in self.plan.places] + [-WHEEL_R, 1080.0]
        self.left, self.top = min(xs) - 40, max(ys) + 60
        self.k = min((width - 2 * PAD) / (max(xs) - self.left + 40), (height - 2 * PAD) / (self.top - min(ys) + 20))

    def x(self, mm: float) -> float:
        return PAD + (mm - self.left) * self.k

    def y(self, mm: float) -> float:
        return PAD + (self.top - mm) * self.k

    def body(self) -> list[str]:
        """Ground, wheels, body, runs, places, labels."""
        place_ = f"matrix({self.k:.5f} 0 0 {-self.k:.5f} {self.x(0):.2f} {self.y(0):.2f})"
        ground = self.y(-WHEEL_R)
        made = [el("line", {"x1": 0, "x2": self.width, "y1": ground, "y2": ground, "class": "b-ground"})]
        for axle in (0.0, WHEELBASE):
            for radius, kind in ((WHEEL_R, "b-tyre"), (WHEEL_R * 0.77, "b-rim"), (WHEEL_R * 0.17, "b-metal")):
                made.append(el("circle", {"cx": self.x(axle), "cy": self.y(0), "r": radius * self.k, "class": kind}))
        shapes = [el("path", {"d": path, "class": kind}) for kind, path in TOURER]
        made.append(el("g", {"transform": place_, "class": "b-outline"}, *shapes))
        return [*made, *self._runs(), *self._places()]

    def _bundle_mm(self, run: str) -> float:
        diameters = [
            BY_AREA[wire.area_mm2].od_mm(self.analysis.topology.wires[wire.id].wall)
            for wire in self.analysis.wires.values()
            if any(s.run == run for s in self.analysis.topology.geometry[wire.id].segments)]
        return bundle_diameter_mm(diameters) if diameters else 0.0

    def _linked(self, element: str, name: str, inside: str) -> str:
        if not self.link:
            return inside
        return el("a", {"href": self.link.replace("{}", element), "aria-label": name, "class": "d-link"}, inside)

    def _runs(self) -> list[str]:
        at = {p.id: p for p in self.plan.places}
        made = []
        for run in self.plan.runs:
            a, b = at[run.a], at[run.b]
            ends = {"x1": self.x(a.x_mm), "y1": self.y(a.y_mm), "x2": self.x(b.x_mm), "y2": self.y(b.y_mm)}
            thick = self._bundle_mm(run.id)
            kind = "m-run" + (" is-selected" if run.id == self.selected else "") + (" m-empty" if not thick else "")
            line = el("line", {**ends, "class": kind, "stroke-width": num(2 + thick * 0.8)})
            touch = el("line", {**ends, "class": "d-touch", "stroke-width": 20})
            made.append(self._linked(run.id, f"Run {run.id}, {run.length_m:g} m", line + touch))
        return made

    def _places(self) -> list[str]:
        lines: list[Line] = []
        at = {p.id: p for p in self.plan.places}
        for run in self.plan.runs:
            a, b = at[run.a], at[run.b]
            lines.append((self.x(a.x_mm), self.y(a.y_mm), self.x(b.x_mm), self.y(b.y_mm)))
        rings = [Box(self.x(p.x_mm) - 9, self.y(p.y_mm) - 9, self.x(p.x_mm) + 9, self.y(p.y_mm) + 9)
                 for p in self.plan.places]
        labels = [Label(p.id, (f"{p.id} {p.name}",), self.x(p.x_mm), self.y(p.y_mm), -1, 15, 9)
                  for p in self.plan.places]
        placed = place(labels, Box(4, 4, self.width - 4, self.height - 4), rings, lines)
        made, words = [], []
        for p in self.plan.places:
            kind = "m-place" + (" is-selected" if p.id == self.selected else "")
            ring = el("circle", {"cx": self.x(p.x_mm), "cy": self.y(p.y_mm), "r": 8, "class": kind})
            touch = el("circle", {"cx": self.x(p.x_mm), "cy": self.y(p.y_mm), "r": 22, "class": "d-touch-fill"})
            made.append(self._linked(p.id, f"{p.id} {p.name}", ring + touch))
            put = placed[p.id]
            if put is None:
                continue
            b = put.box
            if put.far:
                x, y = min(max(self.x(p.x_mm), b.x0), b.x1), min(max(self.y(p.y_mm), b.y0), b.y1)
                words.append(el("line", {"x1": self.x(p.x_mm), "y1": self.y(p.y_mm), "x2": x, "y2": y,
                                         "class": "d-leader"}))
            words.append(el("rect", {"x": b.x0, "y": b.y0, "width": b.x1 - b.x0, "height": b.y1 - b.y0, "rx": 3,
                                     "class": "d-plate"}))
            words.append(el("text", {"x": (b.x0 + b.x1) / 2, "y": b.y1 - 4, "text-anchor": "middle",
                                     "class": "d-big"}, text(put.label.lines[0])))
        return made + words
