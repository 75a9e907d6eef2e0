"""The workshop's shelf."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    """A table of what is on it."""

    dependencies = [("records", "0002_field"), ("workshop", "0004_tour")]
    operations = [
        migrations.CreateModel("ShelfItem", [
            ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
            ("what", models.CharField(max_length=160)),
            ("number", models.CharField(blank=True, max_length=160)),
            ("supplier", models.CharField(blank=True, max_length=160)),
            ("price", models.FloatField(blank=True, help_text="Of a piece or metre; null: not known.", null=True)),
            ("pack", models.FloatField(default=1)),
            ("here", models.FloatField(default=0)),
            ("least", models.FloatField(default=0)),
            ("workshop", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="shelf",
                                           to="workshop.workshop")),
        ]),
        migrations.AddConstraint("ShelfItem", models.UniqueConstraint(
            fields=("workshop", "what"), name="one_of_each_on_the_shelf")),
    ]
