"""The model for a booklet given to a class is named for what it is."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("assignments", "0006_plain_labels"),
        ("booklets", "0002_plain_labels"),
        ("people", "0008_plain_labels"),
    ]

    operations = [
        migrations.RenameModel(old_name="GivenBooklet", new_name="BookletAssignment"),
        migrations.AlterField(
            model_name="bookletassignment",
            name="booklet",
            field=models.ForeignKey(
                on_delete=django.db.models.deletion.PROTECT, related_name="assigned", to="booklets.booklet"
            ),
        ),
        migrations.AlterField(
            model_name="bookletassignment",
            name="school_class",
            field=models.ForeignKey(
                on_delete=django.db.models.deletion.PROTECT,
                related_name="booklet_assignments",
                to="people.schoolclass",
            ),
        ),
    ]
