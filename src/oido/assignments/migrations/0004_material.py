import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


def fill(apps, schema_editor):
    """Who saw the mark at once, sees it at once."""
    rows = apps.get_model("assignments", "Assignment")._base_manager
    rows.filter(releases_at_once=True).update(seen="at-once")


class Migration(migrations.Migration):

    dependencies = [
        ('assignments', '0003_school'),
        ('exercises', '0005_material'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.AddField(
            model_name='assignment',
            name='attempts',
            field=models.PositiveSmallIntegerField(null=True),
        ),
        migrations.AddField(
            model_name='assignment',
            name='closed_at',
            field=models.DateTimeField(null=True),
        ),
        migrations.AddField(
            model_name='assignment',
            name='faster_percent',
            field=models.PositiveSmallIntegerField(null=True),
        ),
        migrations.AddField(
            model_name='assignment',
            name='is_for_all',
            field=models.BooleanField(default=True),
        ),
        migrations.AddField(
            model_name='assignment',
            name='late',
            field=models.CharField(choices=[('taken', 'taken like any other'), ('costs', 'taken, with points off as the rubric says'), ('refused', 'not taken any more')], default='taken', max_length=10),
        ),
        migrations.AddField(
            model_name='assignment',
            name='opens_at',
            field=models.DateTimeField(null=True),
        ),
        migrations.AddField(
            model_name='assignment',
            name='seen',
            field=models.CharField(choices=[('reading', 'what Oido heard; the mark once it is released'), ('at-once', 'everything, as soon as they hand in'), ('nothing', 'nothing until the mark is released')], default='reading', max_length=10),
        ),
        migrations.RunPython(fill, migrations.RunPython.noop),
        migrations.RemoveField(
            model_name='assignment',
            name='releases_at_once',
        ),
        migrations.AddField(
            model_name='assignment',
            name='slower_percent',
            field=models.PositiveSmallIntegerField(null=True),
        ),
        migrations.AddField(
            model_name='assignment',
            name='withdrawn_at',
            field=models.DateTimeField(null=True),
        ),
        migrations.CreateModel(
            name='Arrangement',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('is_given', models.BooleanField(default=False)),
                ('excused_at', models.DateTimeField(null=True)),
                ('excused_why', models.CharField(blank=True, max_length=200)),
                ('due_at', models.DateTimeField(null=True)),
                ('attempts', models.PositiveSmallIntegerField(null=True)),
                ('slower_percent', models.PositiveSmallIntegerField(null=True)),
                ('assignment', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='arrangements', to='assignments.assignment')),
                ('student', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='arrangements', to=settings.AUTH_USER_MODEL)),
                ('version', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='exercises.exercise')),
            ],
            options={
                'constraints': [models.UniqueConstraint(fields=('assignment', 'student'), name='one_arrangement_of_student')],
            },
        ),
        migrations.CreateModel(
            name='Reminder',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('sent_at', models.DateTimeField()),
                ('assignment', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='reminders', to='assignments.assignment')),
                ('by', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('student', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='reminders', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['-sent_at'],
                'indexes': [models.Index(fields=['student', '-sent_at'], name='assignments_student_615689_idx')],
            },
        ),
    ]
