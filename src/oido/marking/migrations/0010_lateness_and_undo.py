import django.db.models.deletion
from django.db import migrations, models


def fill(apps, schema_editor):
    """Marks of assignments where late costs were concluded with the late days stored then."""
    sheets = apps.get_model("marking", "MarkSheet")._base_manager
    sheets.filter(late_days__gt=0, take__assignment__late="costs").update(late_days_charged=models.F("late_days"))


class Migration(migrations.Migration):

    dependencies = [
        ('marking', '0009_measured'),
    ]

    operations = [
        migrations.AddField(
            model_name='marksheet',
            name='late_days_charged',
            field=models.PositiveSmallIntegerField(default=0),
        ),
        migrations.AddField(
            model_name='sheetchange',
            name='undoes',
            field=models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to='marking.sheetchange'),
        ),
        migrations.AlterField(
            model_name='sheetchange',
            name='what',
            field=models.CharField(choices=[('score', 'changed'), ('help', 'help noted'), ('settings', 'marked with its own settings'), ('measured', 'a bar measured again'), ('accepted', 'accepted'), ('released', 'released'), ('asked', 'another take asked for'), ('rubric', 'marked by another rubric'), ('saying', 'said of notes or bars'), ('undone', 'undid')], max_length=10),
        ),
        migrations.RunPython(fill, migrations.RunPython.noop),
    ]
