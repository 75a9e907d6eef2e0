"""A pack from full to empty: its volts at rest, in assist and at full power, against what must still work.

Where a line falls under the cut-off the bike stops; where it leaves a converter's window what hangs on that goes out.
"""

from loadstar.core.amounts import percent
from loadstar.core.analysis import Analysis
from loadstar.core.budget.packs import sag_curves
from loadstar.core.parts.converter import Converter

from .chart import Axis, Chart
from .svg import document

WORDS = {"rested": "at rest", "assist": "assist", "full": "full power"}


def chart(analysis: Analysis, width: float, height: float) -> Chart | None:
    """The placed picture; None without a pack."""
    found = analysis.pack
    if found is None:
        return None
    curves = sag_curves(analysis.plan)
    boxes = list(analysis.plan.of(Converter))
    lows = [found.cut_off_v, *(b.window_low_v for b in boxes)]
    low = min(min(lows), min(v for points in curves.values() for _, v in points)) * 0.94
    high = max(found.packs[0].full_v, *(b.window_high_v for b in boxes), 0.0) * 1.04
    made = Chart(width, height, Axis(0, 100, "charge left, per cent (voltage between the ends is approximate)", "%"),
                 Axis(low, high, "volts at the pack", "V"))
    made.level(found.cut_off_v, "c-fails")
    made.label("cut", f"cut-off {found.cut_off_v:.1f} V", 78, found.cut_off_v, "d-bad", 1)
    for box in boxes:
        for volts, word in ((box.window_low_v, "from"), (box.window_high_v, "up to")):
            made.level(volts, "d-dots")
            made.label(f"{box.id}{word}", f"{box.name} {word} {volts:g} V", 45, volts, "d-soft")
    for n, (kind, points) in enumerate(curves.items()):
        made.curve([(charge * 100, volts) for charge, volts in points], f"c-line c-{n}")
        if points:
            charge, volts = points[int(len(points) * (0.55 + 0.12 * n))]
            made.label(kind, WORDS[kind], charge * 100, volts, f"d-label t-{n}", -1 if n == 0 else 1)
    if found.cuts_out_frac is not None:
        made.point(found.cuts_out_frac * 100, found.cut_off_v, "d-float")
        made.label("out", f"full power cuts out\nbelow {percent(found.cuts_out_frac)}", found.cuts_out_frac * 100,
                   found.cut_off_v, "d-bad")
    return made


def draw(analysis: Analysis, *, width: float = 760, height: float = 380) -> str:
    """The picture; empty without a pack."""
    made = chart(analysis, width, height)
    return "" if made is None else document(
        (width, height), "Pack volts from full to empty",
        "At rest, in assist and at full power, with cut-off and input windows.",
        made.body(), "pack")
