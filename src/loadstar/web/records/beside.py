"""Files that somebody sends, taken in beside the request: photographs, plans, machine's files."""

import secrets
from collections.abc import Sequence

from django.core.files.uploadedfile import UploadedFile
from django.urls import reverse

from loadstar.core.errors import Fault, PlanError, refuse
from loadstar.core.plan import document

from ..jobs import work
from ..jobs.kinds import Made, Piece
from ..jobs.models import Job
from ..plans.models import PlanHead
from ..workshop.models import Membership, Trail
from ..workshop.trail import note
from . import machine, photos, store

ZIP = b"PK"  # what a machine's file begins with


class TakenIn:
    """What both kinds are: made whole, whoever waits."""

    patience_s: float | None = None

    def pieces(self, job: Job) -> Sequence[Piece]:
        """None."""
        return ()

    def piece(self, job: Job, key: str) -> bytes:
        """None."""
        raise AssertionError(key)


class Photographs(TakenIn):
    """A photograph of an element."""

    def whole(self, job: Job, made: Sequence[bytes]) -> Made:
        """Kept, smaller and without what the camera wrote into it."""
        row = PlanHead.objects.filter(pk=job.asked["plan"], workshop=job.workshop).first()
        if row is None:
            raise refuse("", "photo", "The plan is no longer there.")
        photos.keep_photo(row, job.person, job.asked["element"], job.asked["caption"], bytes(job.given or b""))
        return Made(link=job.asked["back"])


class Files(TakenIn):
    """A plan, or a machine's file."""

    def whole(self, job: Job, made: Sequence[bytes]) -> Made:
        """A new plan of the workshop."""
        data = bytes(job.given or b"")
        row = (machine.take_in(job.workshop, job.person, data) if data.startswith(ZIP) else
               store.take_in(job.workshop, job.person, document.from_json(data)))
        note(Trail.What.IMPORTED, job.person, job.workshop, f"plan {row.summary.name}")
        return Made(link=reverse("plan", args=[job.workshop.slug, row.pk]))


def photograph(membership: Membership, row: PlanHead, element: str, caption: str, file: UploadedFile | None,
               back: str) -> str:
    """Take a photograph in; where to go from there. PlanError when it is none."""
    asked = {"plan": row.pk, "element": element, "caption": caption[:120], "back": back}
    return _taken_in(membership, "photo", "Photograph", asked, photos.sent(row, file))


def plan_file(membership: Membership, data: bytes) -> str:
    """Take a plan or a machine's file in; where to go from there. PlanError when it is none."""
    back = reverse("bench", args=[membership.workshop.slug])
    return _taken_in(membership, "file", "A plan from a file", {"back": back}, data)


def _taken_in(membership: Membership, kind: str, title: str, asked: dict[str, object], data: bytes) -> str:
    job = work.awaited(work.ask(membership, kind, title, secrets.token_hex(32), asked, data))
    if job.state == Job.State.DONE:
        return job.link
    if job.ended:
        raise PlanError(*(Fault("", kind, words) for words in job.faults))
    return reverse("job", args=[membership.workshop.slug, job.pk])
