import uuid
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ('jobs', '0001_jobs'),
        ('jobs', '0002_school'),
        ('jobs', '0003_plain_labels'),
    ]

    dependencies = [
    ]

    operations = [
        migrations.CreateModel(
            name='Job',
            fields=[
                ('id', models.UUIDField(default=uuid.uuid4, editable=False, primary_key=True, serialize=False)),
                ('kind', models.CharField(max_length=40)),
                ('arguments', models.JSONField(default=dict)),
                ('key', models.CharField(blank=True, max_length=120)),
                ('title', models.CharField(blank=True, max_length=200)),
                ('back', models.CharField(blank=True, max_length=300)),
                ('state', models.CharField(choices=[('waiting', 'waiting'), ('running', 'working'), ('done', 'ready'), ('failed', 'failed')], default='waiting', max_length=8)),
                ('done', models.PositiveIntegerField(default=0)),
                ('total', models.PositiveIntegerField(default=0)),
                ('tries', models.PositiveSmallIntegerField(default=0)),
                ('problem', models.CharField(blank=True, max_length=300)),
                ('file', models.BinaryField(null=True)),
                ('file_name', models.CharField(blank=True, max_length=160)),
                ('file_type', models.CharField(blank=True, max_length=80)),
                ('made_at', models.DateTimeField(auto_now_add=True)),
                ('beat_at', models.DateTimeField(null=True)),
                ('ended_at', models.DateTimeField(null=True)),
            ],
            options={
                'ordering': ['-made_at'],
            },
        ),
    ]
