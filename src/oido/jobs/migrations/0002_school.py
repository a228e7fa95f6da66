import django.db.models.deletion
from django.db import migrations, models
from django.db.models import OuterRef, Subquery


def fill(apps, schema_editor):
    """Each row is of the school that it was reached through before."""
    rows = apps.get_model("jobs", "Job")._base_manager
    known = apps.get_model("people", "Membership")._base_manager.filter(person=OuterRef("owner"))
    rows.update(school=Subquery(known.values("school_id")[:1]))


class Migration(migrations.Migration):
    dependencies = [("jobs", "0001_jobs"), ("people", "0003_memberships")]

    operations = [
        migrations.AddField(
            model_name="job",
            name="school",
            field=models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.CASCADE, related_name="+", to="people.school"
            ),
        ),
        migrations.RunPython(fill, migrations.RunPython.noop),
    ]
