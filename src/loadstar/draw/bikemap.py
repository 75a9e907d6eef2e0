"""The bike map: a calm side elevation in millimetres, with the plan's places, runs and connectors on it.

Runs are as thick as the bundle they carry. From the left the machine faces left, from the right it faces right; what
sits on the other side is drawn faint. Where it is hot, wet or moves is hatched.
"""

from typing import Literal

from loadstar.core.analysis import Analysis
from loadstar.core.edits.survey import wheelbase_mm
from loadstar.core.harness.packing import bounds_mm

from .bodies import BODIES
from .elevation import bounds, outline
from .labels import Box, Label, Line, place
from .svg import document, el, num, text

PAD = 30.0
WIDTH, HEIGHT = 760.0, 370.0
HAZARD_MM = 95.0
Side = Literal["right", "left"]


def draw(analysis: Analysis, *, width: float = WIDTH, height: float = HEIGHT, selected: str = "", link: str = "",
         side: Side = "right") -> str:
    """The picture; `link` is an address with "{}" for the id of a place, run or connector."""
    picture = _Map(analysis, width, height, selected, link, side)
    plan = analysis.plan
    return document(width, height, f"{plan.machine.name} from the {side}",
                    f"{len(plan.places)} places, {len(plan.runs)} runs and {len(plan.plugs)} connectors; the list "
                    f"beside it names them.",
                    picture.body(), id_prefix="map", linked=bool(link))


def mm_at(analysis: Analysis, x: float, y: float, *, width: float = WIDTH, height: float = HEIGHT,
          side: Side = "right") -> tuple[float, float]:
    """Millimetres on the machine of a point of the picture."""
    picture = _Map(analysis, width, height, "", "", side)
    return round(picture.mm_x(x)), round(picture.mm_y(y))


class _Map:
    def __init__(self, analysis: Analysis, width: float, height: float, selected: str, link: str, side: Side) -> None:
        self.analysis, self.plan = analysis, analysis.plan
        self.width, self.height, self.selected, self.link, self.side = width, height, selected, link, side
        self.shape = shape = BODIES[self.plan.machine.kind]
        self.stretch = wheelbase_mm(self.plan) / shape.wheelbase  # the outline grows with the wheelbase
        left_mm, right_mm, low_mm, high_mm = (edge * self.stretch for edge in bounds(shape))
        xs = [p.x_mm for p in self.plan.places] + [left_mm, right_mm]
        ys = [p.y_mm for p in self.plan.places] + [low_mm, high_mm]
        left, right, self.top = min(xs) - 40, max(xs) + 40, max(ys) + 60
        self.k = min((width - 2 * PAD) / (right - left), (height - 2 * PAD) / (self.top - min(ys) + 20))
        self.sign = 1 if side == "right" else -1
        middle = (left + right) / 2
        self.origin = width / 2 - self.sign * middle * self.k

    def mm_x(self, x: float) -> float:
        return (x - self.origin) / (self.sign * self.k)

    def mm_y(self, y: float) -> float:
        return self.top - (y - PAD) / self.k

    def x(self, mm: float) -> float:
        return self.origin + self.sign * mm * self.k

    def y(self, mm: float) -> float:
        return PAD + (self.top - mm) * self.k

    def body(self) -> list[str]:
        """Ground, wheels, body, hazards, runs, places, connectors, labels."""
        k = self.k * self.stretch
        ground = self.y(-self.shape.wheel_r * self.stretch)
        made = [el("line", {"x1": 0, "x2": self.width, "y1": ground, "y2": ground, "class": "b-ground"}),
                outline(self.shape, self.sign * k, -k, self.x(0), self.y(0))]
        return [*made, *self._hazards(), *self._runs(), *self._places()]

    def _hazards(self) -> list[str]:
        """Where a place is hot, washed over or moves: a hatched disc around it."""
        made = [el("defs", {},
                   *(el("pattern", {"id": f"hatch-{kind}", "width": 8, "height": 8, "patternUnits": "userSpaceOnUse",
                                                "patternTransform": f"rotate({turn})"},
                                    el("line", {"x1": 0, "y1": 0, "x2": 0, "y2": 8, "class": f"h-{kind}"}))
                                 for kind, turn in (("hot", 45), ("wet", 0), ("moves", 90))))]
        for p in self.plan.places:
            kinds = (("hot", p.zone == "near the engine" or (not p.zone and p.ambient_c >= 75)),
                     ("wet", p.water == "washed over"),
                     ("moves", p.moves != "still"))
            made += [el("circle",
                {"cx": self.x(p.x_mm), "cy": self.y(p.y_mm), "r": HAZARD_MM * self.k, "fill": f"url(#hatch-{kind})",
                                   "class": "m-hazard"}) for kind, is_there in kinds if is_there]
        return made

    def _bundle_mm(self, run: str) -> float:
        here = self.analysis.loom.by_run.get(run) if self.analysis.loom else None
        return bounds_mm(here.diameters_mm)[0] if here else 0.0

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
            kind = "m-run" + (" is-selected" if run.id == self.selected else "") + (
                " m-empty" if not thick else "") + (" m-far" if run.side and run.side != self.side else "")
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
            far = " m-far" if p.side and p.side != self.side else ""
            kind = "m-place" + (" is-selected" if p.id == self.selected
                                else "") + far + (" m-believed" if p.standing == "believed" else "")
            ring = el("circle", {"cx": self.x(p.x_mm), "cy": self.y(p.y_mm), "r": 8, "class": kind})
            touch = el("circle", {"cx": self.x(p.x_mm), "cy": self.y(p.y_mm), "r": 22, "class": "d-touch-fill"})
            plugs = [plug for plug in self.plan.plugs if plug.place == p.id]
            tabs = "".join(el("rect",
                              {"x": self.x(p.x_mm) - 5 + 7 * i, "y": self.y(p.y_mm) + 10, "width": 5.5, "height": 7,
                                       "class": "m-never" if plug.never else "m-plug"})
                                       for i, plug in enumerate(plugs[:4]))
            made.append(el("g", {"data-place": p.id, "class": "m-spot"},
                           self._linked(p.id, f"{p.id} {p.name}", ring + tabs + touch)))
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
        # Words lie over rings and runs, and are never what is meant by a press.
        return [*made, el("g", {"class": "m-words"}, *words)] if words else made
