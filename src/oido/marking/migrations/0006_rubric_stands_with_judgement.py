"""By which rubric a take is marked, its judgement says."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("marking", "0005_marks_of_first_release")]
    operations = [migrations.RemoveField(model_name="marksheet", name="rubric")]
