"""A touch on a wire: how soon its fuse opens, and how far copper reaches without one."""

import math

from ..materials import fuses
from ..sizing.chafe import Chafe
from ..sizing.drops import starter_leads
from ..sizing.unfused import Unfused
from .figures import Figures
from .registry import TOUCHED, UNFUSED, NoFigure, figure
from .working import Input, Working, summed


@figure("chafe", TOUCHED)
def chafe(figures: Figures, touch: Chafe) -> Working:
    """The slowest opening for a touch at a wire's far end."""
    if touch.guard is None or touch.guard.electronic or math.isinf(touch.opens_s):
        raise NoFigure(f"Nothing opens for a touch of {touch.wire}.")
    if touch.guard.opener.slowest_s(touch.far_a - touch.guard.others_a) > touch.opens_s:
        raise NoFigure("It is not the fuse that acts first.")  # an electronic way in series is the faster
    multiple = (touch.far_a - touch.guard.others_a) / touch.guard.share / touch.guard.rating_a
    fuse = figures.topology.parts[touch.guard.fuse].name
    below, above = fuses.gates(fuses.SLOWEST, multiple)
    note = (f"A touch at the near end draws {touch.near_a:.0f} A. The wire stands the far-end current "
            f"{touch.damage_s:.2g} s."
            if math.isfinite(touch.damage_s)
            else f"A touch at the near end draws {touch.near_a:.0f} A; the wire stands either.")
    base = (Input("m", multiple, "", f"{touch.far_a:.1f} A at the far end, over the rating of {fuse}",
                  "fault solution"),
            Input("m_1", below[0], "", "gate below", fuses.SOURCE),
            Input("t_1", below[1], "s", "longest there", fuses.SOURCE))
    if above is None:
        return Working(f"{fuse} opens after at most", "t", touch.opens_s, "s", "t_1 * (m_1 / m) ** 2", base, note)
    return Working(f"{fuse} opens after at most", "t", touch.opens_s, "s",
                   "t_1 * (t_2 / t_1) ** (ln(m / m_1) / ln(m_2 / m_1))",
                   (*base, Input("m_2", above[0], "", "gate above", fuses.SOURCE),
                    Input("t_2", above[1], "s", "longest there", fuses.SOURCE)), note)


@figure("unfused", UNFUSED)
def unfused(figures: Figures, found: Unfused) -> Working:
    """How long the way is that no fuse guards, to the far end of a wire."""
    leads = set(starter_leads(figures.topology))
    terms = [(0.0, f"{w}, a starter lead: left out by custom") if w in leads else (figures.wires[w].length_m, w)
             for w in found.way]
    formula, inputs = summed("l", terms, "m", "lengths of this plan")
    return Working(f"Without a fuse, to the far end of {found.way[-1]}", "L", found.length_m, "m", formula,
                   tuple(inputs), "From the store's terminal along copper, past nothing that opens.")
