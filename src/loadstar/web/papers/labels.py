"""Labels for wires and fuses: one for each end and holder, to wrap around or to fold into a flag, with the address of
its page."""

import math
from collections.abc import Iterator
from typing import Literal

import segno
from django.conf import settings
from django.urls import reverse
from django.utils import timezone
from django.utils.safestring import mark_safe

from loadstar.core.parts.fuse import FusePart

from ..frame.frame import Frame
from .press import pdf

Form = Literal["wrap", "flag"]
FORMS: tuple[Form, ...] = ("wrap", "flag")
HOLDER_MM = 6.0  # across the two leads of a fuse holder
ROUND = 1.1  # times round the wire: what a flag leaves for it; a wrap label has a clear tail of two and a half


def labels_pdf(frame: Frame, form: Form) -> bytes:
    """Two labels for each wire and one for each fuse, as PDF, cut to the wire's own diameter: to wrap around, with a
    clear tail over the print, or to fold over it into a flag, printed on both halves. Scanned by somebody who is not
    signed in, the address asks for that first."""
    labels = [*wire_labels(frame), *fuse_labels(frame)]
    return pdf("papers/labels.html", {"frame": frame, "today": timezone.now(), "labels": labels, "form": form})


def wire_labels(frame: Frame) -> Iterator[dict[str, object]]:
    """One for each end of a wire that is made or changed."""
    a = frame.analysis
    assert a.ends is not None
    station = "circuits" if frame.plan.loads else "ends"  # where a wire says what it is
    for wire in (w for w in frame.plan.wires if not a.topology.untouched(w)):
        around_mm = math.pi * a.ends.by_key[f"{wire.id}.a"].od_mm
        what = f"{wire.colours} {a.wires[wire.id].area_mm2:g} mm²"
        for here, there in ((wire.a, wire.b), (wire.b, wire.a)):
            yield {"id": wire.id, "what": what, "code": _code(frame, station, wire.id),
                   "lines": (f"at {here} {frame.plan.part(here.part).name}",
                             f"to {there} {frame.plan.part(there.part).name}"),
                   "tail_mm": round(2.5 * around_mm, 1), "stub_mm": round(ROUND * around_mm, 1)}


def fuse_labels(frame: Frame) -> Iterator[dict[str, object]]:
    """One for each fuse's holder: what goes in, and what it feeds."""
    a, around_mm = frame.analysis, math.pi * HOLDER_MM
    for fuse in frame.plan.of(FusePart):
        if fuse.id not in a.ratings.rated:
            continue
        feeds = [p.name for p in a.topology.loads_behind.get(fuse.id, ())]
        words = fuse.words(a.ratings.rating_a(fuse.id))
        yield {"id": fuse.id, "what": words, "code": _code(frame, "circuits", fuse.id),
               "lines": (fuse.name, f"feeds {', '.join(feeds)}"[:80] if feeds else "leads on"),
               "tail_mm": round(2.5 * around_mm, 1), "stub_mm": round(ROUND * around_mm, 1)}


def _code(frame: Frame, station: str, element: str) -> str:
    """The address of an element, to be scanned."""
    page = reverse("station", kwargs={**frame.base, "station": station})
    above = settings.LAN or f"{frame.request.scheme}://{frame.request.get_host()}"  # telephones are what scans it
    code = segno.make(f"{above}{page}?sel={element}", error="m")
    return mark_safe(code.svg_inline(title=f"Square code of the page of {element}", scale=1, border=1, dark="#000",
                                     light="#fff"))
