"""A touch on a wire: how soon its fuse opens."""

import math

from ..materials import fuses
from ..sizing.chafe import Chafe
from .figures import Figures
from .registry import TOUCHED, NoFigure, figure
from .working import Input, Working


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
