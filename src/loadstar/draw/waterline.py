"""The waterline: the generator's output over engine speed is the shore, the stack of loads the water.

Where they meet the machine floats. Left of that, from idle on, the hatched part of the water above the shore is what
the battery pays. Watts on the left, amps at the regulator's set-point on the right.
"""

from dataclasses import dataclass

from loadstar.core.analysis import Analysis
from loadstar.core.budget.ledger import Ledger, break_even_rpm, ledger
from loadstar.core.doc.states import STATE_NAMES, States

from .labels import Box, Label, Line, Placed, nice_step, place
from .svg import document, el, text

LEFT, RIGHT, TOP, BOTTOM = 66.0, 58.0, 30.0, 46.0
LAYERS = 8
POINTS = 90


@dataclass(frozen=True)
class Layer:
    """One consumer as a band of water: watts from `low_w` to `high_w`; `tone` picks its fill."""

    id: str
    name: str
    low_w: float
    high_w: float
    tone: int


@dataclass(frozen=True)
class Water:
    """The numbers of the picture."""

    shore: tuple[tuple[float, float], ...]
    layers: tuple[Layer, ...]
    demand_w: float
    floats_rpm: float | None
    top_rpm: float
    top_w: float
    account: Ledger


def water(analysis: Analysis, off: frozenset[str] = frozenset()) -> Water | None:
    """Shore and layers with some consumers switched off; None without a generator."""
    plan = analysis.plan
    generator = plan.generator
    if generator is None:
        return None
    top_rpm = plan.machine.cruise_rpm * 1.6
    shore = []
    for i in range(POINTS + 1):
        rpm = top_rpm * i / POINTS
        gives_a = generator.available_a(rpm, generator.set_v) if analysis.account.generator else 0.0
        shore.append((rpm, gives_a * generator.set_v))
    plan = analysis.account
    account = ledger(plan, "cruise", off)
    layers, level = [], 0.0
    tones = {item.id: n for n, item in enumerate(account.items)}
    for item in account.items:
        if item.counts:
            watts = item.average_w
            layers.append(Layer(item.id, item.name, level, level + watts,
                                0 if item.own else 1 + tones[item.id] % LAYERS))
            level += watts
    top = max(max(w for _, w in shore), level, 10.0) * 1.12
    return Water(tuple(shore), tuple(layers), level, break_even_rpm(plan, off), top_rpm, top, account)


def draw(analysis: Analysis, state: States, off: frozenset[str] = frozenset(), *, width: float = 800,
         height: float = 470) -> str:
    """The picture for the screen."""
    sea = water(analysis, off)
    if sea is None:
        words = "No generator has been entered: there is nothing to set against the demand."
        return document((width, 70), words, words, [el("text", {"x": 20, "y": 40, "class": "d-label"}, text(words))],
                        "water")
    picture = _Picture(analysis, sea, state, width, height)
    floats = (f"The battery charges from {sea.floats_rpm:.0f} rpm." if sea.floats_rpm is not None
              else "The battery discharges at every speed.")
    return document((width, height), "The waterline: generator against demand over engine speed",
                    f"{sea.demand_w:.0f} W is the load with the engine running. {floats}", picture.body(),
                    "water")


