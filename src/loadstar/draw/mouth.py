"""The mouth: a connector's face with its cavities and latch, from a stated side; the other side is its mirror image."""

import math
from typing import Literal

from loadstar.core.doc.survey import Plug
from loadstar.core.plan.model import Plan

from .svg import WIRE_COLOURS, document, el, text

CAVITY, GAP, EDGE, LATCH = 54.0, 12.0, 20.0, 12.0
SEEN_WORDS = {"mouth": "looking into the mouth", "wires": "looking at the wire side"}


def grid(plug: Plug, seen: Literal["mouth", "wires"]) -> dict[int, tuple[int, int]]:
    """Column and row of each cavity as it is seen: numbered row by row from the upper left of the side it was counted
    from."""
    columns = math.ceil(plug.ways / plug.rows)
    places = {n: ((n - 1) % columns, (n - 1) // columns) for n in range(1, plug.ways + 1)}
    return places if seen == plug.seen else {n: (columns - 1 - c, r) for n, (c, r) in places.items()}


def draw(plan: Plan, plug: Plug, seen: Literal["mouth", "wires"], *, paper: bool = False, link: str = "",
         selected: str = "") -> str:
    """The face of a connector; `link` is an address with "{}" for a pin's id."""
    columns = math.ceil(plug.ways / plug.rows)
    width = columns * (CAVITY + GAP) + GAP + 2 * (EDGE + LATCH)
    height = plug.rows * (CAVITY + GAP) + GAP + 2 * (EDGE + LATCH) + 26
    pins = {p.way: p for p in plan.pins(plug.id)}
    x0, y0 = EDGE + LATCH, EDGE + LATCH
    body_w, body_h = columns * (CAVITY + GAP) + GAP, plug.rows * (CAVITY + GAP) + GAP
    made = [el("rect", {"x": x0, "y": y0, "width": body_w, "height": body_h, "rx": 10, "class": "d-step"}, paper=paper),
            *_latch(plug, seen, x0, y0, body_w, body_h, paper)]
    for number, (column, row) in grid(plug, seen).items():
        x, y = x0 + GAP + column * (CAVITY + GAP), y0 + GAP + row * (CAVITY + GAP)
        made.append(_cavity(x, y, number, pins.get(number), paper, link, selected))
    made.append(el("text", {"x": width / 2, "y": height - 8, "text-anchor": "middle", "class": "d-soft"},
                   text(SEEN_WORDS[seen]), paper=paper))
    return document(width, height, f"{plug.name}, {SEEN_WORDS[seen]}",
                    f"{plug.ways} ways, latch {plug.latch}; the table beside it names the pins.",
                    made, paper=paper, id_prefix=f"mouth-{plug.id}", linked=bool(link))


def _latch(plug: Plug, seen: str, x: float, y: float, w: float, h: float, paper: bool) -> list[str]:
    turned = {"left": "right", "right": "left"}.get(plug.latch, plug.latch) if seen != plug.seen else plug.latch
    at = {"up": (x + w / 2 - 18, y - LATCH, 36, LATCH), "down": (x + w / 2 - 18, y + h, 36, LATCH),
          "left": (x - LATCH, y + h / 2 - 18, LATCH, 36), "right": (x + w, y + h / 2 - 18, LATCH, 36)}.get(turned)
    if at is None:
        return []
    return [el("rect", {"x": at[0], "y": at[1], "width": at[2], "height": at[3], "rx": 2, "class": "d-load"},
               paper=paper)]


def _cavity(x: float, y: float, number: int, pin: object, paper: bool, link: str, selected: str) -> str:
    """A cavity with its number, its wire's colour (stripe in the middle), and its function in a letter or two."""
    is_here = getattr(pin, "id", "") == selected and bool(selected)
    inside = [el("rect", {"x": x, "y": y, "width": CAVITY, "height": CAVITY, "rx": 6,
                          "class": "d-load" + (" is-selected" if is_here else "")},
                 paper=paper)]
    colours = wire_colours(getattr(pin, "wire_colour", ""))
    if colours:
        inside.append(el("rect",
            {"x": x + 8, "y": y + CAVITY - 18, "width": CAVITY - 16, "height": 11, "fill": colours[0], "class": None,
                                  "stroke": "#56646a"}))
        if len(colours) > 1:
            inside.append(el("rect",
                {"x": x + 8, "y": y + CAVITY - 14, "width": CAVITY - 16, "height": 3.5, "fill": colours[1]}))
    inside.append(el("text", {"x": x + 7, "y": y + 17, "class": "d-label"}, str(number), paper=paper))
    inside.append(el("text", {"x": x + CAVITY - 6, "y": y + 17, "text-anchor": "end", "class": "d-soft"},
                     text(_letters(pin)), paper=paper))
    if not link or pin is None:
        return "".join(inside)
    return el("a",
        {"href": link.replace("{}", getattr(pin, "id", "")), "aria-label": f"pin {number}", "class": "d-link"}, *inside)


def _letters(pin: object) -> str:
    function, live = getattr(pin, "function", ""), getattr(pin, "live", "")
    return {"feed": {"always": "BAT", "key": "KEY", "engine": "ENG"}.get(live, ""), "ground": "GND", "lamp": "LMP",
            "signal": "SIG",
            "unknown": "?", "other": "", "unused": "", "": ""}[function]


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
