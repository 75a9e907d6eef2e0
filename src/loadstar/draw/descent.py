"""The descent: one circuit as a walk downhill, to scale, from solved node voltages.

Along: metres from the source, out to the load and back. Up: volts. Wires are slopes, fuses and contacts small steps,
the load is the cliff between the two bands (which share one scale of volts; the cliff itself is not drawn to it).
"""

from collections.abc import Callable, Iterator, Sequence

from loadstar.core.amounts import percent
from loadstar.core.analysis import Analysis
from loadstar.core.doc.states import STATE_NAMES, States
from loadstar.core.doc.wires import Wire
from loadstar.core.parts.can import as_accessory

from .labels import Box, Label, Line, Placed, ends_of, nice_step, place
from .scale import LEFT, RIGHT, STEP_W, Scale, scale_of
from .svg import PLAIN, WIRE_COLOURS, Look, Size, document, el, num, text
from .walk import Stride, Walk, root_name, source_name, walk

LARGE_A = 20.0
Dot = tuple[str, str, float, str]  # red and black node, volts, and whether that is in order: "in", "near", "out"


def draw(analysis: Analysis, load_id: str, state: States, look: Look = PLAIN, *, size: Size = (816, 400),
         dots: Sequence[Dot] = ()) -> str:
    """The picture. `dots` are readings against the circuit's beginning: each is put where it was taken, as high as it
    was."""
    (width, height), prefix = size, f"descent-{load_id}"
    way = walk(analysis, load_id, state)
    if way is None:
        load = analysis.topology.parts[load_id]
        words = f"{load.name} is not live in this state ({STATE_NAMES[state].lower()})."
        return document((width, 70), words, words, [el("text", {"x": 20, "y": 40, "class": "d-label"}, text(words),
                                                       paper=look.paper)], prefix, Look(paper=look.paper))
    picture = _Picture(analysis, load_id, way, scale_of(way, width, height), look, dots)
    lost, load = 1 - way.across_v / way.begins_v, way.load
    description = (
        f"From {way.feed[0].v0:.2f} V at the source the feed falls to {way.feed[-1].v1:.2f} V at {load.name}, which "
        f"has {way.across_v:.2f} V across it; the return climbs down from {way.back[0].v0:.2f} V to "
        f"{root_name(analysis, load_id)} over {way.length_m:.1f} m in all. {percent(lost, 1)} is lost on the way.")
    return document((width, picture.height), f"Descent of {load.name}, {STATE_NAMES[state].lower()}", description,
                    picture.body(), prefix, look)


