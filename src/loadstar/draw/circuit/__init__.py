"""The circuit drawing, made by itself: what is on it (`items`), put on sheets (`rows`, `lay`), and drawn (`paint`)."""

from loadstar.core.analysis import Analysis
from loadstar.core.parts.base import Part

from .items import Circuitry
from .lay import Sheet, sheets
from .paint import draw

__all__ = ["Sheet", "draw", "left_out", "sheets"]


def left_out(analysis: Analysis) -> tuple[Part, ...]:
    """The parts that are on no sheet: nothing is joined to them."""
    return Circuitry(analysis).left_out
