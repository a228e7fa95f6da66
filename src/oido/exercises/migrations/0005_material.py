import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from ear.errors import FormatError
from ear.formats.part_json import part_from_json
from oido.exercises.services import searchable_figures


def fill(apps, schema_editor):
    """What exercises are found by, read from the parts in force."""
    rows = apps.get_model("exercises", "Exercise")._base_manager.exclude(part=None).select_related("part")
    for exercise in rows.iterator(chunk_size=200):
        try:
            found = searchable_figures(part_from_json(exercise.part.data))
        except FormatError:
            continue
        for name, value in found.items():
            setattr(exercise, name, value)
        exercise.save(update_fields=list(found))


class Migration(migrations.Migration):

    dependencies = [
        ('exercises', '0004_school'),
        ('people', '0006_erased_and_keeping'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.AddField(
            model_name='exercise',
            name='bars',
            field=models.PositiveIntegerField(default=0),
        ),
        migrations.AddField(
            model_name='exercise',
            name='deleted_at',
            field=models.DateTimeField(null=True),
        ),
        migrations.AddField(
            model_name='exercise',
            name='fifths',
            field=models.SmallIntegerField(null=True),
        ),
        migrations.AddField(
            model_name='exercise',
            name='is_shared',
            field=models.BooleanField(default=True, verbose_name='your colleagues find it'),
        ),
        migrations.AddField(
            model_name='exercise',
            name='meters',
            field=models.CharField(blank=True, max_length=80),
        ),
        migrations.AddField(
            model_name='exercise',
            name='retired_at',
            field=models.DateTimeField(null=True),
        ),
        migrations.CreateModel(
            name='Tag',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=40)),
                ('school', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='people.school')),
            ],
            options={
                'ordering': ['name'],
            },
        ),
        migrations.AddField(
            model_name='exercise',
            name='tags',
            field=models.ManyToManyField(blank=True, related_name='exercises', to='exercises.tag'),
        ),
        migrations.AddIndex(
            model_name='exercise',
            index=models.Index(fields=['school', 'deleted_at', 'retired_at', 'title'], name='exercises_e_school__b3ba20_idx'),
        ),
        migrations.AddConstraint(
            model_name='tag',
            constraint=models.UniqueConstraint(fields=('school', 'name'), name='tag_name_in_school'),
        ),
        migrations.RunPython(fill, migrations.RunPython.noop),
    ]
