"""What plans are found by, by workshop, in letters that are compared byte by byte; of plans on the bench only."""

import django.db.models.deletion
from django.db import migrations, models
from django.db.models import OuterRef, Subquery, Value
from django.db.models.functions import Concat, Lower

HELP = "The plan's, so that a workshop's are found without its plans."
FOUND_BY = "in small letters, compared byte by byte: many times as fast."


def fill(apps, schema_editor):
    plans = apps.get_model("plans", "PlanRow").objects
    for name in ("Need", "Thing"):
        model = apps.get_model("records", name)
        model.objects.exclude(plan__archived=None).delete()
        model.objects.update(workshop=Subquery(plans.filter(pk=OuterRef("plan")).values("workshop")[:1]))
    apps.get_model("records", "Need").objects.update(text=Lower("what"))
    apps.get_model("records", "Thing").objects.update(text=Lower(Concat("name", Value(" "), "words")))


class Migration(migrations.Migration):

    dependencies = [("plans", "0005_work"), ("records", "0005_work"), ("workshop", "0005_taken")]

    operations = [
        migrations.AddField("need", "workshop", models.ForeignKey(
            db_index=False, null=True, on_delete=django.db.models.deletion.CASCADE, related_name="+",
            to="workshop.workshop")),
        migrations.AddField("thing", "workshop", models.ForeignKey(
            db_index=False, null=True, on_delete=django.db.models.deletion.CASCADE, related_name="+", to="workshop.workshop")),
        migrations.AddField("need", "text", models.CharField(
            db_collation="utf8mb4_bin", default="", max_length=160)),
        migrations.AddField("thing", "text", models.CharField(
            db_collation="utf8mb4_bin", default="", max_length=400)),
        migrations.RunPython(fill, migrations.RunPython.noop),
        migrations.AlterField("need", "workshop", models.ForeignKey(
            db_index=False, help_text=HELP, on_delete=django.db.models.deletion.CASCADE, related_name="+",
            to="workshop.workshop")),
        migrations.AlterField("thing", "workshop", models.ForeignKey(
            db_index=False, on_delete=django.db.models.deletion.CASCADE, related_name="+", to="workshop.workshop")),
        migrations.AlterField("need", "text", models.CharField(
            db_collation="utf8mb4_bin", help_text=f"What, {FOUND_BY}", max_length=160)),
        migrations.AlterField("thing", "text", models.CharField(
            db_collation="utf8mb4_bin", help_text=f"Name and words, {FOUND_BY}", max_length=400)),
        migrations.RemoveIndex("need", name="records_nee_what_464972_idx"),
        migrations.AddIndex("need", models.Index(fields=["workshop", "text"], name="records_nee_worksho_ad1066_idx")),
        migrations.AddIndex("thing", models.Index(fields=["workshop", "text"], name="records_thi_worksho_b21758_idx")),
    ]
