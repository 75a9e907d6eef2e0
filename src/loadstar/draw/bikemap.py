"""The bike map: a calm side elevation in millimetres, with the plan's places, runs and connectors on it.

Runs are as thick as the bundle they carry. From the left the machine faces left, from the right it faces right; what
sits on the other side is drawn faint. Where it is hot, wet or moves is hatched; a run with something beside it is
edged, dotted once something is done about it.
"""

from itertools import pairwise
from typing import Literal

from loadstar.core.analysis import Analysis
from loadstar.core.doc.places import MOST_POINTS, Run
from loadstar.core.edits.survey import wheelbase_mm
from loadstar.core.harness.packing import bounds_mm
from loadstar.core.materials.hazards import HAZARDS, OPEN
from loadstar.core.plan.model import Plan

from .bodies import BODIES
from .elevation import bounds, outline
from .labels import Box, Label, Line, ends_of, place
from .svg import PLAIN, Look, Size, document, el, num, text

PAD = 30.0
SIZE: Size = (760.0, 370.0)
HAZARD_MM = 95.0
Side = Literal["right", "left"]


def draw(analysis: Analysis, look: Look = PLAIN, *, size: Size = SIZE, side: Side = "right", bends: bool = False,
         along: tuple[str, ...] = ()) -> str:
    """The picture. With `bends` the selected run's way points can be taken hold of; `along` are runs shown as
    selected."""
    picture = _Map(analysis, Ground(analysis.plan, size, side), look, bends, along)
    plan = analysis.plan
    return document(size, f"{plan.machine.name} from the {side}",
                    f"{len(plan.places)} places, {len(plan.runs)} runs and {len(plan.plugs)} connectors; the list "
                    f"beside it names them.",
                    picture.body(), "map", look)


def mm_at(analysis: Analysis, x: float, y: float, *, size: Size = SIZE, side: Side = "right") -> tuple[float, float]:
    """Millimetres on the machine of a point of the picture."""
    ground = Ground(analysis.plan, size, side)
    return round(ground.mm_x(x)), round(ground.mm_y(y))


def step(analysis: Analysis, *, size: Size = SIZE) -> float:
    """How far 10 mm of the machine are on the picture."""
    return 10 * Ground(analysis.plan, size, "right").k


class Ground:
    """The machine's outline, and where its millimetres are on a picture of a size, seen from a side."""

    def __init__(self, plan: Plan, size: Size, side: Side) -> None:
        self.size, self.side = size, side
        width, height = size
        self.shape = shape = BODIES[plan.machine.kind]
        self.stretch = wheelbase_mm(plan) / shape.wheelbase  # the outline grows with the wheelbase
        left_mm, right_mm, low_mm, high_mm = (edge * self.stretch for edge in bounds(shape))
        xs = [p.x_mm for p in plan.places] + [left_mm, right_mm]
        ys = [p.y_mm for p in plan.places] + [low_mm, high_mm]
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


