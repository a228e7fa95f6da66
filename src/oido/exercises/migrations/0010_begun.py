from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("exercises", "0009_opened_apart"),
    ]

    operations = [
        migrations.AddField(
            model_name="exercise",
            name="is_begun",
            field=models.BooleanField(default=False),
        ),
    ]
