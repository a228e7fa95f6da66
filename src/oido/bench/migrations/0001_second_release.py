from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ('bench', '0001_initial'),
        ('bench', '0002_history'),
    ]

    dependencies = [
    ]

    operations = [
        migrations.CreateModel(
            name='Draft',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('position', models.PositiveIntegerField(default=0)),
                ('selected', models.JSONField(default=list)),
                ('changed_at', models.DateTimeField(auto_now=True)),
                ('kept_position', models.PositiveIntegerField(default=0, null=True)),
            ],
            options={
                'abstract': False,
            },
        ),
        migrations.CreateModel(
            name='DraftState',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('number', models.PositiveIntegerField()),
                ('act', models.CharField(blank=True, max_length=40)),
                ('data', models.JSONField()),
            ],
            options={
                'ordering': ['history', 'number'],
                'abstract': False,
            },
        ),
    ]
