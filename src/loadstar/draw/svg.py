"""SVG as text: elements with escaped attributes, styled by class on screen and by presentation attributes on paper.

The same input gives the same bytes. A picture for paper carries its colours itself, because PDF makers do not apply a
page's style sheet inside a drawing; one for the screen carries classes only, so that theme and policy hold.
"""

from collections.abc import Iterable
from html import escape

# What each class looks like on paper. The screen's style sheet says the same for light and dark.
INK, SOFT, RULE, TIDE, STOP, CAUTION = "#1d2a30", "#56646a", "#cfc8bb", "#0c6470", "#a61b17", "#8a5300"
PAPER: dict[str, dict[str, str]] = {
    "d-frame": {"fill": "#ffffff", "stroke": RULE}, "d-grid": {"stroke": RULE, "stroke-width": "0.7"},
    "d-axis": {"fill": SOFT, "font-family": "Loadstar Mono", "font-size": "12"},
    "d-label": {"fill": INK, "font-weight": "600", "font-size": "13"},
    "d-figure": {"fill": SOFT, "font-family": "Loadstar Mono", "font-size": "12"},
    "d-soft": {"fill": SOFT, "font-size": "12"}, "d-band": {"fill": SOFT, "font-size": "12", "font-weight": "600"},
    "d-edge": {"stroke": INK, "fill": "none"}, "d-dots": {"stroke": INK, "stroke-dasharray": "2 3", "fill": "none"},
    "d-leader": {"stroke": SOFT, "stroke-width": "0.7", "fill": "none"},
    "d-step": {"fill": "#ffffff", "stroke": INK, "stroke-width": "1.4"},
    "d-load": {"fill": "#ffffff", "stroke": INK, "stroke-width": "1.8"},
    "d-need": {"stroke": TIDE, "stroke-width": "2", "fill": "none"}, "d-tide": {"fill": TIDE, "font-weight": "600",
                                                                                "font-size": "13"},
    "d-heat": {"stroke": "#e9a15b", "fill": "none", "opacity": "0.45"},
    "d-bad": {"fill": STOP, "font-weight": "600", "font-size": "13"},
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


def document(width: float, height: float, title: str, description: str, body: Iterable[str], *, paper: bool = False,
             id_prefix: str = "pic", linked: bool = False, at_size: bool = False) -> str:
    """A whole picture with its title and description for screen readers; `linked` when parts of it are links,
    `at_size` when it is shown as large as it is drawn."""
    attrs: dict[str, object] = {
        "xmlns": "http://www.w3.org/2000/svg", "viewBox": f"0 0 {num(width)} {num(height)}",
        "role": "group" if linked else "img",
        "aria-labelledby": f"{id_prefix}-title {id_prefix}-desc", "class": None if paper else "picture",
        "font-family": "Loadstar Text" if paper else None,
        "width": num(width) if paper or at_size else None, "height": num(height) if paper or at_size else None,
    }
    return el("svg", attrs, el("title", {"id": f"{id_prefix}-title"}, text(title)),
              el("desc", {"id": f"{id_prefix}-desc"}, text(description)), *body)
