"""Asking for a job, waiting for it a moment, and making it: part by part, by whichever process is free, then whole."""

import logging
import time
from collections.abc import Mapping
from datetime import timedelta
from typing import Any

from django.conf import settings
from django.db import IntegrityError, transaction
from django.db.models import Sum
from django.utils import timezone
from django_tasks import task

from loadstar.core.errors import PlanError, refuse
from loadstar.core.limits import TooLarge

from ..workshop.models import Membership
from .kinds import Made, kind_of
from .models import Job, Part
from .progress import Cancelled, Pages, told

log = logging.getLogger(__name__)
WAIT_S, LOOK_S = 2.5, 0.06  # a page waits so long for what it asked for, and looks so often
MOST_UNENDED = 12  # of a workshop
KEPT, KEPT_BYTES = timedelta(days=2), 400 * 1024**2
# Without a sign for so long, the process that made it was ended; or, of one that waits for its turn, there is none.
DIED, NEVER_BEGUN = timedelta(seconds=150), timedelta(minutes=20)
TOO_MUCH = "It needs more memory than Loadstar gives to one piece of work ({} MB): ask for its parts one by one."
ENDED = "The process that made it was ended: ask for it again."


def ask(membership: Membership, kind: str, title: str, key: str, asked: Mapping[str, Any],
        given: bytes | None = None) -> Job:
    """The job of this key: the one that is there, or a new one that begins. PlanError when too many are waiting."""
    found = Job.objects.defer("result", "given").filter(key=key).first()
    if found is not None and (found.state == Job.State.DONE or not (found.ended or _has_died(found))):
        Job.objects.filter(pk=found.pk).update(wanted=timezone.now())
        return found
    if found is not None:
        found.delete()
    waiting = Job.objects.filter(workshop=membership.workshop).exclude(state__in=Job.ENDED)
    if waiting.count() >= MOST_UNENDED:
        waiting.filter(pk__in=[job.pk for job in waiting.defer("result", "given") if _has_died(job)]).delete()
        if waiting.count() >= MOST_UNENDED:
            raise refuse("", "file", f"{MOST_UNENDED} papers and files of this workshop are being made already: "
                                     "wait for one of them.")
    try:
        with transaction.atomic():
            made = Job.objects.create(key=key, kind=kind, title=title[:120], workshop=membership.workshop,
                                      person=membership.person, asked=dict(asked), given=given)
    except IntegrityError:  # somebody asked for the same this moment
        return Job.objects.defer("result", "given").get(key=key)
    _begin.enqueue(str(made.pk))
    return made


def _has_died(job: Job) -> bool:
    patience = NEVER_BEGUN if job.state == Job.State.WAITING else DIED
    return not job.ended and job.beat < timezone.now() - patience


def awaited(job: Job, wait_s: float = WAIT_S) -> Job:
    """The job as it is when it has ended, or after a moment."""
    until = time.monotonic() + wait_s
    while True:
        state = Job.objects.filter(pk=job.pk).values_list("state", flat=True).first()
        if state is None or state in Job.ENDED or time.monotonic() > until:
            break
        time.sleep(LOOK_S)
    if state is None:
        return job
    found = Job.objects.defer("given", "result").get(pk=job.pk)
    if _has_died(found):
        Job.objects.filter(pk=job.pk, beat=found.beat).update(state=Job.State.FAILED, faults=[ENDED], given=None)
        found.refresh_from_db(fields=["state", "faults"])
    return found


@task()
def _begin(job_id: str) -> None:
    """Divide a job into its parts, each for whoever is free next."""
    job = Job.objects.filter(pk=job_id, state=Job.State.WAITING).first()
    if job is None:
        return
    Job.objects.filter(pk=job.pk).update(state=Job.State.WORKING, beat=timezone.now())
    parts: list[Part] = []
    with _ending(job):
        pieces = kind_of(job.kind).pieces(job)
        parts = [Part(job=job, number=n, key=p.key, words=p.words[:80]) for n, p in enumerate(pieces)]
        Part.objects.bulk_create(parts)
        Job.objects.filter(pk=job.pk).update(pages=sum(p.pages for p in pieces))
        if not pieces:
            _finish(job)
    for part in reversed(parts):  # those at the end take longest to work out
        _make.enqueue(job_id, part.number)


@task()
def _make(job_id: str, number: int) -> None:
    """Make one part; whoever makes the last one puts the whole together."""
    part = Part.objects.select_related("job").filter(job=job_id, number=number, job__state=Job.State.WORKING).first()
    if part is None:
        return  # cancelled, or another part of it failed
    job = part.job
    with _ending(job, part) as laid:
        made, pages = kind_of(job.kind).piece(job, part.key), laid.page
        with transaction.atomic():  # under the job's lock: of the last two parts one sees the other done
            held = Job.objects.select_for_update().only("pk").get(pk=job.pk)
            Part.objects.filter(pk=part.pk).update(result=made, done=True, pages=max(pages, 1))
            last = not held.parts.filter(done=False).exists()
            Job.objects.filter(pk=job.pk).update(beat=timezone.now())
        if last:
            _finish(job)


def _finish(job: Job) -> None:
    parts = [bytes(p) for p in job.parts.order_by("number").values_list("result", flat=True)]
    made: Made = kind_of(job.kind).whole(job, parts)
    Job.objects.filter(pk=job.pk).update(
        state=Job.State.DONE, result=made.content or None, size=len(made.content), content_type=made.content_type,
        name=made.name, link=made.link, given=None, beat=timezone.now())
    job.parts.all().delete()
    tidy()


class _ending:
    """A context that says of a job how it ended, where it did not end well."""

    def __init__(self, job: Job, part: Part | None = None) -> None:
        self.job = job
        patience_s = kind_of(job.kind).patience_s if settings.TASKS_BESIDE else None
        self.telling = told(job, part, patience_s)

    def __enter__(self) -> Pages:
        return self.telling.__enter__()

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: Any) -> bool:
        self.telling.__exit__(None, None, None)
        match error:
            case None:
                return False
            case PlanError():
                self._ended(Job.State.REFUSED, [
                    f"{f.element}: {f.sentence}" if f.element and f.element not in f.sentence else f.sentence
                    for f in error.faults])
            case Cancelled():
                self._ended(Job.State.CANCELLED, ["Nobody waited for it any more."])
            case MemoryError():
                self._ended(Job.State.FAILED, [TOO_MUCH.format(settings.JOB_MOST_BYTES // 1024**2)])
            case TooLarge():
                self._ended(Job.State.FAILED, ["This plan is too large to be computed in the time that there is."])
            case Exception():
                log.error("%s %s failed", self.job.kind, self.job.pk, exc_info=error)
                self._ended(Job.State.FAILED, ["Loadstar made a mistake; what happened is in the application's log."])
            case _:
                return False
        return True

    def _ended(self, state: str, faults: list[str]) -> None:
        Job.objects.filter(pk=self.job.pk).update(state=state, faults=faults, given=None, beat=timezone.now())
        self.job.parts.all().delete()


def tidy() -> None:
    """Throw away what is old, and the oldest where it is more than is kept."""
    Job.objects.filter(made__lt=timezone.now() - KEPT).delete()
    ended = Job.objects.filter(state__in=Job.ENDED)
    over = (ended.aggregate(all=Sum("size"))["all"] or 0) - KEPT_BYTES
    for pk, size in ended.order_by("made").values_list("pk", "size"):
        if over <= 0:
            break
        Job.objects.filter(pk=pk).delete()
        over -= size
