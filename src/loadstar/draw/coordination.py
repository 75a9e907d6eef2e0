"""Wire against fuse: when the fuse opens (fastest to slowest) and when the wire is damaged, over current, log-log.

Safe is where the whole band lies below the wire's line, from the rating to the fault current of this circuit.
"""

from loadstar.core.sizing.argument import Curves

from .chart import Axis, Chart
from .svg import document

MOST_S, LEAST_S = 1000.0, 0.0005  # electronic ways act within milliseconds


def chart(curves: Curves, wire: str, fuse: str, width: float, height: float) -> Chart:
    """The placed picture."""
    most = max(curves.fault_a * 1.4, curves.rated_a * 8)
    made = Chart(width, height, Axis(curves.rated_a * 0.8, most, "current in the wire, amps", "A", True),
                 Axis(LEAST_S, MOST_S, "seconds", "s", True))
    inside = [(a, t) for a, t in curves.slowest if t <= MOST_S]
    if inside:
        fast = [(a, min(max(t, LEAST_S), MOST_S)) for a, t in curves.fastest if a >= inside[0][0] - 1e-9]
        made.band([(a, max(t, LEAST_S)) for a, t in inside], fast, "c-band")
    made.curve([(a, t) for a, t in curves.slowest if LEAST_S <= t <= MOST_S], "c-slow")
    made.curve([(a, t) for a, t in curves.fastest if LEAST_S <= t <= MOST_S], "c-fast")
    made.curve([(a, t) for a, t in curves.damage if LEAST_S <= t <= MOST_S], "c-damage")
    made.upright(curves.fault_a, "d-now")
    made.upright(curves.touch_a, "d-dots")
    made.label("fault", f"largest fault\n{curves.fault_a:.0f} A", curves.fault_a, MOST_S / 4, "d-label")
    if abs(curves.touch_a / curves.fault_a - 1) > 0.05:
        made.label("touch", f"touch at its end\n{curves.touch_a:.0f} A", curves.touch_a, MOST_S / 30, "d-soft")
    if curves.damage:
        at = curves.damage[len(curves.damage) // 3]
        made.label("damage", f"{wire} is damaged", at[0], min(at[1], MOST_S / 2), "d-bad")
    if inside:
        at = inside[len(inside) // 2]
        made.label("band", f"{fuse} acts", at[0], max(at[1], LEAST_S * 3), "d-tide", 1)
    if curves.fails_from_a is not None:
        made.upright(curves.fails_from_a, "c-fails")
        made.label("fails", f"too late from {curves.fails_from_a:.0f} A", curves.fails_from_a, LEAST_S * 8, "d-bad")
    return made


def draw(curves: Curves, wire: str, fuse: str, *, width: float = 440, height: float = 320) -> str:
    """The picture."""
    verdict = (f"from {curves.fails_from_a:.0f} A on it can open too late" if curves.fails_from_a is not None
               else "at every fault current it acts before the wire is damaged")
    return document((width, height), f"{wire} behind {fuse}", f"Opening and damage times over current; {verdict}.",
                    chart(curves, wire, fuse, width, height).body(), "coordination")
