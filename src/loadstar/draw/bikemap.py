"""The bike map: a calm side elevation in millimetres, with the plan's places and runs on it.

Runs are as thick as the bundle they carry.
"""

from loadstar.core.analysis import Analysis
from loadstar.core.materials.conductors import BY_AREA
from loadstar.core.physics.heat import bundle_diameter_mm

from .bodies import BODIES
from .labels import Box, Label, Line, place
from .svg import document, el, num, text

PAD = 30.0
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
        self.shape = shape = BODIES[self.plan.machine.kind]
        xs = [p.x_mm for p in self.plan.places] + [-shape.wheel_r, shape.wheelbase + shape.wheel_r]
        ys = [p.y_mm for p in self.plan.places] + [-shape.wheel_r, shape.top]
        self.left, self.top = min(xs) - 40, max(ys) + 60
        self.k = min((width - 2 * PAD) / (max(xs) - self.left + 40), (height - 2 * PAD) / (self.top - min(ys) + 20))

    def x(self, mm: float) -> float:
        return PAD + (mm - self.left) * self.k

    def y(self, mm: float) -> float:
        return PAD + (self.top - mm) * self.k

    def body(self) -> list[str]:
        """Ground, wheels, body, runs, places, labels."""
        place_ = f"matrix({self.k:.5f} 0 0 {-self.k:.5f} {self.x(0):.2f} {self.y(0):.2f})"
        radius_ = self.shape.wheel_r
        ground = self.y(-radius_)
        made = [el("line", {"x1": 0, "x2": self.width, "y1": ground, "y2": ground, "class": "b-ground"})]
        for axle in (0.0, self.shape.wheelbase):
            for radius, kind in ((radius_, "b-tyre"), (radius_ * 0.77, "b-rim"), (radius_ * 0.17, "b-metal")):
                made.append(el("circle", {"cx": self.x(axle), "cy": self.y(0), "r": radius * self.k, "class": kind}))
        shapes = [el("path", {"d": path, "class": kind}) for kind, path in self.shape.shapes]
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
