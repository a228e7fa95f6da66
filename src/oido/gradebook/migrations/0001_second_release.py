import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ('gradebook', '0001_initial'),
    ]

    dependencies = [
        ('assignments', '0001_second_release'),
    ]

    operations = [
        migrations.CreateModel(
            name='Entry',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('state', models.CharField(choices=[('mark', 'a mark'), ('excused', 'excused'), ('missing', 'missing')], default='mark', max_length=10)),
                ('points', models.DecimalField(decimal_places=2, max_digits=7, null=True)),
            ],
        ),
        migrations.CreateModel(
            name='EntryChange',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('made_at', models.DateTimeField(auto_now_add=True)),
                ('before', models.CharField(blank=True, max_length=20)),
                ('after', models.CharField(blank=True, max_length=20)),
                ('why', models.CharField(blank=True, max_length=200)),
            ],
            options={
                'ordering': ['-id'],
            },
        ),
        migrations.CreateModel(
            name='ReportText',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('text', models.TextField(max_length=3000)),
                ('changed_at', models.DateTimeField(auto_now=True)),
            ],
        ),
        migrations.CreateModel(
            name='Column',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(blank=True, max_length=60, verbose_name='name')),
                ('out_of', models.PositiveIntegerField(default=100, verbose_name='out of')),
                ('weight', models.DecimalField(decimal_places=2, default=1, max_digits=5, verbose_name='weight')),
                ('on', models.DateField(null=True, verbose_name='day')),
                ('assignment', models.OneToOneField(null=True, on_delete=django.db.models.deletion.CASCADE, related_name='column', to='assignments.assignment')),
            ],
            options={
                'ordering': ['on', 'id'],
            },
        ),
    ]
