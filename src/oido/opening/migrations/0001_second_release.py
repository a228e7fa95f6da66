import django.utils.timezone
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ('opening', '0001_initial'),
        ('opening', '0002_printable_texts'),
        ('opening', '0003_dismissed_steps'),
    ]

    dependencies = [
    ]

    operations = [
        migrations.CreateModel(
            name='DismissedStep',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('step', models.CharField(max_length=10)),
            ],
        ),
        migrations.CreateModel(
            name='SetupCode',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('code_hash', models.CharField(max_length=64)),
                ('made_at', models.DateTimeField(default=django.utils.timezone.now)),
                ('used_at', models.DateTimeField(null=True)),
            ],
        ),
    ]
