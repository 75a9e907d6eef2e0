"""The mouth: a connector's face with its cavities and latch, from a stated side; the other side is its mirror image."""

import math
from dataclasses import dataclass, replace
from typing import Literal

from loadstar.core.doc.survey import Plug
from loadstar.core.parts.coupling import Coupling
from loadstar.core.parts.tap import Tap
from loadstar.core.plan.model import Plan

from .svg import PLAIN, WIRE_COLOURS, Look, document, el, text

CAVITY, GAP, EDGE, LATCH = 54.0, 12.0, 20.0, 12.0
ON_A_LINE = 4  # letters, with the number
Seen = Literal["mouth", "wires"]
SEEN_WORDS: dict[Seen, str] = {"mouth": "looking into the mouth", "wires": "looking at the wire side"}


@dataclass(frozen=True)
class Face:
    """A connector's face: ways in rows, numbered row by row from the upper left of the side they are counted from, and
    where the latch is, seen from there."""

    id: str
    name: str
    ways: int
    rows: int
    latch: str
    seen: Seen

    @classmethod
    def of(cls, plug: Plug) -> "Face":
        """That of a connector as found."""
        return cls(plug.id, plug.name, plug.ways, plug.rows, plug.latch, plug.seen)


@dataclass(frozen=True)
class Cavity:
    """What is in a cavity: the id it leads to, its wire's colour in words, and a few letters of what it is."""

    id: str
    colour: str
    letters: str


