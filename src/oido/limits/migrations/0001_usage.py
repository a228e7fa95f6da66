import django.utils.timezone
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    dependencies = []

    operations = [
        migrations.CreateModel(
            name="Usage",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("limit", models.CharField(max_length=20)),
                ("source", models.CharField(max_length=60)),
                ("requests", models.PositiveIntegerField(default=0)),
                ("bytes", models.PositiveBigIntegerField(default=0)),
                ("period_began_at", models.DateTimeField(db_index=True, default=django.utils.timezone.now)),
            ],
            options={
                "constraints": [models.UniqueConstraint(fields=("limit", "source"), name="usage_once_by_source")],
            },
        ),
    ]
