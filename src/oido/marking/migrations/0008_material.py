import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models
from django.db.models import F


def fill(apps, schema_editor):
    """How late it was, by the due date that all had."""
    rows = apps.get_model("marking", "MarkSheet")._base_manager.filter(
        take__handed_in_at__gt=F("take__assignment__due_at"), asked_again_at=None
    )
    for sheet in rows.select_related("take__assignment").iterator(chunk_size=500):
        sheet.late_days = (sheet.take.handed_in_at - sheet.take.assignment.due_at).days + 1
        sheet.save(update_fields=["late_days"])


class Migration(migrations.Migration):

    dependencies = [
        ('marking', '0007_school'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.AddField(
            model_name='marksheet',
            name='late_days',
            field=models.PositiveSmallIntegerField(default=0),
        ),
        migrations.CreateModel(
            name='SheetChange',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('made_at', models.DateTimeField(auto_now_add=True)),
                ('what', models.CharField(choices=[('score', 'changed'), ('help', 'help noted'), ('accepted', 'accepted'), ('released', 'released'), ('asked', 'another take asked for'), ('rubric', 'marked by another rubric'), ('saying', 'said of notes or bars'), ('undone', 'undone')], max_length=10)),
                ('criterion', models.CharField(blank=True, max_length=80)),
                ('why', models.CharField(blank=True, max_length=400)),
                ('before', models.JSONField()),
                ('after', models.JSONField()),
                ('points_before', models.FloatField()),
                ('points_after', models.FloatField()),
                ('is_undone', models.BooleanField(default=False)),
                ('by', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('sheet', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='history', to='marking.marksheet')),
            ],
            options={
                'ordering': ['-id'],
            },
        ),
        migrations.RunPython(fill, migrations.RunPython.noop),
    ]