class _Map:
    def __init__(self, analysis: Analysis, ground: Ground, look: Look, bends: bool, along: tuple[str, ...]) -> None:
        self.analysis, self.plan, self.ground = analysis, analysis.plan, ground
        self.look, self.bends, self.along = look, bends, along
        self.x, self.y, self.k, self.side = ground.x, ground.y, ground.k, ground.side

    def body(self) -> list[str]:
        """Ground, wheels, body, hazards, runs, places, connectors, labels."""
        on = self.ground
        k, level = on.k * on.stretch, on.y(-on.shape.wheel_r * on.stretch)
        made = [el("line", {"x1": 0, "x2": on.size[0], "y1": level, "y2": level, "class": "b-ground"}),
                outline(on.shape, on.sign * k, -k, on.x(0), on.y(0))]
        return [*made, *self._hazards(), *self._runs(), *self._places(), *self._points()]

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

    def _runs(self) -> list[str]:
        made = []
        for run in self.plan.runs:
            way = self._way(run)
            points = {"points": " ".join(f"{num(x)},{num(y)}" for x, y in way), "fill": "none"}
            thick = self._bundle_mm(run.id)
            kind = "m-run" + (" is-selected" if run.id in (self.look.selected, *self.along) else "") + (
                " m-empty" if not thick else "") + (" m-far" if run.side and run.side != self.side else "")
            line = el("polyline", {**points, "class": kind, "stroke-width": num(2 + thick * 0.8)})
            beside = "".join(el("polyline", {**points, "class": f"m-beside {state}", "stroke-width": num(
                12 + thick * 0.8)}) for state in self._beside(run))
            touch = el("polyline", {**points, "class": "d-touch", "stroke-width": 20})
            made.append(self.look.led(run.id, f"Run {run.id}, {run.length_m:g} m", beside + line + touch))
        return made

    def _way(self, run: Run) -> list[tuple[float, float]]:
        """A run's points on the picture, from end to end."""
        a, b = self.plan.place(run.a), self.plan.place(run.b)
        return [(self.x(p.x_mm), self.y(p.y_mm)) for p in (a, *run.points, b)]

    def _beside(self, run: Run) -> list[str]:
        """Whether something lies beside it: open, or done about; nothing where there is nothing."""
        said = [getattr(run, field) for field in HAZARDS]
        return ["is-open"] if OPEN in said else ["is-done"] if any(said) else []

    def _points(self) -> list[str]:
        """Of the run that is selected its way points, and between them where another can be put."""
        run = next((r for r in self.plan.runs if r.id == self.look.selected), None)
        if run is None or not self.bends:
            return []
        way = self._way(run)
        made = []
        for n, ((x0, y0), (x1, y1)) in enumerate(pairwise(way)):
            if len(run.points) < MOST_POINTS:
                made.append(self._spot(f"{run.id}+{n}", (x0 + x1) / 2, (y0 + y1) / 2, f"Bend {run.id} here", "m-bend"))
        made += [self._spot(f"{run.id}.{n}", x, y, f"Way point {n + 1} of {run.id}", "m-point")
                 for n, (x, y) in enumerate(way[1:-1])]
        return made

    def _spot(self, key: str, x: float, y: float, name: str, kind: str) -> str:
        ring = el("circle", {"cx": num(x), "cy": num(y), "r": 6 if kind == "m-point" else 4, "class": kind})
        touch = el("circle", {"cx": num(x), "cy": num(y), "r": 16, "class": "d-touch-fill"})
        return el("g", {"data-place": key, "id": f"spot-{key}", "class": "m-spot", "tabindex": 0, "role": "button",
                        "aria-label": name}, ring + touch)

    def _places(self) -> list[str]:
        lines: list[Line] = []
        for run in self.plan.runs:
            lines += [(*one, *two) for one, two in pairwise(self._way(run))]
        rings = [Box(self.x(p.x_mm) - 9, self.y(p.y_mm) - 9, self.x(p.x_mm) + 9, self.y(p.y_mm) + 9)
                 for p in self.plan.places]
        labels = [Label(p.id, (f"{p.id} {p.name}",), self.x(p.x_mm), self.y(p.y_mm), -1, 15, 9)
                  for p in self.plan.places]
        placed = place(labels, Box(4, 4, self.ground.size[0] - 4, self.ground.size[1] - 4), rings, lines)
        made, words = [], []
        for p in self.plan.places:
            far = " m-far" if p.side and p.side != self.side else ""
            kind = "m-place" + (" is-selected" if p.id == self.look.selected
                                else "") + far + (" m-believed" if p.standing == "believed" else "")
            ring = el("circle", {"cx": self.x(p.x_mm), "cy": self.y(p.y_mm), "r": 8, "class": kind})
            touch = el("circle", {"cx": self.x(p.x_mm), "cy": self.y(p.y_mm), "r": 22, "class": "d-touch-fill"})
            plugs = [plug for plug in self.plan.plugs if plug.place == p.id]
            tabs = "".join(el("rect",
                              {"x": self.x(p.x_mm) - 5 + 7 * i, "y": self.y(p.y_mm) + 10, "width": 5.5, "height": 7,
                                       "class": "m-never" if plug.never else "m-plug"})
                                       for i, plug in enumerate(plugs[:4]))
            made.append(el("g", {"data-place": p.id, "class": "m-spot"},
                           self.look.led(p.id, f"{p.id} {p.name}", ring + tabs + touch)))
            put = placed[p.id]
            if put is None:
                continue
            b = put.box
            if put.leader:
                words.append(el("line", {**ends_of(put.leader), "class": "d-leader"}))
            words.append(el("rect", {"x": b.x0, "y": b.y0, "width": b.x1 - b.x0, "height": b.y1 - b.y0, "rx": 3,
                                     "class": "d-plate"}))
            words.append(el("text", {"x": (b.x0 + b.x1) / 2, "y": b.y1 - 4, "text-anchor": "middle",
                                     "class": "d-big"}, text(put.label.lines[0])))
        # Words lie over rings and runs, and are never what is meant by a press.
        return [*made, el("g", {"class": "m-words"}, *words)] if words else made