class _Picture:
    def __init__(self, analysis: Analysis, sea: Water, state: States, width: float, height: float) -> None:
        self.analysis, self.sea, self.state = analysis, sea, state
        self.width, self.height = width, height
        self.area = Box(LEFT, TOP, width - RIGHT, height - BOTTOM)
        self.idle = analysis.plan.machine.idle_rpm

    def x(self, rpm: float) -> float:
        return LEFT + (self.area.x1 - LEFT) * rpm / self.sea.top_rpm

    def y(self, watts: float) -> float:
        return self.area.y1 - (self.area.y1 - TOP) * watts / self.sea.top_w

    def body(self) -> list[str]:
        """Water, debt, shore, axes, marks, labels."""
        a = self.area
        return [
            el("rect", {"x": a.x0, "y": a.y0, "width": a.x1 - a.x0, "height": a.y1 - a.y0, "class": "d-frame"}),
            *self._layers(), *self._debt(), *self._axes(), *self._states(), *self._shore(), *self._labels(),
        ]

    def _layers(self) -> list[str]:
        return [el("rect", {"x": self.area.x0, "y": self.y(layer.high_w), "width": self.area.x1 - self.area.x0,
                            "height": self.y(layer.low_w) - self.y(layer.high_w), "class": f"water w-{layer.tone}"},
                   el("title", {}, text(f"{layer.name}: {layer.high_w - layer.low_w:.0f} W")))
                for layer in self.sea.layers]

    def _debt(self) -> list[str]:
        """The water above the shore, from idle to where it floats."""
        end = self.sea.floats_rpm if self.sea.floats_rpm is not None else self.sea.top_rpm
        if end <= self.idle:
            return []
        points = [(self.idle, self._shore_at(self.idle))]
        points += [(n, w) for n, w in self.sea.shore if self.idle < n < end]
        points.append((end, min(self._shore_at(end), self.sea.demand_w)))
        edge = [(self.idle, self.sea.demand_w), *((n, min(w, self.sea.demand_w)) for n, w in points),
                (end, self.sea.demand_w)]
        path = " ".join(f"{self.x(n):.1f},{self.y(w):.1f}" for n, w in edge)
        hatch = el("pattern", {"id": "debt", "width": 9, "height": 9, "patternUnits": "userSpaceOnUse",
                               "patternTransform": "rotate(45)"},
                   el("line", {"x1": 0, "y1": 0, "x2": 0, "y2": 9, "class": "d-debt"}))
        return [el("defs", {}, hatch), el("polygon", {"points": path, "fill": "url(#debt)"})]

    def _shore_at(self, rpm: float) -> float:
        generator = self.analysis.plan.generator
        assert generator is not None
        return generator.available_a(rpm, generator.set_v) * generator.set_v

    def _axes(self) -> list[str]:
        a, made = self.area, []
        step = nice_step(self.sea.top_w, 7)
        watts = 0.0
        while watts < self.sea.top_w:
            y = self.y(watts)
            made.append(el("line", {"x1": a.x0, "x2": a.x1, "y1": y, "y2": y, "class": "d-grid"}))
            made.append(el("text", {"x": a.x0 - 8, "y": y + 4, "text-anchor": "end", "class": "d-axis"},
                           text(f"{watts:.0f}\u00a0W")))
            watts += step
        volts = self.sea.account.at_v
        step_a = nice_step(self.sea.top_w / volts, 7)
        amps = step_a  # 0 A is where 0 W is, and would run into the last speed
        while amps * volts < self.sea.top_w:
            made.append(el("text", {"x": a.x1 + 8, "y": self.y(amps * volts) + 4, "class": "d-axis"},
                           text(f"{amps:.{int(step_a < 1)}f}\u00a0A")))
            amps += step_a
        rpm, step_n = 0.0, nice_step(self.sea.top_rpm, 9)
        while rpm <= self.sea.top_rpm + 1:
            made.append(el("text", {"x": self.x(rpm), "y": a.y1 + 20, "text-anchor": "middle", "class": "d-axis"},
                           text(f"{rpm:.0f}")))
            rpm += step_n
        made.append(el("text", {"x": a.x1, "y": a.y1 + 36, "text-anchor": "end", "class": "d-soft"},
                       text(f"engine speed, rpm; amps at {volts:.1f} V")))
        return made

    def _states(self) -> list[str]:
        made = []
        for state in ("idle", "town", "cruise"):
            x = self.x(self.analysis.plan.machine.rpm(state))
            here = state == self.state
            made.append(el("line", {"x1": x, "x2": x, "y1": self.area.y0, "y2": self.area.y1,
                                    "class": "d-now" if here else "d-dots"}))
            made.append(el("text", {"x": x, "y": self.area.y0 - 9, "text-anchor": "middle",
                                    "class": "d-label" if here else "d-soft"}, text(STATE_NAMES[state])))
        return made

    def _shore(self) -> list[str]:
        path = " ".join(f"{self.x(n):.1f},{self.y(w):.1f}" for n, w in self.sea.shore)
        top = self.y(self.sea.demand_w)
        made = [el("line", {"x1": self.area.x0, "x2": self.area.x1, "y1": top, "y2": top, "class": "d-level"}),
                el("polyline", {"points": path, "class": "d-shore"})]
        if self.sea.floats_rpm is not None and self.sea.floats_rpm < self.sea.top_rpm:
            made.append(el("circle", {"cx": self.x(self.sea.floats_rpm), "cy": top, "r": 8, "class": "d-float"}))
        return made

    def labels(self) -> dict[str, Placed | None]:
        """The picture's own words with their places, clear of the shore and the level."""
        sea = self.sea
        lines: list[Line] = [
            (self.x(n0), self.y(w0), self.x(n1), self.y(w1))
            for (n0, w0), (n1, w1) in zip(sea.shore, sea.shore[1:], strict=False)]
        level = self.y(sea.demand_w)
        lines.append((self.area.x0, level, self.area.x1, level))
        lines.append((self.x(self.idle), self.area.y0, self.x(self.idle), self.area.y1))
        wanted = []
        if sea.floats_rpm is None:
            wanted.append(Label("floats", ("discharges at every speed",), self.x(sea.top_rpm / 2), level, -1, 15))
        elif sea.floats_rpm < sea.top_rpm:
            wanted.append(Label("floats", (f"charges from {sea.floats_rpm:.0f} rpm",), self.x(sea.floats_rpm) + 90,
                                level + 4, 1, 15))
        wanted.append(Label("asked", (f"all that is on, {sea.demand_w:.0f} W",), self.x(sea.top_rpm * 0.86), level, 1))
        end_n, end_w = sea.shore[-8]
        wanted.append(Label("shore", ("generator at the battery",), self.x(end_n) - 60, self.y(end_w), -1))
        short_w = sea.demand_w - self._shore_at(self.idle)
        if short_w > 0:
            amps = short_w / sea.account.at_v
            wanted.append(Label("debt", (f"{short_w:.0f} W short at idle:", f"the battery gives {amps:.1f} A"),
                                self.x(self.idle) + 100, self.y(sea.demand_w), -1))
        return place(wanted, Box(self.area.x0 + 4, self.area.y0 + 2, self.area.x1 - 4, self.area.y1 - 2), [], lines)

    def _labels(self) -> list[str]:
        made = []
        classes = {"debt": "d-bad", "shore": "d-tide", "floats": "d-big", "asked": "d-label"}
        for key, put in self.labels().items():
            if put is None:
                continue
            b = put.box
            made.append(el("rect", {"x": b.x0, "y": b.y0, "width": b.x1 - b.x0, "height": b.y1 - b.y0,
                                    "class": "d-plate", "rx": 3}))
            for i, line in enumerate(put.label.lines):
                made.append(el("text", {"x": (b.x0 + b.x1) / 2, "y": b.y0 + (i + 1) * (put.label.size + 3) - 3,
                                        "text-anchor": "middle", "class": classes[key]}, text(line)))
        return made
