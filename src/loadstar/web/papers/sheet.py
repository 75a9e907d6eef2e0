"""The work sheet on paper: every operation in its order, large, with a box to tick, for where no tablet goes."""

from django.utils import timezone

from ..evidence.sheet import sheet_of, standing_of
from ..frame.frame import Frame
from .card import pdf


def work_sheet_pdf(frame: Frame) -> bytes:
    """A page for each sub-harness; what is done already has its tick."""
    sheet = sheet_of(frame)
    _, now = standing_of(frame, sheet)
    places = {p.id: p.name for p in frame.plan.places}
    groups = [{"name": name, "rows": [{"operation": o, "done": o.key in now.done, "place": places.get(o.where, o.where)}
                                      for o in sheet.order(name)]} for name in sheet.work.groups]
    return pdf("papers/sheet.html", {"frame": frame, "today": timezone.now(), "groups": groups})
