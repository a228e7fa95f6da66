import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ('rubrics', '0001_initial'),
        ('rubrics', '0002_scale_hearing'),
        ('rubrics', '0003_school'),
    ]

    dependencies = [
        ('exercises', '0001_second_release'),
        ('people', '0001_second_release'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='Rubric',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=120, verbose_name='name')),
                ('kind', models.CharField(choices=[('keyboard', 'Keyboard'), ('drums', 'Drums')], max_length=10, verbose_name='kind')),
                ('is_shared', models.BooleanField(default=False, verbose_name='shared in the school')),
                ('owner', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='rubrics', to=settings.AUTH_USER_MODEL)),
                ('school', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='people.school')),
            ],
            options={
                'ordering': ['name', 'id'],
            },
        ),
        migrations.CreateModel(
            name='RubricVersion',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('number', models.PositiveIntegerField()),
                ('data', models.JSONField()),
                ('made_at', models.DateTimeField(auto_now_add=True)),
                ('rubric', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='versions', to='rubrics.rubric')),
            ],
            options={
                'ordering': ['rubric', '-number'],
            },
        ),
        migrations.AddField(
            model_name='rubric',
            name='current',
            field=models.OneToOneField(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='current_of', to='rubrics.rubricversion'),
        ),
        migrations.CreateModel(
            name='ScaleHearing',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('seed', models.PositiveIntegerField()),
                ('marks', models.JSONField(default=dict)),
                ('part', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='exercises.targetpart')),
                ('teacher', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to=settings.AUTH_USER_MODEL)),
            ],
        ),
        migrations.AddConstraint(
            model_name='rubricversion',
            constraint=models.UniqueConstraint(fields=('rubric', 'number'), name='version_number_in_rubric'),
        ),
        migrations.AddConstraint(
            model_name='scalehearing',
            constraint=models.UniqueConstraint(fields=('teacher', 'part'), name='one_hearing_of_part'),
        ),
    ]
