"""Labels for wires: one for each end, to wrap around or to fold into a flag, with the address of the wire's page."""

import segno
from django.urls import reverse
from django.utils.safestring import mark_safe

from ..frame.frame import Frame
from .card import pdf


def labels_pdf(frame: Frame) -> bytes:
    """Two labels for each wire, as PDF. Scanned by somebody who is not signed in, the address asks for that first."""
    labels = []
    for wire in frame.plan.wires:
        page = frame.request.build_absolute_uri(reverse("station", kwargs={**frame.base, "station": "ends"}))
        code = segno.make(f"{page}?sel={wire.id}", error="m")
        picture = mark_safe(code.svg_inline(scale=1, border=1, dark="#000", light="#fff"))
        striped = f"{wire.colour}/{wire.stripe}" if wire.stripe else wire.colour
        for here, there in ((wire.a, wire.b), (wire.b, wire.a)):
            labels.append({"wire": wire.id, "colour": striped, "area": frame.analysis.wires[wire.id].area_mm2,
                           "here": f"{here} {frame.plan.part(here.part).name}",
                           "there": f"{there} {frame.plan.part(there.part).name}", "code": picture})
    return pdf("papers/labels.html", {"frame": frame, "labels": labels})
