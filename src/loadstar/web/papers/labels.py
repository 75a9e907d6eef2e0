"""Labels for wires: one for each end, to wrap around or to fold into a flag, with the address of the wire's page."""

import math
from typing import Literal

import segno
from django.urls import reverse
from django.utils.safestring import mark_safe

from ..frame.frame import Frame
from .card import pdf

Form = Literal["wrap", "flag"]
FORMS: tuple[Form, ...] = ("wrap", "flag")
ROUND = 1.1  # times round the wire: what a flag leaves for it; a wrap label has a clear tail of two and a half


def labels_pdf(frame: Frame, form: Form) -> bytes:
    """Two labels for each wire, as PDF, cut to the wire's own diameter: to wrap around, with a clear tail over the
    print, or to fold over it into a flag, printed on both halves. Scanned by somebody who is not signed in, the address
    asks for that first."""
    assert frame.analysis.ends is not None
    by_key = frame.analysis.ends.by_key
    labels = []
    for wire in (w for w in frame.plan.wires if not frame.analysis.topology.untouched(w)):
        page = frame.request.build_absolute_uri(reverse("station", kwargs={**frame.base, "station": "ends"}))
        code = segno.make(f"{page}?sel={wire.id}", error="m")
        picture = mark_safe(code.svg_inline(scale=1, border=1, dark="#000", light="#fff"))
        striped = wire.colours
        around_mm = math.pi * by_key[f"{wire.id}.a"].od_mm
        for here, there in ((wire.a, wire.b), (wire.b, wire.a)):
            labels.append({"wire": wire.id, "colour": striped, "area": frame.analysis.wires[wire.id].area_mm2,
                           "here": f"{here} {frame.plan.part(here.part).name}",
                           "there": f"{there} {frame.plan.part(there.part).name}", "code": picture,
                           "tail_mm": round(2.5 * around_mm, 1), "stub_mm": round(ROUND * around_mm, 1)})
    return pdf("papers/labels.html", {"frame": frame, "labels": labels, "form": form})
