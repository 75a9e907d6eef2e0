"""What the bench shows says which version of the core computed it; the list of uses that nobody read goes."""

from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [("plans", "0002_range")]
    operations = [
        migrations.AddField("planrow", "core_version", models.CharField(blank=True, default="", max_length=20)),
        migrations.DeleteModel("PartUse"),
    ]
