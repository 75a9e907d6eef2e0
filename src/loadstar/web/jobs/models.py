"""What is being made beside the request, and what came of it. All of it may be thrown away: it is asked for again."""

import uuid

from django.conf import settings
from django.db import models
from django.utils import timezone

from ..workshop.models import Workshop


class Job(models.Model):
    """One thing that somebody asked for. `key` says what it is made of, so that it is made once."""

    class State(models.TextChoices):
        """How far it is."""

        WAITING = "waiting"
        WORKING = "working"
        DONE = "done"
        REFUSED = "refused"  # what was sent will not do: see `faults`
        CANCELLED = "cancelled"  # nobody waited for it any more
        FAILED = "failed"  # a fault of ours, or no room: see `faults`

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    key = models.CharField(max_length=64, unique=True)
    kind = models.CharField(max_length=20)
    title = models.CharField(max_length=120)
    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="+")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    asked = models.JSONField(default=dict)
    given = models.BinaryField(null=True, help_text="The file that was sent, until it is taken in.")
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    faults = models.JSONField(default=list)
    pages = models.PositiveIntegerField(default=0, help_text="About so many there will be; 0: not known.")
    made = models.DateTimeField(default=timezone.now)
    wanted = models.DateTimeField(default=timezone.now, help_text="When somebody last looked whether it is there.")
    beat = models.DateTimeField(default=timezone.now, help_text="When it last went on.")
    result = models.BinaryField(null=True)
    size = models.PositiveIntegerField(default=0, help_text="Of the result, bytes.")
    content_type = models.CharField(max_length=60, blank=True)
    name = models.CharField(max_length=120, blank=True)
    link = models.CharField(max_length=300, blank=True, help_text="Where it is to be seen, where it is no file.")

    class Meta:
        """Found by whose it is and how far."""

        indexes = [models.Index(fields=["workshop", "state"])]

    ENDED = (State.DONE, State.REFUSED, State.CANCELLED, State.FAILED)

    @property
    def ended(self) -> bool:
        """Whether nothing more becomes of it."""
        return self.state in self.ENDED


class Part(models.Model):
    """A part of a job that is made by itself, beside the others."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="parts")
    number = models.PositiveIntegerField()
    key = models.CharField(max_length=40)
    words = models.CharField(max_length=80)
    pages = models.PositiveIntegerField(default=0)
    done = models.BooleanField(default=False)
    result = models.BinaryField(null=True)

    class Meta:
        """Numbered within the job."""

        constraints = [models.UniqueConstraint(fields=["job", "number"], name="one_part_number")]
