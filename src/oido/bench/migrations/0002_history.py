from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("bench", "0001_initial")]

    operations = [
        migrations.RemoveConstraint("draftstate", "state_number_in_draft"),
        migrations.RenameField("draftstate", "draft", "history"),
        migrations.AlterModelOptions("draftstate", {"ordering": ["history", "number"]}),
        migrations.AddConstraint(
            "draftstate",
            models.UniqueConstraint(fields=["history", "number"], name="state_number_in_draft"),
        ),
    ]
