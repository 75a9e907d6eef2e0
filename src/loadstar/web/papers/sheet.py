"""The work sheet on paper: every go in its order, large, with a box to tick for each line, for where no tablet goes."""

from django.utils import timezone

from ..evidence.sheet import sheet_of, standing_of
from ..frame.frame import Frame
from .press import UPRIGHT, pdf


def work_sheet_pdf(frame: Frame) -> bytes:
    """The goes one after another; what is done already has its tick."""
    sheet = sheet_of(frame)
    _, now = standing_of(frame, sheet)
    goes = [{"go": go, "number": n, "rows": [{"line": line, "done": all(o.key in now.done for o in line.operations)}
                                             for line in go.lines]}
            for n, go in enumerate(sheet.goes, 1)]
    return pdf("papers/sheet.html", {"frame": frame, "today": timezone.now(), "goes": goes}, UPRIGHT)