def grid(face: Face, seen: Seen) -> dict[int, tuple[int, int]]:
    """Column and row of each cavity as it is seen; from the other side it is the mirror image."""
    columns = math.ceil(face.ways / face.rows)
    places = {n: ((n - 1) % columns, (n - 1) // columns) for n in range(1, face.ways + 1)}
    return places if seen == face.seen else {n: (columns - 1 - c, r) for n, (c, r) in places.items()}


def of_half(coupling: Coupling, side: str) -> Face:
    """The face of one half of a connector in the harness: what half a shows into its mouth, half b shows mirrored, so
    that like numbers meet."""
    return Face(f"{coupling.id}-{side}", f"{coupling.name}, side {side}", coupling.ways, coupling.rows, "up",
                "mouth" if side == "a" else "wires")


def half(plan: Plan, coupling: Coupling, side: str, seen: Seen, look: Look = PLAIN) -> str:
    """One half of a connector in the harness, with the wires that come to it."""
    inside = {}
    for wire in plan.wires:
        for end in (wire.a, wire.b):
            if end.part == coupling.id and end.name[0] == side:
                colour = wire.colours
                inside[int(end.name[1:])] = Cavity(wire.id, colour, wire.id)
    return _drawn(of_half(coupling, side), inside, seen, look)


def draw(plan: Plan, plug: Plug, seen: Seen, look: Look = PLAIN) -> str:
    """The face of a connector as found."""
    inside = {p.way or 0: Cavity(p.id, p.wire_colour, _letters(p)) for p in plan.pins(plug.id)}
    return _drawn(Face.of(plug), inside, seen, look)


def _drawn(face: Face, inside: dict[int, Cavity], seen: Seen, look: Look) -> str:
    columns = math.ceil(face.ways / face.rows)
    width = columns * (CAVITY + GAP) + GAP + 2 * (EDGE + LATCH)
    height = face.rows * (CAVITY + GAP) + GAP + 2 * (EDGE + LATCH) + 26
    x0, y0 = EDGE + LATCH, EDGE + LATCH
    paper = look.paper
    body_w, body_h = columns * (CAVITY + GAP) + GAP, face.rows * (CAVITY + GAP) + GAP
    made = [el("rect", {"x": x0, "y": y0, "width": body_w, "height": body_h, "rx": 10, "class": "d-step"}, paper=paper),
            *_latch(face, seen, (x0, y0, body_w, body_h), paper)]
    for number, (column, row) in grid(face, seen).items():
        x, y = x0 + GAP + column * (CAVITY + GAP), y0 + GAP + row * (CAVITY + GAP)
        made.append(_cavity((x, y), number, inside.get(number), look))
    made.append(el("text", {"x": width / 2, "y": height - 8, "text-anchor": "middle", "class": "d-soft"},
                   text(SEEN_WORDS[seen]), paper=paper))
    return document((width, height), f"{face.name}, {SEEN_WORDS[seen]}",
                    f"{face.ways} ways, latch {face.latch}; the table beside it names the pins.",
                    made, f"mouth-{face.id}-{seen}", replace(look, at_size=True))


def _latch(face: Face, seen: Seen, body: tuple[float, float, float, float], paper: bool) -> list[str]:
    x, y, w, h = body
    turned = {"left": "right", "right": "left"}.get(face.latch, face.latch) if seen != face.seen else face.latch
    at = {"up": (x + w / 2 - 18, y - LATCH, 36, LATCH), "down": (x + w / 2 - 18, y + h, 36, LATCH),
          "left": (x - LATCH, y + h / 2 - 18, LATCH, 36), "right": (x + w, y + h / 2 - 18, LATCH, 36)}.get(turned)
    if at is None:
        return []
    return [el("rect", {"x": at[0], "y": at[1], "width": at[2], "height": at[3], "rx": 2, "class": "d-load"},
               paper=paper)]


def _cavity(at: tuple[float, float], number: int, inside: Cavity | None, look: Look) -> str:
    """A cavity with its number, its wire's colour (stripe in the middle), and what it is in a few letters."""
    (x, y), paper = at, look.paper
    is_here = inside is not None and inside.id == look.selected
    made = [el("rect", {"x": x, "y": y, "width": CAVITY, "height": CAVITY, "rx": 6,
                        "class": "d-load" + (" is-selected" if is_here else "")}, paper=paper)]
    colours = wire_colours(inside.colour) if inside else []
    if colours:
        made.append(el("rect",
            {"x": x + 8, "y": y + CAVITY - 18, "width": CAVITY - 16, "height": 11, "fill": colours[0], "class": None,
                                  "stroke": "#56646a"}))
        if len(colours) > 1:
            made.append(el("rect",
                {"x": x + 8, "y": y + CAVITY - 14, "width": CAVITY - 16, "height": 3.5, "fill": colours[1]}))
    made.append(el("text", {"x": x + 7, "y": y + 17, "class": "d-label"}, str(number), paper=paper))
    one_line = len(f"{number}{inside.letters if inside else ''}") <= ON_A_LINE
    made.append(el("text", {"x": x + CAVITY - 6, "y": y + (17 if one_line else 31),
                            "text-anchor": "end", "class": "d-soft"}, text(inside.letters if inside else ""),
                   paper=paper))
    drawn = "".join(made)
    return look.led(inside.id, f"pin {number}", drawn) if inside is not None else drawn


def _letters(pin: Tap) -> str:
    return {"feed": {"always": "BAT", "key": "KEY", "engine": "ENG"}.get(pin.live, ""), "ground": "GND", "lamp": "LMP",
            "signal": "SIG",
            "unknown": "?", "other": "", "unused": "", "": ""}[pin.function]


def wire_colours(words: str) -> list[str]:
    """True colours of what was written as a wire's colour: IEC letters or English words, with a stripe after a
    slash."""
    names = {"black": "BK", "brown": "BN", "red": "RD", "orange": "OG", "yellow": "YE", "green": "GN", "blue": "BU",
             "violet": "VT",
             "purple": "VT", "grey": "GY", "gray": "GY", "white": "WH", "pink": "PK", "turquoise": "TQ"}
    found = []
    for word in words.replace("-", "/").replace(" ", "/").split("/"):
        code = names.get(word.strip().lower(), word.strip().upper())
        if code in WIRE_COLOURS and code:
            found.append(WIRE_COLOURS[code])
    return found[:2]
