import django.utils.timezone
from django.db import migrations, models


def wait_for_measuring(apps, schema_editor):
    """Takes that were stored but never measured wait from now on; those of people who were erased cannot be measured."""
    takes = apps.get_model("takes", "Take")
    unmeasured = takes.objects.filter(judgement=None, measurements=None, student__erased_as="")
    unmeasured.update(measure_after=django.utils.timezone.now())


class Migration(migrations.Migration):
    dependencies = [("takes", "0016_measured_again"), ("people", "0006_erased_and_keeping")]

    operations = [
        migrations.AddField(
            model_name="take",
            name="measure_after",
            field=models.DateTimeField(null=True, db_index=True),
        ),
        migrations.RunPython(wait_for_measuring, migrations.RunPython.noop),
        migrations.AlterField(
            model_name="take",
            name="measure_after",
            field=models.DateTimeField(null=True, db_index=True, default=django.utils.timezone.now),
        ),
    ]
