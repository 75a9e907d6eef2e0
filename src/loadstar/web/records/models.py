"""What happened: readings taken, photographs, surveys kept for the next machine. Readings are never rewritten."""

from django.conf import settings
from django.db import models
from django.utils import timezone

from loadstar.core.shelf import Stock

from ..plans.models import PlanHead
from ..workshop.models import Workshop


class TakenReading(models.Model):
    """One reading as it was taken. The plan keeps a frozen copy under `reading`; undoing that leaves this row."""

    plan = models.ForeignKey(PlanHead, on_delete=models.CASCADE, related_name="taken_readings")
    reading = models.CharField(max_length=12)
    element = models.CharField(max_length=12)
    quantity = models.CharField(max_length=8)
    state = models.CharField(max_length=12)
    value = models.FloatField()
    field = models.CharField(max_length=40, blank=True, default="", help_text="Of quantity \"figure\": which.")
    instrument = models.CharField(max_length=60, blank=True)
    taken = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    class Meta:
        """Found by where it was taken."""

        indexes = [models.Index(fields=["plan", "element"])]


class Photo(models.Model):
    """A photograph of a plan's element: made smaller, encoded anew, without what the camera wrote into it. `marks` are
    where the ways of a connector are on it, by way: how far across and how far down, of 1."""

    plan = models.ForeignKey(PlanHead, on_delete=models.CASCADE, related_name="photos")
    element = models.CharField(max_length=12)
    caption = models.CharField(max_length=120, blank=True)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    image = models.BinaryField()
    marks = models.JSONField(default=dict, blank=True)
    taken = models.DateTimeField(auto_now_add=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    named = models.CharField(max_length=80, blank=True, help_text="Who it was, where it came in with a file.")

    class Meta:
        """Found by what it shows."""

        indexes = [models.Index(fields=["plan", "element"])]


class ShelfItem(models.Model):
    """One kind of thing on the workshop's shelf, called as order lists call it."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="shelf")
    what = models.CharField(max_length=160)
    number = models.CharField(max_length=160, blank=True)
    supplier = models.CharField(max_length=160, blank=True)
    price = models.FloatField(null=True, blank=True, help_text="Of a piece or metre; null: not known.")
    pack = models.FloatField(default=1)
    here = models.FloatField(default=0)
    least = models.FloatField(default=0)
    reels = models.JSONField(default=list, help_text="Lengths of reels and off-cuts, m; empty: it is one piece.")

    class Meta:
        """Each thing once in a workshop."""

        constraints = [models.UniqueConstraint(fields=["workshop", "what"], name="one_of_each_on_the_shelf")]

    @property
    def stock(self) -> Stock:
        """As the core takes it."""
        return Stock(self.what, self.number, self.supplier, self.price, self.pack, self.here, self.least,
                     tuple(self.reels))


FOUND_BY = "in small letters, compared byte by byte: many times as fast."


class Need(models.Model):
    """One line of a plan's order list as its newest revision has it: where a thing is used. Of plans on the bench."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="+", db_index=False,
                                 help_text="The plan's, so that a workshop's are found without its plans.")
    plan = models.ForeignKey(PlanHead, on_delete=models.CASCADE, related_name="needs")
    what = models.CharField(max_length=160)
    text = models.CharField(max_length=160, db_collation="utf8mb4_bin", help_text=f"What, {FOUND_BY}")
    amount = models.FloatField()
    unit = models.CharField(max_length=4, blank=True)

    class Meta:
        """Found by what it is, in the index alone."""

        constraints = [models.UniqueConstraint(fields=["plan", "what"], name="one_need_of_each")]
        indexes = [models.Index(fields=["workshop", "text"])]


