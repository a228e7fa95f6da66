import django.db.models.deletion
import django.utils.timezone
import ear.notes.ending
import uuid
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ('takes', '0001_initial'),
        ('takes', '0002_passes_and_choosing'),
        ('takes', '0003_take_settings'),
        ('takes', '0004_measurement_figures'),
        ('takes', '0005_fill_figures'),
        ('takes', '0006_judgements'),
        ('takes', '0007_imprint'),
        ('takes', '0008_kits'),
        ('takes', '0009_school'),
        ('takes', '0010_material'),
        ('takes', '0011_tasks'),
        ('takes', '0012_sources'),
        ('takes', '0013_showing'),
        ('takes', '0014_ending'),
        ('takes', '0015_stand_settings'),
        ('takes', '0016_measured_again'),
        ('takes', '0017_measure_after'),
        ('takes', '0018_hearing'),
        ('takes', '0019_handed_in_index'),
        ('takes', '0020_deleted'),
        ('takes', '0021_passed_at'),
    ]

    dependencies = [
        ('assignments', '0001_second_release'),
        ('exercises', '0001_second_release'),
        ('people', '0001_second_release'),
        ('rubrics', '0001_second_release'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='Measurement',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('version', models.CharField(max_length=20)),
                ('facts', models.JSONField()),
                ('imprint', models.BinaryField(null=True)),
                ('figures', models.JSONField(default=dict)),
                ('measured_at', models.DateTimeField(auto_now=True)),
            ],
        ),
        migrations.CreateModel(
            name='Judgement',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('version', models.CharField(max_length=20)),
                ('scores', models.JSONField()),
                ('made_at', models.DateTimeField(auto_now_add=True)),
                ('rubric', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='judgements', to='rubrics.rubricversion')),
                ('measurement', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='judgements', to='takes.measurement')),
            ],
        ),
        migrations.CreateModel(
            name='StandSettings',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('kept', models.JSONField(default=dict)),
                ('changed_at', models.DateTimeField(auto_now=True)),
                ('student', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='stand_settings', to=settings.AUTH_USER_MODEL)),
            ],
        ),
        migrations.CreateModel(
            name='Take',
            fields=[
                ('id', models.UUIDField(primary_key=True, serialize=False)),
                ('events', models.JSONField()),
                ('source', models.CharField(choices=[('midi', 'MIDI device'), ('typing', 'typing keys'), ('screen', 'on-screen keys'), ('robot', 'robot player'), ('file', 'recorded elsewhere'), ('none', 'answers, nothing recorded')], max_length=10)),
                ('device', models.CharField(blank=True, max_length=120)),
                ('latency_ms', models.FloatField(default=0.0)),
                ('pads', models.JSONField(default=dict)),
                ('recorded_at', models.DateTimeField()),
                ('received_at', models.DateTimeField(auto_now_add=True)),
                ('number', models.PositiveIntegerField()),
                ('tempo_bpm', models.DecimalField(decimal_places=2, max_digits=5)),
                ('fifths', models.SmallIntegerField(null=True)),
                ('asks_click', models.BooleanField(default=True)),
                ('heard_click', models.BooleanField(default=True)),
                ('ending', models.CharField(choices=[('itself', 'itself'), ('stopped', 'stopped'), ('unplugged', 'unplugged'), ('closed', 'closed'), ('stalled', 'stalled')], default=ear.notes.ending.Ending['STOPPED'], max_length=10)),
                ('handed_in_at', models.DateTimeField(null=True)),
                ('shown', models.JSONField(null=True)),
                ('name', models.CharField(blank=True, max_length=60)),
                ('is_starred', models.BooleanField(default=False)),
                ('deleted_at', models.DateTimeField(null=True)),
                ('measure_after', models.DateTimeField(db_index=True, default=django.utils.timezone.now, null=True)),
                ('kit_pads', models.JSONField(default=dict)),
                ('settings', models.JSONField(default=dict)),
                ('assignment', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='takes', to='assignments.assignment')),
                ('judgement', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to='takes.judgement')),
                ('part', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='takes', to='exercises.targetpart')),
                ('proposed', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to='takes.judgement')),
                ('school', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='people.school')),
                ('student', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='takes', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['-number'],
            },
        ),
        migrations.AddField(
            model_name='measurement',
            name='take',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='measurements', to='takes.take'),
        ),
        migrations.CreateModel(
            name='CorrectedCopy',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('position', models.PositiveIntegerField(default=0)),
                ('selected', models.JSONField(default=list)),
                ('changed_at', models.DateTimeField(auto_now=True)),
                ('take', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='corrected', to='takes.take')),
            ],
            options={
                'abstract': False,
            },
        ),
        migrations.CreateModel(
            name='TakeFile',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=200)),
                ('data', models.BinaryField()),
                ('take', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='file', to='takes.take')),
            ],
        ),
        migrations.CreateModel(
            name='TakePass',
            fields=[
                ('id', models.UUIDField(primary_key=True, serialize=False)),
                ('events', models.JSONField()),
                ('source', models.CharField(choices=[('midi', 'MIDI device'), ('typing', 'typing keys'), ('screen', 'on-screen keys'), ('robot', 'robot player'), ('file', 'recorded elsewhere'), ('none', 'answers, nothing recorded')], max_length=10)),
                ('device', models.CharField(blank=True, max_length=120)),
                ('latency_ms', models.FloatField(default=0.0)),
                ('pads', models.JSONField(default=dict)),
                ('recorded_at', models.DateTimeField()),
                ('received_at', models.DateTimeField(auto_now_add=True)),
                ('number', models.PositiveIntegerField()),
                ('way', models.CharField(choices=[('over', 'over what is there'), ('replace', 'replacing what is there')], max_length=10)),
                ('from_ms', models.FloatField()),
                ('until_ms', models.FloatField()),
                ('pitches', models.JSONField(default=list)),
                ('undone_at', models.DateTimeField(null=True)),
                ('take', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='passes', to='takes.take')),
            ],
            options={
                'ordering': ['take', 'number'],
            },
        ),
        migrations.CreateModel(
            name='Visit',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('opened_at', models.DateTimeField()),
                ('last_at', models.DateTimeField()),
                ('practised_at', models.DateTimeField(null=True)),
                ('loops', models.PositiveIntegerField(default=0)),
                ('heard', models.PositiveIntegerField(default=0)),
                ('hearing', models.UUIDField(null=True)),
                ('hearing_at', models.DateTimeField(null=True)),
                ('assignment', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='visits', to='assignments.assignment')),
                ('student', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='visits', to=settings.AUTH_USER_MODEL)),
            ],
        ),
        migrations.CreateModel(
            name='CopyState',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('number', models.PositiveIntegerField()),
                ('act', models.CharField(blank=True, max_length=40)),
                ('data', models.JSONField()),
                ('history', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='states', to='takes.correctedcopy')),
            ],
            options={
                'ordering': ['history', 'number'],
                'abstract': False,
                'constraints': [models.UniqueConstraint(fields=('history', 'number'), name='state_number_in_copy')],
            },
        ),
        migrations.CreateModel(
            name='HandIn',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('receipt', models.UUIDField(default=uuid.uuid4, editable=False, unique=True)),
                ('note', models.TextField(blank=True, max_length=2000)),
                ('answers', models.JSONField(default=list)),
                ('first_at', models.DateTimeField()),
                ('changed_at', models.DateTimeField()),
                ('assignment', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='hand_ins', to='assignments.assignment')),
                ('student', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='hand_ins', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'constraints': [models.UniqueConstraint(fields=('assignment', 'student'), name='one_hand_in_of_student')],
            },
        ),
        migrations.CreateModel(
            name='KitSetUp',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('device', models.CharField(blank=True, max_length=120)),
                ('pads', models.JSONField(default=dict)),
                ('changed_at', models.DateTimeField(auto_now=True)),
                ('student', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='kits', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'constraints': [models.UniqueConstraint(fields=('student', 'device'), name='one_kit_of_device')],
            },
        ),
        migrations.CreateModel(
            name='RungClimbed',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('key', models.CharField(max_length=40)),
                ('points', models.JSONField(default=list)),
                ('passed_at', models.DateTimeField(null=True)),
                ('assignment', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='rungs', to='assignments.assignment')),
                ('student', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='rungs', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'constraints': [models.UniqueConstraint(fields=('assignment', 'student', 'key'), name='one_climb_of_rung')],
            },
        ),
        migrations.AddIndex(
            model_name='take',
            index=models.Index(fields=['assignment', 'handed_in_at'], name='takes_take_assignm_5bc253_idx'),
        ),
        migrations.AddConstraint(
            model_name='take',
            constraint=models.UniqueConstraint(fields=('assignment', 'student', 'number'), name='take_number_of_student'),
        ),
        migrations.AddIndex(
            model_name='measurement',
            index=models.Index(fields=['take', 'version'], name='takes_measu_take_id_7d273f_idx'),
        ),
        migrations.AddConstraint(
            model_name='takepass',
            constraint=models.UniqueConstraint(fields=('take', 'number'), name='pass_number_in_take'),
        ),
        migrations.AddConstraint(
            model_name='visit',
            constraint=models.UniqueConstraint(fields=('assignment', 'student'), name='one_visit_of_student'),
        ),
    ]
