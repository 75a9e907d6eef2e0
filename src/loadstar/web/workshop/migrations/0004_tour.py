"""Whether somebody has been shown round."""

from django.db import migrations, models


class Migration(migrations.Migration):
    """One field of a person."""

    dependencies = [("workshop", "0003_people")]
    operations = [migrations.AddField(
        "person", "tour", models.CharField(blank=True, default="", max_length=40, help_text="Empty: not offered yet; "
                                           "\"over\"; or the tour's plan and step."))]