class Thing(models.Model):
    """A part or connector of a plan's newest revision, by the words it can be found by. Of plans on the bench."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="+", db_index=False)
    plan = models.ForeignKey(PlanHead, on_delete=models.CASCADE, related_name="things")
    element = models.CharField(max_length=12)
    kind = models.CharField(max_length=20)
    name = models.CharField(max_length=80)
    words = models.CharField(max_length=300, blank=True)
    text = models.CharField(max_length=400, db_collation="utf8mb4_bin", help_text=f"Name and words, {FOUND_BY}")

    class Meta:
        """Each once in a plan; found in the index alone."""

        constraints = [models.UniqueConstraint(fields=["plan", "element"], name="one_thing_of_each")]
        indexes = [models.Index(fields=["workshop", "text"])]


class Reserved(models.Model):
    """What of the shelf is set aside for a plan."""

    plan = models.ForeignKey(PlanHead, on_delete=models.CASCADE, related_name="reserved")
    what = models.CharField(max_length=160)
    amount = models.FloatField()
    at = models.DateTimeField(auto_now_add=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    class Meta:
        """Each thing once for a plan."""

        constraints = [models.UniqueConstraint(fields=["plan", "what"], name="one_reservation_of_each")]


class KeptSurvey(models.Model):
    """A finished survey that the workshop keeps for the next machine of its family."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="surveys")
    family = models.CharField(max_length=80)
    years = models.CharField(max_length=40, blank=True)
    differences = models.CharField(max_length=400, blank=True)
    document = models.JSONField()
    kept = models.DateTimeField(auto_now_add=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    class Meta:
        """Listed by family."""

        indexes = [models.Index(fields=["workshop", "family"])]


class BuildEntry(models.Model):
    """One line of the log of the work: an operation done, done again, or a note. Never rewritten.

    `token` is what the sender made up for it, so that one sent twice after a lost answer is taken once.
    """

    plan = models.ForeignKey(PlanHead, on_delete=models.CASCADE, related_name="log")
    revision = models.PositiveIntegerField()
    operation = models.CharField(max_length=80)
    element = models.CharField(max_length=12, blank=True)
    what = models.CharField(max_length=8, choices=[("done", "done"), ("again", "again"), ("note", "note")])
    spec = models.CharField(max_length=200, blank=True, help_text="What it was done to, as the plan then was.")
    tool = models.CharField(max_length=60, blank=True)
    pull_n = models.FloatField(null=True, blank=True)
    note = models.CharField(max_length=300, blank=True)
    token = models.CharField(max_length=40)
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    named = models.CharField(max_length=80, blank=True, help_text="Who it was, where it came in with a file.")

    class Meta:
        """Each as it was sent once."""

        constraints = [models.UniqueConstraint(fields=["plan", "token"], name="one_entry_of_each_token")]
        indexes = [models.Index(fields=["plan", "operation"])]


class Act(models.Model):
    """A tick or reading that was taken, by the id that its browser made up for it: sent again, it is not taken
    again."""

    id = models.CharField(max_length=40, primary_key=True)
    plan = models.ForeignKey(PlanHead, on_delete=models.CASCADE, related_name="+")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    at = models.DateTimeField(default=timezone.now)


class ProofReading(models.Model):
    """A reading taken on the finished work, with what was expected of it then. Never rewritten: of two the later
    counts."""

    plan = models.ForeignKey(PlanHead, on_delete=models.CASCADE, related_name="proof")
    revision = models.PositiveIntegerField()
    step = models.CharField(max_length=60, blank=True, help_text="Of the plan of measurement; empty: another one.")
    load = models.CharField(max_length=12, blank=True, help_text="The circuit that it was taken on, if one.")
    quantity = models.CharField(max_length=4)
    row = models.CharField(max_length=16, blank=True)
    red = models.CharField(max_length=16)
    black = models.CharField(max_length=16)
    value = models.FloatField(null=True, help_text="Null: the meter showed an open circuit.")
    expected = models.FloatField(null=True, help_text="Null: an open circuit.")
    spread = models.FloatField(default=0)
    plain = models.FloatField(null=True, help_text="Expected as if nothing had been measured; null: an open circuit.")
    off = models.CharField(max_length=200, blank=True, default="",
                           help_text="Switched off for it, though the state has it on.")
    instrument = models.CharField(max_length=60, blank=True)
    taken = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    named = models.CharField(max_length=80, blank=True, help_text="Who it was, where it came in with a file.")

    class Meta:
        """Found by plan, in the order taken."""

        indexes = [models.Index(fields=["plan", "load"])]


class TrainerRun(models.Model):
    """One member's go at an exercise. `practice` names one of the set; else it is a fault on a revision of a plan."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="practice")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    practice = models.CharField(max_length=40, blank=True)
    plan = models.ForeignKey(PlanHead, null=True, on_delete=models.CASCADE, related_name="+")
    revision = models.PositiveIntegerField(default=0)
    title = models.CharField(max_length=160)
    load = models.CharField(max_length=12)
    fault = models.CharField(max_length=80)
    row = models.CharField(max_length=16)
    symptom = models.CharField(max_length=80)
    level = models.CharField(max_length=8)
    seed = models.PositiveIntegerField()
    taken = models.JSONField(default=list, help_text="Readings in turn: quantity, row, red, black, value.")
    wrong_parts = models.PositiveIntegerField(default=0)
    meter_fuses = models.PositiveIntegerField(default=0)
    begun = models.DateTimeField(auto_now_add=True)
    ended = models.DateTimeField(null=True)
    found = models.BooleanField(default=False)
    seconds = models.FloatField(default=0)
    par_probes = models.PositiveIntegerField(default=0)
    par_seconds = models.FloatField(default=0)
    points = models.PositiveIntegerField(default=0)

    class Meta:
        """A member's, the newest first."""

        indexes = [models.Index(fields=["workshop", "by"])]


class AsBuilt(models.Model):
    """A revision that a member has closed as built: what then stood unproved is said with it."""

    plan = models.ForeignKey(PlanHead, on_delete=models.CASCADE, related_name="as_built")
    revision = models.PositiveIntegerField()
    note = models.CharField(max_length=300, blank=True)
    unproved = models.JSONField(default=list, help_text="Circuits without proof when it was closed, by name.")
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    named = models.CharField(max_length=80, blank=True, help_text="Who it was, where it came in with a file.")

    NAMED = 12  # circuits, the others are counted

    @property
    def unproved_in_words(self) -> str:
        """The circuits that were not proved then; a long list is cut."""
        more = len(self.unproved) - self.NAMED
        return ", ".join(self.unproved[:self.NAMED]) + (f" and {more} more" if more > 0 else "")

    class Meta:
        """Each revision once."""

        constraints = [models.UniqueConstraint(fields=["plan", "revision"], name="as_built_once")]
