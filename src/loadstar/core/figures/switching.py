"""Flashers and the lamps on them."""

from ..parts.flasher import Flasher
from .figures import Figures
from .registry import FLASHER, NoFigure, figure
from .working import Working, summed


@figure("flasher", FLASHER)
def flasher_w(figures: Figures, part: Flasher) -> Working:
    """Watts of the side of a flasher that is furthest from what it is made for."""
    on_it = figures.plan.fed_through(part.id)
    sides = [side for live in ("left", "right") if (side := [p for p in on_it if p.live == live])]
    if not sides:
        raise NoFigure(f"No indicators are fed from {part.name}.")
    side = max(sides, key=lambda loads: abs(sum(p.power_w for p in loads) - part.made_for_w))
    formula, inputs = summed("P", [(p.power_w, p.name) for p in side], "W", "stated")
    return Working(f"On {part.name}, one side", "P", sum(p.power_w for p in side), "W", formula, tuple(inputs),
                   f"It is made for {part.made_for_w:g} W.")
