"""A touch on a wire: how soon its fuse opens, and how far copper reaches without one."""

import math
from collections.abc import Iterable
from dataclasses import dataclass

from ..materials import fuses
from ..sizing.argument import Heated, heated
from ..sizing.chafe import Chafe
from ..sizing.drops import starter_leads
from ..sizing.unfused import Unfused
from .figures import Figures
from .registry import COURSED, TOUCHED, UNFUSED, NoFigure, figure
from .wires import WireResult
from .working import Input, Working, summed

BURNS_C = 1000.0  # nothing settles there any more
GONE_A = 0.5


@figure("chafe", TOUCHED)
def chafe(figures: Figures, touch: Chafe) -> Working:
    """The slowest opening for a touch at a wire's far end."""
    if touch.guard is None or touch.guard.electronic or math.isinf(touch.opens_s):
        raise NoFigure(f"Nothing opens for a touch of {touch.wire}.")
    if touch.guard.opener.slowest_s(touch.far_a - touch.guard.others_a) > touch.opens_s:
        raise NoFigure("It is not the fuse that acts first.")  # an electronic way in series is the faster
    multiple = (touch.far_a - touch.guard.others_a) / touch.guard.share / touch.guard.rating_a
    fuse = figures.topology.parts[touch.guard.fuse].name
    opener = touch.guard.opener.kind
    assert opener not in ("electronic", "limit")  # told above
    band = fuses.BANDS[opener]
    below, above = fuses.gates(band.slowest, multiple)
    note = (f"A touch at the near end draws {touch.near_a:.0f} A. The wire stands the far-end current "
            f"{touch.damage_s:.2g} s."
            if math.isfinite(touch.damage_s)
            else f"A touch at the near end draws {touch.near_a:.0f} A; the wire stands either.")
    base = (Input("m", multiple, "", f"{touch.far_a:.1f} A at the far end, over the rating of {fuse}",
                  "fault solution"),
            Input("m_1", below[0], "", "gate below", band.source),
            Input("t_1", below[1], "s", "longest there", band.source))
    if above is None:
        return Working(f"{fuse} opens after at most", "t", touch.opens_s, "s", "t_1 * (m_1 / m) ** 2", base, note)
    return Working(f"{fuse} opens after at most", "t", touch.opens_s, "s",
                   "t_1 * (t_2 / t_1) ** (ln(m / m_1) / ln(m_2 / m_1))",
                   (*base, Input("m_2", above[0], "", "gate above", band.source),
                    Input("t_2", above[1], "s", "longest there", band.source)), note)


@figure("unfused", UNFUSED)
def unfused(figures: Figures, found: Unfused) -> Working:
    """How long the way is that no fuse guards, to the far end of a wire."""
    leads = set(starter_leads(figures.topology))
    terms = [(0.0, f"{w}, a starter lead: left out by custom") if w in leads else (figures.wires[w].length_m, w)
             for w in found.way]
    formula, inputs = summed("l", terms, "m", "lengths of this plan")
    return Working(f"Without a fuse, to the far end of {found.way[-1]}", "L", found.length_m, "m", formula,
                   tuple(inputs), "From the store's terminal along copper, past nothing that opens.")


@dataclass(frozen=True)
class Stage:
    """One stage of a fault: what flows in a wire, which openers end it (none: it is the last), how long it lasts and
    when it ends (s; infinite for good), and how warm the wire then is (C; None: burnt through, or it is the last)."""

    wire_a: float
    opens: tuple[str, ...]
    seconds: float
    after_s: float
    warm_c: float | None

    @property
    def goes_on(self) -> bool:
        """Whether it is the last and current flows in it for good."""
        return not self.opens and self.wire_a > GONE_A


def stages(heated_by: Heated) -> tuple[Stage, ...]:
    """A fault of several stages, from its beginning to its end."""
    now, found = 0.0, []
    for n, step in enumerate(heated_by.course.steps):
        now += step.seconds
        warm_c = heated_by.after_c[n] if step.opens else math.inf
        found.append(Stage(step.wire_a, step.opens, step.seconds, now, warm_c if warm_c < BURNS_C else None))
    return tuple(found)


@figure("course", COURSED)
def course(figures: Figures, found: WireResult) -> Working:
    """How long a fault of a wire lasts that more than one thing has to open for, stage by stage."""
    told = worst_course(found)
    every = stages(told)
    ends = [s for s in every if s.opens]
    formula, inputs = summed("t", [
        (s.seconds, f"{s.wire_a:.0f} A in {found.id}, until {' and '.join(_names(figures, s.opens))} opened; "
                    f"{found.id} is then {'burnt through' if s.warm_c is None else f'at {s.warm_c:.0f} °C'}")
        for s in ends], "s", "fault solved again after each opening")
    fault = "a dead short" if told.course.fault_ohm == 0 else f"a fault of {told.course.fault_ohm:.3g} Ω"
    last = every[-1]
    then = f"After that {last.wire_a:.0f} A go on in it, and nothing opens." if last.goes_on else "Then it is ended."
    number = "one stage" if len(ends) == 1 else f"{len(ends)} stages"
    return Working(f"{found.id}, {fault}, over in {number} after", "t", sum(s.seconds for s in ends), "s", formula,
                   tuple(inputs), f"Openers at the slow edge of their band. {then}")


def worst_course(found: WireResult) -> Heated:
    """Of a wire's faults of several stages the first that heats it too much, or else the one that leaves it
    warmest."""
    if found.coordination.late is not None:
        return found.coordination.late
    duty, guard = found.coordination.duty, found.judged_by
    assert guard is not None
    warm = heated(duty.wire, guard.courses, duty.air_c, found.hottest_c if math.isfinite(found.hottest_c)
                  else duty.air_c)
    return max(warm, key=lambda h: max(h.after_c, default=-math.inf))


def _names(figures: Figures, parts: Iterable[str]) -> list[str]:
    return [f"{figures.topology.parts[p].name} ({p})" for p in parts]
