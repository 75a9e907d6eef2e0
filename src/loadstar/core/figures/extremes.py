"""Which wire is nearest its limit, and which is guarded the least."""

import math

from ..doc.states import States
from .figures import Figures


def hottest_wire(figures: Figures, state: States | None = None) -> tuple[str, float] | None:
    """The wire nearest its limit in a state (or over all), and its temperature."""
    if state is None:
        found = [(w.class_c - w.hottest_c, w.id, w.hottest_c) for w in figures.wires.values()
                 if math.isfinite(w.hottest_c)]
    else:
        here = figures.states[state].wire_c if state in figures.states else {}
        found = [(figures.wires[w].class_c - c, w, c) for w, c in here.items()]
    return min(found)[1:] if found else None


def weakest_wire(figures: Figures) -> tuple[str, float] | None:
    """The guarded wire with the least strength, and that strength."""
    found = [(s, w.id) for w in figures.wires.values() if (s := w.strength) is not None]
    return (min(found)[1], min(found)[0]) if found else None
