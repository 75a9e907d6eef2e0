"""A plan's head keeps what is true of it; what was worked out of it goes into a table of its own."""

import django.db.models.deletion
from django.db import migrations, models

COUNTS = {"loads": "", "stops": "", "cautions": "", "work_done": "Operations ticked, when last one was.",
          "work_all": "Of so many; 0: none has been ticked.",
          "proof_read": "Steps of the measurement read, when last one was.", "proof_all": "",
          "proof_out": "Of these out of their band."}
FIGURES = ("idle_margin_a", "parked_days", "range_km")
WORKED_OUT = ("name", "machine", "machine_kind", "changed", "worst", "core_version", *COUNTS, *FIGURES)
A_TIME = 500


def fill(apps, schema_editor):
    """As of the head that the row had: it says so itself, also where a newer revision is there (mended at the start)."""
    summaries = apps.get_model("plans", "PlanSummary").objects
    heads = apps.get_model("plans", "PlanHead").objects.order_by("pk").values("pk", "workshop_id", "head", *WORKED_OUT)
    some = []
    for head in heads.iterator(A_TIME):
        some.append(summaries.model(plan_id=head.pop("pk"), revision=head.pop("head"), **head))
        if len(some) == A_TIME:
            summaries.bulk_create(some)
            some = []
    summaries.bulk_create(some)


class Migration(migrations.Migration):

    # After every migration that knows the plan by its earlier name.
    dependencies = [("plans", "0005_work"), ("records", "0006_found"), ("workshop", "0005_taken")]

    operations = [
        migrations.RenameModel("PlanRow", "PlanHead"),
        migrations.CreateModel(
            name="PlanSummary",
            fields=[
                ("plan", models.OneToOneField(
                    on_delete=django.db.models.deletion.CASCADE, primary_key=True, related_name="summary", serialize=False,
                    to="plans.planhead")),
                ("workshop", models.ForeignKey(
                    db_index=False, help_text="The plan's, so that a workshop's are listed without their heads.",
                    on_delete=django.db.models.deletion.CASCADE, related_name="+", to="workshop.workshop")),
                ("revision", models.PositiveIntegerField(help_text="That the figures are of.")),
                ("core_version", models.CharField(help_text="Of the core that they are from.", max_length=20)),
                ("name", models.CharField(max_length=80)),
                ("machine", models.CharField(max_length=80)),
                ("machine_kind", models.CharField(max_length=40)),
                ("changed", models.DateTimeField(help_text="When that revision was made.")),
                ("worst", models.CharField(blank=True, max_length=300)),
                *((name, models.PositiveIntegerField(default=0, help_text=help)) for name, help in COUNTS.items()),
                *((name, models.FloatField(null=True)) for name in FIGURES),
            ],
        ),
        migrations.RunPython(fill, migrations.RunPython.noop),
        migrations.AddIndex("plansummary", models.Index(
            fields=["workshop", "machine", "name"], name="plans_plans_worksho_ce4782_idx")),
        migrations.RemoveIndex("planhead", name="plans_planr_worksho_8b6516_idx"),
        *(migrations.RemoveField("planhead", name) for name in WORKED_OUT),
    ]
