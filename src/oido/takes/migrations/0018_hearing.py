
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('takes', '0017_measure_after'),
    ]

    operations = [
        migrations.AddField(
            model_name='visit',
            name='hearing',
            field=models.UUIDField(null=True),
        ),
        migrations.AddField(
            model_name='visit',
            name='hearing_at',
            field=models.DateTimeField(null=True),
        ),
    ]
