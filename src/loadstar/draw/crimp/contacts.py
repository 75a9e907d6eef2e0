"""What a terminal plugs or bolts on to its counterpart with: in cut, and from above."""

from collections.abc import Iterator

from loadstar.core.materials.terminals import Terminal

from .pen import Pen, Point, Sizes

LONG_MM = 8.0  # of a blade, pin or bullet
SMALL_MM, HOLDER_MM = 1.0, 5.2  # a small sealed pin; the blade of a fuse
TAB_MM = 0.8  # how thick a tab is


def reach_mm(terminal: Terminal) -> float:
    """How far it reaches past the barrel."""
    if terminal.shape == "ring":
        return 1.0 + 1.9 * stud_mm(terminal)
    return {"barrel": 0.0, "cup": 0.0}.get(terminal.shape, LONG_MM)


def half_mm(terminal: Terminal) -> float:
    """Half of what it is wide from above."""
    if terminal.shape == "ring":
        return 0.95 * stud_mm(terminal)
    return {"barrel": 0.0, "cup": 0.0}.get(terminal.shape, wide_mm(terminal) / 2 + 0.7)


def stud_mm(terminal: Terminal) -> float:
    """The stud that a ring goes over; a bolted fuse's is M8 from 25 mm² on and M5 below, drawn as that."""
    size = terminal.family.rpartition("M")[2]
    return float(size) if size.isdigit() else 8.0 if terminal.area_mm2[1] > 16 else 5.0


def wide_mm(terminal: Terminal) -> float:
    """How wide or thick the contact is, by its family's name."""
    if terminal.shape == "holder":
        return HOLDER_MM
    size = terminal.family.rpartition(" ")[2]
    return float(size) if size.replace(".", "").isdigit() else SMALL_MM


def in_cut(pen: Pen, s: Sizes, terminal: Terminal, half: str) -> Iterator[str]:
    """Cut along the middle, from where the barrel ends."""
    x, floor = s.crimp[1] + 0.8, s.pressed / 2
    if terminal.shape == "ring":
        yield from _palm(pen, x, floor, s.sheet * 2, stud_mm(terminal))
    elif terminal.shape in ("pin", "bullet"):
        yield from _round(pen, (x, floor), s.sheet, terminal, half)
    elif terminal.shape in ("blade", "holder"):
        yield from _flat(pen, x, floor, s.sheet, half)


def _palm(pen: Pen, x: float, floor: float, thick: float, stud: float) -> Iterator[str]:
    """A ring's palm, which the stud goes through."""
    edge = 0.45 * stud
    far = x + 1 + edge
    yield pen.area(((x - 1.4, floor), (x, floor + thick), (far, floor + thick), (far, floor)), "c-cut")
    yield pen.box((x + 1 + edge + stud, floor), (x + 1 + 2 * edge + stud, floor + thick), "c-cut")
    yield pen.line((x + 1 + edge + stud / 2, floor - 1.2), (x + 1 + edge + stud / 2, floor + thick + 1.2), "d-dots")


def _round(pen: Pen, begin: Point, sheet: float, terminal: Terminal, half: str) -> Iterator[str]:
    """A round pin or bullet, or the tube with a spring that it goes into."""
    (x, floor), thick = begin, wide_mm(terminal)
    y = floor + sheet - thick / 2
    if half == "male":
        nose, tip = thick / 2, x + LONG_MM
        yield pen.area(((x - 0.6, floor), (x - 0.6, floor + sheet), (x, y + nose), (tip - nose, y + nose),
                        (tip, y + nose * 0.4), (tip, y - nose * 0.4), (tip - nose, y - nose), (x, y - nose)), "c-cut")
        return
    yield pen.area(((x - 0.6, floor), (x - 0.6, floor + sheet), (x, y + thick / 2 + sheet),
                    (x + LONG_MM, y + thick / 2 + sheet), (x + LONG_MM, y + thick / 2), (x, y + thick / 2)), "c-cut")
    yield pen.area(((x + 1, y - thick / 2 - sheet), (x + LONG_MM, y - thick / 2 - sheet),
                    (x + LONG_MM, y - thick / 2), (x + 4.5, y - thick / 2 + 0.25), (x + 1, y - thick / 2)), "c-cut")
    if terminal.shape == "pin":
        yield pen.area(((x + 2.0, y + thick / 2 + sheet), (x + 3.6, y + thick / 2 + sheet + 0.9),
                        (x + 3.8, y + thick / 2 + sheet + 0.7), (x + 2.6, y + thick / 2 + sheet)), "c-cut")


def _flat(pen: Pen, x: float, floor: float, sheet: float, half: str) -> Iterator[str]:
    """A tab, or the receptacle that goes over it."""
    if half == "male":
        low, tip = floor + sheet, x + LONG_MM
        yield pen.area(((x - 0.6, floor), (x - 0.6, low), (tip - 1, low), (tip, low - TAB_MM * 0.35),
                        (tip, low - TAB_MM * 0.65), (tip - 1, low - TAB_MM), (x, low - TAB_MM)), "c-cut")
        return
    top = floor - TAB_MM - 0.1
    yield pen.area(((x - 0.6, floor), (x - 0.6, floor + sheet), (x + LONG_MM, floor + sheet), (x + LONG_MM, floor),
                    (x + 4.4, floor), (x + 4, floor - 0.2), (x + 3.6, floor)), "c-cut")
    yield pen.box((x + 0.8, top - sheet), (x + LONG_MM, top), "c-cut", rx_mm=sheet / 2)


def from_above(pen: Pen, s: Sizes, terminal: Terminal, half: str) -> Iterator[str]:
    """From above, from where the barrel ends."""
    x, neck = s.crimp[1], s.pressed / 2
    if terminal.shape == "ring":
        stud = stud_mm(terminal)
        c = x + 1.8 + 0.95 * stud
        yield pen.area(((x, -neck), (c, -0.7 * stud), (c, 0.7 * stud), (x, neck)), "c-face")
        yield pen.disc((c, 0), 0.95 * stud, "c-face")
        yield pen.disc((c, 0), stud / 2, "c-hole")
        return
    if terminal.shape not in ("blade", "holder", "pin", "bullet"):
        return
    w, begin, end = wide_mm(terminal) / 2, x + 0.8, x + 0.8 + LONG_MM
    if half != "male":
        w += 0.55
    yield pen.area(((x, -neck), (begin, -w), (begin, w), (x, neck)), "c-face")
    if half == "male":
        nose = 1.0 if terminal.shape == "blade" else w
        yield pen.area(((begin, -w), (end - nose, -w), (end, -w * 0.55), (end, w * 0.55), (end - nose, w), (begin, w)),
                       "c-face")
        return
    yield pen.box((begin, -w), (end, w), "c-face", rx_mm=0.3)
    if terminal.shape in ("blade", "holder"):
        for side in (-1, 1):
            yield pen.line((begin + 0.4, side * w * 0.28), (end, side * w * 0.28), "c-fold")
