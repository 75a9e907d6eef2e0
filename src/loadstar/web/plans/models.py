"""Plans with their revisions, and what the bench shows of them, worked out when a revision is saved.

A plan's head tells one truth, in two columns that are written by name and compared before they are: which revision is
the newest, and whether the plan is in the archive. Everything else about a plan is worked out from that revision and
from the records: its summary may be thrown away and is made again.
"""

from django.conf import settings
from django.db import models

from loadstar.core.analysis import CORE_VERSION

from ..workshop.models import Workshop


class PlanHead(models.Model):
    """A plan of a workshop. `head` is the number of its newest revision, moved by compare-and-swap in `store` alone."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="plans")
    head = models.PositiveIntegerField(default=0)
    archived = models.DateTimeField(null=True, help_text="When it was put into the archive; null: it is on the bench.")


class PlanSummary(models.Model):
    """What the bench shows of a plan, as of one revision and one version of the core."""

    plan = models.OneToOneField(PlanHead, on_delete=models.CASCADE, primary_key=True, related_name="summary")
    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="+", db_index=False,
                                 help_text="The plan's, so that a workshop's are listed without their heads.")
    revision = models.PositiveIntegerField(help_text="That the figures are of.")
    core_version = models.CharField(max_length=20, help_text="Of the core that they are from.")
    name = models.CharField(max_length=80)
    machine = models.CharField(max_length=80)
    machine_kind = models.CharField(max_length=40)
    changed = models.DateTimeField(help_text="When that revision was made.")
    loads = models.PositiveIntegerField(default=0)
    stops = models.PositiveIntegerField(default=0)
    cautions = models.PositiveIntegerField(default=0)
    worst = models.CharField(max_length=300, blank=True)
    idle_margin_a = models.FloatField(null=True)
    parked_days = models.FloatField(null=True)
    range_km = models.FloatField(null=True)
    work_done = models.PositiveIntegerField(default=0, help_text="Operations ticked, when last one was.")
    work_all = models.PositiveIntegerField(default=0, help_text="Of so many; 0: none has been ticked.")
    proof_read = models.PositiveIntegerField(default=0, help_text="Steps of the measurement read, when last one was.")
    proof_all = models.PositiveIntegerField(default=0)
    proof_out = models.PositiveIntegerField(default=0, help_text="Of these out of their band.")

    class Meta:
        """Listed by machine."""

        indexes = [models.Index(fields=["workshop", "machine", "name"])]

    @property
    def of_an_older_core(self) -> bool:
        """Whether its figures are from an earlier version and are still to be worked out anew."""
        return self.core_version != CORE_VERSION


class Revision(models.Model):
    """One state of a plan, whole and compressed, with who made it and how."""

    class Kind(models.TextChoices):
        """How it came about."""

        EDIT = "edit"
        UNDO = "undo"
        REDO = "redo"
        IMPORT = "import"
        RESTORE = "restore"

    plan = models.ForeignKey(PlanHead, on_delete=models.CASCADE, related_name="revisions")
    number = models.PositiveIntegerField()
    author = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    made = models.DateTimeField(auto_now_add=True)
    kind = models.CharField(max_length=8, choices=Kind.choices, default=Kind.EDIT)
    label = models.CharField(max_length=200)
    reverts = models.PositiveIntegerField(null=True,
                                          help_text="Number of the revision that an undo or redo takes back.")
    document = models.BinaryField()
    core_version = models.CharField(max_length=20)

    class Meta:
        """Numbered within the plan."""

        constraints = [models.UniqueConstraint(fields=["plan", "number"], name="one_revision_number")]
