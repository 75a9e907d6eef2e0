"""The crimp card: each kind of end that a plan uses, once, with where it is used."""

from django.utils import timezone
from django.utils.safestring import mark_safe

from loadstar.core.ends.choose import End
from loadstar.core.order import half_of
from loadstar.draw import crimp

from ..frame.frame import Frame
from .press import UPRIGHT, pdf


def crimp_card_pdf(frame: Frame) -> bytes:
    """One entry for each terminal with each size of wire."""
    assert frame.analysis.ends is not None
    kinds: dict[tuple[str, float, str], list[End]] = {}
    for end in frame.analysis.ends.every:
        if end.chosen is not None:
            kinds.setdefault((end.name, end.area_mm2, end.how), []).append(end)
    entries = [{"end": ends[0], "picture": mark_safe(_picture(frame, ends[0])),
                "at": [f"{e.wire} at {e.at}" for e in ends],
                "first": list(dict.fromkeys(one for e in ends for one in e.on_first if not one.startswith("sleeve")))}
               for _, ends in sorted(kinds.items())]
    return pdf("papers/crimp.html", {"frame": frame, "today": timezone.now(), "entries": entries}, UPRIGHT)


def _picture(frame: Frame, end: End) -> str:
    return crimp.draw(end, frame.plan.wire(end.wire).colour, half_of(frame.plan, end), paper=True)
