"""Rules about touches to the frame: does a fuse see it, and in time?"""

import math
from collections.abc import Iterator

from ..analysis import Analysis
from ..findings import Finding
from .registry import rule

CIRCUITS = "circuits"


@rule("wire.chafe", meaning="Where this wire touches the frame, it is damaged before its fuse opens.",
      cure="A thicker wire, a smaller fuse, a shorter way.", source="Chafe model of docs/physics.md; ISO 8820-3 slowest opening")
def chafe(analysis: Analysis) -> Iterator[Finding]:
    """A touch at the far end of every guarded wire, where the fuse is slowest."""
    for wire, touch in analysis.chafes.items():
        result = analysis.wires[wire]
        if touch.guard is None or touch.survives or (result.coordination and not result.coordination.protected):
            continue
        opens = f"may take {touch.opens_s:.2g} s" if math.isfinite(touch.opens_s) else "need not open at all"
        yield Finding("wire.chafe", "stop", (wire, touch.guard.fuse), (
            f"If {wire} ({result.area_mm2:g} mm²) touches the frame at its far end {touch.far_a:.0f} A flow; "
            f"{touch.guard.fuse} {opens}, the wire stands it {touch.damage_s:.2g} s."), CIRCUITS, f"chafe/{wire}")


@rule("fuse.never-opens", meaning="A touch at a wire's far end draws too little for the fuse to have to open: it smoulders.",
      cure="A smaller fuse, a thicker wire, a shorter way.", source="ISO 8820-3: no longest opening time below 1.35 times the rating")
def never_opens(analysis: Analysis) -> Iterator[Finding]:
    """Far-end currents below 1.35 times the rating."""
    for wire, touch in analysis.chafes.items():
        if touch.guard and not touch.guard.electronic and touch.survives and math.isinf(touch.opens_s):
            yield Finding("fuse.never-opens", "caution", (wire, touch.guard.fuse), (
                f"A touch at the far end of {wire} draws {touch.far_a:.0f} A; {touch.guard.fuse} ({touch.guard.rating_a:g} A) "
                "need not open at that."), CIRCUITS, f"chafe/{wire}")
