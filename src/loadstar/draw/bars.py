"""Bars for shares: what is believed, most first, each with its words."""

import textwrap
from collections.abc import Sequence

from .svg import document, el, text

WIDTH, LINE, BAR, GAP, FIGURE = 430.0, 18.0, 12.0, 12.0, 96.0
LETTERS = 54  # that fit in a line


def bars(rows: Sequence[tuple[str, float]]) -> str:
    """A row for each: words above, in as many lines as they take, a bar as long as its share, the share in per cent."""
    made = []
    top = 0.0
    for words, share in rows:
        for line in textwrap.wrap(words, LETTERS):
            top += LINE
            made.append(el("text", {"x": 0.0, "y": top - 4, "class": "d-label"}, text(line)))
        made += [el("rect", {"x": 0.0, "y": top, "width": WIDTH - FIGURE, "height": BAR, "class": "b-all"}),
                 el("rect", {"x": 0.0, "y": top, "width": max(1.0, (WIDTH - FIGURE) * share), "height": BAR,
                             "class": "b-share"}),
                 el("text", {"x": WIDTH, "y": top + 11, "text-anchor": "end", "class": "d-figure"},
                    text(percent(share)))]
        top += BAR + GAP
    told = "; ".join(f"{words}: {percent(share)}" for words, share in rows)
    return document((WIDTH, max(top, 1.0)), "What the readings point to", told, made, "bars")


def percent(share: float) -> str:
    """A share in whole per cent, never a whole hundred."""
    return f"{min(round(share * 100), 99)}\u00a0%" if share >= 0.01 else "under 1\u00a0%"
