"""What is sent from the Handover station: a revision closed as built."""

from django.contrib import messages

from loadstar.core.whatif.cures import GRAVE

from ...evidence.proved import proofs_of, unproved
from ...frame.frame import Frame
from ...frame.station import Act, Again
from ...records.models import AsBuilt


def _close(frame: Frame) -> str:
    """This revision is what was built. With a stop finding it needs a reason, and what is unproved is said with it."""
    note = " ".join(frame.request.POST.get("note", "").split())[:300]
    if frame.made_on != frame.loaded.number:
        raise Again(409, told=f"The plan is at revision {frame.loaded.number} by now: look at that one first.")
    if not frame.plan.loads:
        raise Again(422, told="There is nothing in this plan that could have been built.")
    stops = [f for f in frame.findings if f.severity == GRAVE[0]]
    if stops and not note:
        raise Again(422, told=f"{len(stops)} finding{'s stop' if len(stops) > 1 else ' stops'} it: say why it is "
                    "handed over all the same.")
    _, fresh = AsBuilt.objects.get_or_create(plan=frame.row, revision=frame.loaded.number, defaults={
        "note": note, "unproved": unproved(frame, proofs_of(frame)), "by": frame.membership.person})
    if not fresh:
        messages.info(frame.request, f"Revision {frame.loaded.number} was closed as built already.")
    return frame.link()


ACTS: dict[str, Act] = {"close": _close}
