from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ('marking', '0001_initial'),
        ('marking', '0002_desk_talk_and_remarking'),
        ('marking', '0003_written_marks'),
        ('marking', '0004_trials'),
        ('marking', '0005_marks_of_first_release'),
        ('marking', '0006_rubric_stands_with_judgement'),
        ('marking', '0007_school'),
        ('marking', '0008_material'),
        ('marking', '0009_measured'),
        ('marking', '0010_lateness_and_undo'),
        ('marking', '0011_plain_labels'),
        ('marking', '0012_kind'),
    ]

    dependencies = [
    ]

    operations = [
        migrations.CreateModel(
            name='MarkSheet',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('changes', models.JSONField(default=dict)),
                ('help_step', models.PositiveSmallIntegerField(null=True)),
                ('total', models.FloatField()),
                ('points', models.FloatField(default=0.0)),
                ('out_of', models.PositiveSmallIntegerField(default=100)),
                ('band', models.CharField(max_length=80)),
                ('is_whole', models.BooleanField(default=True)),
                ('heard', models.JSONField(null=True)),
                ('accepted_at', models.DateTimeField(null=True)),
                ('released_at', models.DateTimeField(null=True)),
                ('seen_at', models.DateTimeField(null=True)),
                ('asked_again_at', models.DateTimeField(null=True)),
                ('asked_again_why', models.CharField(blank=True, max_length=400)),
                ('late_days', models.PositiveSmallIntegerField(default=0)),
                ('late_days_charged', models.PositiveSmallIntegerField(default=0)),
            ],
        ),
        migrations.CreateModel(
            name='Phrase',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('text', models.CharField(max_length=400, verbose_name='phrase')),
            ],
            options={
                'ordering': ['text', 'id'],
            },
        ),
        migrations.CreateModel(
            name='Remark',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('bar', models.PositiveIntegerField(blank=True, null=True, verbose_name='bar')),
                ('beat', models.PositiveIntegerField(blank=True, null=True, verbose_name='beat')),
                ('text', models.TextField(max_length=2000, verbose_name='remark')),
                ('written_at', models.DateTimeField(auto_now_add=True)),
            ],
            options={
                'ordering': ['bar', 'beat', 'id'],
            },
        ),
        migrations.CreateModel(
            name='Remarking',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('with_released', models.BooleanField(default=False)),
                ('state', models.CharField(choices=[('trying', 'trial running'), ('tried', 'tried'), ('keeping', 'saving'), ('kept', 'saved'), ('dropped', 'discarded'), ('failed', 'failed')], default='trying', max_length=10)),
                ('done', models.PositiveIntegerField(default=0)),
                ('takes', models.PositiveIntegerField(default=0)),
                ('rows', models.JSONField(default=list)),
                ('begun_at', models.DateTimeField(auto_now_add=True)),
                ('worked_at', models.DateTimeField(auto_now=True)),
            ],
            options={
                'ordering': ['-id'],
            },
        ),
        migrations.CreateModel(
            name='Remeasuring',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('version', models.CharField(max_length=20, unique=True)),
                ('done', models.PositiveIntegerField(default=0)),
                ('takes', models.PositiveIntegerField(default=0)),
                ('failed', models.JSONField(default=list)),
                ('begun_at', models.DateTimeField(auto_now_add=True)),
                ('ended_at', models.DateTimeField(null=True)),
            ],
        ),
        migrations.CreateModel(
            name='Reply',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('text', models.TextField(max_length=2000, verbose_name='what you want to say')),
                ('written_at', models.DateTimeField(auto_now_add=True)),
                ('seen_at', models.DateTimeField(null=True)),
            ],
            options={
                'ordering': ['id'],
            },
        ),
        migrations.CreateModel(
            name='SheetChange',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('made_at', models.DateTimeField(auto_now_add=True)),
                ('kind', models.CharField(choices=[('score', 'changed'), ('help', 'help noted'), ('settings', 'marked with its own settings'), ('measured', 'a bar measured again'), ('accepted', 'accepted'), ('released', 'released'), ('asked', 'another take asked for'), ('rubric', 'marked by another rubric'), ('saying', 'changes to notes or bars'), ('undone', 'undid')], max_length=10)),
                ('criterion', models.CharField(blank=True, max_length=80)),
                ('why', models.CharField(blank=True, max_length=400)),
                ('before', models.JSONField()),
                ('after', models.JSONField()),
                ('points_before', models.FloatField()),
                ('points_after', models.FloatField()),
                ('is_undone', models.BooleanField(default=False)),
            ],
            options={
                'ordering': ['-id'],
            },
        ),
        migrations.CreateModel(
            name='Trial',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
            ],
        ),
    ]