class _Picture:
    def __init__(self, analysis: Analysis, of: str, way: Walk, scale: Scale, look: Look = PLAIN,
                 dots: Sequence[Dot] = ()) -> None:
        self.analysis, self.of, self.way, self.scale, self.width = analysis, of, way, scale, scale.width
        self.look, self.paper, self.dots = look, look.paper, dots
        self.wanted = as_accessory(way.load)  # what says which volts it takes
        self.height = scale.back_bottom + 30

    def el(self, tag: str, attrs: dict[str, object] | None = None, *inside: str) -> str:
        return el(tag, attrs, *inside, paper=self.paper)

    def body(self) -> list[str]:
        """Bands, walk, cliff, labels: in that order, so that labels lie on top."""
        placed = self.labels()
        return [*self._bands(), *self._strides(self.way.feed, self.scale.feed_y),
                *self._strides(self.way.back, self.scale.back_y), *self._cliff(), *self._bracket(),
                *self._texts(placed), *self._dots()]

    def _spots(self) -> Iterator[tuple[str, float, bool]]:
        """The nodes along the walk, how far along each is, and whether it is on the return."""
        path = self.way.path
        for links, strides, back in ((path.feed, self.way.feed, False), (path.back, self.way.back, True)):
            for link, stride in zip(links, strides, strict=True):
                yield link.a, stride.x0_m, back
            if links:
                yield links[-1].b, strides[-1].x1_m, back

    def _dots(self) -> list[str]:
        """Readings against the circuit's beginning, where they were taken; what lies outside a band at its edge, with
        its volts."""
        root = self.way.path.root.negative
        spots = {node: (along, back) for node, along, back in reversed(list(self._spots()))}
        s, made = self.scale, []
        for red, black, volts, verdict in self.dots:
            if black != root or red not in spots:
                continue
            along, back = spots[red]
            y = (s.back_y if back else s.feed_y)(volts)
            top, bottom = (s.back_top, s.back_bottom) if back else (s.feed_top, s.feed_bottom)
            inside = top + 8 <= y <= bottom - 8
            at = min(max(y, top + 8), bottom - 8)
            words = f"read {volts:.2f} V"
            made.append(self.el("circle", {"cx": s.x(along), "cy": at, "r": 7, "class": f"d-dot d-dot-{verdict}"},
                                el("title", None, text(words))))
            if not inside:
                right = s.x(along) < self.width - 90
                made.append(self.el("text", {"x": s.x(along) + (12 if right else -12), "y": at + 5,
                                             "text-anchor": "start" if right else "end",
                                             "class": "d-figure"}, text(f"{volts:.2f}\u00a0V")))
        return made

    def _bands(self) -> list[str]:
        s, made = self.scale, []
        right = self.width - RIGHT
        step = nice_step((s.feed_bottom - s.feed_top) / s.per_v, 6)
        decimals = 0 if step >= 1 else 1 if step >= 0.1 else 2 if step >= 0.01 else 3
        for top, bottom, high, y in ((s.feed_top, s.feed_bottom, s.feed_high_v, s.feed_y),
                                     (s.back_top, s.back_bottom, s.back_high_v, s.back_y)):
            made.append(self.el("rect", {"x": LEFT, "y": top, "width": right - LEFT, "height": bottom - top,
                                         "class": "d-frame"}))
            low = high - (bottom - top) / s.per_v
            tick = step * (int(low / step) + (1 if low > 0 else 0))
            while tick < high:
                if y(tick) > top + 4 and y(tick) < bottom + 0.5:
                    made.append(self.el("line", {"x1": LEFT, "x2": right, "y1": y(tick), "y2": y(tick),
                                                 "class": "d-grid"}))
                    words = f"{tick + 0.0:.{decimals}f}\u00a0V".replace("-", "−")
                    made.append(self.el("text", {"x": LEFT - 8, "y": y(tick) + 4, "text-anchor": "end",
                                                 "class": "d-axis"}, text(words)))
                tick += step
        begin, end = source_name(self.analysis, self.of), "load" if self.wanted else self.way.load.name
        made.append(self.el("text", {"x": LEFT, "y": s.feed_top - 8, "class": "d-band"},
                            text(f"Feed: {begin} to {end}")))
        made.append(self.el("text", {"x": LEFT, "y": s.back_top - 8, "class": "d-band"},
                            text(f"Return: {end} to {root_name(self.analysis, self.of)}")))
        metre = nice_step(self.way.length_m, 9)
        at = 0.0
        while at <= self.way.length_m + 1e-9:
            made.append(self.el("text", {"x": s.x(at), "y": s.back_bottom + 20, "text-anchor": "middle",
                                         "class": "d-axis"}, text(f"{at:g}\u00a0m")))
            at = round(at + metre, 6)
        return made

    def _strides(self, strides: tuple[Stride, ...], y: Callable[[float], float]) -> list[str]:
        made = []
        for stride in strides:
            shapes = self._wire(stride, y) if stride.kind == "wire" else self._contact(stride, y)
            chosen = " is-selected" if stride.element == self.look.selected else ""
            group = self.el("g", {"class": None if self.paper else f"d-stride{chosen}", "data-element": stride.element},
                            *shapes)
            name = f"{stride.element}: {stride.drop_v * 1000:.0f} mV"
            made.append(self.look.led(stride.element.part, name, group))
        return made

    def _wire(self, stride: Stride, y: Callable[[float], float]) -> list[str]:
        s, wire = self.scale, self.analysis.wires[stride.element]
        source: Wire = self.analysis.topology.wires[stride.element]
        ends: dict[str, object] = {"x1": s.x(stride.x0_m), "y1": y(stride.v0), "x2": s.x(stride.x1_m),
                                   "y2": y(stride.v1)}
        thick = 2.4 + 1.5 * wire.area_mm2**0.5
        warm = self.way.row.wire_c[stride.element]
        share = max(0.0, min(1.0, (warm - 40) / max(wire.class_c - 40, 1)))
        made = [self.el("line", {**ends, "class": "d-heat", "stroke-width": num(thick + 4 + 12 * share)})]
        made.append(self.el("line", {**ends, "class": "d-edge", "stroke-width": num(thick + 2)}))
        made.append(el("line", {**ends, "stroke": WIRE_COLOURS[source.colour], "stroke-width": num(thick)}))
        if source.stripe:
            made.append(el("line", {**ends, "stroke": WIRE_COLOURS[source.stripe], "stroke-width": num(thick * 0.4),
                                    "stroke-dasharray": "9 6"}))
        if not self.paper:
            made.append(el("line", {**ends, "class": "d-touch", "stroke-width": 24}))
        return made

    def _contact(self, stride: Stride, y: Callable[[float], float]) -> list[str]:
        top, bottom = y(stride.v0), y(stride.v1)
        tall = max(bottom - top, 5.0)
        return [self.el("rect", {"x": self.scale.x(stride.x0_m) - STEP_W / 2, "y": (top + bottom - tall) / 2,
                                 "width": STEP_W, "height": tall, "rx": 2, "class": "d-step"})]

    def _cliff(self) -> list[str]:
        s, way = self.scale, self.way
        x, top, bottom = s.x(way.load_m), s.feed_y(way.feed[-1].v1), s.back_y(way.back[0].v0)
        middle = (s.feed_bottom + s.back_top) / 2
        lamp = self.wanted is not None and self.wanted.category == "lamp"
        made = [self.el("line", {"x1": x, "x2": x, "y1": top, "y2": bottom, "class": "d-dots"}),
                self.el("circle", {"cx": x, "cy": middle, "r": 15, "class": "d-load"})]
        if lamp:  # IEC 60617: a lamp is a circle with a cross
            r = 10.6
            made += [self.el("line", {"x1": x - r, "y1": middle - r * d, "x2": x + r, "y2": middle + r * d,
                                      "class": "d-edge", "stroke-width": 1.4}) for d in (1, -1)]
        return made

    def _bracket(self) -> list[str]:
        """Beside the cliff, to a scale of its own from 0 V: what the load has, and a tick at what it needs."""
        s, way = self.scale, self.way
        if self.wanted is None:
            return []
        _, _, side = self.summary_box()
        x = s.x(way.load_m) + 25 * side
        middle, tall = (s.feed_bottom + s.back_top) / 2, 50.0
        share = min(self.wanted.window_low_v / way.across_v, 1.15) if way.across_v > 0 else 1.0
        y = middle + tall / 2 - tall * share
        path = (f"M {num(x - 5 * side)} {num(middle - tall / 2)} H {num(x)} V {num(middle + tall / 2)} "
                f"H {num(x - 5 * side)}")
        return [self.el("path", {"d": path, "class": "d-need"}),
                self.el("line", {"x1": x - 5, "x2": x + 5, "y1": y, "y2": y, "class": "d-need"})]

    def summary_box(self) -> tuple[Box, tuple[str, str], int]:
        """Where the load's name and figures stand beside the cliff, their text, and which way they run."""
        s, way = self.scale, self.way
        x, middle = s.x(way.load_m), (s.feed_bottom + s.back_top) / 2
        lines = (f"{way.load.name}, {_amps(way.amps)}", f"has {way.across_v:.2f} V{self._needs()}")
        wide = max(len(lines[0]) * 7.6, len(lines[1]) * 7.0)
        side = 1 if x + 38 + wide < self.width else -1
        left = x + 38 if side > 0 else x - 38 - wide
        return Box(left, middle - 20, left + wide, middle + 20), lines, side

    def _needs(self) -> str:
        """What it needs of it, where it says so."""
        if self.wanted is None:
            return ""
        spare = self.way.across_v - self.wanted.window_low_v
        return (f", needs {self.wanted.window_low_v:g} V, "
                + (f"{spare:.2f} V to spare" if spare >= 0 else f"{-spare:.2f} V short")
                if self.wanted.window_low_v > 0 else f" of its {self.wanted.at_v:g} V")

    def labels(self) -> dict[str, Placed | None]:
        """Every stride's label with its place; contacts and short wires first."""
        s = self.scale
        lines: list[Line] = []
        wanted: list[tuple[float, Label, Box]] = []
        right = self.width - RIGHT
        for strides, y, top, bottom in ((self.way.feed, s.feed_y, s.feed_top, s.feed_bottom),
                                        (self.way.back, s.back_y, s.back_top, s.back_bottom)):
            band = Box(LEFT + 2, top + 2, right - 2, bottom - 2)
            for stride in strides:
                x0, x1, y0, y1 = s.x(stride.x0_m), s.x(stride.x1_m), y(stride.v0), y(stride.v1)
                if stride.kind == "wire":
                    # The line has some thickness: three parallels stand for it.
                    lines += [(x0, y0 + d, x1, y1 + d) for d in (-5.0, 0.0, 5.0)]
                else:
                    lines += [(x0 - 6, (y0 + y1) / 2, x0 + 6, (y0 + y1) / 2),
                              (x0, min(y0, y1 - 5), x0, max(y1, y0 + 5))]
                wanted.append((x1 - x0, self._label(stride, (x0 + x1) / 2, (y0 + y1) / 2, x1 - x0), band))
        x = s.x(self.way.load_m)
        lines.append((x, s.feed_y(self.way.feed[-1].v1), x, s.back_y(self.way.back[0].v0)))
        # The narrow have the fewest places to go; where that leaves some out, those at an end of the walk come first.
        orders = (sorted(wanted, key=lambda one: one[0]), sorted(wanted, key=lambda one: one[1].x),
                  sorted(wanted, key=lambda one: -one[1].x))
        return min((self._placed(order, lines) for order in orders), key=lambda found: list(found.values()).count(None))

    def _placed(self, wanted: list[tuple[float, Label, Box]], lines: list[Line]) -> dict[str, Placed | None]:
        """The labels in their places, one after the other."""
        boxes = [self.summary_box()[0]]
        leaders: list[Line] = []
        found: dict[str, Placed | None] = {}
        for _, label, band in wanted:
            found |= place([label], band, boxes, lines, leaders)
            if (put := found[label.key]) is not None:
                boxes.append(put.box)
        return found

    def _label(self, stride: Stride, x: float, y: float, width: float) -> Label:
        drop = f"−{abs(stride.drop_v) * 1000:.0f} mV"
        if stride.kind == "wire":
            wire = self.analysis.wires[stride.element]
            warm = self.way.row.wire_c[stride.element]
            lines = ((f"{stride.element}  {wire.area_mm2:g} mm²", f"{drop}  {warm:.0f} °C") if width > 90
                     else (stride.element, drop))
            return Label(stride.element, lines, x, y - 4, -1, 14)
        part = self.analysis.topology.parts.get(stride.element.part)
        name = part.id if part is not None else "frame strap"
        match part.SYMBOL if part is not None else "":
            case "fuse":
                name = f"{name} {self.analysis.ratings.rating_a(name):g} A"
            case "plug":
                name = f"{name} return" if stride.element.role else f"{name} plug"
            case "contact":
                name = f"{name} {stride.kind}"
        return Label(stride.element, (name, drop), x, y + 4, 1, 14)

    def _texts(self, placed: dict[str, Placed | None]) -> list[str]:
        made = []
        for put in placed.values():
            if put is None:
                continue
            label, box = put.label, put.box
            if put.leader:
                made.append(self.el("line", {**ends_of(put.leader), "class": "d-leader"}))
            for i, words in enumerate(label.lines):
                made.append(self.el("text", {"x": (box.x0 + box.x1) / 2, "y": box.y0 + (i + 1) * (label.size + 3) - 3,
                                             "text-anchor": "middle", "class": "d-label" if i == 0 else "d-figure"},
                                    text(words)))
        box, lines, side = self.summary_box()
        low = self.wanted is not None and self.way.across_v < self.wanted.window_low_v
        anchor, x = ("start", box.x0) if side > 0 else ("end", box.x1)
        made.append(self.el("text", {"x": x, "y": box.y0 + 14, "text-anchor": anchor, "class": "d-label"},
                            text(lines[0])))
        made.append(self.el("text", {"x": x, "y": box.y0 + 32, "text-anchor": anchor,
                                     "class": "d-bad" if low else "d-tide"}, text(lines[1])))
        return made


def _amps(amps: float) -> str:
    """Amps as a circuit's picture has them: no more figures than a clamp shows of many."""
    return f"{amps:.2f} A" if amps < LARGE_A else f"{amps:.0f} A"
