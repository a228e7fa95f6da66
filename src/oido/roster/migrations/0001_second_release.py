import django.db.models.deletion
import django.utils.timezone
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ('roster', '0001_initial'),
        ('roster', '0002_lines_for_a_head'),
    ]

    dependencies = [
        ('people', '0001_second_release'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='Invitation',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('email', models.EmailField(max_length=254)),
                ('role', models.CharField(choices=[('head', 'Head'), ('teacher', 'Teacher'), ('student', 'Student')], max_length=10)),
                ('token_hash', models.CharField(max_length=64, unique=True)),
                ('made_at', models.DateTimeField(default=django.utils.timezone.now)),
                ('ends_at', models.DateTimeField()),
                ('withdrawn_at', models.DateTimeField(null=True)),
                ('accepted_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('made_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('school', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='people.school')),
                ('school_class', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to='people.schoolclass')),
            ],
            options={
                'ordering': ['-made_at'],
            },
        ),
        migrations.CreateModel(
            name='JoinCode',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('code', models.CharField(max_length=20, unique=True)),
                ('made_at', models.DateTimeField(default=django.utils.timezone.now)),
                ('ends_at', models.DateTimeField()),
                ('closed_at', models.DateTimeField(null=True)),
                ('made_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('school', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='people.school')),
                ('school_class', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='join_codes', to='people.schoolclass')),
            ],
            options={
                'ordering': ['-made_at'],
            },
        ),
        migrations.CreateModel(
            name='ListImport',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('made_at', models.DateTimeField(default=django.utils.timezone.now)),
                ('file_name', models.CharField(blank=True, max_length=200)),
                ('people', models.JSONField(default=list)),
                ('names_own_classes', models.BooleanField(default=False)),
                ('left_out', models.JSONField(default=list)),
                ('for_head', models.BooleanField(default=False)),
                ('state', models.CharField(choices=[('looked', 'not imported yet'), ('done', 'imported'), ('undone', 'undone')], default='looked', max_length=8)),
                ('done', models.JSONField(default=dict)),
                ('made_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('school', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='people.school')),
                ('school_class', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to='people.schoolclass')),
                ('split_from', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to='roster.listimport')),
            ],
            options={
                'ordering': ['-made_at', '-pk'],
            },
        ),
        migrations.CreateModel(
            name='Joined',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('at', models.DateTimeField(default=django.utils.timezone.now)),
                ('code', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='joined', to='roster.joincode')),
                ('person', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['-at'],
                'constraints': [models.UniqueConstraint(fields=('code', 'person'), name='joined_once_by_code')],
            },
        ),
    ]
