"""Touches to the frame: does a fuse see them? That it acts in time is part of what `wire.not-protected` asks."""

import math
from collections.abc import Iterator

from ..figures.figures import Figures
from ..findings import Finding
from .registry import Say, rule
from .words import listed, opener


@rule(
    "fuse.never-opens",
    meaning="A short to frame at a wire's far end draws too little for the fuse to be sure to blow: it smoulders.",
    cure="A smaller fuse, a thicker wire, a shorter way.",
    source="ISO 8820-3: no longest opening time below 1.35 times the rating")
def never_opens(figures: Figures, say: Say) -> Iterator[Finding]:
    """Far-end currents below 1.35 times the rating, by fuse."""
    found: dict[str, list[str]] = {}
    for wire, touch in figures.chafes.items():
        if touch.guard and touch.guard.opener.kind == "fuse" and touch.survives and math.isinf(touch.opens_s):
            found.setdefault(touch.guard.fuse, []).append(wire)
    for wires in found.values():
        least = min(wires, key=lambda w: figures.chafes[w].far_a)
        touch = figures.chafes[least]
        assert touch.guard is not None
        yield say("caution", (least, touch.guard.fuse, *(w for w in wires if w != least)), (
            f"A short to frame at the far end of {listed(wires)} draws only {touch.far_a:.0f} A: "
            f"{opener(figures, touch.guard)} is not sure to blow."), "circuit", f"chafe/{least}")
