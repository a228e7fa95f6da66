import django.utils.timezone
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ('audit', '0001_initial'),
        ('audit', '0002_trail_index'),
    ]

    dependencies = [
    ]

    operations = [
        migrations.CreateModel(
            name='Act',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('at', models.DateTimeField(default=django.utils.timezone.now)),
                ('code', models.CharField(max_length=30)),
                ('values', models.JSONField(default=dict)),
                ('address', models.GenericIPAddressField(null=True)),
            ],
            options={
                'ordering': ['-at', '-pk'],
            },
        ),
    ]
