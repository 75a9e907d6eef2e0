"""SVG as text: elements with escaped attributes, styled by class on screen and by presentation attributes on paper.

The same input gives the same bytes. A picture for paper carries its colours itself, because PDF makers do not apply a
page's style sheet inside a drawing; one for the screen carries classes only, so that theme and policy hold.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from html import escape

# What each class looks like on paper. The screen's style sheet says the same for light and dark.
INK, SOFT, RULE, TIDE, STOP, CAUTION = "#1d2a30", "#56646a", "#cfc8bb", "#0c6470", "#a61b17", "#8a5300"
COPPER = "#c98a4b"
PAPER: dict[str, dict[str, str]] = {
    "d-frame": {"fill": "#ffffff", "stroke": RULE}, "d-grid": {"stroke": RULE, "stroke-width": "0.7"},
    "d-axis": {"fill": SOFT, "font-family": "Loadstar Mono", "font-size": "12"},
    "d-label": {"fill": INK, "font-weight": "600", "font-size": "13"},
    "d-figure": {"fill": SOFT, "font-family": "Loadstar Mono", "font-size": "12"},
    "d-soft": {"fill": SOFT, "font-size": "12"}, "d-band": {"fill": SOFT, "font-size": "12", "font-weight": "600"},
    "d-edge": {"stroke": INK, "fill": "none"}, "d-spot": {"fill": INK}, "d-live": {"stroke": "#f3d79c"},
    "d-dots": {"stroke": INK, "stroke-dasharray": "2 3", "fill": "none"},
    "d-leader": {"stroke": SOFT, "stroke-width": "0.7", "fill": "none"},
    "d-step": {"fill": "#ffffff", "stroke": INK, "stroke-width": "1.4"},
    "d-load": {"fill": "#ffffff", "stroke": INK, "stroke-width": "1.8"},
    "d-need": {"stroke": TIDE, "stroke-width": "2", "fill": "none"}, "d-tide": {"fill": TIDE, "font-weight": "600",
                                                                                "font-size": "13"},
    "d-heat": {"stroke": "#e9a15b", "fill": "none", "opacity": "0.45"},
    "d-bad": {"fill": STOP, "font-weight": "600", "font-size": "13"},
    "d-level": {"stroke": INK, "stroke-width": "2"},
    "c-insulation": {"stroke": INK, "stroke-width": "1"}, "c-core": {"fill": COPPER, "stroke": "none"},
    "c-strand": {"stroke": "#6b3f17", "stroke-width": "0.8", "fill": "#c98a4b"},
    "c-strand-out": {"stroke": "#6b3f17", "stroke-width": "2", "fill": "none"},
    "c-cut": {"fill": "#c3c9cb", "stroke": INK, "stroke-width": "1.2"},
    "c-face": {"fill": "#e3e6e6", "stroke": INK, "stroke-width": "1.2"},
    "c-fold": {"stroke": INK, "stroke-width": "1"}, "c-hole": {"fill": "#ffffff", "stroke": INK, "stroke-width": "1"},
    "c-nest": {"fill": "none", "stroke": INK, "stroke-width": "1"},
    "c-seal": {"fill": "#b9d3d6", "stroke": TIDE, "stroke-width": "1.2"},
    "c-sleeve": {"fill": "#d9d2e6", "stroke": INK, "stroke-width": "1", "fill-opacity": "0.75"},
    "c-solder": {"fill": "#dfe3e4", "stroke": SOFT, "stroke-width": "1", "fill-opacity": "0.8"},
    "c-over": {"fill": "none", "stroke": SOFT, "stroke-width": "1.2", "stroke-dasharray": "6 3"},
    "d-warn": {"fill": CAUTION, "font-weight": "600", "font-size": "13"},
}

# IEC 60757 letters to colours that are drawn true.
WIRE_COLOURS = {
    "BK": "#1c1f21", "BN": "#7a4a21", "RD": "#c3221f", "OG": "#ea7a14", "YE": "#f1c40f", "GN": "#2e8b3d",
    "BU": "#1f5fbf", "VT": "#7b3fa0", "GY": "#8b9196", "WH": "#f7f5ee", "PK": "#ec9cb4", "TQ": "#2ab3b0", "": "#8b9196",
}


def num(value: float) -> str:
    """A coordinate, to a tenth, without idle zeros."""
    text = f"{value:.1f}"
    return text[:-2] if text.endswith(".0") else text


def el(tag: str, attrs: dict[str, object] | None = None, *inside: str, paper: bool = False) -> str:
    """One element. `attrs` values are escaped; "class" becomes presentation attributes on paper."""
    given = dict(attrs or {})
    if paper and "class" in given:
        for name in str(given.pop("class")).split():
            for key, value in PAPER.get(name, {}).items():
                given.setdefault(key, value)
    text = "".join(f' {key}="{escape(num(value) if isinstance(value, float) else str(value))}"'
                   for key, value in given.items() if value is not None)
    return f"<{tag}{text}>{''.join(inside)}</{tag}>" if inside else f"<{tag}{text}/>"


def text(words: str) -> str:
    """Escaped character data."""
    return escape(words, quote=False)


@dataclass(frozen=True)
class Look:
    """How a picture is shown. `link` is an address with "{}" for an element's id, to which what is drawn of it then
    leads; `selected` is the element that is chosen. On `paper` nothing leads anywhere, and colours stand in the
    picture. `at_size`: as large as it is drawn."""

    link: str = ""
    selected: str = ""
    paper: bool = False
    at_size: bool = False

    @property
    def linked(self) -> bool:
        """Whether parts of it are links."""
        return bool(self.link) and not self.paper

    def led(self, element: str, name: str, inside: str) -> str:
        """What is drawn of an element, as a link where there are any."""
        if not self.linked:
            return inside
        return el("a", {"href": self.link.replace("{}", element), "aria-label": name, "class": "d-link"}, inside)


PLAIN = Look()
Size = tuple[float, float]  # width and height, px


def document(size: Size, title: str, description: str, body: Iterable[str], id_prefix: str, look: Look = PLAIN) -> str:
    """A whole picture with its title and description for screen readers."""
    (width, height), paper, linked = size, look.paper, look.linked
    attrs: dict[str, object] = {
        "xmlns": "http://www.w3.org/2000/svg", "viewBox": f"0 0 {num(width)} {num(height)}",
        "role": "group" if linked else "img",
        "aria-labelledby": f"{id_prefix}-title {id_prefix}-desc", "class": None if paper else "picture",
        "font-family": "Loadstar Text" if paper else None,
        "width": num(width) if paper or look.at_size else None,
        "height": num(height) if paper or look.at_size else None,
    }
    return el("svg", attrs, el("title", {"id": f"{id_prefix}-title"}, text(title)),
              el("desc", {"id": f"{id_prefix}-desc"}, text(description)), *body)
