"""What was switched off while a reading was taken."""

from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [("records", "0007_acts")]

    operations = [
        migrations.AddField("proofreading", "off", models.CharField(
            blank=True, default="", help_text="Switched off for it, though the state has it on.", max_length=200))]
