"""What happened: readings taken, photographs, surveys kept for the next machine. Readings are never rewritten."""

from django.conf import settings
from django.db import models

from loadstar.core.shelf import Stock

from ..plans.models import PlanRow
from ..workshop.models import Workshop


class TakenReading(models.Model):
    """One reading as it was taken. The plan keeps a frozen copy under `reading`; undoing that leaves this row."""

    plan = models.ForeignKey(PlanRow, on_delete=models.CASCADE, related_name="taken_readings")
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
    """A photograph of a plan's element: made smaller, encoded anew, without what the camera wrote into it."""

    plan = models.ForeignKey(PlanRow, on_delete=models.CASCADE, related_name="photos")
    element = models.CharField(max_length=12)
    caption = models.CharField(max_length=120, blank=True)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    image = models.BinaryField()
    taken = models.DateTimeField(auto_now_add=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

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


class Need(models.Model):
    """One line of a plan's order list as its newest revision has it: where a thing is used."""

    plan = models.ForeignKey(PlanRow, on_delete=models.CASCADE, related_name="needs")
    what = models.CharField(max_length=160)
    amount = models.FloatField()
    unit = models.CharField(max_length=4, blank=True)

    class Meta:
        """Found by what it is."""

        constraints = [models.UniqueConstraint(fields=["plan", "what"], name="one_need_of_each")]
        indexes = [models.Index(fields=["what"])]


class Reserved(models.Model):
    """What of the shelf is set aside for a plan."""

    plan = models.ForeignKey(PlanRow, on_delete=models.CASCADE, related_name="reserved")
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
