"""Which figure of an element a reading was of."""

from django.db import migrations, models


class Migration(migrations.Migration):
    """One field of a reading."""

    dependencies = [("records", "0001_initial")]
    operations = [migrations.AddField("takenreading", "field", models.CharField(
        blank=True, default="", help_text='Of quantity "figure": which.', max_length=40))]
