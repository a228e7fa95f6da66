import oido.exercises.models
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ('exercises', '0001_initial'),
        ('exercises', '0002_labels_rules_imports'),
        ('exercises', '0003_strictness'),
        ('exercises', '0004_school'),
        ('exercises', '0005_material'),
        ('exercises', '0006_tasks'),
        ('exercises', '0007_accepted'),
        ('exercises', '0008_showing'),
        ('exercises', '0009_opened_apart'),
        ('exercises', '0010_begun'),
        ('exercises', '0011_plain_labels'),
        ('exercises', '0012_contents'),
    ]

    dependencies = [
    ]

    operations = [
        migrations.CreateModel(
            name='Exercise',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('title', models.CharField(max_length=120, verbose_name='title')),
                ('kind', models.CharField(choices=[('keyboard', 'Keyboard'), ('drums', 'Drums')], max_length=10, verbose_name='kind')),
                ('instructions', models.TextField(blank=True, max_length=4000, verbose_name='instructions')),
                ('tempo_bpm', models.DecimalField(decimal_places=2, max_digits=5, verbose_name='tempo')),
                ('count_in_bars', models.PositiveSmallIntegerField(default=1, verbose_name='count-in bars')),
                ('level', models.CharField(choices=[('first-steps', 'First steps'), ('building', 'Building'), ('secure', 'Secure'), ('exacting', 'Exacting')], default='building', max_length=20, verbose_name='level of strictness')),
                ('created_at', models.DateTimeField(auto_now_add=True)),
                ('labels', models.JSONField(default=oido.exercises.models.labels_at_first, verbose_name='labels')),
                ('rules', models.JSONField(default=dict, verbose_name='recording rules')),
                ('ladder', models.JSONField(default=list, verbose_name='ladder')),
                ('backing', models.JSONField(null=True, verbose_name='backing part')),
                ('is_shared', models.BooleanField(default=True, verbose_name='shared with colleagues')),
                ('is_begun', models.BooleanField(default=False)),
                ('retired_at', models.DateTimeField(null=True)),
                ('deleted_at', models.DateTimeField(null=True)),
                ('meters', models.CharField(blank=True, max_length=80)),
                ('fifths', models.SmallIntegerField(null=True)),
                ('bars', models.PositiveIntegerField(default=0)),
                ('task', models.CharField(choices=[('part', 'play what is written'), ('free', 'improvise'), ('by-ear', 'play by ear'), ('show', 'show and explain'), ('questions', 'answer questions')], default='part', max_length=10)),
            ],
            options={
                'ordering': ['title', 'id'],
            },
        ),
        migrations.CreateModel(
            name='ImportedFile',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=200)),
                ('data', models.BinaryField()),
                ('contents', models.BinaryField(null=True)),
                ('created_at', models.DateTimeField(auto_now_add=True)),
            ],
            options={
                'abstract': False,
            },
        ),
        migrations.CreateModel(
            name='PartSound',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('data', models.BinaryField()),
            ],
        ),
        migrations.CreateModel(
            name='Tag',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=40)),
            ],
            options={
                'ordering': ['name'],
            },
        ),
        migrations.CreateModel(
            name='TargetPart',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('number', models.PositiveIntegerField()),
                ('data', models.JSONField()),
                ('free', models.JSONField(null=True)),
                ('accepted', models.JSONField(default=dict)),
                ('source_name', models.CharField(blank=True, max_length=200)),
                ('source_file', models.BinaryField(null=True)),
                ('created_at', models.DateTimeField(auto_now_add=True)),
            ],
            options={
                'ordering': ['exercise', '-number'],
            },
        ),
    ]
